package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.workflow.Action;
import dastur.core.workflow.ZoneKey;
import dastur.store.RelayWork.Call;
import dastur.store.RelayWork.Standing;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Codes, relays and their work, on each database: one code one relay, one call one relay (M13, M15). */
class RelaysTest {
    private static final ZoneKey ZONE = new ZoneKey("mooring-data-room");
    private static final Journal.By BY = new Journal.By(new PersonId("halvard"), Instant.parse("2026-05-04T08:00:00Z"));

    @TempDir
    Path folder;

    private Database database;
    private Relays relays;
    private RelayWork work;

    @BeforeEach
    void open() {
        database = Stores.in(folder);
        relays = new Relays(database);
        work = new RelayWork(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private static Call call(String id, Action.Repeat repeat) {
        return new Call(id, ZONE, "machines", "{}", repeat.word(), null);
    }

    private List<String> taken(String relay, Set<String> has) {
        return work.take(ZONE, relay, 10, has).stream().map(Call::id).toList();
    }

    private void later(String column) {
        database.run(session -> session.doWork(
                c -> Jdbc.update(c, "update relay_work set " + column + " = " + column + " - interval '120' second")));
    }

    @Test
    void ofManyWhoUseOneCodeAtOnceOneJoins() throws Exception {
        relays.keepCode(BY, ZONE, "code");
        try (var threads = Executors.newVirtualThreadPerTaskExecutor()) {
            List<Future<Relays.Asked>> all = threads.invokeAll(IntStream.range(0, 8)
                    .<Callable<Relays.Asked>>mapToObj(
                            i -> () -> relays.join("r" + i, "code", "host-" + i, "key " + i, BY.at()))
                    .toList());
            long joined = 0;
            for (Future<Relays.Asked> each : all) {
                joined += each.get() instanceof Relays.Asked.Ok ? 1 : 0;
            }
            assertThat(joined).isEqualTo(1);
        }
        assertThat(relays.all()).hasSize(1);
        assertThat(relays.strangers(ZONE)).isEqualTo(7);
    }

    @Test
    void anAnswerThatWasLostIsGivenAgainToTheSameRelayOnly() {
        relays.keepCode(BY, ZONE, "code");
        assertThat(relays.join("r1", "code", "host", "key 1", BY.at())).isInstanceOf(Relays.Asked.Ok.class);
        assertThat(relays.join("r2", "code", "host", "key 1", BY.at()))
                .isInstanceOfSatisfying(
                        Relays.Asked.Ok.class, ok -> assertThat(ok.relay().id()).isEqualTo("r1"));
        assertThat(relays.join("r3", "another", "host", "key 1", BY.at())).isInstanceOf(Relays.Asked.NoSuchCode.class);
        relays.keepCode(BY, ZONE, "next");
        assertThat(relays.join("r4", "next", "host", "key 2", BY.at()))
                .as("two of one name could not be told apart")
                .isInstanceOf(Relays.Asked.NotSo.class);
    }

    @Test
    void aCodeIsOverAfterItsTime() {
        relays.keepCode(BY, ZONE, "code");
        database.run(session -> session.doWork(
                c -> Jdbc.update(c, "update relay_code set until_at = until_at - interval '901' second")));
        assertThat(relays.join("r1", "code", "host", "key 1", BY.at())).isInstanceOf(Relays.Asked.NoSuchCode.class);
    }

    @Test
    void turnsAreAnsweredOnceAndOnlyToTheProcessThatWorksNow() {
        relays.keepCode(BY, ZONE, "code");
        relays.join("r1", "code", "host", "key 1", BY.at());
        assertThat(relays.let(BY, "r1", true)).isTrue();
        assertThat(relays.let(BY, "r1", true)).isFalse();
        relays.hello("r1", "a", 1, "v", "hash", List.of());
        assertThat(relays.heard("r1", "a", 2)).isTrue();
        assertThat(relays.heard("r1", "a", 2)).isFalse();
        assertThat(relays.heard("r1", "a", 1)).isFalse();
        assertThat(relays.heard("r1", "a", 0)).isTrue();
        relays.hello("r1", "a", 1, "v", "hash", List.of());
        assertThat(relays.heard("r1", "a", 2))
                .as("a copy of the greeting starts no new count")
                .isFalse();
        assertThat(relays.find("r1").orElseThrow().twoAt()).isNull();
        relays.hello("r1", "b", 1, "v", "hash", List.of());
        assertThat(relays.find("r1").orElseThrow().twoAt())
                .as("the first may have ended")
                .isNull();
        assertThat(relays.heard("r1", "a", 3)).isFalse();
        assertThat(relays.heard("r1", "b", 1)).isTrue();
        assertThat(relays.find("r1").orElseThrow().twoAt()).isNotNull();
    }

    @Test
    void ofManyRelaysOneGetsACall() throws Exception {
        for (int i = 0; i < 40; i++) {
            work.keep(call("w" + i, Action.Repeat.NEVER));
        }
        try (var threads = Executors.newVirtualThreadPerTaskExecutor()) {
            List<Future<List<String>>> all = threads.invokeAll(IntStream.range(0, 8)
                    .<Callable<List<String>>>mapToObj(i -> () -> taken("r" + i, Set.of()))
                    .toList());
            List<String> given = new java.util.ArrayList<>();
            for (Future<List<String>> each : all) {
                given.addAll(each.get());
            }
            assertThat(given).doesNotHaveDuplicates();
            given.addAll(taken("last", Set.of()));
            given.addAll(taken("last", Set.copyOf(given)));
            given.addAll(taken("last", Set.copyOf(given)));
            assertThat(given).hasSize(40).doesNotHaveDuplicates();
        }
    }

    /** What the relay does not have was lost on the line: nobody has begun it. */
    @Test
    void whatWasLostOnTheWayIsGivenAgainToTheSameRelay() {
        work.keep(call("w", Action.Repeat.NEVER));
        assertThat(taken("r1", Set.of())).containsExactly("w");
        assertThat(taken("r1", Set.of())).as("it may still be on its way").isEmpty();
        later("given_at");
        assertThat(taken("r1", Set.of("w"))).isEmpty();
        assertThat(taken("r2", Set.of())).isEmpty();
        assertThat(taken("r1", Set.of())).containsExactly("w");
    }

    @Test
    void onlyWhatMayBeRepeatedGoesToAnotherWhenOneIsOutOfSight() {
        work.keep(call("free", Action.Repeat.FREE));
        work.keep(call("never", Action.Repeat.NEVER));
        assertThat(taken("r1", Set.of())).containsExactlyInAnyOrder("free", "never");
        assertThat(work.again("free")).as("it is in sight").isFalse();
        later("leased_until");
        assertThat(work.find("free").orElseThrow().inSight()).isFalse();
        assertThat(work.again("free")).isTrue();
        assertThat(work.again("never")).isFalse();
        assertThat(taken("r2", Set.of())).containsExactly("free");
        assertThat(work.done("free", "r2", "{}", "s").orElseThrow().standing()).isEqualTo(Standing.GIVEN);
        assertThat(work.done("free", "r1", "{\"late\":1}", "s"))
                .as("the first result counts")
                .isEmpty();
        assertThat(work.find("free").orElseThrow().done()).isEqualTo("{}");
    }

    @Test
    void aSignOfLifeKeepsItAndSaysWhatNobodyWants() {
        work.keep(call("a", Action.Repeat.FREE));
        work.keep(call("b", Action.Repeat.FREE));
        taken("r1", Set.of());
        later("leased_until");
        assertThat(work.takeBack("b")).isFalse();
        assertThat(work.stillAt("r1", List.of("a", "b", "unknown"))).containsExactlyInAnyOrder("b", "unknown");
        assertThat(work.find("a").orElseThrow().inSight()).isTrue();
        assertThat(work.stillAt("r2", List.of("a"))).containsExactly("a");
    }

    @Test
    void whatWasTakenBackIsGivenToNobodyAndWhatWasLeftStillGetsItsResult() {
        work.keep(call("back", Action.Repeat.NEVER));
        assertThat(work.takeBack("back")).isTrue();
        assertThat(taken("r1", Set.of())).isEmpty();
        assertThat(work.done("back", "r1", "{}", "s")).isEmpty();

        work.keep(call("left", Action.Repeat.NEVER));
        taken("r1", Set.of());
        assertThat(work.leave("left")).isTrue();
        assertThat(work.done("left", "r2", "{}", "s"))
                .as("it was never another's")
                .isEmpty();
        assertThat(work.done("left", "r1", "{}", "s").orElseThrow().standing()).isEqualTo(Standing.LEFT);
    }
}
