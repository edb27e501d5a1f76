package dastur.store;

import dastur.core.run.Case;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.time.Instant;
import java.util.EnumMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.CompletionException;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.Function;
import java.util.function.Supplier;
import org.hibernate.LockMode;
import org.hibernate.StatelessSession;

/**
 * Decides on tickets and has what was decided written (K1). Deciding holds nothing in the database: the change says what it
 * grew from, and is decided again where that is no longer so. What follows from events (entries, rows, outbox, alarm) is
 * written with them or not at all.
 */
public final class Cases {
    /** After so many losses a change is decided and written with its row locked, so that it cannot lose again. */
    private static final int LOSSES = 2;

    private static final int TRIES = 8;

    /** Others changed the same rows again and again: nothing was written, and it may be tried again. */
    public static final class Contended extends RuntimeException {
        private static final long serialVersionUID = 1;

        Contended(String message) {
            super(message);
        }
    }

    /** That others were first with what this rests on, for whoever decides outside a ticket. */
    public static Contended contended(String message) {
        return new Contended(message);
    }

    private final Database database;
    private final References references = new References();
    private final Supplier<byte[]> salts;
    private final Map<TicketKind, Numbers> numbers = new EnumMap<>(TicketKind.class);

    /** The numbers of a kind: raises grow each from the one before. */
    private static final class Numbers {
        private final ReentrantLock lock = new ReentrantLock();
        private final Map<String, CompletableFuture<Scribe.Fate>> underWay = new ConcurrentHashMap<>();
        /** The number that was given last, by this process; negative when it is to be read. */
        private long last = -1;
    }

    /** @param salts gives 32 fresh random bytes at each call */
    public Cases(Database database, Supplier<byte[]> salts) {
        this.database = database;
        this.salts = salts;
        for (TicketKind kind : TicketKind.values()) {
            numbers.put(kind, new Numbers());
        }
    }

    /**
     * Decides on one ticket, has what was decided written, and ends when it is. Where something was changed meanwhile, it is
     * decided again: the work may run several times, and only the last one counts.
     *
     * @throws Contended when others were always faster
     * @throws Busy when too much waits to be written
     */
    public <T> T onTicket(TicketId ticket, Function<Work, T> work) {
        for (int losses = 0; losses < LOSSES; losses++) {
            Decided<T> decided = database.read(session -> decided(new Work(this, session, ticket, false), work));
            if (decided.change().isEmpty()
                    || join(database.write(decided.change().get())) == Scribe.Fate.KEPT) {
                return decided.kept();
            }
            database.cases().forget(ticket);
        }
        return alone(ticket, work);
    }

    /** Rolls back what did not hold. */
    private static final class Lost extends RuntimeException {
        private static final long serialVersionUID = 1;
    }

    /** What was decided, and what is to be remembered when it is written. */
    private record Decided<T>(T result, Optional<Change> change, Runnable remember) {
        T kept() {
            remember.run();
            return result;
        }
    }

    private static <T> Decided<T> decided(Work work, Function<Work, T> what) {
        T result = what.apply(work);
        return new Decided<>(result, work.change(), work::remember);
    }

    /** With the ticket's row locked: whoever else would change it waits. */
    private <T> T alone(TicketId ticket, Function<Work, T> work) {
        for (int tries = LOSSES; tries < TRIES; tries++) {
            try {
                return database.write(session -> {
                            session.get(Rows.HeadRow.class, ticket.value(), LockMode.PESSIMISTIC_WRITE);
                            Decided<T> decided = decided(new Work(this, session, ticket, false), work);
                            if (decided.change().isPresent()
                                    && !Jdbc.write(session, decided.change().get())) {
                                throw new Lost();
                            }
                            return decided;
                        })
                        .kept();
            } catch (Lost e) {
                database.cases().forget(ticket);
            }
        }
        throw new Contended("Others changed what this rests on, again and again. Try it again.");
    }

    private static Scribe.Fate join(CompletableFuture<Scribe.Fate> fate) {
        try {
            return fate.join();
        } catch (CompletionException e) {
            throw e.getCause() instanceof RuntimeException cause ? cause : new IllegalStateException(e.getCause());
        }
    }

    /**
     * Decides on a new ticket under the next number of its kind. A ticket that is refused takes no number, and losing one to
     * another is no failure (K15).
     *
     * @param command the id under which a repetition finds the ticket
     * @return empty when the command has raised a ticket already: see {@link #raisedBy}
     */
    public <T> Optional<T> onNewTicket(TicketKind kind, String command, Function<Work, T> work) {
        Numbers of = numbers.get(kind);
        while (true) {
            CompletableFuture<Scribe.Fate> other = null;
            CompletableFuture<Scribe.Fate> fate = null;
            Decided<T> decided = null;
            of.lock.lock();
            try {
                other = of.underWay.get(command);
                if (other == null) {
                    if (raisedBy(command).isPresent()) {
                        return Optional.empty();
                    }
                    long last = of.last < 0 ? lastNumber(kind) : of.last;
                    TicketId ticket = new TicketId(kind.letter() + "-" + (last + 1));
                    decided = database.read(session -> {
                        Work on = new Work(this, session, ticket, true);
                        on.takesNumber(kind, last + 1);
                        return decided(on, work);
                    });
                    if (decided.change().isEmpty()) {
                        return Optional.of(decided.kept());
                    }
                    fate = database.write(decided.change().get());
                    of.last = last + 1;
                    of.underWay.put(command, fate);
                }
            } finally {
                of.lock.unlock();
            }
            if (other != null) {
                other.handle((f, e) -> f).join();
                continue;
            }
            boolean kept = false;
            try {
                kept = join(fate) == Scribe.Fate.KEPT;
            } finally {
                of.lock.lock();
                try {
                    of.underWay.remove(command);
                    if (!kept) {
                        of.last = -1;
                    }
                } finally {
                    of.lock.unlock();
                }
            }
            if (kept) {
                return Optional.of(decided.kept());
            }
        }
    }

    private long lastNumber(TicketKind kind) {
        return database.read(session -> session.get(Rows.CounterRow.class, kind.word()).last);
    }

    /** Says where the numbers of a kind go on; for filling an empty database. */
    public void startNumbersAt(TicketKind kind, long first) {
        database.run(session -> session.createMutationQuery("update CounterRow set last = ?1 where kind = ?2")
                .setParameter(1, first - 1)
                .setParameter(2, kind.word())
                .executeUpdate());
        numbers.get(kind).last = -1;
    }

    /** Looks values up outside any command, as rehearsals do. */
    public Optional<?> look(LookupKey key) {
        return database.read(session -> references.load(session, Set.of(key)).get(key));
    }

    /** The ticket that a command raised before; empty when it raised none. */
    public Optional<TicketId> raisedBy(String command) {
        return database.read(session ->
                Optional.ofNullable(session.get(Rows.RaisedRow.class, command)).map(r -> new TicketId(r.ticket)));
    }

    /** Forgets which commands raised tickets before a moment (D4). */
    public int forgetRaisedBefore(Instant moment) {
        return database.write(session -> session.createMutationQuery("delete RaisedRow where at < ?1")
                .setParameter(1, moment)
                .executeUpdate());
    }

    StoredCases stored() {
        return database.cases();
    }

    References references() {
        return references;
    }

    byte[] salt() {
        return salts.get();
    }

    Case load(StatelessSession session, Rows.HeadRow row) {
        return database.cases().load(session, row);
    }
}
