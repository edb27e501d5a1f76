package dastur.store;

import dastur.core.feed.Subscription;
import dastur.core.partner.Partner;
import dastur.core.people.Channels;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.signal.Source;
import dastur.core.start.Watch;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.Service;
import dastur.core.time.CalendarKey;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.HandReading;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Zone;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Changes of the set-up by people. Each is one transaction with its line in the journal. */
public final class SetUp {
    /** A relation of a CI to another. */
    public record Relation(String relation, String to) {}

    /** An account and the groups it is in. */
    public record Account(Person person, List<GroupId> groups) {}

    private record PersonAndGroups(Person person, Collection<GroupId> groups) {}

    record CiAndRelations(ConfigurationItem ci, Collection<Relation> relations) {}

    private static final String PERSON = "person";
    private static final String GROUP = "group";
    private static final String SERVICE = "service";
    private static final String USUAL = "usual calendar";
    private static final String FIELDS = "fields";
    private static final Map<String, Class<?>> DOCUMENTS = Map.ofEntries(
            Map.entry(References.CALENDAR, WorkingCalendar.class),
            Map.entry(References.ROTA, Rota.class),
            Map.entry(References.LADDER, Ladder.class),
            Map.entry(References.ACTION, Action.class),
            Map.entry(References.TERMS, TermsOfUse.class),
            Map.entry(References.CONNECTION, Connection.class),
            Map.entry(Sources.KIND, Source.class),
            Map.entry(Partners.KIND, Partner.class),
            Map.entry(Relays.KIND, Zone.class),
            Map.entry(References.CHANNELS, Channels.class),
            Map.entry(References.SETTING, Organisation.Parts.class));

    /** The hours that count where a service names none. */
    private record Usual(CalendarKey calendar) {}

    private final Database database;

    /** Whether the audit compares what lines about such a subject set with what is there. */
    static boolean isCompared(String subject) {
        return List.of(PERSON, GROUP, SERVICE, USUAL, FIELDS).contains(subject) || DOCUMENTS.containsKey(subject);
    }

    /** What something is now, as a line of the journal would set it; null when it is not there or not compared. */
    static @Nullable Object now(StatelessSession session, String subject, String id) {
        return switch (subject) {
            case PERSON -> {
                Rows.PersonRow row = session.get(Rows.PersonRow.class, id);
                yield row == null ? null : References.person(row);
            }
            case USUAL -> usual(session).orElse(null);
            case FIELDS -> declared(session).orElse(null);
            case GROUP -> {
                Rows.TeamRow row = session.get(Rows.TeamRow.class, id);
                yield row == null ? null : References.group(session, row);
            }
            case SERVICE -> {
                Rows.ServiceRow row = session.get(Rows.ServiceRow.class, id);
                yield row == null ? null : References.service(row);
            }
            default -> {
                Class<?> type = DOCUMENTS.get(subject);
                yield type == null
                        ? null
                        : References.document(session, subject, id, type).orElse(null);
            }
        };
    }

    public SetUp(Database database) {
        this.database = database;
    }

    /**
     * Sets an account and the groups it is in.
     *
     * @return false when nobody active would be left who may administer; then nothing is changed
     */
    public boolean person(Journal.By by, Person person, List<GroupId> groups) {
        return people(by, List.of(new Account(person, groups)));
    }

    /**
     * Sets many accounts, or none.
     *
     * @param accounts whoever is named as a manager is there already or stands before
     * @return false when nobody active would be left who may administer; then nothing is changed
     */
    public boolean people(Journal.By by, List<Account> accounts) {
        try {
            database.run(session -> {
                // First, since it is locked until the end: two who take each other's right see one another.
                References.changed(session);
                boolean administered = somebodyAdministers(session);
                accounts.forEach(a -> set(session, by, a.person(), a.groups()));
                if (administered && !somebodyAdministers(session)) {
                    throw new NobodyLeft();
                }
            });
            return true;
        } catch (NobodyLeft e) {
            return false;
        }
    }

    private static final class NobodyLeft extends RuntimeException {
        NobodyLeft() {
            super(null, null, false, false);
        }
    }

    private static void set(StatelessSession session, Journal.By by, Person person, List<GroupId> groups) {
        String id = person.id().value();
        Optional<Rows.PersonRow> old = Optional.ofNullable(session.get(Rows.PersonRow.class, id));
        Optional<PersonAndGroups> before =
                old.map(row -> new PersonAndGroups(References.person(row), groupsOf(session, id)));
        Organisation.write(session, person, old.map(row -> row.password).orElse(null));
        Map<String, Group> groupsBefore = new TreeMap<>();
        Stream.concat(before.stream().flatMap(b -> b.groups().stream()), groups.stream())
                .forEach(g -> Optional.ofNullable(session.get(Rows.TeamRow.class, g.value()))
                        .ifPresent(row -> groupsBefore.put(g.value(), References.group(session, row))));
        session.createMutationQuery("delete TeamMemberRow where key.person = ?1")
                .setParameter(1, id)
                .executeUpdate();
        groups.stream().distinct().forEach(g -> {
            Rows.TeamMemberRow row = new Rows.TeamMemberRow();
            row.key = new Rows.TeamMemberKey(g.value(), id);
            session.insert(row);
        });
        if (!person.active()) {
            endSignIns(session, id);
        }
        PersonAndGroups after =
                new PersonAndGroups(person, groups.stream().distinct().sorted().toList());
        Journal.changed(session, by, PERSON, id, before, after, person);
        // Who is in a group stands at the group, so that one line says what it is.
        groupsBefore.forEach((group, was) -> Journal.changed(
                session,
                by,
                GROUP,
                group,
                Optional.of(was),
                References.group(session, session.get(Rows.TeamRow.class, group))));
    }

    private static List<GroupId> groupsOf(StatelessSession session, String person) {
        return session
                .createSelectionQuery(
                        "select key.team from TeamMemberRow where key.person = ?1 order by key.team", String.class)
                .setParameter(1, person)
                .getResultList()
                .stream()
                .map(GroupId::new)
                .toList();
    }

    private static boolean somebodyAdministers(StatelessSession session) {
        return session
                .createSelectionQuery("from PersonRow where active = true", Rows.PersonRow.class)
                .getResultList()
                .stream()
                .anyMatch(p -> References.roles(p.roles).contains(Role.ADMINISTRATOR));
    }

    /** Sets a password and ends every sign-in of the account. @param hash an argon2id hash */
    public void password(Journal.By by, PersonId person, String hash) {
        database.run(session -> {
            session.createMutationQuery("update PersonRow set password = ?1 where id = ?2")
                    .setParameter(1, StoredPassword.of(database.mac(), person.value(), hash))
                    .setParameter(2, person.value())
                    .executeUpdate();
            endSignIns(session, person.value());
            Journal.write(session, by, "person", person.value(), "given a new password", null);
        });
    }

    /** Whoever had got hold of the old password, or of the account, is out: sign-ins and API tokens end with it. */
    private static void endSignIns(StatelessSession session, String person) {
        session.createMutationQuery("delete SessionRow where person = ?1 or seesAs = ?1")
                .setParameter(1, person)
                .executeUpdate();
        session.createMutationQuery("delete ApiTokenRow where person = ?1")
                .setParameter(1, person)
                .executeUpdate();
    }

    public void group(Journal.By by, Group group) {
        database.run(session -> {
            String id = group.id().value();
            Optional<Group> before =
                    Optional.ofNullable(session.get(Rows.TeamRow.class, id)).map(t -> References.group(session, t));
            Organisation.write(session, group);
            Journal.changed(session, by, GROUP, id, before, group);
        });
    }

    public void service(Journal.By by, Service service) {
        database.run(session -> {
            String id = service.id().value();
            Optional<Service> before =
                    Optional.ofNullable(session.get(Rows.ServiceRow.class, id)).map(References::service);
            Organisation.write(session, service);
            Journal.changed(session, by, SERVICE, id, before, service);
        });
    }

    /** Sets CIs, all or none. @param relations those that lead from a CI, replaced as a whole; null leaves them */
    public void cis(Journal.By by, List<ConfigurationItem> cis, @Nullable List<Relation> relations) {
        database.run(session -> cis.forEach(ci -> ci(session, by, ci, relations)));
    }

    private static void ci(
            StatelessSession session, Journal.By by, ConfigurationItem set, @Nullable List<Relation> relations) {
        String id = set.id().value();
        List<Relation> related = relationsFrom(session, id);
        Optional<CiAndRelations> before = Optional.ofNullable(session.get(Rows.CiRow.class, id))
                .map(row -> new CiAndRelations(References.ci(row), related));
        ConfigurationItem ci = Organisation.write(session, set);
        if (relations != null) {
            session.createMutationQuery("delete CiRelationRow where key.fromCi = ?1")
                    .setParameter(1, id)
                    .executeUpdate();
            relations.stream().distinct().forEach(r -> {
                Rows.CiRelationRow row = new Rows.CiRelationRow();
                row.key = new Rows.CiRelationKey(id, r.relation(), r.to());
                session.insert(row);
            });
        }
        CiAndRelations after = relations == null
                ? new CiAndRelations(ci, related)
                : ciNow(session, id).orElseThrow();
        Journal.changed(session, by, "CI", id, before, after);
    }

    /** A CI with what it leads to, as a line of the journal sets it. */
    static Optional<CiAndRelations> ciNow(StatelessSession session, String id) {
        return Optional.ofNullable(session.get(Rows.CiRow.class, id))
                .map(row -> new CiAndRelations(References.ci(row), relationsFrom(session, id)));
    }

    private static List<Relation> relationsFrom(StatelessSession session, String id) {
        return session
                .createSelectionQuery(
                        "from CiRelationRow where key.fromCi = ?1 order by key.relation, key.toCi",
                        Rows.CiRelationRow.class)
                .setParameter(1, id)
                .getResultList()
                .stream()
                .map(r -> new Relation(r.key.relation(), r.key.toCi()))
                .collect(Collectors.toList());
    }

    public void calendar(Journal.By by, WorkingCalendar calendar) {
        document(by, References.CALENDAR, calendar.key().value(), calendar, WorkingCalendar.class);
    }

    /** Says which hours count where a service names none. */
    public void usualCalendar(Journal.By by, CalendarKey calendar) {
        database.run(session -> {
            Optional<Usual> before = usual(session);
            References.putDocument(session, References.SETTING, References.DEFAULT_CALENDAR, calendar);
            Journal.changed(session, by, USUAL, USUAL, before, new Usual(calendar));
        });
    }

    private static Optional<Usual> usual(StatelessSession session) {
        return References.document(session, References.SETTING, References.DEFAULT_CALENDAR, CalendarKey.class)
                .map(Usual::new);
    }

    public void parts(Journal.By by, List<String> names) {
        document(by, References.SETTING, Organisation.PARTS, new Organisation.Parts(names), Organisation.Parts.class);
    }

    /**
     * Which fields tickets and CIs have of their own.
     *
     * @param was what the new ones were judged by
     * @return false when that is not how they are any more; then nothing is changed
     */
    public boolean fields(Journal.By by, FieldCatalogue was, FieldCatalogue fields) {
        return database.write(session -> {
            // Whoever else declares some waits here, and then sees these.
            References.changed(session);
            Optional<FieldCatalogue> before = declared(session);
            if (!before.orElse(FieldCatalogue.PLAIN).equals(was)) {
                return false;
            }
            References.putDocument(session, References.SETTING, FIELDS, fields);
            Journal.changed(session, by, FIELDS, FIELDS, before, fields);
            return true;
        });
    }

    private static Optional<FieldCatalogue> declared(StatelessSession session) {
        return References.document(session, References.SETTING, FIELDS, FieldCatalogue.class);
    }

    public void rota(Journal.By by, Rota rota) {
        document(by, References.ROTA, rota.key().value(), rota, Rota.class);
    }

    public void ladder(Journal.By by, Ladder ladder) {
        document(by, References.LADDER, ladder.key().value(), ladder, Ladder.class);
    }

    public void connection(Journal.By by, Connection connection) {
        document(by, References.CONNECTION, connection.key(), connection, Connection.class);
    }

    /** Holds calls over a connection back, or lets them out again (M6). */
    public void calls(Journal.By by, String connection, ByHand said) {
        database.run(session -> {
            References.putDocument(session, References.BREAKER, connection, said);
            Journal.write(
                    session, by, References.BREAKER, connection, said.held() ? "held back" : "let out", said.why());
        });
    }

    /** Sets a private network, which relays reach. */
    public void zone(Journal.By by, Zone zone) {
        document(by, Relays.KIND, zone.key().value(), zone, Zone.class);
    }

    public void source(Journal.By by, Source source) {
        document(by, Sources.KIND, source.key().value(), source, Source.class);
    }

    public void subscription(Journal.By by, Subscription subscription) {
        document(by, Subscriptions.KIND, subscription.key().value(), subscription, Subscription.class);
    }

    /** Lets people read by an action on tickets, or no longer. */
    public void handReading(Journal.By by, HandReading reading) {
        document(by, HandReadings.KIND, reading.action().value(), reading, HandReading.class);
    }

    /**
     * Says who may use an action, and where.
     *
     * @param was by which it was judged that somebody may say so
     * @return false when that is not how it is any more; then nothing is changed
     */
    public boolean terms(Journal.By by, TermsOfUse was, TermsOfUse terms) {
        return database.write(session -> {
            // Whoever else says so waits here, and then sees this.
            References.changed(session);
            String key = terms.action().value();
            Optional<TermsOfUse> before = References.document(session, References.TERMS, key, TermsOfUse.class);
            if (!before.orElse(TermsOfUse.none(terms.action())).equals(was)) {
                return false;
            }
            References.putDocument(session, References.TERMS, key, terms);
            Journal.changed(session, by, References.TERMS, key, before, terms);
            return true;
        });
    }

    /** Sets a watch, with the source of its signals. */
    public void watch(Journal.By by, Watch watch, Source source) {
        document(by, Watches.KIND, watch.key().value(), watch, Watch.class);
        source(by, source);
    }

    /** Sets a partner, with the source of the signals that its new tickets are. */
    public void partner(Journal.By by, Partner partner, Source source) {
        document(by, Partners.KIND, partner.key().value(), partner, Partner.class);
        source(by, source);
    }

    /**
     * Changes by what people are told and heard; it holds from the next mail on.
     *
     * @param change what is to be otherwise than it is
     * @return what was set before
     */
    public Channels channels(Journal.By by, UnaryOperator<Channels> change) {
        return database.write(session -> {
            // First, since it is locked until the end: two who set two parts in the same second set both.
            References.changed(session);
            Optional<Channels> before =
                    References.document(session, References.CHANNELS, References.CHANNELS, Channels.class);
            Channels after = change.apply(before.orElse(Channels.AS_STARTED));
            References.putDocument(session, References.CHANNELS, References.CHANNELS, after);
            Journal.changed(session, by, References.CHANNELS, References.CHANNELS, before, after);
            return before.orElse(Channels.AS_STARTED);
        });
    }

    private <T> void document(Journal.By by, String kind, String name, T after, Class<T> type) {
        database.run(session -> {
            Optional<T> before = References.document(session, kind, name, type);
            References.putDocument(session, kind, name, after);
            Journal.changed(session, by, kind, name, before, after);
        });
    }
}
