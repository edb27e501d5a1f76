package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.people.Role;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.time.CalendarKey;
import dastur.server.auth.Throttle;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.server.work.Live;
import dastur.store.Journal;
import dastur.store.Organisation;
import dastur.store.Page;
import dastur.store.SetUp;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Accounts, groups, services, connections and actions: made and changed by people, each on the journal. */
final class SetUpRoutes {
    private static final int PAGE = 50;

    /** @param manager who decides about what the person asks for */
    record AccountBody(
            String name,
            @Nullable String mail,
            Set<Role> roles,
            boolean active,
            @Nullable PersonId manager,
            List<GroupId> groups) {}

    record PasswordBody(String password, @Nullable String current) {}

    /** @param calendar when the group works; null where the service's hours count */
    record GroupBody(
            String name, List<PersonId> members, @Nullable CalendarKey calendar) {}

    record ServiceBody(
            String name,
            boolean passengers,
            @Nullable GroupId owner,
            @Nullable CalendarKey calendar,
            @Nullable Map<String, Service.Promise> targets) {}

    /** @param names what people can take part as when they are called in */
    record PartsBody(List<String> names) {}

    record JournalPage(List<Journal.Line> lines, boolean more) {}

    record ServicesView(List<Service> services, @Nullable CalendarKey defaultCalendar) {}

    private final InstantSource clock;
    private final Journal journal;
    private final Live live;
    private final Organisation organisation;
    private final SetUp setUp;
    private final PasswordTurns passwords;
    private final Throttle throttle = new Throttle();

    private SetUpRoutes(
            InstantSource clock,
            Journal journal,
            Live live,
            Organisation organisation,
            SetUp setUp,
            PasswordTurns passwords) {
        this.clock = clock;
        this.journal = journal;
        this.live = live;
        this.organisation = organisation;
        this.setUp = setUp;
        this.passwords = passwords;
    }

    static Stream<Route> of(
            InstantSource clock,
            Journal journal,
            Live live,
            Organisation organisation,
            SetUp setUp,
            PasswordTurns passwords) {
        SetUpRoutes r = new SetUpRoutes(clock, journal, live, organisation, setUp, passwords);
        return Stream.of(
                Route.put("/api/people/{id}", Right.ADMINISTER, "Set an account", AccountBody.class, null, r::account),
                Route.get(
                        "/api/files/people",
                        Right.ADMINISTER,
                        "All accounts as CSV (RFC 4180)",
                        String.class,
                        r::export),
                Route.post(
                        "/api/files/people",
                        Right.ADMINISTER,
                        "Take accounts from CSV over, or see what that would do",
                        CiRoutes.ImportBody.class,
                        PeopleCsv.Result.class,
                        r::take),
                Route.put(
                        "/api/people/{id}/password",
                        Right.ADMINISTER,
                        "Give an account a password",
                        PasswordBody.class,
                        null,
                        r::givePassword),
                Route.put(
                        "/api/me/password",
                        Right.SIGNED_IN,
                        "Change my password",
                        PasswordBody.class,
                        null,
                        r::myPassword),
                Route.put("/api/groups/{id}", Right.DESIGN, "Set a group", GroupBody.class, null, r::group),
                Route.get(
                        "/api/services",
                        Right.SEE,
                        "Services",
                        ServicesView.class,
                        q -> new ServicesView(
                                organisation.services(),
                                organisation.defaultCalendar().orElse(null))),
                Route.put("/api/services/{id}", Right.DESIGN, "Set a service", ServiceBody.class, null, r::service),
                Route.put(
                        "/api/parts",
                        Right.DESIGN,
                        "Set what people can take part as when they are called in",
                        PartsBody.class,
                        null,
                        r::parts),
                Route.get(
                        "/api/journal",
                        Right.ADMINISTER,
                        "Who changed the set-up",
                        JournalPage.class,
                        r::journal,
                        "before"));
    }

    static String name(@Nullable String text) {
        if (Texts.blank(text) || text.length() > 200 || !Texts.keepable(text)) {
            throw Problem.invalid("name", "A name has 1 to 200 characters.").end();
        }
        return text.strip();
    }

    private Object account(Request q) {
        PersonId id = q.path("id", PersonId::new);
        AccountBody body = q.body(AccountBody.class);
        Person given = new Person(
                id,
                body.name() == null ? "" : body.name().strip(),
                body.mail() == null ? "" : body.mail().strip(),
                Request.needed(body.roles(), "roles"),
                body.active(),
                body.manager());
        Person person;
        try {
            person = new AccountRules(organisation).checked(given, Request.needed(body.groups(), "groups"));
        } catch (Csv.Wrong wrong) {
            throw Problem.invalid(wrong.where, wrong.getMessage()).end();
        }
        if (!setUp.person(Answers.by(q, clock), person, body.groups())) {
            throw Problem.conflict("Nobody would be left who may administer. Make somebody else administrator first.")
                    .end();
        }
        live.lookWhoIsThere();
        return null;
    }

    private Object export(Request q) {
        q.context().header("Content-Disposition", "attachment; filename=\"people.csv\"");
        return new WebServer.Raw("text/csv; charset=utf-8", PeopleCsv.write(organisation));
    }

    private Object take(Request q) {
        CiRoutes.ImportBody body = q.body(CiRoutes.ImportBody.class);
        PeopleCsv.Result result = new PeopleCsv(organisation).read(Request.needed(body.csv(), "csv"));
        if (!body.dryRun()) {
            Csv.takesAll(result.wrong());
            if (!setUp.people(Answers.by(q, clock), result.toSet())) {
                throw Problem.conflict("Nobody would be left who may administer, so nothing was taken over.")
                        .end();
            }
            live.lookWhoIsThere();
        }
        return result;
    }

    private void knownPerson(PersonId id, String where) {
        if (organisation.person(id).isEmpty()) {
            throw Problem.invalid(where, "There is nobody called '" + id + "'.").end();
        }
    }

    private String password(Request q, PasswordBody body) {
        String password = Request.needed(body.password(), "password");
        if (password.length() < 10 || password.length() > 500) {
            throw Problem.invalid("password", "A password has at least 10 characters.")
                    .end();
        }
        return passwords.hash(q, password);
    }

    private Object givePassword(Request q) {
        PersonId id = q.path("id", PersonId::new);
        knownPerson(id, "id");
        setUp.password(Answers.by(q, clock), id, password(q, q.body(PasswordBody.class)));
        live.lookWhoIsThere();
        return null;
    }

    private Object myPassword(Request q) {
        PasswordBody body = q.body(PasswordBody.class);
        Optional<String> hash = organisation.passwordHash(q.person().id());
        if (!throttle.allows(q.address(), q.person().id().value())) {
            throw Problem.tooOften().end();
        }
        if (hash.isPresent()
                && (body.current() == null || !passwords.fits(q, Texts.clip(body.current(), 500), hash.get()))) {
            throw Problem.invalid("current", "That is not your present password.")
                    .end();
        }
        setUp.password(Answers.by(q, clock), q.person().id(), password(q, body));
        throttle.succeeded(q.address(), q.person().id().value());
        live.lookWhoIsThere();
        return null;
    }

    private Object group(Request q) {
        GroupBody body = q.body(GroupBody.class);
        List<PersonId> members = Request.needed(body.members(), "members").stream()
                .distinct()
                .sorted()
                .toList();
        members.forEach(m -> knownPerson(m, "members"));
        if (members.size() > 1000) {
            throw Problem.invalid("members", "A group has at most 1,000 members.")
                    .end();
        }
        CalendarRoutes.known(organisation, body.calendar());
        setUp.group(
                Answers.by(q, clock),
                new Group(q.path("id", GroupId::new), name(body.name()), members, body.calendar()));
        return null;
    }

    private Object service(Request q) {
        ServiceBody body = q.body(ServiceBody.class);
        if (body.owner() != null && organisation.group(body.owner()).isEmpty()) {
            throw Problem.invalid("owner", "There is no group '" + body.owner() + "'.")
                    .end();
        }
        CalendarRoutes.known(organisation, body.calendar());
        setUp.service(
                Answers.by(q, clock),
                new Service(
                        q.path("id", ServiceId::new),
                        name(body.name()),
                        body.passengers(),
                        body.owner(),
                        body.calendar(),
                        targets(body.targets())));
        return null;
    }

    private static Map<String, Service.Promise> targets(@Nullable Map<String, Service.Promise> given) {
        Map<String, Service.Promise> targets = new TreeMap<>();
        if (given != null) {
            given.forEach((priority, promise) -> {
                if (!PRIORITIES.contains(priority)) {
                    throw Problem.invalid("targets", "Targets are set for P1, P2, P3 and P4.")
                            .end();
                }
                if (promise.respond() != null || promise.restore() != null) {
                    targets.put(priority, promise);
                }
            });
        }
        return targets;
    }

    private static final Set<String> PRIORITIES = Set.of("P1", "P2", "P3", "P4");

    private Object parts(Request q) {
        List<String> names = Request.needed(q.body(PartsBody.class).names(), "names").stream()
                .map(String::strip)
                .filter(n -> !n.isEmpty())
                .distinct()
                .toList();
        if (names.size() > 50 || names.stream().anyMatch(n -> n.length() > 80)) {
            throw Problem.invalid("names", "There are at most 50 parts, each named with 1 to 80 characters.")
                    .end();
        }
        setUp.parts(Answers.by(q, clock), names);
        return null;
    }

    private Object journal(Request q) {
        Optional<String> before = q.query("before");
        try {
            Page<Journal.Line> page = journal.lines(before.map(Long::valueOf).orElse(null), PAGE);
            return new JournalPage(page.items(), page.more());
        } catch (NumberFormatException e) {
            throw Problem.malformed("before", "'before' is the number of a line.")
                    .end();
        }
    }
}
