package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.WorkflowKey;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Actions in versions (M1). What an action asks for, gives and may do is the same in all of a version: a workflow that was
 * published with version 3 goes on with 3 when there is a 4. What changes nothing of that mends the version, and is used by
 * all who use it from their next step on.
 */
public final class Actions {
    /** By what the journal knows a version. */
    static final String SUBJECT = "action version";

    /** Characters that may be said to a change. */
    public static final int MAX_WHY = 1_000;

    /** What a live version's steps use. */
    private record Steps(int version, Map<ActionKey, List<String>> byAction) {}

    private final Database database;
    private final Map<String, Steps> known = new ConcurrentHashMap<>();

    public Actions(Database database) {
        this.database = database;
    }

    /** A version with its mend, such as 3.1; a version not mended yet is 3.0. */
    public record Number(int version, int mend) implements Comparable<Number> {
        @Override
        public int compareTo(Number other) {
            return version == other.version
                    ? Integer.compare(mend, other.mend)
                    : Integer.compare(version, other.version);
        }

        @Override
        public String toString() {
            return version + "." + mend;
        }

        /** The number this becomes by a change. */
        public Number after(Action before, Action after) {
            return sameTerms(before, after) ? new Number(version, mend + 1) : new Number(version + 1, 0);
        }
    }

    /** One of its versions. @param why what was said to a mend */
    public record Version(
            Number number,
            Instant at,
            @Nullable PersonId by,
            @Nullable String why,
            Action action) {}

    /** A live workflow that uses an action. @param version the action's that it was published with @param steps their names */
    public record User(WorkflowKey workflow, String name, int version, List<String> steps) {}

    /** What became of a save. */
    public sealed interface Saved {
        record Ok(Number number) implements Saved {}

        /** Somebody was first. */
        record Stale(Number now) implements Saved {}
    }

    /** Whether all that others rely on is the same: inputs with their limits, outputs, results, repeating, and whether it changes the world. */
    public static boolean sameTerms(Action a, Action b) {
        return a.inputs().equals(b.inputs())
                && a.outputs().equals(b.outputs())
                && a.results().equals(b.results())
                && Objects.equals(a.limits(), b.limits())
                && a.repeat() == b.repeat()
                && a.changesWorld() == b.changesWorld();
    }

    public Optional<Action> find(ActionKey key) {
        return database.read(session -> now(session, key));
    }

    private static Optional<Action> now(StatelessSession session, ActionKey key) {
        return References.document(session, References.ACTION, key.value(), Action.class);
    }

    /** The number of what counts now; empty when there is no such action. */
    public Optional<Number> number(ActionKey key) {
        return database.read(session -> session.doReturningWork(c -> newest(c, key)));
    }

    private static Optional<Number> newest(Connection c, ActionKey key) throws SQLException {
        return Jdbc.query(
                        c,
                        "select number, mend from action_version where action = ? order by number desc, mend desc"
                                + " fetch first 1 rows only",
                        r -> new Number(r.getInt(1), r.getInt(2)),
                        key.value())
                .stream()
                .findFirst();
    }

    /**
     * Saves an action as the next of its versions; what is as it was is no version.
     *
     * @param on what the change was made on; null for a new one, or whatever it is
     * @param why what is said to it; null for nothing
     */
    public Saved set(Journal.By by, Action action, @Nullable Number on, @Nullable String why) {
        return database.write(session -> {
            // First, since it is locked until the end: two in the same second come one after the other.
            References.changed(session);
            Optional<Action> before = now(session, action.key());
            Optional<Number> number = session.doReturningWork(c -> newest(c, action.key()));
            if (on != null && number.isPresent() && !number.get().equals(on)) {
                return new Saved.Stale(number.get());
            }
            if (before.isPresent() && before.get().equals(action) && number.isPresent()) {
                return new Saved.Ok(number.get());
            }
            Number next = number.isPresent() && before.isPresent()
                    ? number.get().after(before.get(), action)
                    : new Number(1, 0);
            References.putDocument(session, References.ACTION, action.key().value(), action);
            Journal.changed(session, by, References.ACTION, action.key().value(), before, action);
            insert(session, action, next, by, why, next.mend() == 0 ? "published" : "mended");
            return new Saved.Ok(next);
        });
    }

    /**
     * Withdraws a version, or lets it be used again: as a mend, since it reaches all who use that version (M1).
     *
     * @param why why nothing may begin by it any more; null to let it be used again
     * @return the number that counts for the version now; empty where there is no such version
     */
    public Optional<Number> withdraw(Journal.By by, ActionKey key, int version, @Nullable String why) {
        return database.write(session -> {
            // First, as in a save.
            References.changed(session);
            Optional<Version> last = ofVersion(session, key, version);
            if (last.isEmpty() || Objects.equals(last.get().action().withdrawn(), why)) {
                return last.map(Version::number);
            }
            Action after = last.get().action().withdrawn(why);
            Number next = new Number(version, last.get().number().mend() + 1);
            Optional<Number> newest = session.doReturningWork(c -> newest(c, key));
            if (newest.filter(n -> n.version() == version).isPresent()) {
                References.putDocument(session, References.ACTION, key.value(), after);
                Journal.changed(
                        session,
                        by,
                        References.ACTION,
                        key.value(),
                        Optional.of(last.get().action()),
                        after);
            }
            insert(
                    session,
                    after,
                    next,
                    by,
                    why == null ? "in use again" : why,
                    why == null ? "let in again" : "withdrew");
            return Optional.of(next);
        });
    }

    private static Optional<Version> ofVersion(StatelessSession session, ActionKey key, int version) {
        return session.doReturningWork(c -> versions(c, key)).stream()
                .filter(v -> v.number().version() == version)
                .findFirst();
    }

    /** As it is when the application is set up: no line in the journal, and the version it has stays. */
    static void put(StatelessSession session, Action action) {
        References.putDocument(session, References.ACTION, action.key().value(), action);
        session.doWork(c -> {
            Number number = newest(c, action.key()).orElse(new Number(1, 0));
            int updated = Jdbc.update(
                    c,
                    "update action_version set body = ? where action = ? and number = ? and mend = ?",
                    Json.write(action),
                    action.key().value(),
                    number.version(),
                    number.mend());
            if (updated == 0) {
                insert(c, action, number, Instant.EPOCH, null, null);
            }
        });
    }

    private static void insert(
            StatelessSession session, Action action, Number number, Journal.By by, @Nullable String why, String did) {
        session.doWork(c -> insert(c, action, number, by.at(), by.person().value(), why));
        Journal.set(session, by, SUBJECT, action.key() + " " + number, did, why, Seal.hash(Json.write(action)));
    }

    private static void insert(
            Connection c, Action action, Number number, Instant at, @Nullable String by, @Nullable String why)
            throws SQLException {
        Jdbc.update(
                c,
                "insert into action_version (action, number, mend, body, set_at, set_by, why) values (?, ?, ?, ?, ?, ?, ?)",
                action.key().value(),
                number.version(),
                number.mend(),
                Json.write(action),
                at,
                by,
                why == null ? null : Texts.clip(why, MAX_WHY));
    }

    /** Its versions with their mends, newest first. */
    public List<Version> versions(ActionKey key) {
        return database.read(session -> session.doReturningWork(c -> versions(c, key)));
    }

    private static List<Version> versions(Connection c, ActionKey key) throws SQLException {
        return Jdbc.query(
                c,
                "select number, mend, set_at, set_by, why, body from action_version where action = ?"
                        + " order by number desc, mend desc",
                r -> new Version(
                        new Number(r.getInt(1), r.getInt(2)),
                        r.getObject(3, OffsetDateTime.class).toInstant(),
                        r.getString(4) == null ? null : new PersonId(r.getString(4)),
                        r.getString(5),
                        Json.read(r.getString(6), Action.class)),
                key.value());
    }

    /** The hash of a version as it is kept, for the audit. @param id the action's key and the number */
    static String hash(StatelessSession session, String id) {
        int at = id.lastIndexOf(' ');
        String[] number = id.substring(at + 1).split("\\.");
        return session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select body from action_version where action = ? and number = ? and mend = ?",
                        r -> Seal.hash(r.getString(1)),
                        id.substring(0, at),
                        Integer.parseInt(number[0]),
                        Integer.parseInt(number[1]))
                .stream()
                .findFirst()
                .orElse(AsSet.NOTHING));
    }

    /** What a workflow that is published now uses; the first version needs no line. */
    static void pin(StatelessSession session, WorkflowKey workflow, int version) {
        session.doWork(c -> Jdbc.update(
                c,
                "insert into workflow_action (workflow, version, action, number)"
                        + " select ?, cast(? as integer), action, max(number) from action_version group by action having max(number) > 1",
                workflow.value(),
                version));
    }

    /** The action as a published version of a workflow uses it; as it is now for what is not published. */
    static Optional<Action> pinned(StatelessSession session, ActionKey key, WorkflowKey workflow, int version) {
        boolean published = !session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select number from workflow_version where workflow = ? and number = ?",
                        r -> r.getInt(1),
                        workflow.value(),
                        version))
                .isEmpty();
        if (!published || now(session, key).isEmpty()) {
            return now(session, key);
        }
        return session.doReturningWork(c -> mended(c, key, pin(c, key, workflow, version)))
                .or(() -> now(session, key));
    }

    private static int pin(Connection c, ActionKey key, WorkflowKey workflow, int version) throws SQLException {
        return Jdbc.query(
                        c,
                        "select number from workflow_action where workflow = ? and version = ? and action = ?",
                        r -> r.getInt(1),
                        workflow.value(),
                        version,
                        key.value())
                .stream()
                .findFirst()
                .orElse(1);
    }

    private static Optional<Action> mended(Connection c, ActionKey key, int number) throws SQLException {
        return Jdbc.query(
                        c,
                        "select body from action_version where action = ? and number = ? order by mend desc"
                                + " fetch first 1 rows only",
                        r -> Json.read(r.getString(1), Action.class),
                        key.value(),
                        number)
                .stream()
                .findFirst();
    }

    /** Live workflows that use actions, with the steps that do. Those whose version was altered are left out. */
    public List<User> users(ActionKey key) {
        return database.read(session -> {
            List<User> users = new ArrayList<>();
            live(session).forEach(w -> user(session, w, key).ifPresent(users::add));
            return users;
        });
    }

    /** By how many live workflows each is used. */
    public Map<ActionKey, Integer> uses() {
        return database.read(session -> {
            Map<ActionKey, Integer> uses = new HashMap<>();
            live(session).forEach(w -> steps(session, w).keySet().forEach(key -> uses.merge(key, 1, Integer::sum)));
            return uses;
        });
    }

    private static List<Rows.WorkflowRow> live(StatelessSession session) {
        return session.createSelectionQuery(
                        "from WorkflowRow where liveVersion is not null and retired = false order by name",
                        Rows.WorkflowRow.class)
                .getResultList();
    }

    /** The names of the steps of a live version that use actions, by action; a published version never changes. */
    private Map<ActionKey, List<String>> steps(StatelessSession session, Rows.WorkflowRow row) {
        int live = Objects.requireNonNull(row.liveVersion);
        Steps before = known.get(row.id);
        if (before != null && before.version() == live) {
            return before.byAction();
        }
        Map<ActionKey, List<String>> byAction = new HashMap<>();
        Workflows.unlessAltered(session, new WorkflowKey(row.id), live).ifPresent(v -> v.body()
                .all()
                .forEach(s -> Facts.of(s).actions().forEach(key -> byAction.computeIfAbsent(key, k -> new ArrayList<>())
                        .add(s.name()))));
        if (!byAction.isEmpty()) {
            known.put(row.id, new Steps(live, byAction));
        }
        return byAction;
    }

    private Optional<User> user(StatelessSession session, Rows.WorkflowRow row, ActionKey key) {
        List<String> steps = steps(session, row).getOrDefault(key, List.of());
        WorkflowKey workflow = new WorkflowKey(row.id);
        int live = Objects.requireNonNull(row.liveVersion);
        return steps.isEmpty()
                ? Optional.empty()
                : Optional.of(new User(
                        workflow,
                        row.name,
                        session.doReturningWork(c -> pin(c, key, workflow, live)),
                        List.copyOf(steps)));
    }
}
