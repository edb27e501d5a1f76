package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.run.VisitId;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Callable;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Leases and queues of what is to be done outside, on real rows (D13, D14). */
class OutboxTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final Duration MINUTE = Duration.ofMinutes(1);
    private static final Duration RUN_OUT = Duration.ofSeconds(-1);

    private Database database;
    private Outbox outbox;

    @BeforeEach
    void open() {
        database = Stores.empty();
        outbox = new Outbox(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void put(String id, String queue, Instant due) {
        database.run(session -> {
            Rows.OutboxRow row = new Rows.OutboxRow();
            row.id = id;
            row.ticket = "I-1";
            row.kind = "mail";
            row.purpose = "told";
            row.queue = queue;
            row.payload = "{}";
            row.createdAt = due;
            row.due = due;
            session.insert(row);
        });
    }

    private List<String> take(int most, Instant now, String worker) {
        return outbox.take("mail", most, now, MINUTE, worker).stream()
                .map(Outbox.Taken::id)
                .toList();
    }

    private Outbox.Taken taken(Instant now, Duration lease, String worker) {
        return outbox.take("mail", 1, now, lease, worker).getFirst();
    }

    @Test
    void whatIsDueIsTakenOldestFirstAndNothingOfAnotherKind() {
        put("later", "mail:mira", NOW.plusSeconds(1));
        put("second", "mail:teo", NOW.minusSeconds(1));
        put("first", "mail:ada", NOW.minusSeconds(2));
        assertThat(outbox.take("call", 10, NOW, MINUTE, "w")).isEmpty();
        assertThat(take(10, NOW, "w")).containsExactly("first", "second");
        assertThat(outbox.nextDue()).hasValue(NOW.plusSeconds(1));
        assertThat(take(10, NOW.plusSeconds(1), "w")).containsExactly("later");
    }

    /** Of peers that are busy nothing is taken, however long it waits; a name that only begins alike is another peer. */
    @Test
    void whatGoesToBusyPeersIsLeftForLater() {
        put("slow-1", Outbox.queue("lanes", new VisitId("I-1.1.1")), NOW.minusSeconds(9));
        put("slow-2", Outbox.queue("lanes", new VisitId("I-2.1.1")), NOW.minusSeconds(8));
        put("other", Outbox.queue("lanes-2", new VisitId("I-3.1.1")), NOW.minusSeconds(1));
        put("third", Outbox.queue("kiosks", new VisitId("I-4.1.1")), NOW.minusSeconds(1));
        assertThat(outbox.take("mail", 10, NOW, MINUTE, "w", List.of("lanes", "kiosks")))
                .extracting(Outbox.Taken::id)
                .containsExactly("other");
        assertThat(take(10, NOW, "w")).containsExactly("slow-1", "slow-2", "third");
    }

    private void putCall(String connection, String visit, Instant due) {
        put(visit + ".1", Outbox.queue(connection, new VisitId(visit)), due);
        database.run(session -> session.createMutationQuery("update OutboxRow set kind = 'call' where id = ?1")
                .setParameter(1, visit + ".1")
                .executeUpdate());
    }

    /** A probe is one call over the connection that is meant, and no other. */
    @Test
    void ofOneConnectionOneIsTaken() {
        putCall("lanes", "I-1.1.1", NOW.minusSeconds(9));
        putCall("lanes", "I-2.1.1", NOW.minusSeconds(8));
        putCall("lanes-2", "I-3.1.1", NOW.minusSeconds(99));
        assertThat(outbox.takeOne(NOW, MINUTE, "w", "lanes"))
                .extracting(Outbox.Taken::id)
                .containsExactly("I-1.1.1.1");
        assertThat(outbox.takeOne(NOW, MINUTE, "w", "none")).isEmpty();
    }

    private boolean waits(String visit) {
        return database.read(
                session -> Outbox.waiting(session, new VisitId(visit), 1).isPresent());
    }

    @Test
    void aCallWaitsUntilItIsTakenAndNeverAgainAfterThat() {
        putCall("lanes", "I-1.1.1", NOW);
        assertThat(waits("I-1.1.1")).isTrue();
        assertThat(waits("I-2.1.1")).isFalse();
        outbox.takeOne(NOW, RUN_OUT, "w", "lanes");
        assertThat(waits("I-1.1.1"))
                .as("its lease has run out, but it was begun")
                .isFalse();
        outbox.giveBack("w");
        assertThat(waits("I-1.1.1")).isFalse();
    }

    /** Whoever decides that a call did not happen must not be passed by somebody who begins it in that moment. */
    @Test
    void whileItIsDecidedThatACallWaitsNobodyBeginsIt() throws Exception {
        try (ExecutorService others = Executors.newVirtualThreadPerTaskExecutor()) {
            for (int i = 1; i <= 40; i++) {
                String visit = "I-" + i + ".1.1";
                putCall("lanes", visit, NOW);
                CountDownLatch asked = new CountDownLatch(1);
                Future<List<Outbox.Taken>> taken = others.submit(() -> {
                    asked.await();
                    return outbox.takeOne(NOW, MINUTE, "w", "lanes");
                });
                boolean waited = database.write(session -> {
                    boolean there =
                            Outbox.waiting(session, new VisitId(visit), 1).isPresent();
                    asked.countDown();
                    Thread.yield();
                    if (there) {
                        session.createMutationQuery("delete from OutboxRow where id = ?1")
                                .setParameter(1, visit + ".1")
                                .executeUpdate();
                    }
                    return there;
                });
                assertThat(waited).isTrue();
                assertThat(taken.get(10, TimeUnit.SECONDS)).as(visit).isEmpty();
            }
        }
    }

    /** What somebody had who stops in order is there for the next at once; what others have is theirs. */
    @Test
    void whatIsHandedBackIsThereForTheNext() {
        put("a", "mail:ada", NOW);
        put("b", "mail:teo", NOW);
        outbox.take("mail", 1, NOW, MINUTE, "one");
        outbox.take("mail", 1, NOW, MINUTE, "two");
        outbox.giveBack("one");
        assertThat(take(10, NOW, "three")).containsExactly("a");
    }

    /** Two messages to one person must not overtake each other; a third person's does not wait for them. */
    @Test
    void ofOneQueueTheNextGoesOutWhenTheOneBeforeIsDone() {
        put("a1", "mail:ada", NOW.minusSeconds(3));
        put("a2", "mail:ada", NOW.minusSeconds(2));
        put("t1", "mail:teo", NOW.minusSeconds(1));
        Outbox.Taken first = taken(NOW, MINUTE.multipliedBy(10_000_000), "w1");
        assertThat(first.id()).isEqualTo("a1");
        assertThat(take(10, NOW, "w2")).containsExactly("t1");
        outbox.drop(first);
        assertThat(take(10, NOW, "w2")).containsExactly("a2");
    }

    /** One person's twenty mails do not fill the window: another's due mail goes out with the first of them. */
    @Test
    void nobodyWaitsBehindTheManyOfAnother() {
        for (int i = 0; i < 20; i++) {
            put(String.format("a%02d", i), "mail:ada", NOW.minusSeconds(100 - i));
        }
        put("t1", "mail:teo", NOW.minusSeconds(1));
        assertThat(take(16, NOW, "w")).contains("t1", "a00");
    }

    @Test
    void whatMustWaitAfterAFailureDoesNotHoldBackTheRestOfItsQueue() {
        put("a1", "mail:ada", NOW.minusSeconds(3));
        put("a2", "mail:ada", NOW.minusSeconds(2));
        outbox.later(taken(NOW, MINUTE, "w1"), NOW.plusSeconds(30));
        Outbox.Taken next = taken(NOW, MINUTE, "w1");
        assertThat(next.id()).isEqualTo("a2");
        outbox.drop(next);
        Outbox.Taken again = taken(NOW.plusSeconds(30), MINUTE, "w1");
        assertThat(again.id()).isEqualTo("a1");
        assertThat(again.tries()).isEqualTo(2);
        assertThat(again.createdAt()).isEqualTo(NOW.minusSeconds(3));
    }

    @Test
    void whatIsPutOffUntriedFailsOnlyFromThenOn() {
        put("a1", "mail:ada", NOW);
        outbox.putOff(taken(NOW, MINUTE, "w1"), NOW.plusSeconds(3_600));
        Outbox.Taken again = taken(NOW.plusSeconds(3_600), MINUTE, "w1");
        assertThat(again.tries()).isEqualTo(1);
        assertThat(again.createdAt()).isEqualTo(NOW.plusSeconds(3_600));
    }

    /** A worker that was too slow has lost its row: nothing it says of it counts any more. */
    @Test
    void whoLostALeaseChangesNothing() {
        put("a1", "mail:ada", NOW);
        Outbox.Taken slow = taken(NOW, RUN_OUT, "slow");
        Outbox.Taken next = taken(NOW, MINUTE, "next");
        assertThat(next.tries()).isEqualTo(2);
        assertThat(outbox.extend("slow", List.of("a1"), MINUTE)).containsExactly("a1");
        outbox.later(slow, NOW.plusSeconds(3_600));
        outbox.putOff(slow, NOW.plusSeconds(3_600));
        assertThat(outbox.extend("next", List.of("a1"), MINUTE)).isEmpty();
        assertThat(take(10, NOW.plusSeconds(7_200), "other")).isEmpty();
        outbox.drop(next);
        assertThat(outbox.waiting()).isZero();
    }

    @Test
    void manyLeasesAreMadeLongerAtOnceAndThoseThatWereLostAreTold() {
        put("a1", "mail:ada", NOW);
        put("t1", "mail:teo", NOW);
        put("m1", "mail:mira", NOW);
        taken(NOW, RUN_OUT, "one");
        assertThat(taken(NOW, MINUTE, "two").id()).isEqualTo("a1");
        outbox.drop(taken(NOW, RUN_OUT, "one"));
        assertThat(taken(NOW, RUN_OUT, "one").id()).isEqualTo("t1");
        assertThat(outbox.extend("one", List.of("a1", "m1", "t1"), MINUTE)).containsExactlyInAnyOrder("a1", "m1");
        assertThat(take(10, NOW, "three")).as("the third was kept").isEmpty();
        assertThat(outbox.extend("one", List.of(), MINUTE)).isEmpty();
    }

    @Test
    void whatAnotherIsJustTakingIsPassedOverAndNotWaitedFor() throws Exception {
        put("m1", "mail:ada", NOW.minusSeconds(2));
        put("m2", "mail:teo", NOW.minusSeconds(1));
        CountDownLatch locked = new CountDownLatch(1);
        CountDownLatch taken = new CountDownLatch(1);
        try (ExecutorService pool = Executors.newSingleThreadExecutor()) {
            Future<?> other = pool.submit(() -> database.read(session -> {
                List<String> held = session.createNativeQuery(
                                "select id from outbox where id = 'm1' for update", String.class)
                        .getResultList();
                locked.countDown();
                awaited(taken);
                return held;
            }));
            awaited(locked);
            try {
                assertThat(take(10, NOW, "one")).containsExactly("m2");
                assertThat(taken.getCount()).as("the other was still at it").isEqualTo(1);
            } finally {
                taken.countDown();
            }
            other.get();
        }
    }

    private static void awaited(CountDownLatch latch) {
        try {
            assertThat(latch.await(60, TimeUnit.SECONDS)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    void manyWorkersAtOnceNeverGetTheSameRow() throws Exception {
        List<String> all = new ArrayList<>();
        for (int i = 0; i < 120; i++) {
            all.add("m" + i);
            put("m" + i, "mail:person" + i, NOW.minusSeconds(i));
        }
        List<Callable<List<String>>> workers = new ArrayList<>();
        for (int w = 0; w < 6; w++) {
            String name = "w" + w;
            workers.add(() -> {
                List<String> mine = new ArrayList<>();
                List<String> got = take(7, NOW, name);
                while (!got.isEmpty()) {
                    mine.addAll(got);
                    got = take(7, NOW, name);
                }
                return mine;
            });
        }
        List<String> taken = new ArrayList<>();
        try (ExecutorService pool = Executors.newFixedThreadPool(workers.size())) {
            for (Future<List<String>> mine : pool.invokeAll(workers)) {
                taken.addAll(mine.get());
            }
        }
        // A worker may find nothing while the others hold what is left; what they hold is taken by them.
        assertThat(taken).containsExactlyInAnyOrderElementsOf(all);
    }
}
