package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.run.World;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Drafts, versions and triggers on real H2 (N10, N26, N30, N32). */
class WorkflowsTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final PersonId INES = new PersonId("ines");
    private static final PersonId TEO = new PersonId("teo");

    private Database database;
    private Workflows workflows;

    @BeforeEach
    void open() {
        database = Stores.empty();
        Organisation organisation = new Organisation(database);
        for (PersonId id : List.of(INES, TEO)) {
            organisation.putPerson(new Person(id, "Name of " + id, "", Set.of(Role.PROCESS_OWNER), true), null);
        }
        workflows = new Workflows(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    static WorkflowVersion named(String key, int number, String name) {
        WorkflowVersion gate = World.gateWorkflow(new ApprovalRule.AnyOne());
        return new WorkflowVersion(
                new WorkflowKey(key),
                number,
                name,
                null,
                INES,
                gate.kind(),
                gate.startForm(),
                gate.vars(),
                gate.body());
    }

    private WorkflowKey made(String key) {
        WorkflowVersion draft = named(key, 1, "Workflow " + key);
        workflows.create(draft, INES, NOW);
        return draft.key();
    }

    private WorkflowKey live(String key) {
        WorkflowKey made = made(key);
        workflows.publish(made, 1, INES, NOW).orElseThrow();
        return made;
    }

    private static Trigger byHand(String id) {
        return new Trigger(new TriggerId(id), true, new Trigger.ByHand(TicketKind.INCIDENT), List.of(), null);
    }

    @Test
    void aDraftIsSavedOnlyByWhoeverReadTheLastOne() {
        WorkflowKey key = made("gate");
        long revision = workflows.draft(key).orElseThrow().revision();
        Workflows.Saved first = workflows.saveDraft(named("gate", 1, "First"), revision, INES, NOW.plusSeconds(1));
        assertThat(first).isInstanceOf(Workflows.Saved.Ok.class);
        Workflows.Saved second = workflows.saveDraft(named("gate", 1, "Second"), revision, TEO, NOW.plusSeconds(2));
        assertThat(second).isInstanceOfSatisfying(Workflows.Saved.Conflict.class, c -> {
            assertThat(c.by()).isEqualTo("ines");
            assertThat(c.at()).isEqualTo(NOW.plusSeconds(1));
        });
        assertThat(workflows.draft(key).orElseThrow().version().name()).isEqualTo("First");
        long now = ((Workflows.Saved.Ok) first).revision();
        assertThat(workflows.saveDraft(named("gate", 1, "Second"), now, TEO, NOW.plusSeconds(3)))
                .isInstanceOf(Workflows.Saved.Ok.class);
        assertThat(workflows.draft(key).orElseThrow().by()).isEqualTo(TEO);
    }

    @Test
    void publishingMakesADraftAVersionAndVersionsAreNeverWrittenAgain() {
        WorkflowKey key = live("gate");
        assertThat(workflows.draft(key)).isEmpty();
        assertThat(workflows.liveVersion(key)).contains(1);
        long revision = workflows.draftRevision(key);
        long saved =
                ((Workflows.Saved.Ok) workflows.saveDraft(named("gate", 2, "Better"), revision, INES, NOW)).revision();
        assertThat(workflows.publish(key, saved - 1, INES, NOW))
                .as("a draft that changed meanwhile")
                .isEmpty();
        assertThat(workflows.publish(key, saved, TEO, NOW.plusSeconds(5))).contains(2);
        assertThat(workflows.version(key, 1).orElseThrow().name()).isEqualTo("Workflow gate");
        assertThat(workflows.version(key, 2).orElseThrow().name()).isEqualTo("Better");
        assertThat(workflows.versions(key))
                .extracting(Workflows.Published::number)
                .containsExactly(2, 1);
        assertThat(workflows.versions(key).getFirst().by()).isEqualTo("teo");
        assertThat(workflows.version(key, 3)).isEmpty();
    }

    @Test
    void aDraftThatIsThrownAwayLeavesWhatIsLive() {
        WorkflowKey key = live("gate");
        workflows.saveDraft(named("gate", 2, "Worse"), workflows.draftRevision(key), INES, NOW);
        assertThat(workflows.draft(key)).isPresent();
        workflows.discardDraft(key);
        assertThat(workflows.draft(key)).isEmpty();
        assertThat(workflows.liveVersion(key)).contains(1);
    }

    @Test
    void onlyItsOwnersOldDraftsOfWhatIsLiveAreForgottenOnes() {
        WorkflowKey key = live("gate");
        made("never-live");
        workflows.saveDraft(named("gate", 2, "Later"), workflows.draftRevision(key), INES, NOW);
        Instant nextDay = NOW.plus(Duration.ofDays(1));
        assertThat(workflows.forgottenDrafts(INES, NOW)).isEmpty();
        assertThat(workflows.forgottenDrafts(INES, nextDay))
                .extracting(Workflows.Forgotten::key)
                .containsExactly("gate");
        assertThat(workflows.forgottenDrafts(TEO, nextDay)).isEmpty();
        workflows.setRetired(new Journal.By(INES, NOW), key, true);
        assertThat(workflows.forgottenDrafts(INES, nextDay)).isEmpty();
    }

    @Test
    void triggersStandInOneOrderWhichCanBeChangedAndKeptWhenTheyAreSaved() {
        WorkflowKey a = live("a");
        WorkflowKey b = live("b");
        workflows.setTriggers(new Journal.By(INES, NOW), a, List.of(byHand("a-1"), byHand("a-2")));
        workflows.setTriggers(new Journal.By(INES, NOW), b, List.of(byHand("b-1")));
        assertThat(order()).containsExactly("a-1", "a-2", "b-1");
        workflows.orderTriggers(new Journal.By(INES, NOW), List.of(new TriggerId("b-1"), new TriggerId("a-2")));
        assertThat(order()).containsExactly("b-1", "a-2", "a-1");
        // Saved again with one more: the two keep their places, the third comes last of all.
        workflows.setTriggers(new Journal.By(INES, NOW), a, List.of(byHand("a-2"), byHand("a-1"), byHand("a-3")));
        assertThat(order()).containsExactly("b-1", "a-2", "a-1", "a-3");
        assertThat(workflows.workflowOf(new TriggerId("a-3"))).contains(a);
        assertThat(workflows.workflowOf(new TriggerId("gone"))).isEmpty();
        workflows.setRetired(new Journal.By(INES, NOW), b, true);
        assertThat(order()).containsExactly("a-2", "a-1", "a-3");
        assertThat(workflows.retired(b)).isTrue();
    }

    private List<String> order() {
        return workflows.liveTriggers().stream()
                .map(t -> t.trigger().id().value())
                .toList();
    }

    @Test
    void theLibraryListsAllByNameWithWhatBecameOfThem() {
        live("b");
        made("a");
        assertThat(workflows.all()).extracting(Workflows.Summary::key).containsExactly("a", "b");
        Workflows.Summary draft = workflows.all().getFirst();
        assertThat(draft.liveVersion()).isNull();
        assertThat(draft.hasDraft()).isTrue();
        assertThat(draft.runs()).isZero();
        assertThat(draft.steps()).isPositive();
        assertThat(workflows.exists(new WorkflowKey("a"))).isTrue();
        assertThat(workflows.exists(new WorkflowKey("c"))).isFalse();
    }

    @Test
    void whatIsNotThereCannotBePublished() {
        assertThatThrownBy(() -> workflows.publish(new WorkflowKey("gone"), 1, INES, NOW))
                .isInstanceOf(RuntimeException.class);
    }
}
