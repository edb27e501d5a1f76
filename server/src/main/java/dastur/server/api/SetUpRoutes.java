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
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.server.App;
import dastur.server.auth.Throttle;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Journal;
import dastur.store.Page;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Accounts, groups, services, calendars, connections and actions: made and changed by people, each on the journal. */
public final class SetUpRoutes {
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

    /** All that automation is made of. @param secrets the names of secrets that are there; never their values */
    record AutomationView(List<Connection> connections, List<Action> actions, List<String> secrets) {}

    record JournalPage(List<Journal.Line> lines, boolean more) {}

    record UsualCalendarBody(CalendarKey calendar) {}

    record ServicesView(List<Service> services, @Nullable CalendarKey defaultCalendar) {}

    private final App app;
    private final Throttle throttle = new Throttle();

    private SetUpRoutes(App app) {
        this.app = app;
    }

    public static Stream<Route> of(App app) {
        SetUpRoutes r = new SetUpRoutes(app);
        return Stream.of(
                Route.put("/api/people/{id}", Right.ADMINISTER, "Set an account", AccountBody.class, null, r::account),
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
                                app.organisation().services(),
                                app.organisation().defaultCalendar().orElse(null))),
                Route.put("/api/services/{id}", Right.DESIGN, "Set a service", ServiceBody.class, null, r::service),
                Route.put(
                        "/api/calendars/{key}",
                        Right.DESIGN,
                        "Set a working calendar",
                        WorkingCalendar.class,
                        null,
                        r::calendar),
                Route.put(
                        "/api/usual-calendar",
                        Right.DESIGN,
                        "Say which working calendar counts where a service names none",
                        UsualCalendarBody.class,
                        null,
                        r::usualCalendar),
                Route.get("/api/automation", Right.SEE, "Connections and actions", AutomationView.class, r::automation),
                Route.put(
                        "/api/connections/{key}",
                        Right.ADMINISTER,
                        "Set a connection",
                        Connection.class,
                        null,
                        r::connection),
                Route.put(
                        "/api/parts",
                        Right.DESIGN,
                        "Set what people can take part as when they are called in",
                        PartsBody.class,
                        null,
                        r::parts),
                Route.put("/api/actions/{key}", Right.DESIGN, "Set an action", Action.class, null, r::action),
                Route.get(
                        "/api/journal",
                        Right.ADMINISTER,
                        "Who changed the set-up",
                        JournalPage.class,
                        r::journal,
                        "before"));
    }

    static Journal.By by(App app, Request q) {
        return new Journal.By(q.person().id(), app.clock().instant());
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
        String mail = body.mail() == null ? "" : body.mail().strip();
        if (!mail.isEmpty() && !mail.matches("[^\\s@<>,;\"]{1,200}@[^\\s@<>,;\"]{1,90}")) {
            throw Problem.invalid("mail", "'" + Texts.clip(mail, 60) + "' is not a mail address.")
                    .end();
        }
        Request.needed(body.groups(), "groups").forEach(this::knownGroup);
        Set<Role> roles = Request.needed(body.roles(), "roles");
        if (body.active() && roles.isEmpty()) {
            throw Problem.invalid("roles", "Somebody with no role can do nothing here: give at least one.")
                    .end();
        }
        if (body.manager() != null) {
            if (body.manager().equals(id)) {
                throw Problem.invalid("manager", "Nobody is their own manager.").end();
            }
            knownPerson(body.manager(), "manager");
        }
        if (!mail.isEmpty()
                && app.organisation().people().stream()
                        .anyMatch(p -> !p.id().equals(id) && p.mail().equalsIgnoreCase(mail))) {
            throw Problem.invalid("mail", "Somebody else has this address, and one can sign in with it.")
                    .end();
        }
        Person person = new Person(id, name(body.name()), mail, roles, body.active(), body.manager());
        if (!app.setUp().person(by(app, q), person, body.groups())) {
            throw Problem.conflict("Nobody would be left who may administer. Make somebody else administrator first.")
                    .end();
        }
        app.live().lookWhoIsThere();
        return null;
    }

    private void knownGroup(GroupId id) {
        if (app.organisation().group(id).isEmpty()) {
            throw Problem.invalid("groups", "There is no group '" + id + "'.").end();
        }
    }

    private void knownPerson(PersonId id, String where) {
        if (app.organisation().person(id).isEmpty()) {
            throw Problem.invalid(where, "There is nobody called '" + id + "'.").end();
        }
    }

    private String password(Request q, PasswordBody body) {
        String password = Request.needed(body.password(), "password");
        if (password.length() < 10 || password.length() > 500) {
            throw Problem.invalid("password", "A password has at least 10 characters.")
                    .end();
        }
        return PasswordTurns.hash(app, q, password);
    }

    private Object givePassword(Request q) {
        PersonId id = q.path("id", PersonId::new);
        knownPerson(id, "id");
        app.setUp().password(by(app, q), id, password(q, q.body(PasswordBody.class)));
        app.live().lookWhoIsThere();
        return null;
    }

    private Object myPassword(Request q) {
        PasswordBody body = q.body(PasswordBody.class);
        Optional<String> hash = app.organisation().passwordHash(q.person().id());
        if (!throttle.allows(q.address(), q.person().id().value())) {
            throw Problem.tooOften().end();
        }
        if (hash.isPresent()
                && (body.current() == null
                        || !PasswordTurns.fits(app, q, Texts.clip(body.current(), 500), hash.get()))) {
            throw Problem.invalid("current", "That is not your present password.")
                    .end();
        }
        app.setUp().password(by(app, q), q.person().id(), password(q, body));
        throttle.succeeded(q.address(), q.person().id().value());
        app.live().lookWhoIsThere();
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
        knownCalendar(body.calendar());
        app.setUp()
                .group(by(app, q), new Group(q.path("id", GroupId::new), name(body.name()), members, body.calendar()));
        return null;
    }

    private Object service(Request q) {
        ServiceBody body = q.body(ServiceBody.class);
        if (body.owner() != null && app.organisation().group(body.owner()).isEmpty()) {
            throw Problem.invalid("owner", "There is no group '" + body.owner() + "'.")
                    .end();
        }
        knownCalendar(body.calendar());
        app.setUp()
                .service(
                        by(app, q),
                        new Service(
                                q.path("id", ServiceId::new),
                                name(body.name()),
                                body.passengers(),
                                body.owner(),
                                body.calendar(),
                                targets(body.targets())));
        return null;
    }

    private void knownCalendar(@Nullable CalendarKey key) {
        if (key != null
                && app.organisation().calendars().stream()
                        .noneMatch(c -> c.key().equals(key))) {
            throw Problem.invalid("calendar", "There is no working calendar '" + key + "'.")
                    .end();
        }
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
        app.setUp().parts(by(app, q), names);
        return null;
    }

    private Object usualCalendar(Request q) {
        CalendarKey key = Request.needed(q.body(UsualCalendarBody.class).calendar(), "calendar");
        knownCalendar(key);
        app.setUp().usualCalendar(by(app, q), key);
        return null;
    }

    private Object calendar(Request q) {
        WorkingCalendar calendar = q.body(WorkingCalendar.class);
        if (!calendar.key().equals(q.path("key", CalendarKey::new))) {
            throw Problem.invalid("key", "A calendar has the key it is stored under.")
                    .end();
        }
        name(calendar.name());
        calendar.hours().forEach((day, hours) -> {
            for (int i = 1; i < hours.size(); i++) {
                WorkingCalendar.Hours before = hours.get(i - 1);
                boolean apart = before.to().isAfter(before.from())
                        && !hours.get(i).from().isBefore(before.to());
                if (!apart) {
                    throw Problem.invalid("hours", "The hours of a day stand in order and do not overlap.")
                            .end();
                }
            }
        });
        if (calendar.holidays().size() > 1000) {
            throw Problem.invalid("holidays", "A calendar has at most 1,000 holidays.")
                    .end();
        }
        app.setUp().calendar(by(app, q), calendar);
        return null;
    }

    private Object automation(Request q) {
        return new AutomationView(app.workflows().connections(), app.workflows().actions(), SecretRoutes.names(app));
    }

    private Object connection(Request q) {
        Connection connection = q.body(Connection.class);
        if (!q.context().pathParam("key").equals(connection.key())) {
            throw Problem.invalid("key", "A connection has the key it is stored under.")
                    .end();
        }
        Request.needed(connection.base(), "base");
        try {
            Texts.checkId("connection's key", connection.key());
            Protocol.of(connection.base());
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("base", e.getMessage()).end();
        }
        name(connection.name());
        if (connection.allowedHosts().stream().anyMatch(h -> !h.matches("[A-Za-z0-9.-]{1,253}(:\\d{1,5})?"))) {
            throw Problem.invalid("allowedHosts", "A host is a name or address, with a port where it has one.")
                    .end();
        }
        if (connection.secret() != null && !SecretRoutes.names(app).contains(connection.secret())) {
            throw Problem.invalid(
                            "secret",
                            "There is no secret '" + Texts.clip(connection.secret(), 60)
                                    + "'. Set it first, under Secrets.")
                    .end();
        }
        app.setUp().connection(by(app, q), connection);
        return null;
    }

    /** Two outputs from one place are a slip: one of them would never hold what its name says. */
    private static void onePointerEach(Action action) {
        Map<String, String> places = new HashMap<>();
        for (Action.Output output : action.outputs()) {
            if (output.pointer().isEmpty() || !output.pointer().startsWith("/")) {
                throw Problem.invalid(
                                "outputs",
                                "Say where '" + output.field().label()
                                        + "' stands in the answer: a JSON pointer (RFC 6901), such as /status.")
                        .end();
            }
            String other = places.put(output.pointer(), output.field().label());
            if (other != null) {
                throw Problem.invalid(
                                "outputs",
                                "'" + other + "' and '" + output.field().label() + "' are both read from "
                                        + output.pointer() + ". Give each its own place in the answer.")
                        .end();
            }
        }
    }

    private Object action(Request q) {
        Action action = q.body(Action.class);
        if (!q.path("key", ActionKey::new).equals(action.key())) {
            throw Problem.invalid("key", "An action has the key it is stored under.")
                    .end();
        }
        name(action.name());
        Connection connection = app.workflows().connection(action.connection()).orElseThrow(() -> Problem.invalid(
                        "connection", "There is no connection '" + action.connection() + "'.")
                .end());
        Request.needed(action.call(), "call");
        onePointerEach(action);
        List<String> methods = connection.protocol().methods();
        if (!methods.contains(action.call().method())) {
            throw Problem.invalid(
                            "call.method",
                            "Over '" + connection.name() + "' a call's method is " + String.join(", ", methods) + ".")
                    .end();
        }
        app.setUp().action(by(app, q), action);
        return null;
    }

    private Object journal(Request q) {
        Optional<String> before = q.query("before");
        try {
            Page<Journal.Line> page =
                    app.journal().lines(before.map(Long::valueOf).orElse(null), PAGE);
            return new JournalPage(page.items(), page.more());
        } catch (NumberFormatException e) {
            throw Problem.malformed("before", "'before' is the number of a line.")
                    .end();
        }
    }
}
