package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.people.Role;
import dastur.core.time.WorkingCalendar;
import dastur.server.App;
import dastur.server.auth.Secrets;
import dastur.server.auth.Throttle;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.Journal;
import dastur.store.Sessions;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Signing in and out, the first account, API tokens, health. */
public final class SessionRoutes {
    private static final Duration LASTS = Duration.ofHours(12);
    /** Checked when an account is unknown, so that the answer takes as long as for a known one. */
    private static final String NOBODYS_HASH = Secrets.hashPassword(Secrets.newToken());

    record SignIn(String person, String password) {}

    record SignInAs(String person) {}

    record FirstAccount(String id, String name, String mail, String password) {}

    /**
     * @param csrf must be sent as X-CSRF-Token with every change
     * @param seenBy who really looks, where somebody sees Dastur as this person
     * @param actsAs whether they may also work on tickets as this person, who said so
     */
    record SessionView(
            PersonId id,
            String name,
            Set<Role> roles,
            String csrf,
            @Nullable String seenBy,
            boolean actsAs) {}

    /** What the sign-in page needs. @param demoPeople who one can look around as; empty outside the demo */
    record Entrance(
            boolean needsSetup,
            boolean demo,
            @Nullable String standins,
            List<DemoPerson> demoPeople,
            @Nullable SessionView session) {}

    record DemoPerson(PersonId id, String name, String does, String finds) {}

    /** @param scope to read only, or all that its person may. @param days until it ends; null for 90 */
    record NewToken(
            String name,
            Sessions.@Nullable Scope scope,
            @Nullable Integer days) {}

    /** @param token the secret; shown this once and never again */
    record TokenMade(String id, String name, String token, Instant expiresAt) {}

    record Health(String status, Instant at, long openTickets, long stalledRuns) {}

    /** Lets time pass in the demo. */
    record Pass(int minutes) {}

    private static final int TOKEN_DAYS = 90;
    private static final int MOST_TOKEN_DAYS = 366;

    private final App app;
    private final Throttle throttle = new Throttle();
    private final List<DemoPerson> demoPeople;

    private SessionRoutes(App app, List<DemoPerson> demoPeople) {
        this.app = app;
        this.demoPeople = demoPeople;
    }

    public static Stream<Route> of(App app) {
        SessionRoutes r = new SessionRoutes(app, app.demo() == null ? List.of() : DEMO_PEOPLE);
        return Stream.of(
                Route.get("/api/health", Right.ANYBODY, "Whether all is well", Health.class, r::health),
                Route.get("/api/entrance", Right.ANYBODY, "What the sign-in page shows", Entrance.class, r::entrance),
                Route.post("/api/session", Right.ANYBODY, "Sign in", SignIn.class, SessionView.class, r::signIn),
                Route.post(
                        "/api/session/as",
                        Right.ANYBODY,
                        "Look around as somebody of the demo",
                        SignInAs.class,
                        SessionView.class,
                        r::signInAs),
                Route.delete("/api/session", Right.SIGNED_IN, "Sign out", r::signOut),
                Route.post(
                        "/api/session/see-as",
                        Right.ADMINISTER,
                        "Look as somebody else, changing nothing",
                        SignInAs.class,
                        SessionView.class,
                        r::seeAs),
                Route.delete("/api/session/see-as", Right.SIGNED_IN, "Be oneself again", r::seeAsMyself),
                Route.post(
                        "/api/setup",
                        Right.ANYBODY,
                        "Make the first account",
                        FirstAccount.class,
                        SessionView.class,
                        r::setUp),
                Route.list("/api/tokens", Right.SIGNED_IN, "My API tokens", Sessions.Token.class, q -> app.sessions()
                        .tokensOf(q.person().id())),
                Route.post(
                                "/api/tokens",
                                Right.SIGNED_IN,
                                "Make an API token",
                                NewToken.class,
                                TokenMade.class,
                                r::makeToken)
                        .created(),
                Route.delete("/api/tokens/{id}", Right.SIGNED_IN, "Delete an API token", r::deleteToken),
                Route.post("/api/demo/clock", Right.WORK, "Let time pass in the demo", Pass.class, null, r::pass));
    }

    private static final List<DemoPerson> DEMO_PEOPLE = List.of(
            new DemoPerson(
                    new PersonId("ines"),
                    "Ines Okafor-Lind",
                    "Process owner",
                    "Designs workflows: the route, findings, triggers, versions."),
            new DemoPerson(
                    new PersonId("runa"), "Runa Feld", "Pier technician", "Has tasks waiting at the gates and kiosks."),
            new DemoPerson(
                    new PersonId("teo"),
                    "Teo Marchetti",
                    "Duty manager",
                    "Decides whether a lane is closed; has approvals waiting."),
            new DemoPerson(
                    new PersonId("priya"),
                    "Priya Lund",
                    "Duty manager too",
                    "Is asked along with Teo; what he decides is settled for her."),
            new DemoPerson(
                    new PersonId("ada"), "Ada Brandvold", "Service desk", "Raises tickets and sees all that is open."),
            new DemoPerson(
                    new PersonId("mira"),
                    "Mira Solheim",
                    "Pier office, requester",
                    "Asked for things and sees where they stand."),
            new DemoPerson(
                    new PersonId("oskar"),
                    "Oskar Lindqvist-Baye",
                    "Auditor",
                    "Reads records, checks seals, changes nothing."),
            new DemoPerson(
                    new PersonId("halvard"),
                    "Halvard Quist",
                    "Administrator",
                    "May do all a process owner may, and redact what must not stay."));

    private Object health(Request q) {
        try {
            var counts = app.tickets().counts();
            return new Health("up", app.clock().instant(), counts.openTickets(), counts.stalledRuns());
        } catch (RuntimeException e) {
            throw new Problem(
                            "urn:dastur:problem:database",
                            "The database does not answer",
                            503,
                            "Look at its folder and disk; the log says more.",
                            null)
                    .end();
        }
    }

    private Object entrance(Request q) {
        boolean demo = app.demo() != null;
        Optional<SessionView> session = q.personIfAny()
                .flatMap(p -> Optional.ofNullable(q.context().cookie(WebServer.COOKIE))
                        .flatMap(cookie -> app.sessions()
                                .find(Secrets.hashToken(cookie), app.clock().instant()))
                        .map(s -> view(p, s.csrf(), s)));
        return new Entrance(
                !app.organisation().hasPeople(),
                demo,
                app.demo() == null ? null : app.demo().standins(),
                demoPeople,
                session.orElse(null));
    }

    private Object signIn(Request q) {
        SignIn body = q.body(SignIn.class);
        String name = Texts.clip(Request.needed(body.person(), "person").strip(), 300);
        String password = Texts.clip(Request.needed(body.password(), "password"), 500);
        Optional<Person> person = app.organisation().people().stream()
                .filter(p -> p.id().value().equals(name) || p.mail().equalsIgnoreCase(name))
                .findFirst();
        // Named as it is compared: another spelling of the same address is the same account.
        String account = person.map(p -> p.id().value()).orElse("? " + name.toLowerCase(Locale.ROOT));
        if (!throttle.allows(q.address(), account)) {
            throw Problem.tooOften().end();
        }
        String hash =
                person.flatMap(p -> app.organisation().passwordHash(p.id())).orElse(NOBODYS_HASH);
        boolean fits = PasswordTurns.fits(app, q, password, hash);
        if (person.isEmpty() || !fits || !person.get().active()) {
            throw new Problem(
                            "urn:dastur:problem:sign-in",
                            "That did not work",
                            401,
                            "Name and password do not fit together, or the account is not active.",
                            null)
                    .end();
        }
        throttle.succeeded(q.address(), account);
        return open(q, person.get());
    }

    private Object signInAs(Request q) {
        SignInAs body = q.body(SignInAs.class);
        Optional<Person> person = demoPeople.stream()
                .filter(d -> d.id().value().equals(body.person()))
                .findFirst()
                .flatMap(d -> app.organisation().person(d.id()));
        return open(q, person.orElseThrow(() -> Problem.noRight("Nobody can be looked around as like this here.")
                .end()));
    }

    private SessionView open(Request q, Person person) {
        String token = Secrets.newToken();
        String csrf = Secrets.newToken();
        app.sessions()
                .open(
                        Secrets.hashToken(token),
                        new Sessions.Session(
                                person.id(), csrf, app.clock().instant().plus(LASTS)));
        WebServer.setCookie(q.context(), token, (int) LASTS.toSeconds());
        return view(person, csrf, null);
    }

    private SessionView view(Person person, String csrf, Sessions.@Nullable Session session) {
        String seenBy = session == null || session.seesAs() == null
                ? null
                : app.organisation().person(session.person()).map(Person::name).orElse(null);
        boolean acts = seenBy != null
                && app.sessions()
                        .mayActAs(session.person(), person.id(), app.clock().instant());
        return new SessionView(person.id(), person.name(), person.roles(), csrf, seenBy, acts);
    }

    private Object seeAs(Request q) {
        PersonId as = id(q.body(SignInAs.class).person());
        Person seen = app.organisation().person(as).filter(Person::active).orElseThrow(() -> Problem.invalid(
                        "person", "There is no active person '" + as + "'.")
                .end());
        Sessions.Session session = session(q);
        if (session.seesAs() != null || as.equals(session.person())) {
            throw Problem.conflict("Be yourself again first.").end();
        }
        app.sessions().seeAs(token(q), SetUpRoutes.by(app, q), as);
        return new SessionView(
                seen.id(),
                seen.name(),
                seen.roles(),
                session.csrf(),
                q.person().name(),
                app.sessions().mayActAs(session.person(), as, app.clock().instant()));
    }

    private Object seeAsMyself(Request q) {
        Sessions.Session session = session(q);
        if (session.seesAs() != null) {
            app.sessions()
                    .seeAs(
                            token(q),
                            new Journal.By(session.person(), app.clock().instant()),
                            null);
        }
        return null;
    }

    private Sessions.Session session(Request q) {
        return app.sessions().find(token(q), app.clock().instant()).orElseThrow(() -> Problem.conflict(
                        "An API token cannot look as somebody else: sign in.")
                .end());
    }

    private static String token(Request q) {
        String cookie = q.context().cookie(WebServer.COOKIE);
        return cookie == null ? "" : Secrets.hashToken(cookie);
    }

    private Object signOut(Request q) {
        String cookie = q.context().cookie(WebServer.COOKIE);
        if (cookie != null) {
            app.sessions().close(Secrets.hashToken(cookie));
        }
        app.live().lookWhoIsThere();
        WebServer.setCookie(q.context(), "", 0);
        return null;
    }

    private Object setUp(Request q) {
        if (app.organisation().hasPeople()) {
            throw Problem.conflict("There are accounts already. Sign in, or ask an administrator.")
                    .end();
        }
        FirstAccount body = q.body(FirstAccount.class);
        if (Request.needed(body.password(), "password").length() < 10) {
            throw Problem.invalid("password", "A password has at least 10 characters.")
                    .end();
        }
        if (Texts.blank(body.name()) || body.name().length() > 200) {
            throw Problem.invalid("name", "A name has 1 to 200 characters.").end();
        }
        Person person = new Person(
                id(body.id()),
                body.name().strip(),
                body.mail() == null ? "" : Texts.clip(body.mail().strip(), 300),
                Set.of(Role.ADMINISTRATOR, Role.PROCESS_OWNER, Role.AGENT),
                true);
        app.organisation().putPerson(person, PasswordTurns.hash(app, q, Texts.clip(body.password(), 500)));
        usualHours(person.id());
        return open(q, person);
    }

    /** So that "4 working hours" mean something before anybody has said what hours there are. */
    private void usualHours(PersonId by) {
        Journal.By line = new Journal.By(by, app.clock().instant());
        WorkingCalendar weekdays = WorkingCalendar.weekdays(ZoneId.systemDefault());
        app.setUp().calendar(line, weekdays);
        app.setUp().usualCalendar(line, weekdays.key());
    }

    private static PersonId id(String text) {
        try {
            return new PersonId(text);
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("id", e.getMessage()).end();
        }
    }

    private Object makeToken(Request q) {
        NewToken body = q.body(NewToken.class);
        if (Texts.blank(body.name()) || body.name().length() > 100) {
            throw Problem.invalid("name", "A token's name has 1 to 100 characters.")
                    .end();
        }
        String token = Secrets.newToken();
        String id = "t-" + Secrets.hashToken(token).substring(0, 12);
        int days = body.days() == null ? TOKEN_DAYS : body.days();
        if (days < 1 || days > MOST_TOKEN_DAYS) {
            throw Problem.invalid("days", "A token lasts 1 to " + MOST_TOKEN_DAYS + " days.")
                    .end();
        }
        Instant now = app.clock().instant();
        Instant until = now.plus(Duration.ofDays(days));
        Sessions.Scope scope = body.scope() == null ? Sessions.Scope.ALL : body.scope();
        app.sessions().addToken(id, Secrets.hashToken(token), q.person().id(), body.name(), scope, now, until);
        return new TokenMade(id, body.name(), token, until);
    }

    private Object deleteToken(Request q) {
        if (!app.sessions().deleteToken(q.context().pathParam("id"), q.person().id())) {
            throw Problem.notFound("You have no such token.").end();
        }
        app.live().lookWhoIsThere();
        return null;
    }

    private Object pass(Request q) {
        if (app.demo() == null) {
            throw Problem.notFound("Only the demo's clock can be moved.").end();
        }
        int minutes = q.body(Pass.class).minutes();
        if (minutes < 1 || minutes > 10_080) {
            throw Problem.invalid("minutes", "Between 1 minute and a week.").end();
        }
        app.demo().advance().accept(Duration.ofMinutes(minutes));
        return null;
    }
}
