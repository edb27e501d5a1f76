package dastur.store;

import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Supplier;
import org.hibernate.LockMode;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Loads and saves cases: one ticket per transaction, its row locked (D11). Everything that follows from events (entries,
 * projections, outbox, alarm) is written with them or not at all.
 */
public final class Cases {
    private final Database database;
    private final References references = new References();
    private final Supplier<byte[]> salts;

    /** @param salts gives 32 fresh random bytes at each call */
    public Cases(Database database, Supplier<byte[]> salts) {
        this.database = database;
        this.salts = salts;
    }

    /** Runs work on one ticket in one transaction with its row locked. */
    public <T> T onTicket(TicketId ticket, Function<Work, T> work) {
        return database.write(session -> work.apply(new Work(session, ticket)));
    }

    /** Looks values up outside any command, as rehearsals do. */
    public Optional<?> look(LookupKey key) {
        return database.read(session -> references.load(session, Set.of(key)).get(key));
    }

    /** The number for a new ticket of a kind; gaps may follow from refused ones. */
    public TicketId nextNumber(TicketKind kind) {
        String sequence = "ticket_" + kind.word();
        long number =
                database.write(session -> session.createNativeQuery("select next value for " + sequence, Long.class)
                        .getSingleResult());
        return new TicketId(kind.letter() + "-" + number);
    }

    /** Says where the numbers of a kind go on; for filling an empty database. */
    public void startNumbersAt(TicketKind kind, long first) {
        database.run(session -> session.createNativeMutationQuery(
                        "alter sequence ticket_" + kind.word() + " restart with " + first)
                .executeUpdate());
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

    /** One ticket in one transaction. */
    public final class Work {
        private final StatelessSession session;
        private final TicketId ticket;
        private Rows.TicketRow row;
        private Case current;

        private Work(StatelessSession session, TicketId ticket) {
            this.session = session;
            this.ticket = ticket;
            this.row = session.get(Rows.TicketRow.class, ticket.value(), LockMode.PESSIMISTIC_WRITE);
            this.current = row == null ? Case.none(ticket) : database.cases().load(session, row);
        }

        private void stand(Case c, Instant upSince) {
            Projection.ofTicket(row, c);
            row.nextDue = Engine.nextAlarm(c, upSince).orElse(null);
            row.alarmLeasedUntil = null;
        }

        /**
         * An alarm that was missed while the application was down waits out its grace (D6); until the row says so too it
         * would be looked at again and again for nothing.
         */
        private void putOff(Case c, Instant upSince) {
            Instant next = Engine.nextAlarm(c, upSince).orElse(null);
            if (row != null && !Objects.equals(row.nextDue, next)) {
                row.nextDue = next;
                row.alarmLeasedUntil = null;
                session.update(row);
            }
        }

        /** The case as it stands in this transaction. */
        public Case current() {
            return current;
        }

        /** The last entry that a command led to when it was treated before; empty when it was not. */
        public Optional<Long> answered(String command) {
            return row == null
                    ? Optional.empty()
                    : Optional.ofNullable(session.createSelectionQuery(
                                    "select max(key.seq) from EntryRow where key.ticket = ?1 and command = ?2",
                                    Long.class)
                            .setParameter(1, ticket.value())
                            .setParameter(2, command)
                            .getSingleResultOrNull());
        }

        /** Notes that a command raised this ticket, in the transaction that does. */
        public void raisedBy(String command, Instant at) {
            Rows.RaisedRow raised = new Rows.RaisedRow();
            raised.command = command;
            raised.ticket = ticket.value();
            raised.at = at;
            session.insert(raised);
        }

        /** What needs not be loaded for a decision: not a copy, keys may come to it. */
        public Map<LookupKey, Optional<?>> remembered() {
            return Collections.unmodifiableMap(references.current(session));
        }

        public Map<LookupKey, Optional<?>> look(Set<LookupKey> keys) {
            return references.load(session, keys);
        }

        /**
         * Appends events and saves what follows from them. Without events only the next alarm is set anew.
         *
         * @param command the id under which a repetition is answered; null when none is
         */
        public void save(List<Recorded> events, Case after, Instant upSince, @Nullable String command) {
            if (events.isEmpty()) {
                putOff(after, upSince);
                return;
            }
            boolean isNew = row == null;
            if (isNew) {
                row = new Rows.TicketRow();
                row.id = ticket.value();
                row.head = Seal.START;
            }
            List<Rows.EntryRow> entries = new ArrayList<>(events.size());
            for (Recorded event : events) {
                Entry entry = Seal.seal(ticket, event, row.head, salts);
                entries.add(Records.row(entry));
                row.head = entry.hash();
            }
            entries.getLast().command = command;
            boolean redacted = events.stream().anyMatch(e -> e.event() instanceof Event.Redacted);
            if (isNew) {
                stand(after, upSince);
                database.cases().keep(session, row, after, false);
                session.insert(row);
            }
            session.insertMultiple(entries);
            new Projection(session, ticket, after).project(events);
            current = redacted ? StoredCases.folded(session, ticket) : after;
            if (!isNew) {
                stand(current, upSince);
                database.cases().keep(session, row, current, redacted);
                session.update(row);
            }
        }
    }
}
