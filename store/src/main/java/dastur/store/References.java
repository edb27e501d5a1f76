package dastur.store;

import com.fasterxml.jackson.core.type.TypeReference;
import dastur.core.json.Json;
import dastur.core.people.Cover;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.record.Seal;
import dastur.core.run.Assigned;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.ticket.Beside;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.PriorityMatrix;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketId;
import dastur.core.time.CalendarKey;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Action;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Collectors;
import org.hibernate.StatelessSession;
import org.hibernate.query.SelectionQuery;
import org.jspecify.annotations.Nullable;

/**
 * Answers the engine's look-ups. What changes rarely is kept in memory until the revision row says that something of it
 * was changed, by this process or another; each transaction reads that one row, so nodes never work on stale values.
 */
final class References {
    static final String CALENDAR = "calendar";
    static final String LADDER = "ladder";
    static final String ACTION = "action";
    static final String TERMS = "terms of use";
    static final String CONNECTION = "connection";
    static final String ROTA = "rota";
    static final String SETTING = "setting";
    static final String BREAKER = "calls over";
    static final String CHANNELS = "channels";
    static final String DEFAULT_CALENDAR = "defaultCalendar";

    private record Kept(long revision, Map<LookupKey, Optional<?>> values) {}

    private volatile Kept kept = new Kept(-1, Map.of());

    /** Says that something kept in memory was changed; in the transaction that changes it. */
    static void changed(StatelessSession session) {
        session.createMutationQuery("update RevisionRow set number = number + 1")
                .executeUpdate();
    }

    /** Looks values up, in the session's transaction. */
    Map<LookupKey, Optional<?>> load(StatelessSession session, Set<LookupKey> keys) {
        Map<LookupKey, Optional<?>> memory = current(session);
        Map<LookupKey, Optional<?>> found = new HashMap<>();
        for (LookupKey key : keys) {
            boolean volatileKey = key instanceof LookupKey.OfCi
                    || key instanceof LookupKey.BesideCi
                    || key instanceof LookupKey.ClosedVisit
                    || key instanceof LookupKey.WaitingCall
                    || key instanceof LookupKey.RecentStarts
                    || key instanceof LookupKey.BadInRow
                    || key instanceof LookupKey.HeldBackTold
                    || key instanceof LookupKey.KeptSignal;
            found.put(key, volatileKey ? read(session, key) : remembered(memory, session, key));
        }
        return found;
    }

    private static Optional<?> remembered(Map<LookupKey, Optional<?>> memory, StatelessSession session, LookupKey key) {
        Optional<?> value = memory.get(key);
        if (value == null) {
            value = read(session, key);
            memory.put(key, value);
        }
        return value;
    }

    static long revision(StatelessSession session) {
        return session.get(Rows.RevisionRow.class, 1).number;
    }

    /** Everything remembered now: a head start that saves most rounds of asking. */
    Map<LookupKey, Optional<?>> current(StatelessSession session) {
        long revision = revision(session);
        Kept now = kept;
        if (now.revision() != revision) {
            now = new Kept(revision, new ConcurrentHashMap<>());
            kept = now;
        }
        return now.values();
    }

    private static Optional<?> read(StatelessSession s, LookupKey key) {
        return switch (key) {
            case LookupKey.OfPerson k ->
                get(s, Rows.PersonRow.class, k.id().value()).map(References::person);
            case LookupKey.OfGroup k ->
                get(s, Rows.TeamRow.class, k.id().value()).map(t -> group(s, t));
            case LookupKey.OfRota k -> document(s, ROTA, k.key().value(), Rota.class);
            case LookupKey.CoversOf k -> Optional.of(new Lookups.CoverList(covers(s, k.id())));
            case LookupKey.OfRole k -> Optional.of(new Lookups.PeopleList(withRole(s, k.role())));
            case LookupKey.OfCi k -> get(s, Rows.CiRow.class, k.id().value()).map(References::ci);
            case LookupKey.BesideCi k -> Optional.of(beside(s, k.id()));
            case LookupKey.OfService k ->
                get(s, Rows.ServiceRow.class, k.id().value()).map(References::service);
            case LookupKey.OfCalendar k -> document(s, CALENDAR, k.key().value(), WorkingCalendar.class);
            case LookupKey.DefaultCalendar k ->
                document(s, SETTING, DEFAULT_CALENDAR, CalendarKey.class)
                        .flatMap(c -> document(s, CALENDAR, c.value(), WorkingCalendar.class));
            case LookupKey.OfLadder k -> document(s, LADDER, k.key().value(), Ladder.class);
            case LookupKey.OfAction k -> document(s, ACTION, k.key().value(), Action.class);
            case LookupKey.PinnedAction k -> Actions.pinned(s, k.key(), k.workflow(), k.version());
            case LookupKey.TermsOf k -> document(s, TERMS, k.key().value(), TermsOfUse.class);
            case LookupKey.BadInRow k -> Optional.of(CallsMade.badInRow(s, k.key()));
            case LookupKey.HeldBackTold k -> s.doReturningWork(c -> CallsMade.told(c, k.about()));
            case LookupKey.OfVersion k -> version(s, k.key(), k.number());
            case LookupKey.VersionHash k -> VersionSeal.hash(s, k.key(), k.number());
            case LookupKey.LiveVersion k ->
                get(s, Rows.WorkflowRow.class, k.key().value())
                        .filter(w -> !w.retired)
                        .map(w -> w.liveVersion);
            case LookupKey.LiveTriggers k -> Optional.of(new Lookups.TriggerList(liveTriggers(s)));
            case LookupKey.RecentStarts k -> Optional.of(recentStarts(s, k.trigger(), k.until()));
            case LookupKey.Fields k -> document(s, SETTING, "fields", FieldCatalogue.class);
            case LookupKey.Priorities k -> document(s, SETTING, "priorities", PriorityMatrix.class);
            case LookupKey.KeptSignal k ->
                Signals.oldest(s, k.signal(), k.key(), k.since())
                        .map(row -> new Lookups.KeptSignal(row.id, Json.readMap(row.body)));
            case LookupKey.WaitingCall k -> Outbox.waiting(s, k.id(), k.attempt());
            case LookupKey.ClosedVisit k ->
                get(s, Rows.WorkItemRow.class, k.id().value())
                        .filter(w -> !w.isOpen)
                        .map(w -> visitEnd(s, w));
        };
    }

    /** The relations that begin or end at a CI, each with the CI at its other end, by its id. @param most as many at most */
    static List<Object[]> related(StatelessSession s, CiId ci, int most) {
        return s.createSelectionQuery(
                        "select r, c from CiRelationRow r join CiRow c on c.id = case when r.key.fromCi = ?1 then r.key.toCi else r.key.fromCi end"
                                + " where r.key.fromCi = ?1 or r.key.toCi = ?1 order by c.id",
                        Object[].class)
                .setParameter(1, ci.value())
                .setMaxResults(most)
                .getResultList();
    }

    private static Beside beside(StatelessSession s, CiId ci) {
        return Beside.of(related(s, ci, Beside.MOST + 1).stream()
                .map(pair -> {
                    Rows.CiRelationKey key = ((Rows.CiRelationRow) pair[0]).key;
                    return new Beside.Neighbour(
                            key.relation(), key.fromCi().equals(ci.value()), ci((Rows.CiRow) pair[1]));
                })
                .toList());
    }

    private static Lookups.RecentStarts recentStarts(StatelessSession s, TriggerId trigger, Instant until) {
        String own = "select count(*) from RunRow where triggerId = ?1 and startedAt > ?2 and startedAt <= ?3 and "
                + Tickets.NO_TEST;
        String all =
                "select count(*) from RunRow where triggerId is not null and startedAt > ?1 and startedAt <= ?2 and "
                        + Tickets.NO_TEST;
        Instant aMinute = until.minus(Duration.ofMinutes(1));
        return new Lookups.RecentStarts(
                count(s.createSelectionQuery(own, Long.class)
                        .setParameter(1, trigger.value())
                        .setParameter(2, aMinute)
                        .setParameter(3, until)),
                count(s.createSelectionQuery(own, Long.class)
                        .setParameter(1, trigger.value())
                        .setParameter(2, until.minus(Duration.ofHours(1)))
                        .setParameter(3, until)),
                count(s.createSelectionQuery(all, Long.class)
                        .setParameter(1, aMinute)
                        .setParameter(2, until)));
    }

    private static long count(SelectionQuery<Long> query) {
        return query.getSingleResult();
    }

    private static <T> Optional<T> get(StatelessSession session, Class<T> type, Object id) {
        return Optional.ofNullable(session.get(type, id));
    }

    static <T> Optional<T> document(StatelessSession session, String kind, String name, Class<T> type) {
        return get(session, Rows.DocumentRow.class, new Rows.DocumentKey(kind, name))
                .map(d -> Json.read(d.body, type));
    }

    static <T> List<T> documents(StatelessSession session, String kind, Class<T> type) {
        return session
                .createSelectionQuery("from DocumentRow where key.kind = ?1 order by key.name", Rows.DocumentRow.class)
                .setParameter(1, kind)
                .getResultList()
                .stream()
                .map(d -> Json.read(d.body, type))
                .toList();
    }

    /** All documents of a kind, by their names. */
    static <T> Map<String, T> named(StatelessSession session, String kind, Class<T> type) {
        Map<String, T> all = new HashMap<>();
        session.createSelectionQuery("from DocumentRow where key.kind = ?1", Rows.DocumentRow.class)
                .setParameter(1, kind)
                .getResultList()
                .forEach(d -> all.put(d.key.name(), Json.read(d.body, type)));
        return all;
    }

    static void putDocument(StatelessSession session, String kind, String name, Object body) {
        Rows.DocumentRow row = new Rows.DocumentRow();
        row.key = new Rows.DocumentKey(kind, name);
        row.body = Json.write(body);
        session.upsert(row);
        changed(session);
    }

    static Person person(Rows.PersonRow row) {
        return new Person(
                new PersonId(row.id),
                row.name,
                row.mail,
                roles(row.roles),
                row.active,
                row.manager == null ? null : new PersonId(row.manager));
    }

    private static List<PersonId> withRole(StatelessSession session, Role role) {
        return session
                .createSelectionQuery("from PersonRow where active = true order by id", Rows.PersonRow.class)
                .getResultList()
                .stream()
                .filter(p -> roles(p.roles).contains(role))
                .map(p -> new PersonId(p.id))
                .toList();
    }

    static Set<Role> roles(String words) {
        Set<Role> roles = new HashSet<>();
        Arrays.stream(Role.values())
                .filter(r -> Arrays.asList(words.split(",")).contains(r.word()))
                .forEach(roles::add);
        return roles;
    }

    static Group group(StatelessSession session, Rows.TeamRow team) {
        List<PersonId> members = session
                .createSelectionQuery(
                        "select key.person from TeamMemberRow where key.team = ?1 order by key.person", String.class)
                .setParameter(1, team.id)
                .getResultList()
                .stream()
                .map(PersonId::new)
                .toList();
        return group(team, members);
    }

    /** Who is in each group, by the group's id. */
    static Map<String, List<PersonId>> members(StatelessSession session) {
        return session
                .createSelectionQuery(
                        "select key from TeamMemberRow order by key.team, key.person", Rows.TeamMemberKey.class)
                .getResultList()
                .stream()
                .collect(Collectors.groupingBy(
                        Rows.TeamMemberKey::team,
                        Collectors.mapping(k -> new PersonId(k.person()), Collectors.toList())));
    }

    static Group group(Rows.TeamRow team, List<PersonId> members) {
        return new Group(
                new GroupId(team.id),
                team.name,
                members,
                team.calendar == null ? null : new CalendarKey(team.calendar));
    }

    /** Who acts for a person, now or later. */
    static List<Cover> covers(StatelessSession session, PersonId person) {
        return session
                .createSelectionQuery("from CoverRow where key.person = ?1 order by key.scope", Rows.CoverRow.class)
                .setParameter(1, person.value())
                .getResultList()
                .stream()
                .map(References::cover)
                .toList();
    }

    static Cover cover(Rows.CoverRow row) {
        return new Cover(
                new PersonId(row.key.person()),
                new PersonId(row.cover),
                row.fromAt,
                row.untilAt,
                Arrays.stream(Cover.Scope.values())
                        .filter(s -> s.word().equals(row.key.scope()))
                        .findFirst()
                        .orElse(Cover.Scope.ALL));
    }

    static ConfigurationItem ci(Rows.CiRow row) {
        return new ConfigurationItem(
                new CiId(row.id),
                row.name,
                row.kind,
                row.service == null ? null : new ServiceId(row.service),
                row.site,
                row.address,
                groupId(row.owner),
                row.life,
                Json.readMap(row.attributes),
                row.wish == null ? Map.of() : Json.readMap(row.wish));
    }

    /** As a column keeps it: null for nothing. */
    static @Nullable String json(Map<String, Object> values) {
        return values.isEmpty() ? null : Json.write(values);
    }

    static @Nullable GroupId groupId(@Nullable String id) {
        return id == null ? null : new GroupId(id);
    }

    static Service service(Rows.ServiceRow row) {
        return new Service(
                new ServiceId(row.id),
                row.name,
                row.passengers,
                groupId(row.owner),
                row.calendar == null ? null : new CalendarKey(row.calendar),
                Json.read(row.targets, new TypeReference<Map<String, Service.Promise>>() {}));
    }

    static Optional<WorkflowVersion> version(StatelessSession session, WorkflowKey key, int number) {
        return VersionSeal.body(session, key, number).map(body -> Json.read(body, WorkflowVersion.class));
    }

    static List<Trigger.Live> liveTriggers(StatelessSession session) {
        return session
                .createSelectionQuery(
                        "select t, w from WorkflowTriggerRow t join WorkflowRow w on w.id = t.workflow"
                                + " where w.liveVersion is not null and w.retired = false order by t.place, w.name, t.position",
                        Object[].class)
                .getResultList()
                .stream()
                .map(pair -> live((Rows.WorkflowTriggerRow) pair[0], (Rows.WorkflowRow) pair[1]))
                .toList();
    }

    private static Trigger.Live live(Rows.WorkflowTriggerRow trigger, Rows.WorkflowRow workflow) {
        int version = workflow.liveVersion == null ? 0 : workflow.liveVersion;
        return new Trigger.Live(
                new WorkflowKey(workflow.id), version, workflow.name, Json.read(trigger.body, Trigger.class));
    }

    private static Lookups.VisitEnd visitEnd(StatelessSession session, Rows.WorkItemRow item) {
        Set<PersonId> late = new HashSet<>();
        if (item.cameLate != null) {
            Arrays.stream(item.cameLate.split(","))
                    .filter(p -> !p.isBlank())
                    .map(PersonId::new)
                    .forEach(late::add);
        }
        return new Lookups.VisitEnd(
                closedBy(session, item.closedBy),
                item.closedAt == null ? item.openedAt : item.closedAt,
                "ended with '" + item.outcome + "'",
                late,
                asked(session, item));
    }

    /** Everybody whom it was ever asked of, by the record: what stands beside it names only those of now. */
    private static List<Assigned> asked(StatelessSession session, Rows.WorkItemRow item) {
        return Records.read(session, new TicketId(item.ticket), 0).stream()
                .map(Seal::open)
                .filter(r -> r.visit() != null && r.visit().value().equals(item.visit))
                .flatMap(r -> r.event().asks().stream())
                .distinct()
                .toList();
    }

    private static String closedBy(StatelessSession session, @Nullable String by) {
        if (by == null || !by.startsWith("p:")) {
            return by == null ? "the system" : by;
        }
        return get(session, Rows.PersonRow.class, by.substring(2))
                .map(p -> p.name)
                .orElse(by.substring(2));
    }
}
