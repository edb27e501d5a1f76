package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.Channels;
import dastur.core.people.Cover;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.start.Dependence;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.PriorityMatrix;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.time.CalendarKey;
import dastur.core.time.WorkingCalendar;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collection;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.stream.Collectors;
import org.hibernate.LockMode;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** The organisation: people, groups, services, CIs, calendars, declared fields. */
public final class Organisation {
    /** A relation of a CI, seen from it. @param open how many tickets on the other one are open */
    public record Relation(String relation, String ci, String name, boolean outgoing, long open) {}

    /**
     * A CI two relations away, in the same direction both times.
     *
     * @param via the neighbour between
     * @param outgoing whether the relations lead away from the CI that was asked about
     * @param open how many tickets on it are open
     */
    public record Further(String relation, String ci, String name, String via, boolean outgoing, long open) {}

    /** A change of a CI's attribute by a ticket. */
    public record CiChange(
            String ticket,
            Instant at,
            String name,
            @Nullable String before,
            @Nullable String after) {}

    private final Database database;

    public Organisation(Database database) {
        this.database = database;
    }

    /** Counts what was changed in the organisation, its workflows and its sources; CIs left out. */
    public long revision() {
        return database.read(References::revision);
    }

    // --- people

    public List<Person> people() {
        return database.read(session ->
                session
                        .createSelectionQuery("from PersonRow order by name", Rows.PersonRow.class)
                        .getResultList()
                        .stream()
                        .map(References::person)
                        .toList());
    }

    /** People whose id or name holds a text, who are called exactly so first. */
    public List<Person> people(String text, int most) {
        return called("PersonRow", Rows.PersonRow.class, text, most, (session, row) -> References.person(row));
    }

    public Optional<Person> person(PersonId id) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.PersonRow.class, id.value()))
                .map(References::person));
    }

    // --- cover

    /** Who acts for a person, also what has not begun; one for all, or one for each kind. */
    public List<Cover> coversOf(PersonId person) {
        return database.read(session -> References.covers(session, person));
    }

    /** For whom a person acts at a moment. Chains are cut: a cover's own cover does not act for them. */
    public List<Cover> coveredBy(PersonId cover, Instant at) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from CoverRow where cover = ?1 and fromAt <= ?2 and untilAt > ?2 order by key.person, key.scope",
                        Rows.CoverRow.class)
                .setParameter(1, cover.value())
                .setParameter(2, at)
                .getResultList()
                .stream()
                .map(References::cover)
                .toList());
    }

    /** Sets who acts for a person, in place of what took over the same before. */
    public void setCover(Cover cover) {
        database.run(session -> {
            for (Cover before : References.covers(session, cover.person())) {
                if (before.scope().meets(cover.scope())) {
                    forget(session, before);
                }
            }
            Rows.CoverRow row = new Rows.CoverRow();
            row.key = new Rows.CoverKey(cover.person().value(), cover.scope().word());
            row.cover = cover.cover().value();
            row.fromAt = cover.from();
            row.untilAt = cover.until();
            session.insert(row);
            References.changed(session);
        });
    }

    public void endCovers(PersonId person) {
        database.run(session -> {
            References.covers(session, person).forEach(c -> forget(session, c));
            References.changed(session);
        });
    }

    private static void forget(StatelessSession session, Cover cover) {
        session.createMutationQuery("delete CoverRow where key.person = ?1 and key.scope = ?2")
                .setParameter(1, cover.person().value())
                .setParameter(2, cover.scope().word())
                .executeUpdate();
    }

    /** The stored hash of a person's password; empty when they have none and cannot sign in with one. */
    public Optional<String> passwordHash(PersonId id) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.PersonRow.class, id.value())))
                .flatMap(p -> StoredPassword.hash(database.mac(), p.id, p.password));
    }

    /** @param passwordHash an argon2id hash; null for none */
    public void putPerson(Person person, @Nullable String passwordHash) {
        String stored = StoredPassword.of(database.mac(), person.id().value(), passwordHash);
        database.run(session -> write(session, person, stored));
    }

    /** @param storedPassword as it is stored */
    static void write(StatelessSession session, Person person, @Nullable String storedPassword) {
        Rows.PersonRow old = session.get(Rows.PersonRow.class, person.id().value());
        Rows.PersonRow row = new Rows.PersonRow();
        row.id = person.id().value();
        row.name = person.name();
        row.mail = person.mail();
        row.roles = person.roles().stream().map(Role::word).sorted().collect(Collectors.joining(","));
        row.active = person.active();
        row.manager = person.manager() == null ? null : person.manager().value();
        row.password = storedPassword;
        row.lastSeen = old == null ? null : old.lastSeen;
        session.upsert(row);
        References.changed(session);
    }

    /** When each person last signed in; those who never did are missing. */
    public Map<PersonId, Instant> lastSeen() {
        return database.read(session -> session
                .createSelectionQuery("from PersonRow where lastSeen is not null", Rows.PersonRow.class)
                .getResultList()
                .stream()
                .collect(Collectors.toMap(p -> new PersonId(p.id), p -> p.lastSeen)));
    }

    public boolean hasPeople() {
        return database.read(session -> !session.createSelectionQuery("select id from PersonRow", String.class)
                .setMaxResults(1)
                .getResultList()
                .isEmpty());
    }

    public List<Group> groups() {
        return database.read(session -> {
            Map<String, List<PersonId>> members = References.members(session);
            return session
                    .createSelectionQuery("from TeamRow order by name", Rows.TeamRow.class)
                    .getResultList()
                    .stream()
                    .map(t -> References.group(t, members.getOrDefault(t.id, List.of())))
                    .toList();
        });
    }

    /** Groups whose id or name holds a text, which are called exactly so first. */
    public List<Group> groups(String text, int most) {
        return called("TeamRow", Rows.TeamRow.class, text, most, References::group);
    }

    public Optional<Group> group(GroupId id) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.TeamRow.class, id.value()))
                .map(t -> References.group(session, t)));
    }

    public void putGroup(Group group) {
        database.run(session -> write(session, group));
    }

    static void write(StatelessSession session, Group group) {
        Rows.TeamRow row = new Rows.TeamRow();
        row.id = group.id().value();
        row.name = group.name();
        row.calendar = group.calendar() == null ? null : group.calendar().value();
        session.upsert(row);
        session.createMutationQuery("delete TeamMemberRow where key.team = ?1")
                .setParameter(1, row.id)
                .executeUpdate();
        for (PersonId member : group.members()) {
            Rows.TeamMemberRow m = new Rows.TeamMemberRow();
            m.key = new Rows.TeamMemberKey(row.id, member.value());
            session.insert(m);
        }
        References.changed(session);
    }

    /** What people can take part as when they are called in, named by the organisation (N61). */
    public List<String> parts() {
        return database.read(session -> References.document(session, References.SETTING, PARTS, Parts.class)
                .map(Parts::names)
                .orElse(List.of()));
    }

    static final String PARTS = "parts";

    /** The names as they are kept. */
    record Parts(List<String> names) {}

    // --- services and CIs

    public List<Service> services() {
        return database.read(session ->
                session
                        .createSelectionQuery("from ServiceRow order by name", Rows.ServiceRow.class)
                        .getResultList()
                        .stream()
                        .map(References::service)
                        .toList());
    }

    public Optional<Service> service(ServiceId id) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.ServiceRow.class, id.value()))
                .map(References::service));
    }

    public void putService(Service service) {
        database.run(session -> write(session, service));
    }

    static void write(StatelessSession session, Service service) {
        Rows.ServiceRow row = new Rows.ServiceRow();
        row.id = service.id().value();
        row.name = service.name();
        row.passengers = service.passengers();
        row.owner = service.owner() == null ? null : service.owner().value();
        row.calendar = service.calendar() == null ? null : service.calendar().value();
        row.targets = Json.write(service.targets());
        session.upsert(row);
        References.changed(session);
    }

    /** CIs whose id or name holds a text; all when it is blank. */
    public List<ConfigurationItem> cis(String text, int most) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from CiRow where lower(id) like ?1 escape '!' or lower(name) like ?1 escape '!' order by id",
                        Rows.CiRow.class)
                .setParameter(1, holding(text))
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(References::ci)
                .toList());
    }

    /** @param entity one of our own, with an id and a name */
    private <R, T> List<T> called(
            String entity, Class<R> type, String text, int most, BiFunction<StatelessSession, R, T> of) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from " + entity + " where lower(id) like ?1 escape '!' or lower(name) like ?1 escape '!'"
                                + " order by case when lower(id) = ?2 or lower(name) = ?2 then 0 else 1 end, name, id",
                        type)
                .setParameter(1, holding(text))
                .setParameter(2, text.strip().toLowerCase(Locale.ROOT))
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(row -> of.apply(session, row))
                .toList());
    }

    private static String holding(String text) {
        return "%" + text.strip().toLowerCase(Locale.ROOT).replaceAll("([!%_])", "!$1") + "%";
    }

    /**
     * The CIs of which something has a value, at most two: whoever asks wants to know whether there is one and no other.
     *
     * @param by {@code id}, {@code name}, {@code address} or the name of an attribute
     */
    public List<ConfigurationItem> cisWith(String by, String value) {
        return database.read(session -> {
            boolean column = List.of("id", "name", "address").contains(by);
            // An attribute stands in a document, where its text narrows down and its value decides.
            String query = column
                    ? "from CiRow where " + by + " = ?1 order by id"
                    : "from CiRow where attributes like ?1 escape '!' order by id";
            String text = column ? value : "%" + Json.write(by) + "%" + like(value) + "%";
            return session.createSelectionQuery(query, Rows.CiRow.class).setParameter(1, text).getResultList().stream()
                    .map(References::ci)
                    .filter(ci -> column
                            || value.equals(String.valueOf(ci.attributes().get(by))))
                    .limit(2)
                    .toList();
        });
    }

    private static String like(String value) {
        String json = Json.write(value);
        return json.substring(1, json.length() - 1)
                .replace("!", "!!")
                .replace("%", "!%")
                .replace("_", "!_");
    }

    public Optional<ConfigurationItem> ci(CiId id) {
        return database.read(session ->
                Optional.ofNullable(session.get(Rows.CiRow.class, id.value())).map(References::ci));
    }

    public void putCi(ConfigurationItem ci) {
        database.run(session -> write(session, ci));
    }

    /** @return as it is now: with what was wished of it */
    static ConfigurationItem write(StatelessSession session, ConfigurationItem set) {
        Rows.CiRow before = session.get(Rows.CiRow.class, set.id().value(), LockMode.PESSIMISTIC_WRITE);
        ConfigurationItem ci = set.inPlaceOf(before == null ? null : References.ci(before));
        Rows.CiRow row = new Rows.CiRow();
        row.id = ci.id().value();
        row.name = ci.name();
        row.kind = ci.kind();
        row.service = ci.service() == null ? null : ci.service().value();
        row.site = ci.site();
        row.address = ci.address();
        row.owner = ci.owner() == null ? null : ci.owner().value();
        row.life = ci.life();
        row.attributes = Json.write(ci.attributes());
        row.wish = References.json(ci.wish());
        row.revision = before == null ? 0 : before.revision + 1;
        session.upsert(row);
        return ci;
    }

    public void relate(CiId from, String relation, CiId to) {
        database.run(session -> {
            Rows.CiRelationRow row = new Rows.CiRelationRow();
            row.key = new Rows.CiRelationKey(from.value(), relation, to.value());
            session.upsert(row);
        });
    }

    /** The relations that begin or end at some CIs. */
    public List<Dependence.Relation> relationsAt(Collection<CiId> cis) {
        List<String> ids = cis.stream().map(CiId::value).toList();
        return database.read(session -> session
                .createSelectionQuery(
                        "from CiRelationRow where key.fromCi in ?1 or key.toCi in ?1", Rows.CiRelationRow.class)
                .setParameter(1, ids)
                .getResultList()
                .stream()
                .map(r -> new Dependence.Relation(new CiId(r.key.fromCi()), r.key.relation(), new CiId(r.key.toCi())))
                .toList());
    }

    public List<Relation> relationsOf(CiId ci) {
        return database.read(session -> {
            List<Object[]> pairs = References.related(session, ci, 100);
            Map<String, Long> open = openOn(
                    session,
                    pairs.stream().map(pair -> ((Rows.CiRow) pair[1]).id).toList());
            return pairs.stream()
                    .map(pair -> {
                        Rows.CiRelationKey key = ((Rows.CiRelationRow) pair[0]).key;
                        Rows.CiRow other = (Rows.CiRow) pair[1];
                        return new Relation(
                                key.relation(),
                                other.id,
                                other.name,
                                key.fromCi().equals(ci.value()),
                                open.getOrDefault(other.id, 0L));
                    })
                    .toList();
        });
    }

    /** What the neighbours of a CI lead on to: what stands behind what it rests on, and who rests on those that rest on it. */
    public List<Further> furtherFrom(CiId ci, List<Relation> neighbours) {
        return database.read(session -> {
            List<Further> all = new ArrayList<>();
            for (boolean outgoing : new boolean[] {false, true}) {
                List<String> via = neighbours.stream()
                        .filter(n -> n.outgoing() == outgoing)
                        .map(Relation::ci)
                        .toList();
                if (!via.isEmpty()) {
                    further(session, ci, via, outgoing, all);
                }
            }
            Map<String, Long> open =
                    openOn(session, all.stream().map(Further::ci).distinct().toList());
            return all.stream()
                    .map(f -> new Further(
                            f.relation(), f.ci(), f.name(), f.via(), f.outgoing(), open.getOrDefault(f.ci(), 0L)))
                    .toList();
        });
    }

    private static void further(
            StatelessSession session, CiId of, List<String> via, boolean outgoing, List<Further> into) {
        String near = outgoing ? "fromCi" : "toCi";
        String far = outgoing ? "toCi" : "fromCi";
        session.createSelectionQuery(
                        "select r, c from CiRelationRow r join CiRow c on c.id = r.key." + far + " where r.key." + near
                                + " in (?1) and c.id <> ?2 and c.id not in (?1) order by c.id",
                        Object[].class)
                .setParameterList(1, via)
                .setParameter(2, of.value())
                .setMaxResults(200)
                .getResultList()
                .forEach(pair -> {
                    Rows.CiRelationKey key = ((Rows.CiRelationRow) pair[0]).key;
                    Rows.CiRow other = (Rows.CiRow) pair[1];
                    into.add(new Further(
                            key.relation(), other.id, other.name, outgoing ? key.fromCi() : key.toCi(), outgoing, 0));
                });
    }

    private static Map<String, Long> openOn(StatelessSession session, List<String> cis) {
        Map<String, Long> open = new HashMap<>();
        if (!cis.isEmpty()) {
            session.createSelectionQuery(
                            "select t.ci, count(*) from TicketRow t where t.ended = false and t.isTest = false and t.ci in (?1) group by t.ci",
                            Object[].class)
                    .setParameterList(1, cis)
                    .getResultList()
                    .forEach(row -> open.put((String) row[0], (Long) row[1]));
        }
        return open;
    }

    public List<CiChange> changesOf(CiId ci) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from CiChangeRow where ci = ?1 and key.name <> ?2 order by at desc", Rows.CiChangeRow.class)
                .setParameter(1, ci.value())
                .setParameter(2, ConfigurationItem.WISH)
                .setMaxResults(50)
                .getResultList()
                .stream()
                .map(r -> new CiChange(r.key.ticket(), r.at, r.key.name(), r.beforeValue, r.afterValue))
                .toList());
    }

    // --- calendars and settings

    public List<WorkingCalendar> calendars() {
        return database.read(session -> References.documents(session, References.CALENDAR, WorkingCalendar.class));
    }

    public void putCalendar(WorkingCalendar calendar) {
        database.run(session -> References.putDocument(
                session, References.CALENDAR, calendar.key().value(), calendar));
    }

    /** By what people are told and heard, as far as it was set on screen. */
    public Channels channels() {
        return database.read(session ->
                        References.document(session, References.CHANNELS, References.CHANNELS, Channels.class))
                .orElse(Channels.AS_STARTED);
    }

    /** The calendar that counts where a service names none; empty when none is set. */
    public Optional<CalendarKey> defaultCalendar() {
        return database.read(session ->
                References.document(session, References.SETTING, References.DEFAULT_CALENDAR, CalendarKey.class));
    }

    public List<Rota> rotas() {
        return database.read(session -> References.documents(session, References.ROTA, Rota.class));
    }

    public Optional<Rota> rota(RotaKey key) {
        return database.read(session -> References.document(session, References.ROTA, key.value(), Rota.class));
    }

    public void putRota(Rota rota) {
        database.run(session ->
                References.putDocument(session, References.ROTA, rota.key().value(), rota));
    }

    public void setDefaultCalendar(CalendarKey key) {
        database.run(session -> References.putDocument(session, References.SETTING, References.DEFAULT_CALENDAR, key));
    }

    public FieldCatalogue fields() {
        return database.read(
                        session -> References.document(session, References.SETTING, "fields", FieldCatalogue.class))
                .orElse(FieldCatalogue.PLAIN);
    }

    public void putFields(FieldCatalogue fields) {
        database.run(session -> References.putDocument(session, References.SETTING, "fields", fields));
    }

    public PriorityMatrix priorities() {
        return database.read(
                        session -> References.document(session, References.SETTING, "priorities", PriorityMatrix.class))
                .orElse(PriorityMatrix.USUAL);
    }

    /** A small value the application keeps for itself, such as how far the demo's clock was moved. */
    public Optional<String> setting(String name) {
        return database.read(session -> References.document(session, References.SETTING, name, String.class));
    }

    public void putSetting(String name, String value) {
        database.run(session -> References.putDocument(session, References.SETTING, name, value));
    }
}
