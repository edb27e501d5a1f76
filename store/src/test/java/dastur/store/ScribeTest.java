package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.ticket.TicketId;
import dastur.store.Scribe.Fate;
import java.lang.reflect.InvocationTargetException;
import java.lang.reflect.Proxy;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Queue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import javax.sql.DataSource;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What becomes of changes when the database fails under the scribe, at its commits above all (K2, K4). */
class ScribeTest {
    private static final int TICKETS = 8;

    /** How a commit fails. */
    private enum Fault {
        /** It happens, and the answer is lost. */
        AFTER,
        /** It does not happen. */
        BEFORE,
        /** It happens, the answer is lost, and nobody can be asked any more. */
        AFTER_AND_GONE
    }

    private Database database;
    private Scribe scribe;
    /** Faults of the next commits. */
    private final Queue<Fault> faults = new ConcurrentLinkedQueue<>();

    private final AtomicInteger fatal = new AtomicInteger();
    private volatile boolean down;
    private volatile CountDownLatch disk = new CountDownLatch(0);
    /** One for each group that waits for the disk or has waited. */
    private final Semaphore atDisk = new Semaphore(0);

    @BeforeEach
    void open() {
        database = Stores.empty();
        database.run(session -> session.doWork(c -> {
            for (int i = 0; i < TICKETS; i++) {
                Jdbc.update(c, Sql.FIRST_HEAD.text(), Instant.EPOCH, 1L, "h1", 0L, null, "I-" + i);
            }
        }));
        scribe = scribe(2_048, Duration.ofSeconds(10));
    }

    private Scribe scribe(int waiting, Duration patience) {
        return new Scribe(
                faulty(database.dataSource()),
                new OneWriter(true),
                new Announcing(Dialect.H2),
                this::sync,
                fatal::incrementAndGet,
                waiting,
                patience);
    }

    @AfterEach
    void close() {
        disk.countDown();
        scribe.close();
        database.close();
    }

    private void sync() {
        atDisk.release();
        try {
            assertThat(disk.await(30, TimeUnit.SECONDS)).isTrue();
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private DataSource faulty(DataSource source) {
        return (DataSource) Proxy.newProxyInstance(
                getClass().getClassLoader(), new Class<?>[] {DataSource.class}, (proxy, method, args) -> {
                    if (down) {
                        throw new SQLException("the database is gone", "08001");
                    }
                    Object result = call(source, method, args);
                    return result instanceof Connection connection ? faulty(connection) : result;
                });
    }

    private Connection faulty(Connection connection) {
        return (Connection) Proxy.newProxyInstance(
                getClass().getClassLoader(), new Class<?>[] {Connection.class}, (proxy, method, args) -> {
                    if (method.getName().equals("commit")) {
                        Fault fault = faults.poll();
                        if (fault == Fault.BEFORE) {
                            connection.rollback();
                        }
                        if (fault != null) {
                            if (fault != Fault.BEFORE) {
                                connection.commit();
                            }
                            down |= fault == Fault.AFTER_AND_GONE;
                            throw new SQLException("the line broke", "08006");
                        }
                    }
                    return call(connection, method, args);
                });
    }

    private static Object call(Object on, java.lang.reflect.Method method, Object[] args) throws Throwable {
        try {
            return method.invoke(on, args);
        } catch (InvocationTargetException e) {
            throw e.getCause();
        }
    }

    /** A change of a ticket from one head to the next. */
    private static Change change(int ticket, String from, String to) {
        TicketId id = new TicketId("I-" + ticket);
        return new Change(
                id,
                from,
                to,
                2,
                List.of(
                        Write.of(Sql.HEAD, id.value(), Instant.EPOCH, 2L, to, 0L, null, id.value(), from),
                        Write.of(Sql.LOG_PENDING, id.value(), id.value(), 2L, to)));
    }

    /** Committed, and waiting for the disk: what is written meanwhile waits behind it. */
    private CompletableFuture<Fate> heldAtDisk(Change change) {
        atDisk.drainPermits();
        disk = new CountDownLatch(1);
        CompletableFuture<Fate> held = scribe.write(change);
        atDisk.acquireUninterruptibly();
        return held;
    }

    /** All at once, so that they are written together. */
    private List<CompletableFuture<Fate>> together(List<Change> changes) {
        CompletableFuture<Fate> first = heldAtDisk(change(0, "h1", "first"));
        List<CompletableFuture<Fate>> fates =
                new ArrayList<>(changes.stream().map(scribe::write).toList());
        disk.countDown();
        first.join();
        return fates;
    }

    private List<Change> some() {
        List<Change> some = new ArrayList<>();
        for (int i = 1; i < TICKETS; i++) {
            some.add(change(i, "h1", "h2"));
        }
        return some;
    }

    private void assertWrittenOnce() {
        List<String> heads = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select head from ticket_head where ticket <> 'I-0'", r -> r.getString(1))));
        assertThat(heads).hasSize(TICKETS - 1).containsOnly("h2");
        List<String> pending = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select ticket from log_pending where ticket <> 'I-0'", r -> r.getString(1))));
        assertThat(pending).as("each change stands once").hasSize(TICKETS - 1).doesNotHaveDuplicates();
    }

    @Test
    void aCommitThatHappenedThoughItsAnswerWasLostCounts() {
        scribe.write(change(0, "h1", "first")).join();
        CompletableFuture<Fate> held = heldAtDisk(change(0, "first", "second"));
        List<CompletableFuture<Fate>> fates = some().stream().map(scribe::write).toList();
        // The commit after the one that waits for the disk.
        faults.add(Fault.AFTER);
        disk.countDown();
        held.handle((f, e) -> f).join();
        assertThat(fates).allSatisfy(f -> assertThat(f.join()).isEqualTo(Fate.KEPT));
        assertThat(fatal).hasValue(0);
        assertWrittenOnce();
    }

    @Test
    void aCommitThatDidNotHappenIsMadeAgainOneByOne() {
        CompletableFuture<Fate> held = heldAtDisk(change(0, "h1", "first"));
        List<CompletableFuture<Fate>> fates = some().stream().map(scribe::write).toList();
        faults.add(Fault.BEFORE);
        disk.countDown();
        held.handle((f, e) -> f).join();
        assertThat(fates).allSatisfy(f -> assertThat(f.join()).isEqualTo(Fate.KEPT));
        assertThat(fatal).hasValue(0);
        assertWrittenOnce();
    }

    @Test
    void whenNobodyCanSayWhatBecameOfACommitTheProcessEnds() {
        faults.add(Fault.AFTER_AND_GONE);
        CompletableFuture<Fate> fate = scribe.write(change(1, "h1", "h2"));
        assertThatThrownBy(fate::join).hasMessageContaining("could not be kept");
        assertThat(fatal).hasValue(1);
        down = false;
    }

    @Test
    void oneThatCannotBeWrittenHurtsNoOther() {
        List<Change> changes = some();
        TicketId id = new TicketId("I-1");
        changes.set(
                0,
                new Change(
                        id,
                        "h1",
                        "h2",
                        2,
                        List.of(
                                Write.of(Sql.HEAD, id.value(), Instant.EPOCH, 2L, "h2", 0L, null, id.value(), "h1"),
                                Write.of(Sql.LOG_PENDING, id.value(), "x".repeat(200), 2L, "h2"))));
        List<CompletableFuture<Fate>> fates = together(changes);
        assertThatThrownBy(() -> fates.getFirst().join()).hasMessageContaining("could not be kept");
        assertThat(fates.subList(1, fates.size()))
                .allSatisfy(f -> assertThat(f.join()).isEqualTo(Fate.KEPT));
    }

    @Test
    void oneThatLostHurtsNoOther() {
        List<Change> changes = some();
        changes.set(0, change(1, "another head", "h2"));
        List<CompletableFuture<Fate>> fates = together(changes);
        assertThat(fates.getFirst().join()).isEqualTo(Fate.LOST);
        assertThat(fates.subList(1, fates.size()))
                .allSatisfy(f -> assertThat(f.join()).isEqualTo(Fate.KEPT));
    }

    /** Full, it says so in time; what it has accepted it writes all the same. */
    @Test
    void aFullQueueRefusesAndDropsNothing() {
        scribe.close();
        scribe = scribe(3, Duration.ofMillis(50));
        List<CompletableFuture<Fate>> accepted = new ArrayList<>();
        accepted.add(heldAtDisk(change(0, "h1", "h2")));
        int refused = 0;
        for (int i = 1; i < TICKETS; i++) {
            try {
                accepted.add(scribe.write(change(i, "h1", "h2")));
            } catch (Busy e) {
                refused++;
            }
        }
        assertThat(refused).as("three wait behind the one at the disk").isEqualTo(TICKETS - 4);
        disk.countDown();
        assertThat(accepted).allSatisfy(f -> assertThat(f.join()).isEqualTo(Fate.KEPT));
        List<String> kept = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select ticket from ticket_head where head = 'h2'", r -> r.getString(1))));
        assertThat(kept).hasSameSizeAs(accepted);
    }
}
