package dastur.store;

import dastur.core.ticket.TicketId;
import dastur.core.workflow.TriggerId;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Calls of hooks: kept before anything follows from them, so that the same call is known again (I9). */
public final class Hooks {
    /** So long a call is told of, and the same one is known again. */
    public static final Duration KEPT = Duration.ofDays(30);

    private static final String COLUMNS =
            "select h.id, h.trigger_id, h.came_at, h.body_hash, h.caller, h.ticket, t.state, h.problem"
                    + " from hook_call h left join ticket t on t.id = h.ticket";

    /**
     * A call.
     *
     * @param caller what the program calls itself, and its address
     * @param ticket what it has opened; null when nothing came of it yet, or nothing could
     * @param state of that ticket now
     * @param problem why nothing came of it; null where something did
     */
    public record Call(
            String id,
            TriggerId trigger,
            Instant cameAt,
            String bodyHash,
            String caller,
            @Nullable TicketId ticket,
            @Nullable String state,
            @Nullable String problem) {}

    private final Database database;

    public Hooks(Database database) {
        this.database = database;
    }

    /**
     * Keeps a call; ends when it is on the disk. Returns it, or the one that came before under the same delivery.
     *
     * @param delivery SHA-256 of what it is known again by; null where nothing is said
     */
    public Call keep(Call call, @Nullable String delivery) {
        return database.write(session -> session.doReturningWork(c -> {
            Optional<Call> before = delivery == null ? Optional.empty() : before(c, call.trigger(), delivery);
            if (before.isEmpty()) {
                Jdbc.update(
                        c,
                        "insert into hook_call (id, trigger_id, came_at, delivery, body_hash, caller)"
                                + " values (?, ?, ?, ?, ?, ?)",
                        call.id(),
                        call.trigger().value(),
                        call.cameAt(),
                        delivery,
                        call.bodyHash(),
                        call.caller());
            }
            return before.orElse(call);
        }));
    }

    private static Optional<Call> before(Connection c, TriggerId trigger, String delivery) throws SQLException {
        return Jdbc.query(
                        c,
                        COLUMNS + " where h.trigger_id = ? and h.delivery = ?",
                        Hooks::call,
                        trigger.value(),
                        delivery)
                .stream()
                .findFirst();
    }

    private static Call call(ResultSet r) throws SQLException {
        String ticket = r.getString(6);
        return new Call(
                r.getString(1),
                new TriggerId(r.getString(2)),
                r.getObject(3, OffsetDateTime.class).toInstant(),
                r.getString(4),
                r.getString(5),
                ticket == null ? null : new TicketId(ticket),
                r.getString(7),
                r.getString(8));
    }

    /** Writes what came of a call. */
    public void came(String call, @Nullable TicketId ticket, @Nullable String problem) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update hook_call set ticket = ?, problem = ? where id = ?",
                ticket == null ? null : ticket.value(),
                problem == null ? null : dastur.core.json.Texts.clip(problem, 1_000),
                call)));
    }

    public Optional<Call> find(TriggerId trigger, String call) {
        return database.read(session -> session.doReturningWork(c ->
                Jdbc.query(c, COLUMNS + " where h.id = ? and h.trigger_id = ?", Hooks::call, call, trigger.value())
                        .stream()
                        .findFirst()));
    }

    /** The latest calls of a hook. */
    public List<Call> latest(TriggerId trigger, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                COLUMNS + " where h.trigger_id = ? order by h.came_at desc, h.id fetch first ? rows only",
                Hooks::call,
                trigger.value(),
                most)));
    }

    /** Forgets calls before a moment. */
    public void forgetBefore(Instant moment) {
        database.run(session -> session.doWork(c -> Jdbc.update(c, "delete from hook_call where came_at < ?", moment)));
    }
}
