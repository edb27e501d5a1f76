package dastur.store;

import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.run.Standing;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalEvents.ApprovalAsked;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.step.waiting.WaitEvents;
import dastur.core.ticket.Beside;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Deciding on one ticket: what is looked up, and what is to become of it. Nothing is written here; all that was saved becomes
 * one {@link Change}, with every row that the decisions rest on.
 */
public final class Work {
    private final Cases cases;
    private final StatelessSession session;
    private final TicketId ticket;
    private final boolean isNew;
    private final String grewFrom;
    private final @Nullable Instant dueBefore;
    private final List<@Nullable Object> standingBefore;
    private final StandingRows rows;
    private final History history;
    private final WorkCis cis;
    private final List<Write> writes = new ArrayList<>();
    private final List<Entry> entries = new ArrayList<>();
    private final Set<Long> redacted = new LinkedHashSet<>();
    private final Map<String, Long> answeredHere = new HashMap<>();

    private Case current;
    private String head;
    private long snapshotSeq;
    private @Nullable Instant nextDue;

    /** @param isNew whether the ticket is to be raised, so that nothing of it needs to be looked for */
    Work(Cases cases, StatelessSession session, TicketId ticket, boolean isNew) {
        this.cases = cases;
        this.session = session;
        this.ticket = ticket;
        Rows.HeadRow row = isNew ? null : session.get(Rows.HeadRow.class, ticket.value());
        this.isNew = row == null;
        this.current = row == null ? Case.none(ticket) : cases.load(session, row);
        this.head = row == null ? Seal.START : row.head;
        this.grewFrom = head;
        this.snapshotSeq = row == null ? 0 : row.snapshotSeq;
        this.dueBefore = row == null ? null : row.nextDue;
        this.nextDue = dueBefore;
        this.standingBefore = this.isNew ? List.of() : standing(current);
        this.rows = new StandingRows(current);
        this.history = new History(ticket);
        this.cis = new WorkCis(session, ticket);
    }

    /** The case as it stands with all that was saved here. */
    public Case current() {
        return current;
    }

    /** The last entry that a command led to when it was treated before; empty when it was not. */
    public Optional<Long> answered(String command) {
        if (isNew || answeredHere.containsKey(command)) {
            return Optional.ofNullable(answeredHere.get(command));
        }
        return Optional.ofNullable(session.createSelectionQuery(
                        "select max(key.seq) from EntryRow where key.ticket = ?1 and command = ?2", Long.class)
                .setParameter(1, ticket.value())
                .setParameter(2, command)
                .getSingleResultOrNull());
    }

    /** Notes that a command raised this ticket, in the transaction that does. */
    public void raisedBy(String command, Instant at) {
        writes.add(Write.of(Sql.RAISED, command, command, ticket.value(), at, command));
    }

    /**
     * Writes with this change what becomes of signals. Where their matter has changed since it was read, nothing of the change can
     * be written any more, however often it is tried.
     *
     * @throws Cases.Contended where that is so already
     */
    public void settles(Settlement settlement) {
        Matters.Held held = settlement.before();
        if (held != null) {
            Matters.read(session, held.matter().key())
                    .filter(now -> now.revision() == held.revision())
                    .orElseThrow(
                            () -> new Cases.Contended("The matter of the signal was settled elsewhere meanwhile."));
        } else if (!settlement.signals().isEmpty()) {
            String first = settlement.signals().getFirst().id();
            boolean due = !session.doReturningWork(
                            c -> Jdbc.query(c, "select id from signal_due where id = ?", r -> r.getString(1), first))
                    .isEmpty();
            if (!due) {
                throw new Cases.Contended("The signal was settled elsewhere meanwhile.");
            }
        }
        writes.addAll(settlement.writes(ticket.value()));
    }

    /** The ticket bears the next number of its kind, if nobody else took it. */
    void takesNumber(TicketKind kind, long number) {
        String key = kind.word() + String.format(" %019d", number);
        writes.add(Write.of(Sql.COUNTER, key, number, kind.word(), number - 1));
    }

    /** What needs not be loaded for a decision: not a copy, keys may come to it. */
    public Map<LookupKey, Optional<?>> remembered() {
        return Collections.unmodifiableMap(cases.references().current(session));
    }

    /** Looks values up. What can change under the decision is remembered with it. */
    public Map<LookupKey, Optional<?>> look(Set<LookupKey> keys) {
        Map<LookupKey, Optional<?>> found = cases.references().load(session, keys);
        for (LookupKey key : keys) {
            if (key instanceof LookupKey.OfCi ci) {
                found.put(key, cis.look(ci.id()));
            }
            if (key instanceof LookupKey.BesideCi) {
                found.computeIfPresent(key, (k, value) -> value.map(b -> ((Beside) b).with(cis.changed())));
            }
        }
        return found;
    }

    /**
     * Appends events. Without events only the next alarm is set anew: one that was missed while the application was down
     * waits out its grace (D6), and until the row says so too it would be looked at again and again for nothing.
     *
     * @param command the id under which a repetition is answered; null when none is
     */
    public void save(List<Recorded> events, Case after, Instant upSince, @Nullable String command) {
        for (Recorded event : events) {
            enter(event, event == events.getLast() ? command : null);
        }
        if (!redacted.isEmpty()) {
            refold();
        } else if (!events.isEmpty()) {
            // The same as was folded here, with the objects that the next decision was made on.
            current = after;
        }
        if (command != null && !events.isEmpty()) {
            answeredHere.put(command, events.getLast().seq());
        }
        nextDue = Engine.nextAlarm(current, upSince).orElse(null);
    }

    private void enter(Recorded event, @Nullable String command) {
        Entry entry = Seal.seal(ticket, event, head, cases::salt);
        head = entry.hash();
        entries.add(entry);
        writes.add(Write.of(
                Sql.ENTRY,
                key(entry.seq()),
                ticket.value(),
                entry.seq(),
                entry.at(),
                entry.kind(),
                entry.sealed(),
                entry.hash(),
                entry.content(),
                entry.salt(),
                command));
        Case next = Engine.apply(current, event);
        rows.see(current, event, next);
        history.see(current, event);
        Event.OfCi set = event.event().changesCi();
        if (set != null) {
            cis.updated(event, set);
        }
        if (event.event() instanceof WaitEvents.SignalCame e && e.signalId() != null) {
            taken(e.signalId(), event.visit());
        }
        if (event.event() instanceof Event.Redacted e) {
            redact(e.seq());
        }
        if (restsOnWhatIsShown(event.event())) {
            cis.mustBeAsSeen();
        }
        current = next;
    }

    /** By sequence, so that the entries of a ticket are written in their order. */
    private String key(long seq) {
        return ticket + String.format(" %019d", seq);
    }

    private static boolean restsOnWhatIsShown(Event event) {
        return event instanceof ApprovalAsked
                || event instanceof VoteCast
                || event instanceof ApprovalClosed
                || event instanceof CallRequested;
    }

    private void taken(String signal, @Nullable VisitId by) {
        writes.add(Write.of(Sql.SIGNAL, signal, by == null ? ticket.value() : by.value(), signal));
    }

    private void redact(long seq) {
        redacted.add(seq);
        writes.add(Write.of(Sql.ENTRY_REDACTED, key(seq), ticket.value(), seq));
        writes.add(Write.of(Sql.WORDS_REDACTED, key(seq), ticket.value(), seq));
        if (!current.partners().isEmpty()) {
            writes.add(Write.of(Sql.PARTNER_LOG_REDACTED, ticket.value(), ticket.value()));
            current.partners()
                    .values()
                    .forEach(p -> writes.add(Write.of(
                            Sql.THEIRS_REDACTED,
                            p.partner() + " " + p.id(),
                            p.partner().value(),
                            p.id())));
        }
        current.files().stream().filter(f -> f.seq() == seq).forEach(f -> {
            writes.add(Write.of(Sql.FILE_REDACTED, key(seq), ticket.value(), seq));
            writes.add(Write.of(Sql.FILE_UNUSED, f.hash(), f.hash(), f.hash()));
        });
    }

    /** The case as the record gives it without what was redacted (D22). */
    private void refold() {
        List<Recorded> record = new ArrayList<>();
        List<Entry> all = new ArrayList<>(isNew ? List.of() : Records.read(session, ticket, 0));
        all.addAll(entries);
        for (Entry entry : all) {
            record.add(Seal.open(redacted.contains(entry.seq()) ? entry.withoutContent() : entry));
        }
        Case anew = Engine.fold(ticket, record);
        rows.see(current, record.getLast(), anew);
        current = anew;
    }

    // --- the change

    /** All that was saved, as one change; empty when nothing is different. */
    Optional<Change> change() {
        if (entries.isEmpty()) {
            if (Objects.equals(nextDue, dueBefore) || isNew) {
                return Optional.empty();
            }
            writes.add(Write.of(Sql.HEAD_AS_SEEN, ticket.value(), nextDue, ticket.value(), grewFrom));
            alarm();
            return Optional.of(new Change(ticket, grewFrom, head, current.seq(), writes));
        }
        boolean snapshot = !redacted.isEmpty()
                || snapshotSeq == 0
                || current.seq() - snapshotSeq >= StoredCases.ENTRIES_A_SNAPSHOT;
        if (snapshot) {
            Sql sql = snapshotSeq == 0 ? Sql.FIRST_SNAPSHOT : Sql.SNAPSHOT;
            writes.add(cases.stored().snapshot(sql, ticket, current.seq(), head, current));
            snapshotSeq = current.seq();
        }
        ofTicket();
        // One that has rung is set again even where it is due at the same moment: its lease is over.
        if (!Objects.equals(nextDue, dueBefore) || nextDue != null && !nextDue.isAfter(current.lastAt())) {
            alarm();
        }
        writes.addAll(rows.writes());
        writes.addAll(history.writes());
        writes.addAll(cis.writes());
        writes.add(Write.of(Sql.LOG_PENDING, ticket.value(), ticket.value(), current.seq(), head));
        return Optional.of(new Change(ticket, grewFrom, head, current.seq(), writes));
    }

    private void alarm() {
        writes.add(Write.of(Sql.ALARM_OVER, ticket.value(), ticket.value()));
        if (nextDue != null) {
            writes.add(Write.of(Sql.ALARM, ticket.value(), ticket.value(), nextDue));
        }
    }

    /** What lists say of a ticket: its row, but for what never changes. */
    static List<@Nullable Object> standing(Case c) {
        Standing.Listed l = Standing.Listed.of(c);
        List<@Nullable Object> values = new ArrayList<>();
        values.add(l.title());
        values.add(l.state());
        values.add(l.ended());
        values.add(l.priority());
        values.add(l.requester());
        values.add(l.service());
        values.add(l.ci());
        values.add(l.group());
        values.add(l.assignee());
        values.add(l.target() == null ? null : l.target().word());
        values.add(l.targetDue());
        values.add(l.targetMissed());
        values.add(l.under() == null ? null : l.under().value());
        values.add(l.test());
        return values;
    }

    private void ofTicket() {
        List<@Nullable Object> ends = new ArrayList<>();
        ends.add(current.lastAt());
        ends.add(current.seq());
        ends.add(head);
        ends.add(snapshotSeq);
        ends.add(nextDue);
        ends.add(ticket.value());
        List<@Nullable Object> standing = standing(current);
        if (isNew) {
            writes.add(new Write(Sql.FIRST_HEAD, ticket.value(), ends.toArray()));
            writes.add(first(current, standing));
            return;
        }
        ends.add(grewFrom);
        writes.add(new Write(Sql.HEAD, ticket.value(), ends.toArray()));
        if (!standing.equals(standingBefore)) {
            standing.add(ticket.value());
            writes.add(new Write(Sql.TICKET_CHANGED, ticket.value(), standing.toArray()));
        }
    }

    /** The row by which lists know a new ticket. */
    static Write first(Case c, List<@Nullable Object> standing) {
        List<@Nullable Object> values = new ArrayList<>(standing);
        TicketKind kind = c.kind();
        values.add(c.id().value());
        values.add(kind == null ? "" : kind.word());
        values.add(c.createdAt());
        return new Write(Sql.TICKET, c.id().value(), values.toArray());
    }

    /** Called when the change is written. */
    void remember() {
        if (!entries.isEmpty()) {
            cases.stored().remember(ticket, head, current);
        }
    }
}
