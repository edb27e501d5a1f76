package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import dastur.core.rehearsal.KeptCase;
import dastur.core.run.RunId;
import dastur.core.signal.Source;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.HashMap;
import java.util.Iterator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Workflows with their drafts, versions and triggers; ladders, actions and connections they use. */
public final class Workflows {
    /** A workflow in the library. */
    public record Summary(
            String key,
            String name,
            String owner,
            @Nullable Integer liveVersion,
            boolean retired,
            boolean hasDraft,
            long runs,
            long underWay,
            @Nullable Instant lastStarted,
            List<Trigger> triggers,
            @Nullable String purpose,
            int steps) {}

    /**
     * A workflow's draft.
     *
     * @param revision grows with every saved change; saving needs the one that was read
     */
    public record Draft(
            WorkflowVersion version,
            long revision,
            @Nullable PersonId by,
            @Nullable Instant at) {}

    /** A published version in a list. */
    public record Published(int number, Instant at, String by) {}

    /** What saving a draft came to. */
    public sealed interface Saved {
        record Ok(long revision) implements Saved {}

        /** Somebody else saved in between. */
        record Conflict(
                long revision,
                @Nullable String by,
                @Nullable Instant at) implements Saved {}
    }

    private final Database database;

    public Workflows(Database database) {
        this.database = database;
    }

    public List<Summary> all() {
        return database.read(session -> {
            // Two walks along indexes instead of one through all runs: what has ended is only counted.
            Map<String, Object[]> usage = new HashMap<>();
            session.createSelectionQuery(
                            "select workflow, count(*), max(startedAt) from RunRow where " + Tickets.NO_TEST
                                    + " group by workflow",
                            Object[].class)
                    .getResultList()
                    .forEach(r -> usage.put((String) r[0], r));
            Map<String, Long> underWay = new HashMap<>();
            session.createSelectionQuery(
                            "select workflow, count(*) from RunRow where status in ('under way', 'held', 'stalled') and "
                                    + Tickets.NO_TEST + " group by workflow",
                            Object[].class)
                    .getResultList()
                    .forEach(r -> underWay.put((String) r[0], (Long) r[1]));
            return session
                    .createSelectionQuery("from WorkflowRow order by name", Rows.WorkflowRow.class)
                    .getResultList()
                    .stream()
                    .map(w -> summary(session, w, usage.get(w.id), underWay.getOrDefault(w.id, 0L)))
                    .toList();
        });
    }

    private static Summary summary(
            StatelessSession session, Rows.WorkflowRow w, Object @Nullable [] usage, long underWay) {
        Optional<WorkflowVersion> shown = w.liveVersion != null
                ? unlessAltered(session, new WorkflowKey(w.id), w.liveVersion)
                : Optional.ofNullable(w.draft).map(d -> Json.read(d, WorkflowVersion.class));
        return new Summary(
                w.id,
                w.name,
                w.owner,
                w.liveVersion,
                w.retired,
                w.draft != null,
                usage == null ? 0 : ((Number) usage[1]).longValue(),
                underWay,
                usage == null ? null : (Instant) usage[2],
                triggersOf(session, w.id),
                shown.map(WorkflowVersion::purpose).orElse(null),
                shown.map(v -> (int) v.body().all().count()).orElse(0));
    }

    /** In a list, one that was altered does not hide the others; whoever opens it is told. */
    static Optional<WorkflowVersion> unlessAltered(StatelessSession session, WorkflowKey key, int number) {
        try {
            return References.version(session, key, number);
        } catch (Altered e) {
            return Optional.empty();
        }
    }

    public boolean exists(WorkflowKey key) {
        return database.read(session -> session.get(Rows.WorkflowRow.class, key.value()) != null);
    }

    public Optional<Integer> liveVersion(WorkflowKey key) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.WorkflowRow.class, key.value()))
                .map(w -> w.liveVersion));
    }

    public boolean retired(WorkflowKey key) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.WorkflowRow.class, key.value()))
                .map(w -> w.retired)
                .orElse(false));
    }

    public Optional<WorkflowVersion> version(WorkflowKey key, int number) {
        return database.read(session -> References.version(session, key, number));
    }

    public List<Published> versions(WorkflowKey key) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from WorkflowVersionRow where key.workflow = ?1 order by key.number desc",
                        Rows.WorkflowVersionRow.class)
                .setParameter(1, key.value())
                .getResultList()
                .stream()
                .map(v -> new Published(v.key.number(), v.publishedAt, v.publishedBy))
                .toList());
    }

    public Optional<Draft> draft(WorkflowKey key) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.WorkflowRow.class, key.value()))
                .flatMap(w -> w.draft == null
                        ? Optional.empty()
                        : Optional.of(new Draft(
                                Json.read(w.draft, WorkflowVersion.class),
                                w.draftRevision,
                                w.draftBy == null ? null : new PersonId(w.draftBy),
                                w.draftAt))));
    }

    /** A draft that differs from what is live and was last saved at a moment. */
    public record Forgotten(String key, String name, Instant savedAt) {}

    /** Drafts of live workflows a person owns that have not been touched since a moment: they may be forgotten (N10). */
    public List<Forgotten> forgottenDrafts(PersonId owner, Instant before) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from WorkflowRow where owner = ?1 and draft is not null and liveVersion is not null"
                                + " and retired = false and draftAt < ?2 order by draftAt",
                        Rows.WorkflowRow.class)
                .setParameter(1, owner.value())
                .setParameter(2, before)
                .setMaxResults(20)
                .getResultList()
                .stream()
                .map(w -> new Forgotten(w.id, w.name, w.draftAt))
                .toList());
    }

    /** The revision a new draft of a workflow must name. */
    public long draftRevision(WorkflowKey key) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.WorkflowRow.class, key.value()))
                .map(w -> w.draftRevision)
                .orElse(0L));
    }

    /** Makes a workflow that has only a draft. */
    public void create(WorkflowVersion draft, PersonId by, Instant at) {
        database.run(session -> {
            Rows.WorkflowRow row = new Rows.WorkflowRow();
            row.id = draft.key().value();
            row.name = draft.name();
            row.owner = draft.owner().value();
            row.draft = Json.write(draft);
            row.draftRevision = 1;
            row.draftBy = by.value();
            row.draftAt = at;
            session.insert(row);
        });
    }

    /** Saves a draft if nobody else did since the given revision. */
    public Saved saveDraft(WorkflowVersion draft, long revision, PersonId by, Instant at) {
        return database.write(session -> {
            Rows.WorkflowRow row = locked(session, draft.key());
            if (row.draftRevision != revision) {
                return new Saved.Conflict(row.draftRevision, row.draftBy, row.draftAt);
            }
            row.draft = Json.write(draft);
            row.draftRevision = revision + 1;
            row.draftBy = by.value();
            row.draftAt = at;
            if (row.liveVersion == null) {
                row.name = draft.name();
                row.owner = draft.owner().value();
            }
            session.update(row);
            return new Saved.Ok(row.draftRevision);
        });
    }

    /** Throws the draft away, back to the live version. */
    public void discardDraft(WorkflowKey key) {
        database.run(session -> {
            Rows.WorkflowRow row = locked(session, key);
            row.draft = null;
            row.draftRevision++;
            session.update(row);
        });
    }

    /** Makes the draft of a revision the live version; returns its number, or empty when the draft is another by now. */
    public Optional<Integer> publish(WorkflowKey key, long revision, PersonId by, Instant at) {
        return database.write(session -> {
            Rows.WorkflowRow row = locked(session, key);
            if (row.draft == null || row.draftRevision != revision) {
                return Optional.empty();
            }
            int number = session.createSelectionQuery(
                                    "select coalesce(max(key.number), 0) from WorkflowVersionRow where key.workflow = ?1",
                                    Integer.class)
                            .setParameter(1, key.value())
                            .getSingleResult()
                    + 1;
            WorkflowVersion version =
                    Json.read(row.draft, WorkflowVersion.class).numbered(number);
            Rows.WorkflowVersionRow published = new Rows.WorkflowVersionRow();
            published.key = new Rows.WorkflowVersionKey(key.value(), number);
            published.body = Json.write(version);
            published.publishedAt = at;
            published.publishedBy = by.value();
            session.insert(published);
            Journal.By journal = new Journal.By(by, at);
            Journal.set(
                    session,
                    journal,
                    VersionSeal.SUBJECT,
                    VersionSeal.id(key, number),
                    "published",
                    null,
                    Seal.hash(published.body));
            Actions.pin(session, key, number);
            row.liveVersion = number;
            row.retired = false;
            row.name = version.name();
            row.owner = version.owner().value();
            row.draft = null;
            row.draftRevision++;
            session.update(row);
            standing(session, journal, row, "live: version " + number);
            References.changed(session);
            return Optional.of(number);
        });
    }

    /** Retires or revives a workflow; running cases go on. */
    public void setRetired(Journal.By by, WorkflowKey key, boolean retired) {
        database.run(session -> {
            Rows.WorkflowRow row = locked(session, key);
            row.retired = retired;
            session.update(row);
            standing(session, by, row, retired ? "retired" : "live again");
            References.changed(session);
        });
    }

    private static void standing(StatelessSession session, Journal.By by, Rows.WorkflowRow row, String did) {
        Journal.set(session, by, AsSet.WORKFLOW, row.id, did, null, Journal.hashOf(AsSet.standing(row)));
    }

    private static Rows.WorkflowRow locked(StatelessSession session, WorkflowKey key) {
        return session.get(Rows.WorkflowRow.class, key.value(), org.hibernate.LockMode.PESSIMISTIC_WRITE);
    }

    // --- triggers

    public List<Trigger> triggers(WorkflowKey key) {
        return database.read(session -> triggersOf(session, key.value()));
    }

    static List<Trigger> triggersOf(StatelessSession session, String workflow) {
        return session
                .createSelectionQuery(
                        "from WorkflowTriggerRow where workflow = ?1 order by position", Rows.WorkflowTriggerRow.class)
                .setParameter(1, workflow)
                .getResultList()
                .stream()
                .map(t -> Json.read(t.body, Trigger.class))
                .toList();
    }

    /** Replaces a workflow's triggers, in their order. */
    public void setTriggers(Journal.By by, WorkflowKey key, List<Trigger> triggers) {
        database.run(session -> {
            locked(session, key);
            Optional<AsSet.Starts> before = Optional.of(new AsSet.Starts(triggersOf(session, key.value())));
            // What this workflow has of the common order it keeps; further triggers come last.
            Iterator<Integer> places = session.createSelectionQuery(
                            "select place from WorkflowTriggerRow where workflow = ?1 order by place, position",
                            Integer.class)
                    .setParameter(1, key.value())
                    .getResultList()
                    .iterator();
            int last = session.createSelectionQuery(
                            "select coalesce(max(place), 0) from WorkflowTriggerRow", Integer.class)
                    .getSingleResult();
            session.createMutationQuery("delete WorkflowTriggerRow where workflow = ?1")
                    .setParameter(1, key.value())
                    .executeUpdate();
            int position = 0;
            for (Trigger trigger : triggers) {
                Rows.WorkflowTriggerRow row = new Rows.WorkflowTriggerRow();
                row.id = trigger.id().value();
                row.workflow = key.value();
                row.position = ++position;
                row.place = places.hasNext() ? places.next() : ++last;
                row.body = Json.write(trigger);
                session.insert(row);
            }
            Journal.changed(session, by, AsSet.TRIGGERS, key.value(), before, new AsSet.Starts(triggers));
            References.changed(session);
        });
    }

    /**
     * Sets the order in which the triggers of all workflows are looked at. Those not named come after the named ones, in
     * the order they had.
     */
    public void orderTriggers(Journal.By by, List<TriggerId> order) {
        database.run(session -> {
            Journal.write(
                    session,
                    by,
                    "order of triggers",
                    "all",
                    "set",
                    order.stream().map(TriggerId::value).collect(Collectors.joining(", ")));
            Map<String, Integer> places = new HashMap<>();
            order.forEach(id -> places.put(id.value(), places.size() + 1));
            List<Rows.WorkflowTriggerRow> all = session.createSelectionQuery(
                            "from WorkflowTriggerRow order by place, workflow, position", Rows.WorkflowTriggerRow.class)
                    .getResultList();
            for (Rows.WorkflowTriggerRow row : all) {
                row.place = places.computeIfAbsent(row.id, id -> places.size() + 1);
                session.update(row);
            }
            References.changed(session);
        });
    }

    /** The live versions of workflows that call one. */
    public List<WorkflowVersion> callersOf(WorkflowKey key) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select v from WorkflowVersionRow v join WorkflowRow w on w.id = v.key.workflow"
                                + " and w.liveVersion = v.key.number where w.retired = false and v.body like ?1",
                        Rows.WorkflowVersionRow.class)
                .setParameter(1, "%\"workflow\":\"" + key + "\"%")
                .getResultList()
                .stream()
                .map(v -> Json.read(v.body, WorkflowVersion.class))
                .toList());
    }

    /** The workflow a trigger belongs to. */
    public Optional<WorkflowKey> workflowOf(TriggerId trigger) {
        return database.read(
                        session -> Optional.ofNullable(session.get(Rows.WorkflowTriggerRow.class, trigger.value())))
                .map(t -> new WorkflowKey(t.workflow));
    }

    /** How often each trigger started a run. */
    public Map<String, Long> firings(WorkflowKey key) {
        return database.read(session -> {
            Map<String, Long> counts = new HashMap<>();
            session.createSelectionQuery(
                            "select triggerId, count(*) from RunRow where workflow = ?1 and triggerId is not null and "
                                    + Tickets.NO_TEST + " group by triggerId",
                            Object[].class)
                    .setParameter(1, key.value())
                    .getResultList()
                    .forEach(r -> counts.put((String) r[0], (Long) r[1]));
            return counts;
        });
    }

    // --- what workflows use

    public List<Ladder> ladders() {
        return database.read(session -> References.documents(session, References.LADDER, Ladder.class));
    }

    public void putLadder(Ladder ladder) {
        database.run(session ->
                References.putDocument(session, References.LADDER, ladder.key().value(), ladder));
    }

    public List<Action> actions() {
        return database.read(session -> References.documents(session, References.ACTION, Action.class));
    }

    public Optional<Action> action(ActionKey key) {
        return database.read(session -> References.document(session, References.ACTION, key.value(), Action.class));
    }

    /** Who may use an action, and where; {@link TermsOfUse#none} where nothing was said. */
    public TermsOfUse termsOf(ActionKey key) {
        return database.read(session -> References.document(session, References.TERMS, key.value(), TermsOfUse.class))
                .orElse(TermsOfUse.none(key));
    }

    /** Of all actions for which something was said. */
    public List<TermsOfUse> terms() {
        return database.read(session -> References.documents(session, References.TERMS, TermsOfUse.class));
    }

    /** Says so without a line in the journal; for filling an empty database. */
    public void putTerms(TermsOfUse terms) {
        database.run(session ->
                References.putDocument(session, References.TERMS, terms.action().value(), terms));
    }

    public void putAction(Action action) {
        database.run(session -> Actions.put(session, action));
    }

    public Optional<Connection> connection(String key) {
        return database.read(session -> References.document(session, References.CONNECTION, key, Connection.class));
    }

    public List<Connection> connections() {
        return database.read(session -> References.documents(session, References.CONNECTION, Connection.class));
    }

    /** What people said of the calls over connections, by their keys. */
    public Map<String, ByHand> callsByHand() {
        return database.read(session -> References.named(session, References.BREAKER, ByHand.class));
    }

    public void putConnection(Connection connection) {
        database.run(session -> References.putDocument(session, References.CONNECTION, connection.key(), connection));
    }

    /** The kept rehearsals of a workflow. */
    public List<KeptCase> cases(WorkflowKey key) {
        return database.read(session -> References.document(session, CASES, key.value(), Kept.class))
                .map(Kept::cases)
                .orElse(List.of());
    }

    public void putCases(WorkflowKey key, List<KeptCase> cases) {
        database.run(session -> References.putDocument(session, CASES, key.value(), new Kept(cases)));
    }

    private static final String CASES = "cases";

    private record Kept(List<KeptCase> cases) {}

    /** The last finished runs of a workflow, newest first. */
    public List<RunId> finishedRuns(WorkflowKey key, int most) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select id from RunRow where workflow = ?1 and status = 'finished' and " + Tickets.NO_TEST
                                + " order by endedAt desc",
                        String.class)
                .setParameter(1, key.value())
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(RunId::new)
                .toList());
    }

    /** The triggers of all live workflows, in their order. */
    public List<Trigger.Live> liveTriggers() {
        return database.read(References::liveTriggers);
    }

    /** What triggers on signals listen to. */
    public List<Source> sources() {
        return database.read(session -> References.documents(session, Sources.KIND, Source.class));
    }
}
