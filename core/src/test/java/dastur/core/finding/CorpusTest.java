package dastur.core.finding;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.notation.Generated;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.stream.Stream;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

/** Small workflows, each with the one finding it should have, and sound ones with none. */
class CorpusTest {
    private static final String HEAD = "workflow %s \"W\" for incident\n  owner teo\n"
            + "  keeps count: whole number \"Count\"\n  keeps names: list \"Names\"\n";
    private static final List<Trigger> BY_HAND =
            List.of(new Trigger(new TriggerId("t"), true, new Trigger.ByHand(null), List.of(), null));

    private record Example(String title, String expected, String text) {
        @Override
        public String toString() {
            return title;
        }
    }

    private static Stream<Example> corpus(String name) {
        try (InputStream in = CorpusTest.class.getResourceAsStream("/corpus/" + name)) {
            String all = new String(in.readAllBytes(), StandardCharsets.UTF_8);
            return Arrays.stream(all.split("(?m)^=== "))
                    .filter(p -> !p.isBlank())
                    .map(part -> {
                        String[] lines = part.split("\n", 2);
                        String[] head = lines[0].split(" \\| ");
                        return new Example(head[0], head.length > 1 ? head[1].strip() : "", lines[1]);
                    });
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    static Stream<Arguments> faulty() {
        return corpus("faulty.txt").map(Arguments::of);
    }

    static Stream<Arguments> sound() {
        return corpus("sound.txt").map(Arguments::of);
    }

    @ParameterizedTest(name = "{0}")
    @MethodSource("faulty")
    void aFaultyWorkflowHasItsOneFinding(Example example) {
        List<Finding> findings = findings(example.text());
        assertThat(findings)
                .as(findings.toString())
                .extracting(f -> f.code() + " @ " + f.step())
                .containsExactly(example.expected());
        assertThat(findings.getFirst().message()).endsWith(".").hasSizeGreaterThan(15);
    }

    @ParameterizedTest(name = "{0}")
    @MethodSource("sound")
    void aSoundWorkflowHasNone(Example example) {
        assertThat(findings(example.text())).isEmpty();
    }

    @Test
    void theCorpusIsAsLargeAsIsAskedFor() {
        assertThat(corpus("faulty.txt").count()).isGreaterThanOrEqualTo(60);
        assertThat(corpus("sound.txt").count()).isGreaterThanOrEqualTo(30);
    }

    @Test
    void aMissingValueComesWithThePathThatShowsIt() {
        Example example = corpus("faulty.txt")
                .filter(e -> e.title().startsWith("a value that is not there on one way"))
                .findFirst()
                .orElseThrow();
        Finding finding = findings(example.text()).getFirst();
        assertThat(finding.severity()).isEqualTo(Finding.Severity.WARNS);
        assertThat(finding.path()).extracting(p -> p.step() + " " + p.exit()).containsExactly("which otherwise");
    }

    @Test
    void aLongWorkflowWithManyBranchesIsBoundedAndSaysSo() {
        StringBuilder text = new StringBuilder();
        for (int i = 0; i < 16; i++) {
            text.append("b%d: decide \"B%d?\"\n  when \"yes\" if ticket.impact == %d\n  otherwise -> b%s\n"
                    .formatted(i, i, i, i == 15 ? "z" : String.valueOf(i + 1)));
            text.append("t%d: ask group technicians \"T%d\": \"Done\"\n  form seen: text \"Seen\"\n".formatted(i, i));
            if (i < 15) {
                text.append("  \"Done\" -> b%d\n".formatted(i + 1));
            } else {
                text.append("  \"Done\" -> bz\n");
            }
        }
        text.append("bz: update \"Z\"\n");
        for (int i = 0; i < 16; i++) {
            text.append("  set ticket.category = steps.t%d.seen\n".formatted(i));
        }
        text.append("end: done \"done\"\n");
        assertThat(findings(text.toString())).extracting(Finding::code).contains("not all explored");
    }

    /** E11: what a workflow gives is looked at like any other expression. */
    @Test
    void aWrongPathInWhatAWorkflowGivesIsFound() {
        Notation.Read read = Notation.read(
                "workflow w \"W\" for incident\n  owner teo\n  gives what: text \"What\" = steps.nowhere.outcome\n"
                        + "end: done \"done\"\n",
                1,
                Names.NONE);
        assertThat(Findings.of(read.version(), BY_HAND, around()))
                .filteredOn(f -> f.blocks() && "results".equals(f.field()))
                .extracting(Finding::code)
                .containsExactly("wrong expression");
    }

    @Property(tries = 60)
    void generatedSoundWorkflowsAreNeverBlocked(@ForAll long seed) {
        WorkflowVersion version = Generated.workflow(new Random(seed), true);
        List<Finding> blocking = Findings.of(version, BY_HAND, around()).stream()
                .filter(Finding::blocks)
                .filter(f -> !Set.of("empty message", "no name", "busy repeat", "text too long", "value in a name")
                        .contains(f.code()))
                .toList();
        assertThat(blocking).as(() -> Notation.write(version)).isEmpty();
    }

    static List<Finding> findings(String steps) {
        return Findings.of(read("w", steps), BY_HAND, around());
    }

    private static WorkflowVersion read(String key, String steps) {
        Notation.Read read = Notation.read(HEAD.formatted(key) + steps, 1, Names.NONE);
        // Ways to steps that do not exist are refused by the notation itself; the rest must be readable.
        assertThat(read.problems()).as(steps).isEmpty();
        return read.version();
    }

    private static KnownOrganisation around() {
        Map<String, List<String>> groups =
                Map.of("technicians", List.of("runa", "sem"), "managers", List.of("teo", "priya"), "ghosts", List.of());
        Map<String, Ladder> ladders = Map.of(
                "pier", ladder("pier", rung("10 min", new Rung.Remind()), rung("20 min", tell())),
                "reminding", ladder("reminding", rung("10 min", new Rung.Remind())),
                "deciding", ladder("deciding", rung("10 min", new Rung.Decide("Gone"))));
        return new KnownOrganisation(
                new FieldCatalogue(List.of(), List.of()),
                id -> Optional.ofNullable(groups.get(id.value()))
                        .map(m -> new Group(
                                id, id.value(), m.stream().map(PersonId::new).toList())),
                id -> Optional.of(new Person(id, id.value(), "x@kestrel.example", Set.of(Role.AGENT), true))
                        .filter(p -> !id.value().equals("gone")),
                key -> key.equals(new ActionKey("close-lane")) ? Optional.of(action()) : Optional.empty(),
                key -> Optional.ofNullable(ladders.get(key.value())),
                CorpusTest::workflow,
                List.of());
    }

    private static Optional<WorkflowVersion> workflow(WorkflowKey key) {
        return switch (key.value()) {
            case "child" -> {
                WorkflowVersion v = read(
                        "child",
                        "look: ask group technicians \"L\": \"Done\", \"Bad\"\n  \"Bad\" -> bad\n"
                                + "end: done \"child done\"\nbad: done \"child failed\"\n");
                yield Optional.of(new WorkflowVersion(
                        v.key(),
                        1,
                        v.name(),
                        null,
                        v.owner(),
                        v.kind(),
                        List.of(Field.of("lane", "Lane", FieldType.TEXT).asRequired()),
                        v.vars(),
                        v.body()));
            }
            case "circle" -> Optional.of(read("circle", "sub: call w \"Back\"\n  \"x\" -> end\nend: done \"x\"\n"));
            default -> Optional.empty();
        };
    }

    private static Ladder ladder(String key, Rung... rungs) {
        return new Ladder(new LadderKey(key), key, List.of(rungs));
    }

    private static Rung rung(String after, Rung.Deed deed) {
        return new Rung(Span.parse(after), deed);
    }

    private static Rung.Deed tell() {
        return new Rung.Tell(List.of(new Party.OfGroup(new GroupId("managers"))), null);
    }

    private static Action action() {
        return Json.read("""
                {"key":"close-lane","name":"Close","description":"Closes.","connection":"lanes",
                 "call":{"method":"POST","path":"/x"},
                 "inputs":[{"name":"gate","label":"Gate","type":"text","required":true},
                           {"name":"why","label":"Why","type":"text","required":false}],
                 "outputs":[{"field":{"name":"lock","label":"Lock","type":"text","required":false},"pointer":"/lock"}],
                 "results":[],"repeat":"keyed","changesWorld":true,"timeLimit":"20 s","tries":2,"pause":"5 s"}""", Action.class);
    }
}
