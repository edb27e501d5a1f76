package dastur.store;

import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.util.ArrayList;
import java.util.EnumMap;
import java.util.HashSet;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ArrayBlockingQueue;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.LongAdder;
import javax.sql.DataSource;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Writes changes of tickets: all that wait in one transaction and one sync, and answers after it (K2, K3). A change whose
 * rows are no longer as it saw them is not written, and hurts no other.
 */
final class Scribe implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Scribe.class);

    private static final int TOGETHER = 64;
    private static final long BYTES_TOGETHER = 1_000_000;
    private static final int WAITING = 2_048;
    private static final Duration PATIENCE = Duration.ofSeconds(10);

    /** What became of a change. */
    enum Fate {
        KEPT,
        /** Something was no longer as it was seen; nothing of the change was written. */
        LOST
    }

    private record Waiting(Change change, CompletableFuture<Fate> fate) {}

    private final DataSource source;
    private final OneWriter writer;
    private final Announcing announcing;
    /** Ends when what was committed before is on the disk. */
    private final Runnable sync;
    /** Called when nobody can say any more what is kept. */
    private final Runnable fatal;

    private final Duration patience;
    private final BlockingQueue<Waiting> queue;
    private final Thread thread;
    private volatile boolean closed;
    private @Nullable Waiting next;
    private @Nullable Connection connection;
    private final Map<Sql, PreparedStatement> statements = new EnumMap<>(Sql.class);

    private final LongAdder groups = new LongAdder();
    private final LongAdder changes = new LongAdder();

    Scribe(DataSource source, OneWriter writer, Announcing announcing, Runnable sync, Runnable fatal) {
        this(source, writer, announcing, sync, fatal, WAITING, PATIENCE);
    }

    /** @param waiting how many changes may wait @param patience how long somebody waits to be among them */
    Scribe(
            DataSource source,
            OneWriter writer,
            Announcing announcing,
            Runnable sync,
            Runnable fatal,
            int waiting,
            Duration patience) {
        this.writer = writer;
        this.queue = new ArrayBlockingQueue<>(waiting);
        this.patience = patience;
        this.source = source;
        this.announcing = announcing;
        this.sync = sync;
        this.fatal = fatal;
        this.thread = Thread.ofPlatform().daemon().name("dastur-scribe").start(this::run);
    }

    /** How many groups were written, and how many changes in them. */
    long[] written() {
        return new long[] {groups.sum(), changes.sum()};
    }

    /**
     * Has a change written. Ends when it is on the disk, or is known not to be written.
     *
     * @throws Busy when too many wait already
     */
    CompletableFuture<Fate> write(Change change) {
        Waiting waiting = new Waiting(change, new CompletableFuture<>());
        try {
            if (closed || !queue.offer(waiting, patience.toMillis(), TimeUnit.MILLISECONDS)) {
                throw new Busy();
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Busy();
        }
        if (closed && queue.remove(waiting)) {
            throw new Busy();
        }
        return waiting.fate();
    }

    private void run() {
        while (!closed || !queue.isEmpty() || next != null) {
            try {
                List<Waiting> group = take();
                if (!group.isEmpty()) {
                    write(group);
                }
            } catch (InterruptedException e) {
                closed = true;
            }
        }
        forget();
    }

    /** What waits, as far as it may go together; never waits for more. */
    private List<Waiting> take() throws InterruptedException {
        List<Waiting> group = new ArrayList<>();
        Set<String> tickets = new HashSet<>();
        long bytes = 0;
        Waiting one = next == null ? queue.poll(100, TimeUnit.MILLISECONDS) : next;
        next = null;
        while (one != null) {
            boolean fits = group.isEmpty()
                    || group.size() < TOGETHER
                            && bytes + one.change().bytes() <= BYTES_TOGETHER
                            && !tickets.contains(one.change().ticket().value());
            if (!fits) {
                next = one;
                break;
            }
            group.add(one);
            tickets.add(one.change().ticket().value());
            bytes += one.change().bytes();
            one = queue.poll();
        }
        return group;
    }

    /** All in one transaction; where one of them hurts the others, each in one of its own. */
    private void write(List<Waiting> group) {
        List<Waiting> left = new ArrayList<>(group);
        try {
            Set<Waiting> lost = inOne(left);
            while (!lost.isEmpty()) {
                left.removeAll(lost);
                lost.forEach(w -> w.fate().complete(Fate.LOST));
                lost = left.isEmpty() ? Set.of() : inOne(left);
            }
            groups.increment();
            changes.add(left.size());
            left.forEach(w -> w.fate().complete(Fate.KEPT));
        } catch (SQLException | RuntimeException e) {
            forget();
            if (left.size() > 1) {
                LOG.info("{} changes are written one by one, since together they could not be", left.size(), e);
                left.forEach(w -> write(List.of(w)));
            } else {
                left.getFirst()
                        .fate()
                        .completeExceptionally(new IllegalStateException("the change could not be kept", e));
            }
        }
    }

    /** Returns those for which something did not hold; then nothing was written. */
    private Set<Waiting> inOne(List<Waiting> group) throws SQLException {
        Outcome outcome = writer.alone(() -> {
            try {
                return new Outcome(committed(group), null);
            } catch (SQLException e) {
                return new Outcome(Set.of(), e);
            }
        });
        if (outcome.failed() != null) {
            throw outcome.failed();
        }
        if (outcome.lost().isEmpty()) {
            sync.run();
        }
        return outcome.lost();
    }

    private record Outcome(Set<Waiting> lost, @Nullable SQLException failed) {}

    private Set<Waiting> committed(List<Waiting> group) throws SQLException {
        Connection c = connected();
        try {
            Set<Waiting> lost = conditions(group);
            if (!lost.isEmpty()) {
                c.rollback();
                return lost;
            }
            rest(group);
            announcing.say(c, group.stream().map(Waiting::change).toList());
        } catch (SQLException | RuntimeException e) {
            rollBack(c);
            throw e;
        }
        try {
            c.commit();
        } catch (SQLException e) {
            return settled(group, e);
        }
        return Set.of();
    }

    private record Of(Waiting waiting, Write write) {}

    /** One by one, so that it is known which did not hold. */
    private Set<Waiting> conditions(List<Waiting> group) throws SQLException {
        Set<Waiting> lost = new LinkedHashSet<>();
        for (Of of : ordered(group, true)) {
            // The others of a lost change are not tried: all of this is undone anyway.
            if (!lost.contains(of.waiting())) {
                PreparedStatement statement = statement(of.write().sql());
                of.write().bind(statement);
                if (statement.executeUpdate() != 1) {
                    lost.add(of.waiting());
                }
            }
        }
        return lost;
    }

    private void rest(List<Waiting> group) throws SQLException {
        PreparedStatement batch = null;
        Sql of = null;
        for (Of one : ordered(group, false)) {
            Sql sql = one.write().sql();
            if (sql != of && batch != null) {
                batch.executeBatch();
            }
            of = sql;
            batch = statement(sql);
            one.write().bind(batch);
            batch.addBatch();
        }
        if (batch != null) {
            batch.executeBatch();
        }
    }

    /** By statement, then key: the order in which everybody takes rows. */
    private static List<Of> ordered(List<Waiting> group, boolean conditions) {
        return group.stream()
                .flatMap(w -> w.change().writes().stream()
                        .filter(write -> write.sql().mustHold() == conditions)
                        .map(write -> new Of(w, write)))
                .sorted((a, b) -> Write.ORDER.compare(a.write(), b.write()))
                .toList();
    }

    /** A commit that failed may have happened all the same: the heads say so. */
    private Set<Waiting> settled(List<Waiting> group, SQLException why) throws SQLException {
        forget();
        LOG.warn("a commit failed; what became of it is looked up", why);
        List<Change> asked =
                group.stream().map(Waiting::change).filter(Change::enters).toList();
        if (asked.isEmpty()) {
            throw why;
        }
        long there;
        try (Connection c = source.getConnection()) {
            // In one statement: a commit that happens meanwhile is seen whole or not at all.
            List<String> tickets = asked.stream().map(c1 -> c1.ticket().value()).toList();
            String places = "?" + ", ?".repeat(tickets.size() - 1);
            Set<String> heads = new HashSet<>(Jdbc.query(
                    c,
                    "select head from ticket_head where ticket in (" + places + ")",
                    r -> r.getString(1),
                    tickets.toArray()));
            there = asked.stream().filter(c1 -> heads.contains(c1.head())).count();
            c.rollback();
        } catch (SQLException e) {
            e.addSuppressed(why);
            LOG.error("nobody can say what became of a commit", e);
            fatal.run();
            throw e;
        }
        if (there == asked.size()) {
            return Set.of();
        }
        if (there == 0) {
            throw why;
        }
        fatal.run();
        throw new IllegalStateException("a commit happened in part", why);
    }

    // --- the scribe's own connection

    private Connection connected() throws SQLException {
        if (connection == null) {
            connection = source.getConnection();
        }
        return connection;
    }

    private PreparedStatement statement(Sql sql) throws SQLException {
        PreparedStatement statement = statements.get(sql);
        if (statement == null) {
            statement = connected().prepareStatement(sql.text());
            statements.put(sql, statement);
        }
        return statement;
    }

    private static void rollBack(Connection c) {
        try {
            c.rollback();
        } catch (SQLException e) {
            LOG.debug("a transaction that failed could not be rolled back either", e);
        }
    }

    private void forget() {
        statements.values().forEach(Scribe::quietly);
        statements.clear();
        if (connection != null) {
            try {
                connection.close();
            } catch (SQLException e) {
                LOG.debug("a connection could not be closed", e);
            }
            connection = null;
        }
    }

    private static void quietly(Statement statement) {
        try {
            statement.close();
        } catch (SQLException e) {
            LOG.debug("a statement could not be closed", e);
        }
    }

    /** Writes what waits, and takes nothing more. */
    @Override
    public void close() {
        closed = true;
        try {
            thread.join(PATIENCE.toMillis());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
