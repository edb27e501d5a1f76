package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.workflow.ActionKey;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Actions tried from their page, in earnest (M3): kept before anything is sent, and with what was answered. */
public final class ActionTries {
    /** So long a try is told of; of each action at least the last ones. */
    public static final Duration KEPT = Duration.ofDays(90);

    private static final int MAX_SENT = 40_000;
    private static final int MAX_ANSWER = 100_000;
    private static final String COLUMNS =
            "select id, action, begun_at, over_at, person, inputs, sent, said, why, gave, answer, millis from action_try";

    /**
     * A try.
     *
     * @param overAt when nobody waits for an answer any more
     * @param sent what was sent, as text without secrets
     * @param said {@code under way}, the exit that was taken, {@code failed} or {@code unsure}
     * @param gave what was read from the answer; null where nothing was
     * @param answer as JSON, without secrets; null where none came, or it was too long to keep
     * @param millis how long it took; null while it is under way
     */
    public record Try(
            String id,
            ActionKey action,
            Instant begunAt,
            Instant overAt,
            PersonId person,
            Map<String, Object> inputs,
            String sent,
            String said,
            @Nullable String why,
            @Nullable Map<String, Object> gave,
            @Nullable String answer,
            @Nullable Long millis) {
        public static final String UNDER_WAY = "under way";
        public static final String FAILED = "failed";
        public static final String UNSURE = "unsure";

        /** The same, with what came of it. */
        public Try came(
                String what,
                @Nullable String reason,
                @Nullable Map<String, Object> outputs,
                @Nullable String json,
                long took) {
            return new Try(id, action, begunAt, overAt, person, inputs, sent, what, reason, outputs, json, took);
        }
    }

    private final Database database;

    public ActionTries(Database database) {
        this.database = database;
    }

    /** Keeps a try that begins, with a line in the journal; ends when it is on the disk. Returns false when it is known. */
    public boolean begin(Journal.By by, Try begun, String told) {
        return database.writeIf(
                session -> session.doReturningWork(c -> {
                    if (!Jdbc.query(c, "select id from action_try where id = ?", r -> r.getString(1), begun.id())
                            .isEmpty()) {
                        return false;
                    }
                    Jdbc.update(
                            c,
                            "insert into action_try (id, action, begun_at, over_at, person, inputs, sent, said)"
                                    + " values (?, ?, ?, ?, ?, ?, ?, ?)",
                            begun.id(),
                            begun.action().value(),
                            begun.begunAt(),
                            begun.overAt(),
                            begun.person().value(),
                            Json.write(begun.inputs()),
                            Texts.clip(begun.sent(), MAX_SENT),
                            begun.said());
                    Journal.write(session, by, References.ACTION, begun.action().value(), "tried", told);
                    return true;
                }),
                kept -> kept);
    }

    /** Writes what came of it. */
    public void end(Try over) {
        String gave = over.gave() == null ? null : Json.write(over.gave());
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update action_try set said = ?, why = ?, gave = ?, answer = ?, millis = ? where id = ?",
                Texts.clip(over.said(), 20),
                over.why() == null ? null : Texts.clip(over.why(), 2_000),
                gave == null || gave.length() > MAX_SENT ? null : gave,
                over.answer() == null || over.answer().length() > MAX_ANSWER ? null : over.answer(),
                over.millis(),
                over.id())));
    }

    public Optional<Try> find(ActionKey action, String id) {
        return database.read(session -> session.doReturningWork(c ->
                Jdbc.query(c, COLUMNS + " where id = ? and action = ?", ActionTries::read, id, action.value()).stream()
                        .findFirst()));
    }

    /** The last tries of an action, newest first. */
    public List<Try> last(ActionKey action, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                COLUMNS + " where action = ? order by begun_at desc fetch first " + most + " rows only",
                ActionTries::read,
                action.value())));
    }

    private static Try read(ResultSet r) throws SQLException {
        String gave = r.getString(10);
        long took = r.getLong(12);
        Long millis = r.wasNull() ? null : took;
        return new Try(
                r.getString(1),
                new ActionKey(r.getString(2)),
                r.getObject(3, OffsetDateTime.class).toInstant(),
                r.getObject(4, OffsetDateTime.class).toInstant(),
                new PersonId(r.getString(5)),
                Json.readMap(r.getString(6)),
                r.getString(7),
                r.getString(8),
                r.getString(9),
                gave == null ? null : Json.readMap(gave),
                r.getString(11),
                millis);
    }

    public void forgetBefore(Instant moment) {
        database.run(
                session -> session.doWork(c -> Jdbc.update(c, "delete from action_try where begun_at < ?", moment)));
    }
}
