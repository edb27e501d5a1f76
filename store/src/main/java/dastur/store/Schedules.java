package dastur.store;

import dastur.core.start.Timetable;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.TriggerId;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Where schedules stand, and what became of their times (I10). */
public final class Schedules {
    /** So long it is told what became of a time. */
    public static final Duration KEPT = Duration.ofDays(400);

    private static final String STARTED = "started";

    /**
     * Where one stands.
     *
     * @param rhythm by which it was reckoned, as it is written
     * @param mark null when no time comes any more
     */
    public record Stand(TriggerId trigger, String rhythm, Timetable.@Nullable Mark mark) {}

    /**
     * What became of a time, or of several in a row.
     *
     * @param verdict {@code started}, {@code missed}, {@code skipped} or {@code refused}
     * @param ticket that was opened for it; null where none was
     * @param state of that ticket now
     * @param note why it started late, or was refused
     */
    public record Turn(
            Instant planned,
            Instant last,
            long count,
            String verdict,
            @Nullable TicketId ticket,
            @Nullable String state,
            @Nullable String note) {}

    /** What a time has started, or why it could not. */
    public record Begun(
            Instant planned,
            @Nullable TicketId ticket,
            @Nullable String note) {}

    private final Database database;

    public Schedules(Database database) {
        this.database = database;
    }

    /** Where all of them stand, by trigger. */
    public Map<TriggerId, Stand> stand() {
        return database.read(session -> session.doReturningWork(c -> {
            Map<TriggerId, Stand> all = new HashMap<>();
            Jdbc.query(c, "select trigger_id, rhythm, next_at, waits from schedule_mark", Schedules::stand)
                    .forEach(s -> all.put(s.trigger(), s));
            return all;
        }));
    }

    private static Stand stand(ResultSet r) throws SQLException {
        OffsetDateTime next = r.getObject(3, OffsetDateTime.class);
        return new Stand(
                new TriggerId(r.getString(1)),
                r.getString(2),
                next == null ? null : new Timetable.Mark(next.toInstant(), r.getBoolean(4)));
    }

    /** Begins to count, or counts anew after it was set otherwise. */
    public void begin(Stand stand) {
        database.run(session -> session.doWork(c -> {
            Jdbc.update(
                    c,
                    "delete from schedule_mark where trigger_id = ?",
                    stand.trigger().value());
            Timetable.Mark mark = stand.mark();
            Jdbc.update(
                    c,
                    "insert into schedule_mark (trigger_id, rhythm, next_at, waits) values (?, ?, ?, ?)",
                    stand.trigger().value(),
                    stand.rhythm(),
                    mark == null ? null : mark.next(),
                    mark != null && mark.waits());
        }));
    }

    /** Stops counting: what passes while it is off is not missed. */
    public void end(TriggerId trigger) {
        database.run(session ->
                session.doWork(c -> Jdbc.update(c, "delete from schedule_mark where trigger_id = ?", trigger.value())));
    }

    /**
     * Writes what became of times, and where it stands now. Returns false when somebody else did so first: then nothing is
     * written.
     */
    public boolean turned(TriggerId trigger, Timetable.Mark before, Timetable.Turn turn, @Nullable Begun begun) {
        return database.writeIf(
                session -> session.doReturningWork(c -> {
                    Timetable.Mark then = turn.then();
                    int moved = Jdbc.update(
                            c,
                            "update schedule_mark set next_at = ?, waits = ? where trigger_id = ? and next_at = ?",
                            then == null ? null : then.next(),
                            then != null && then.waits(),
                            trigger.value(),
                            before.next());
                    if (moved == 0) {
                        return false;
                    }
                    for (Timetable.Passed p : turn.passed()) {
                        enter(
                                c,
                                trigger,
                                p.first(),
                                p.last(),
                                p.count(),
                                p.verdict().word(),
                                null,
                                null);
                    }
                    if (begun != null) {
                        enter(
                                c,
                                trigger,
                                begun.planned(),
                                begun.planned(),
                                1,
                                begun.ticket() == null ? "refused" : STARTED,
                                begun.ticket(),
                                begun.note());
                    }
                    return true;
                }),
                moved -> moved);
    }

    private static void enter(
            Connection c,
            TriggerId trigger,
            Instant planned,
            Instant last,
            long count,
            String verdict,
            @Nullable TicketId ticket,
            @Nullable String note)
            throws SQLException {
        Jdbc.update(c, "delete from schedule_turn where trigger_id = ? and planned_at = ?", trigger.value(), planned);
        Jdbc.update(
                c,
                "insert into schedule_turn (trigger_id, planned_at, last_at, how_many, verdict, ticket, note)"
                        + " values (?, ?, ?, ?, ?, ?, ?)",
                trigger.value(),
                planned,
                last,
                count,
                verdict,
                ticket == null ? null : ticket.value(),
                note == null ? null : dastur.core.json.Texts.clip(note, 1_000));
    }

    /** What became of its times, the latest first. @param before only of times before this; null for the latest */
    public List<Turn> turns(TriggerId trigger, @Nullable Instant before, int most) {
        return database.read(session -> session.doReturningWork(c -> {
            List<Object> values = new ArrayList<>(List.of(trigger.value()));
            if (before != null) {
                values.add(before);
            }
            values.add(most);
            return Jdbc.query(
                    c,
                    "select s.planned_at, s.last_at, s.how_many, s.verdict, s.ticket, t.state, s.note"
                            + " from schedule_turn s left join ticket t on t.id = s.ticket where s.trigger_id = ?"
                            + (before == null ? "" : " and s.planned_at < ?")
                            + " order by s.planned_at desc fetch first ? rows only",
                    Schedules::turn,
                    values.toArray());
        }));
    }

    private static Turn turn(ResultSet r) throws SQLException {
        String ticket = r.getString(5);
        return new Turn(
                r.getObject(1, OffsetDateTime.class).toInstant(),
                r.getObject(2, OffsetDateTime.class).toInstant(),
                r.getLong(3),
                r.getString(4),
                ticket == null ? null : new TicketId(ticket),
                r.getString(6),
                r.getString(7));
    }

    /** How many runs that a trigger has started have not ended. */
    public int underWay(TriggerId trigger) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select count(*) from run where trigger_id = ? and ended_at is null",
                        r -> r.getInt(1),
                        trigger.value())
                .getFirst()));
    }

    /** Forgets what became of times before a moment. */
    public void forgetBefore(Instant moment) {
        database.run(
                session -> session.doWork(c -> Jdbc.update(c, "delete from schedule_turn where last_at < ?", moment)));
    }

    /** The latest of each, by trigger. */
    public Optional<Turn> latest(TriggerId trigger) {
        return turns(trigger, null, 1).stream().findFirst();
    }
}
