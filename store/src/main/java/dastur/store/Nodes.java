package dastur.store;

import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The nodes that share a database: which of them are there, and which does what only one may do at a time (K8). All times are
 * the database's, which are the same for all. A database that only this process has knows one node, which does everything.
 */
public final class Nodes {
    /** So long a node leads, or is taken to be there, without a sign of life. */
    static final Duration LEASE = Duration.ofSeconds(9);

    /** What only one node does at a time. */
    public enum Duty {
        /** Enters what was committed into the log, and signs it. */
        LOG,
        /** Listens to the chat. */
        CHAT,
        /** Reads the mailbox. */
        MAILBOX,
        /** Says what becomes of signals. */
        SIGNALS,
        /** Starts what its time has come for. */
        STARTS,
        /** Tells those who subscribe. */
        TELLING,
        /** Keeps tickets and those at partners' desks the same. */
        PARTNERS,
        /** Looks after what is seldom looked after, and forgets what is old. */
        CARE;

        private String word() {
            return name().toLowerCase(java.util.Locale.ROOT);
        }
    }

    private static final Logger LOG = LoggerFactory.getLogger(Nodes.class);

    /** A node whose clock is further than this from the database's does nothing that only one may do (I10). */
    static final Duration MOST_OFF = Duration.ofSeconds(30);

    private final Database database;
    private final InstantSource own;
    private final String id;
    /** By this process's own clock: until when it is certain that nobody else has the duty, and when to ask again. */
    private final Map<Duty, Long> certainUntil = new ConcurrentHashMap<>();

    private final Map<Duty, Long> askAgain = new ConcurrentHashMap<>();

    private volatile Duration off = Duration.ZERO;

    public Nodes(Database database) {
        this(database, InstantSource.system());
    }

    /** @param own this machine's clock, not the application's, which a demo may set ahead */
    Nodes(Database database, InstantSource own) {
        this.database = database;
        this.own = own;
        this.id = database.announcing().node();
    }

    /**
     * Says that this node is there.
     *
     * @param now the application's time
     * @return since when some node has been up without a gap: a clock that rang since then was not missed
     */
    public Instant begin(Instant now) {
        if (!database.isShared()) {
            return now;
        }
        compareClocks();
        return database.write(session -> session.doReturningWork(c -> {
            Instant since = Jdbc.query(
                            c,
                            "select min(up_since) from node where seen_until > "
                                    + database.dialect().now(),
                            r -> java.util.Optional.ofNullable(r.getObject(1, OffsetDateTime.class)))
                    .getFirst()
                    .map(OffsetDateTime::toInstant)
                    .filter(at -> at.isBefore(now))
                    .orElse(now);
            Jdbc.update(c, "delete from node where seen_until < " + in(Duration.ofMinutes(-10)));
            Jdbc.update(c, "insert into node (id, up_since, seen_until) values (?, ?, " + in(LEASE) + ")", id, since);
            return since;
        }));
    }

    /** A sign of life; to be given every few seconds. */
    public void alive() {
        if (database.isShared()) {
            database.run(session -> session.doWork(
                    c -> Jdbc.update(c, "update node set seen_until = " + in(LEASE) + " where id = ?", id)));
            compareClocks();
            if (isOff()) {
                // Not handed back at once: what is under way here ends before the lease does.
                certainUntil.clear();
                askAgain.clear();
            } else {
                certainUntil.keySet().forEach(this::take);
            }
        }
    }

    /** How far this machine's clock is ahead of the database's; below zero where it is behind. Taken with each sign of life. */
    public Duration clockOff() {
        return off;
    }

    private boolean isOff() {
        return off.abs().compareTo(MOST_OFF) >= 0;
    }

    private void compareClocks() {
        Instant asked = own.instant();
        Instant theirs = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select " + database.dialect().now(), r -> r.getObject(1, OffsetDateTime.class)
                                .toInstant())
                        .getFirst()));
        Instant answered = own.instant();
        // It said so at some moment in between: what that leaves open is not held against this clock.
        Duration least = theirs.isBefore(asked)
                ? Duration.between(theirs, asked)
                : theirs.isAfter(answered) ? Duration.between(theirs, answered) : Duration.ZERO;
        boolean before = isOff();
        off = least;
        if (isOff() != before) {
            LOG.warn(
                    isOff()
                            ? "this machine's clock is {} s from the database's: it does nothing that only one node may do until it is right"
                            : "this machine's clock is {} s from the database's again: it may do again what only one node does",
                    off.toSeconds());
        }
    }

    /** The nodes that are there. */
    public List<String> there() {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select id from node where seen_until > " + database.dialect().now() + " order by id",
                r -> r.getString(1))));
    }

    /** Whether a duty is this node's; takes it when it is nobody's. May be asked often. */
    public boolean has(Duty duty) {
        if (!database.isShared()) {
            return true;
        }
        if (isOff()) {
            return false;
        }
        long now = System.nanoTime();
        Long again = askAgain.get(duty);
        if (again == null || now - again >= 0) {
            askAgain.put(duty, now + LEASE.toNanos() / 3);
            take(duty);
        }
        Long until = certainUntil.get(duty);
        return until != null && System.nanoTime() - until < 0;
    }

    private void take(Duty duty) {
        // Counted from before it was asked for: never longer than the database counts.
        long now = System.nanoTime();
        if (taken(duty)) {
            certainUntil.put(duty, now + LEASE.toNanos() * 2 / 3);
        } else {
            certainUntil.remove(duty);
        }
    }

    private boolean taken(Duty duty) {
        return database.writeIf(
                session -> session.doReturningWork(c -> Jdbc.update(
                                c,
                                "update duty set node = ?, until_at = " + in(LEASE)
                                        + " where name = ? and (node = ? or until_at < "
                                        + database.dialect().now() + ")",
                                id,
                                duty.word(),
                                id)
                        == 1),
                taken -> taken);
    }

    private String in(Duration length) {
        return database.dialect().in(length);
    }

    /** Hands back what this node has, so that others need not wait for it. */
    public void end() {
        if (database.isShared()) {
            askAgain.clear();
            certainUntil.clear();
            database.run(session -> session.doWork(c -> {
                Jdbc.update(
                        c, "update duty set until_at = " + database.dialect().now() + " where node = ?", id);
                Jdbc.update(c, "delete from node where id = ?", id);
            }));
        }
    }
}
