package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.bpmn.Bpmn;
import dastur.core.expression.Vocabulary;
import dastur.core.finding.Finding;
import dastur.core.finding.Findings;
import dastur.core.finding.KnownOrganisation;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.Party;
import dastur.core.people.Person;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsal;
import dastur.core.rehearsal.Setting;
import dastur.core.step.tally.Count;
import dastur.core.step.tally.Counting;
import dastur.core.step.tally.Tally;
import dastur.core.step.tally.TallyEvents.TallyFull;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/**
 * A kind of step takes its room and one line in a services file, and no other place knows of it: this one lives in test code alone, and
 * does all that kinds do.
 */
class OneMoreKindTest extends WrittenWorkflows {
    private static final String STEPS = """
            count: tally 3 "Boats in" by group technicians within 2 h
              "too few" -> none
            end: done "enough"
            none: done "too few"
            """;

    private Visit counting() {
        return open("count").getFirst();
    }

    @Test
    void itRunsAndIsRefusedWhenItIsWrong() {
        publish(STEPS);
        assertThat(counting().waiting()).isInstanceOf(Counting.class);

        world.accepted(RUNA, new Count(counting().id(), 1, "north quay"));
        assertThat(((Counting) counting().waiting()).soFar()).isOne();
        assertThat(world.refused(RUNA, new Count(counting().id(), 0, "")).where())
                .isEqualTo("some");
        assertThat(world.refused(Actor.of(World.JONAS), new Count(counting().id(), 1, ""))
                        .code())
                .isEqualTo(Refusal.Code.NOT_YOURS);

        world.accepted(Actor.of(World.SEM), new Count(counting().id(), 2, "south quay"));
        assertThat(world.ticket.open()).isEmpty();
        assertThat(world.record.stream().map(Recorded::event))
                .filteredOn(TallyFull.class::isInstance)
                .singleElement()
                .isEqualTo(new TallyFull("full", new StepId("end"), 3));
    }

    @Test
    void theClockEndsIt() {
        publish(STEPS);
        world.pass(java.time.Duration.ofHours(3));
        assertThat(world.record.stream().map(Recorded::event).filter(Event.RunEnded.class::isInstance))
                .singleElement()
                .satisfies(e -> assertThat(((Event.RunEnded) e).result()).isEqualTo("too few"));
    }

    @Test
    void itStandsOnDesks() {
        publish(STEPS);
        assertThat(world.items()).singleElement().satisfies(i -> {
            assertThat(i.kind()).isEqualTo("tally");
            assertThat(i.who()).containsExactly("g:technicians");
        });
    }

    @Test
    void itsRecordIsSealedOpenedAndFoldedAgain() {
        publish(STEPS);
        world.accepted(RUNA, new Count(counting().id(), 1, "north quay"));
        List<Entry> entries = new ArrayList<>();
        String previous = Seal.START;
        for (Recorded recorded : world.record) {
            Entry entry = Seal.seal(World.TICKET, recorded, previous, () -> new byte[32]);
            entries.add(entry);
            previous = entry.hash();
        }
        assertThat(Seal.check(entries)).isEmpty();
        Case folded = Engine.fold(World.TICKET, entries.stream().map(Seal::open).toList());
        assertThat(folded).isEqualTo(world.ticket);
        assertThat(Json.read(Json.write(folded), Case.class)).isEqualTo(folded);
        // What is content stands apart from the sealed line, so that it can be taken away.
        assertThat(entries.getLast().sealed()).doesNotContain("north quay");
    }

    @Test
    void textJsonAndDiagramGiveItAgain() {
        WorkflowVersion version = version(3);
        assertThat(Notation.read(Notation.write(version), 1, Names.NONE).version())
                .isEqualTo(version);
        assertThat(Json.read(Json.write(version), WorkflowVersion.class)).isEqualTo(version);
        assertThat(Bpmn.read(Bpmn.write(version), 1, World.TEO, Names.NONE)
                        .version()
                        .body())
                .isEqualTo(version.body());
        assertThat(Notation.complete("tal", Names.NONE)).containsExactly("tally ");
        assertThat(Notation.sentence("tally 2 \"Crates\" by group technicians", java.util.Set.of(), Names.NONE)
                        .step())
                .isInstanceOf(Tally.class);
    }

    private static WorkflowVersion version(int target) {
        String text = "workflow w \"W\" for incident\n  owner teo\n" + STEPS.replace("tally 3", "tally " + target);
        return Notation.read(text, 1, Names.NONE).version();
    }

    @Test
    void itsValuesAndFaultsAreKnown() {
        assertThat(Findings.of(version(0), List.of(), around()))
                .extracting(Finding::code)
                .contains("nothing to count");
        assertThat(Vocabulary.of(
                                version(3),
                                around().fields(),
                                Vocabulary.Declared.actions(k -> java.util.Optional.empty()))
                        .field("steps.count.total"))
                .isPresent();
    }

    private KnownOrganisation around() {
        return new KnownOrganisation(
                (FieldCatalogue) world.look(new LookupKey.Fields()).orElseThrow(),
                id -> world.look(new LookupKey.OfGroup(id)).map(Group.class::cast),
                id -> world.look(new LookupKey.OfPerson(id)).map(Person.class::cast),
                key -> world.look(new LookupKey.OfAction(key)).map(Action.class::cast),
                key -> world.look(new LookupKey.OfLadder(key)).map(Ladder.class::cast));
    }

    @Test
    void itIsRehearsed() {
        Setting setting = new Setting(
                version(3),
                TicketKind.INCIDENT,
                Map.of("service", "gates"),
                Map.of(),
                World.JONAS,
                world.now,
                world::look);
        Rehearsal rehearsal = new Rehearsal(setting);
        Played begun = rehearsal.begin();
        assertThat(begun.refused()).isNull();
        assertThat(rehearsal.options(begun, rehearsal.waiting(begun).findFirst().orElseThrow()))
                .extracting(Answer::says)
                .containsExactly(Answer.Says.DOES, Answer.Says.NOTHING);
        Played over = rehearsal.toTheEnd(begun);
        assertThat(over.ticket().open()).isEmpty();
        assertThat(over.record().stream().map(Recorded::event)).anyMatch(TallyFull.class::isInstance);
    }

    /** A kind that was never named is told as such, and nothing is guessed. */
    @Test
    void aWordThatNobodyKnowsIsNoStep() {
        Tally tally = new Tally(new StepId("t"), "T", 1, new Party.Requester(), Span.parse("1 h"), Map.of(), null);
        String json = Json.write(tally).replace("\"tally\"", "\"tallies\"");
        assertThatThrownBy(() -> Json.read(json, dastur.core.workflow.Step.class))
                .hasMessageContaining("does not fit Step");
        assertThat(Kinds.named("tallies")).isEmpty();
    }
}
