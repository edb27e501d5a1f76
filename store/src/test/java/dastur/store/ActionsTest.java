package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.run.World;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Limit;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.WorkflowVersion;
import dastur.store.Actions.Number;
import dastur.store.Actions.Saved;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Versions of actions: what is under way never gets another one, and a mend reaches those who use it (M1). */
class ActionsTest {
    private static final ActionKey CLOSE = new ActionKey("close-lane");
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final Journal.By INES = new Journal.By(new PersonId("ines"), NOW);
    private static final Field GATE = Field.of("gate", "Gate", FieldType.TEXT);

    @TempDir
    Path folder;

    private Database database;
    private Actions actions;
    private Workflows workflows;
    private Cases cases;

    @BeforeEach
    void open() {
        database = Stores.in(folder);
        actions = new Actions(database);
        workflows = new Workflows(database);
        cases = new Cases(database, () -> new byte[32]);
        workflows.putAction(action("/lanes/{{ input.gate }}", GATE));
        workflows.create(World.gateWorkflow(new ApprovalRule.AnyOne()), World.TEO, NOW);
        publish();
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void publish() {
        workflows.publish(World.GATE, 1, World.TEO, NOW).orElseThrow();
    }

    private static Action action(String path, Field... inputs) {
        return new Action(
                CLOSE,
                "Close",
                "Closes.",
                "lanes",
                new Action.HttpCall("POST", path, Map.of("Idempotency-Key", "{{ call.key }}"), null, null),
                List.of(inputs),
                List.of(),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("5 s"),
                2,
                Span.parse("1 s"));
    }

    private Saved set(String on, String path, Field... inputs) {
        String[] number = on.split("\\.");
        return actions.set(
                INES,
                action(path, inputs),
                new Number(Integer.parseInt(number[0]), Integer.parseInt(number[1])),
                "it moved");
    }

    /** The path that a published version of the workflow calls. */
    private String calls(int version) {
        return cases.look(new LookupKey.PinnedAction(CLOSE, World.GATE, version))
                .map(a -> ((Action) a).call().path())
                .orElseThrow();
    }

    @Test
    void aMendReachesThoseWhoUseTheVersion() {
        assertThat(set("1.0", "/gates/{{ input.gate }}", GATE)).isEqualTo(new Saved.Ok(new Number(1, 1)));
        assertThat(calls(1)).isEqualTo("/gates/{{ input.gate }}");
        assertThat(actions.versions(CLOSE))
                .extracting(v -> v.number().toString())
                .containsExactly("1.1", "1.0");
        assertThat(actions.versions(CLOSE).getFirst().why()).isEqualTo("it moved");
    }

    /** A limit is what others rely on: setting one makes another version, and a version without it can be withdrawn. */
    @Test
    void aLimitMakesAnotherVersion() {
        Action limited = action("/gates/{{ input.gate }}", GATE)
                .limited(Map.of("gate", new Limit(null, null, "ALD-.*", null, null)));
        assertThat(actions.set(INES, limited, new Number(1, 0), null)).isEqualTo(new Saved.Ok(new Number(2, 0)));
        assertThat(actions.find(CLOSE).orElseThrow().limits()).isEqualTo(limited.limits());
        assertThat(actions.withdraw(INES, CLOSE, 1, "It reaches every pier.")).contains(new Number(1, 1));
        assertThat(actions.find(CLOSE).orElseThrow().limits()).isEqualTo(limited.limits());
    }

    @Test
    void whoeverWasPublishedWithAVersionGoesOnWithIt() {
        set("1.0", "/gates/{{ input.gate }}", GATE);
        Field lane = Field.of("lane", "Lane", FieldType.TEXT);
        assertThat(set("1.1", "/gates/{{ input.gate }}/{{ input.lane }}", GATE, lane))
                .isEqualTo(new Saved.Ok(new Number(2, 0)));
        set("2.0", "/{{ input.gate }}/{{ input.lane }}", GATE, lane);
        assertThat(calls(1)).as("its own version, as it was mended").isEqualTo("/gates/{{ input.gate }}");
        assertThat(calls(2)).as("a draft takes what counts now").isEqualTo("/{{ input.gate }}/{{ input.lane }}");
        assertThat(actions.users(CLOSE)).singleElement().satisfies(u -> {
            assertThat(u.version()).isEqualTo(1);
            assertThat(u.steps()).isNotEmpty();
        });

        WorkflowVersion draft = World.gateWorkflow(new ApprovalRule.AnyOne());
        long revision = ((Workflows.Saved.Ok) workflows.saveDraft(draft, 2, World.TEO, NOW)).revision();
        workflows.publish(World.GATE, revision, World.TEO, NOW).orElseThrow();
        assertThat(actions.users(CLOSE)).singleElement().satisfies(u -> assertThat(u.version())
                .isEqualTo(2));
        assertThat(calls(1)).isEqualTo("/gates/{{ input.gate }}");
        assertThat(calls(2)).isEqualTo("/{{ input.gate }}/{{ input.lane }}");
    }

    private Optional<String> withdrawnFor(int workflowVersion) {
        return cases.look(new LookupKey.PinnedAction(CLOSE, World.GATE, workflowVersion))
                .map(a -> ((Action) a).withdrawn());
    }

    @Test
    void aVersionIsWithdrawnForThoseWhoUseItAndForNobodyElse() {
        Field lane = Field.of("lane", "Lane", FieldType.TEXT);
        set("1.0", "/gates/{{ input.gate }}/{{ input.lane }}", GATE, lane);
        assertThat(actions.withdraw(INES, CLOSE, 1, "It closes the pier.")).contains(new Number(1, 1));
        assertThat(withdrawnFor(1)).contains("It closes the pier.");
        assertThat(withdrawnFor(2)).as("a draft takes version 2").isEmpty();
        assertThat(actions.find(CLOSE).orElseThrow().withdrawn()).isNull();
        assertThat(actions.withdraw(INES, CLOSE, 1, "It closes the pier."))
                .as("said twice, it is no change")
                .contains(new Number(1, 1));
        assertThat(actions.withdraw(INES, CLOSE, 2, "So does this.")).contains(new Number(2, 1));
        assertThat(actions.find(CLOSE).orElseThrow().withdrawn()).isEqualTo("So does this.");
        assertThat(actions.number(CLOSE)).contains(new Number(2, 1));

        assertThat(actions.withdraw(INES, CLOSE, 1, null)).contains(new Number(1, 2));
        assertThat(withdrawnFor(1)).isEmpty();
        assertThat(actions.withdraw(INES, CLOSE, 3, "none")).isEmpty();
        assertThat(actions.withdraw(INES, new ActionKey("none"), 1, "none")).isEmpty();
        assertThat(actions.versions(CLOSE))
                .extracting(v -> v.number() + " " + v.why())
                .contains("1.1 It closes the pier.", "1.2 in use again", "2.1 So does this.");
    }

    @Test
    void whoeverSavesOnAnOlderOneIsTold() {
        set("1.0", "/one", GATE);
        assertThat(set("1.0", "/two", GATE)).isEqualTo(new Saved.Stale(new Number(1, 1)));
        assertThat(calls(1)).isEqualTo("/one");
    }

    @Test
    void whatIsAsItWasIsNoVersion() {
        assertThat(set("1.0", "/lanes/{{ input.gate }}", GATE)).isEqualTo(new Saved.Ok(new Number(1, 0)));
        assertThat(actions.versions(CLOSE)).hasSize(1);
    }

    @Test
    void aVersionThatWasChangedPastTheApplicationIsFound() {
        set("1.0", "/gates/{{ input.gate }}", GATE);
        RecordLog log = new RecordLog(database, Signers.fresh());
        log.catchUp();
        log.sign(Instant.now());
        assertThat(new Audit(database, log).run(done -> {}).findings()).isEmpty();
        database.run(session -> session.doWork(c ->
                Jdbc.update(c, "update action_version set body = replace(body, '/gates', '/other') where mend = 1")));
        assertThat(new Audit(database, log).run(done -> {}).findings().toString())
                .contains("action version")
                .contains("close-lane 1.1");
    }

    @Test
    void aTryIsKeptOnceAndHoldsWhatCameOfIt() {
        ActionTries tries = new ActionTries(database);
        ActionTries.Try begun = new ActionTries.Try(
                "a-1",
                CLOSE,
                NOW,
                NOW.plusSeconds(35),
                INES.person(),
                Map.of("gate", "G1"),
                "POST /lanes/G1",
                ActionTries.Try.UNDER_WAY,
                null,
                null,
                null,
                null);
        assertThat(tries.begin(INES, begun, "POST /lanes/G1")).isTrue();
        assertThat(tries.begin(INES, begun, "POST /lanes/G1")).isFalse();
        tries.end(begun.came("ok", null, Map.of("lock", "L-1"), "{\"lock\":\"L-1\"}", 40));
        assertThat(tries.last(CLOSE, 10))
                .singleElement()
                .isEqualTo(begun.came("ok", null, Map.of("lock", "L-1"), "{\"lock\":\"L-1\"}", 40));
        tries.forgetBefore(NOW.plusSeconds(1));
        assertThat(tries.last(CLOSE, 10)).isEmpty();
    }

    @Test
    void whatACallUsuallyTakesIsSaidByTheLastOfThem() {
        CallsMade made = new CallsMade(database);
        assertThat(made.usually(CLOSE)).isEmpty();
        database.run(session -> session.doWork(c -> {
            for (int i = 1; i <= 60; i++) {
                Jdbc.update(
                        c,
                        "insert into call_made (ticket, seq, action, connection, made_at, said, millis) values (?, ?, ?, ?, ?, ?, ?)",
                        "I-1",
                        i,
                        CLOSE.value(),
                        "lanes",
                        NOW.plusSeconds(i),
                        i % 7 == 0 ? "FAILED" : "OK",
                        i <= 10 ? 90_000 : 40);
            }
        }));
        assertThat(made.usually(CLOSE)).hasValue(40);
        CallsMade.Figures figures = made.ofActions(NOW).get(CLOSE);
        assertThat(figures.calls()).isEqualTo(60);
        assertThat(figures.failed()).isEqualTo(8);
        assertThat(figures.p95()).isEqualTo(90_000);
        assertThat(made.overConnections(NOW).get("lanes")).isEqualTo(figures);
    }

    private void called(int seq, String said, int afterSeconds) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "insert into call_made (ticket, seq, action, connection, made_at, said, millis) values (?, ?, ?, ?, ?, ?, 40)",
                "I-1",
                seq,
                CLOSE.value(),
                "lanes",
                NOW.plusSeconds(afterSeconds),
                said)));
    }

    private Lookups.BadInRow badInRow() {
        return database.read(session -> CallsMade.badInRow(session, CLOSE));
    }

    /** M5: counted since it last went well, and what was told before that was of something else. */
    @Test
    void badCallsInARowAreCountedSinceOneWentWell() {
        assertThat(badInRow()).isEqualTo(new Lookups.BadInRow(0, null));
        called(1, "FAILED", 1);
        called(2, "UNSURE", 2);
        database.run(session -> session.doWork(
                c -> Jdbc.update(c, Sql.KEEPER_TOLD.text(), "I-1", 3, TermsOfUse.about(CLOSE), NOW.plusSeconds(2))));
        assertThat(badInRow()).isEqualTo(new Lookups.BadInRow(2, NOW.plusSeconds(2)));
        called(4, "OK", 4);
        assertThat(badInRow()).isEqualTo(new Lookups.BadInRow(0, null));
        called(5, "FAILED", 5);
        assertThat(badInRow()).isEqualTo(new Lookups.BadInRow(1, null));
        for (int i = 0; i < 300; i++) {
            called(10 + i, "FAILED", 10 + i);
        }
        assertThat(badInRow().calls()).as("no further back than it looks").isEqualTo(200);
    }

    @Test
    void whoMayUseAnActionIsSetWithALineInTheJournalAndComparedWithIt() {
        assertThat(workflows.termsOf(CLOSE)).isEqualTo(TermsOfUse.none(CLOSE));
        TermsOfUse terms = new TermsOfUse(CLOSE, new PersonId("ines"), null, null, List.of("ALD"), 3, null, null);
        SetUp setUp = new SetUp(database);
        assertThat(setUp.terms(INES, TermsOfUse.none(CLOSE), terms)).isTrue();
        assertThat(setUp.terms(INES, TermsOfUse.none(CLOSE), TermsOfUse.none(CLOSE)))
                .as("judged by what is no more")
                .isFalse();
        assertThat(workflows.termsOf(CLOSE)).isEqualTo(terms);
        assertThat(cases.look(new LookupKey.TermsOf(CLOSE)).orElseThrow()).isEqualTo(terms);
        assertThat(new Journal(database).lines(null, 10).toString()).contains("terms of use");
        assertThat(SetUp.isCompared("terms of use")).isTrue();
    }

    @Test
    void whatACallSaysIsKeptInOrderAndForgottenInTime() {
        CallsMade made = new CallsMade(database);
        made.heard("I-1.1.1.1", NOW, "first ");
        made.heard("I-1.1.1.1", NOW, "second");
        assertThat(made.said("I-1.1.1.1", 1, 9))
                .extracting(CallsMade.Part::text)
                .containsExactly("second");
        made.forgetBefore(NOW.plusSeconds(5));
        assertThat(made.said("I-1.1.1.1", 0, 9)).isEmpty();
    }

    /** A part that was let go leaves its number behind: what is read from a number on goes on where it was. */
    @Test
    void partsOfWhatACallSaysAreLetGo() {
        CallsMade made = new CallsMade(database);
        for (int i = 0; i < 5; i++) {
            assertThat(made.heard("I-1.1.2.1", NOW, "part " + i)).isEqualTo(i);
        }
        made.letGo("I-1.1.2.1", 1);
        assertThat(made.said("I-1.1.2.1", 0, 2))
                .extracting(CallsMade.Part::number)
                .containsExactly(0, 2);
        assertThat(made.last("I-1.1.2.1", 0, 2))
                .extracting(CallsMade.Part::text)
                .containsExactly("part 3", "part 4");
        made.letGo("I-1.1.2.1", 4);
        assertThat(made.heard("I-1.1.2.1", NOW, "again"))
                .as("of what is let go at the end")
                .isEqualTo(4);
        assertThat(made.letSomeGo("I-1.1.2.1")).isTrue();
        assertThat(made.letSomeGo("I-1.1.2.1")).isFalse();
        assertThat(made.said("I-1.1.2.1", 0, 9)).isEmpty();
    }
}
