package dastur.core.finding;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Group;
import dastur.core.people.Person;
import dastur.core.people.Role;
import dastur.core.run.World;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.Rung;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Wherever a step may say something that is not so, it is found there: in every kind of step, at the very place. */
class EveryPlaceTest {
    private static final KnownOrganisation AROUND = new KnownOrganisation(
            new FieldCatalogue(List.of(Field.of("lockNumber", "Lock", FieldType.TEXT)), List.of()),
            g -> g.value().equals("technicians")
                    ? Optional.of(new Group(g, "Pier technicians", List.of(World.RUNA, World.SEM)))
                    : Optional.empty(),
            p -> Optional.of(new Person(p, p.value(), "", Set.of(Role.AGENT), true)),
            a -> a.value().equals("read") || a.value().equals("bad")
                    ? Optional.of(new Action(
                                    a,
                                    "Read",
                                    "Reads.",
                                    "lanes",
                                    new Action.HttpCall("GET", "/x", null, null, null),
                                    List.of(Field.of("gate", "Gate", FieldType.TEXT)
                                            .asRequired()),
                                    List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/lock")),
                                    List.of(),
                                    Action.Repeat.FREE,
                                    false,
                                    Span.parse("5 s"),
                                    1,
                                    Span.parse("1 s"))
                            .withdrawn(a.value().equals("bad") ? "It reads another gate." : null))
                    : Optional.empty(),
            l -> switch (l.value()) {
                case "night" ->
                    Optional.of(new Ladder(
                            l,
                            "Night",
                            List.of(new Rung(
                                    Span.parse("0 min"),
                                    new Rung.Tell(
                                            List.of(new dastur.core.people.Party.OfGroup(World.TECHNICIANS)), null)))));
                case "quiet" ->
                    Optional.of(new Ladder(l, "Quiet", List.of(new Rung(Span.parse("5 min"), new Rung.Remind()))));
                default -> Optional.empty();
            });

    private static WorkflowVersion read(String steps) {
        Notation.Read read = Notation.read(
                "workflow w \"W\" for incident\n  owner teo\n  keeps count: whole number \"Count\"\n" + steps,
                1,
                new Names(Map.of(), Map.of(), Map.of(), Map.of(), Map.of(), Map.of()));
        assertThat(read.problems()).as(steps).isEmpty();
        return read.version();
    }

    private static List<Finding> findings(String steps) {
        return Findings.of(read(steps), List.of(), AROUND).stream()
                .filter(f -> f.step() != null)
                .toList();
    }

    /** A way leads on from each, so that nothing but the named place is wrong. */
    @ParameterizedTest(name = "{0}: {1}")
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            come    | message   | wrong text | come: call in by night "Come" within 1 h;  say "{{ ticket.nope }}";  exhausted -> end
            come    | ladder    | unknown ladder   | come: call in by none "Come" within 1 h;  exhausted -> end
            come    | ladder    | nobody           | come: call in by quiet "Come" within 1 h;  exhausted -> end
            tell    | to        | unknown group    | tell: tell group owls "About it" as "Tell";  say "Word"
            tell    | subject   | wrong text | tell: tell the requester "{{ ticket.nope }}" as "Tell";  say "Word"
            tell    | text      | wrong text | tell: tell the requester "About it" as "Tell";  say "{{ ticket.nope }}"
            tell    | text      | empty message    | tell: tell the requester "About it" as "Tell"
            tell    | text      | empty message    | tell: tell the requester " " as "Tell";  say "Word"
            tell    | room      | wrong text | tell: tell the requester "About it" as "Tell";  say "Word";  in the room "{{ ticket.nope }}"
            tell    | room      | empty message    | tell: tell the requester "About it" as "Tell";  say "Word";  in the room " "
            wait    | until     | wrong expression | wait: wait until ticket.title as "Wait"
            wait    | condition | wrong expression | wait: wait for ticket.nope == 1 within 1 h as "Wait";  timed out -> end
            wait    | key       | wrong expression | wait: wait for signal "up" with key ticket.nope within 1 h as "Wait";  timed out -> end
            measure | action    | unknown action   | measure: measure nothing "M"
            measure | action    | action withdrawn | measure: measure bad "M"
            run     | action    | action withdrawn | run: run bad "M";  with gate = 'A'
            run     | putBack   | action withdrawn | run: run read "M";  with gate = 'A';  put back with bad;    with gate = 'A'
            look    | measure   | action withdrawn | look: check "C";  measure bad;  with gate = 'A';  rule "R": measured.lock is 'x';  fail -> end
            look    | measure   | unknown action   | look: check "C";  measure none;  rule "R": measured.lock is 'x';  fail -> end
            measure | inputs | input missing  | measure: measure read "M"
            measure | inputs.gate | wrong expression | measure: measure read "M" gate=ticket.nope
            look    | assignee  | unknown group    | look: ask group owls "Look": "Done"
            look    | overseer  | unknown group    | look: ask group technicians "Look": "Done";  overseen by group owls
            look    | instructions | wrong text | look: ask group technicians "Look": "Done";  say "{{ ticket.nope }}"
            look    | leftOutIf | wrong expression | look: ask group technicians "Look": "Done";  left out if ticket.nope == 1
            """)
    void isFoundThere(String step, String field, String code, String text) {
        List<Finding> found = findings(text.strip().replace(";", "\n") + "\nend: done \"done\"\n");
        assertThat(found).as(String.valueOf(found)).anySatisfy(f -> {
            assertThat(f.code()).isEqualTo(code);
            assertThat(f.step().value()).isEqualTo(step);
            assertThat(String.valueOf(f.field())).startsWith(field.split("\\.")[0]);
        });
    }

    /** What only one way gives is not known on the other, wherever it is used. */
    @ParameterizedTest(name = "{0}")
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            come    | come: call in by night "Come" within 1 h;  say "{{ steps.seen.note }}";  exhausted -> end
            subject | tell: tell the requester "{{ steps.seen.note }}" as "Tell";  say "Word"
            text    | tell: tell the requester "About it" as "Tell";  say "{{ steps.seen.note }}"
            room    | tell: tell the requester "About it" as "Tell";  say "Word";  in the room "{{ steps.seen.note }}"
            party   | tell: tell whoever is (steps.seen.by) "About it" as "Tell";  say "Word"
            until   | wait: wait until steps.seen.note as "Wait"
            cond    | wait: wait for steps.seen.note == "x" within 1 h as "Wait";  timed out -> end
            key     | wait: wait for signal "up" with key steps.seen.note within 1 h as "Wait";  timed out -> end
            reply   | wait: wait for a reply of whoever is (steps.seen.by) within 1 h as "Wait";  timed out -> end
            input   | measure: measure read "M" gate=steps.seen.note
            for     | look: ask whoever is (steps.seen.by) "Look": "Done"
            over    | look: ask group technicians "Look": "Done";  overseen by whoever is (steps.seen.by)
            how     | look: ask group technicians "Look": "Done";  say "{{ steps.seen.note }}"
            out     | look: ask group technicians "Look": "Done";  left out if steps.seen.note == "x"
            set     | note: update "Note";  set ticket.category = steps.seen.note
            new     | order: call other on a new change "Order";  set ticket.title = steps.seen.note
            known   | order: call other on ticket steps.seen.note as "Order"
            lane    | order: call other "Order";  with lane = steps.seen.note
            """)
    void whatMayBeMissingIsSaid(String place, String text) {
        String steps = """
                which: decide "Which?"
                  when "one" if ticket.impact == 1
                  "one" -> seen
                  otherwise -> next
                seen: ask group technicians "See": "Done"
                next: update "Next"
                  set vars.count = 1
                """ + text.strip().replace(";", "\n") + "\nend: done \"done\"\n";
        assertThat(findings(steps)).as(String.valueOf(findings(steps))).anySatisfy(f -> assertThat(f.message())
                .contains("seen")
                .containsAnyOf("may", "missing", "absent", "not"));
    }
}
