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
import dastur.server.work.Live;
import dastur.store.Journal;
import dastur.store.Organisation;
import dastur.store.Sessions;
import dastur.store.SetUp;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.ZoneId;
import java.util.List;
import java.util.Locale;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Signing in and out, the first account, API tokens, health. */
final class SessionRoutes {
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

    private static final int TOKEN_DAYS = 90;
    private static final int MOST_TOKEN_DAYS = 366;

    private final InstantSource clock;
    private final Live live;
    private final Organisation organisation;
    private final Sessions sessions;
    private final SetUp setUp;
    private final PasswordTurns passwords;
    private final App.@Nullable Demo demo;
    private final Throttle throttle = new Throttle();
    private final List<DemoPerson> demoPeople;

    private SessionRoutes(
            InstantSource clock,
            Live live,
            Organisation organisation,
            Sessions sessions,
            SetUp setUp,
            PasswordTurns passwords,
            App.@Nullable Demo demo,
            List<DemoPerson> demoPeople) {
        this.clock = clock;
        this.live = live;
        this.organisation = organisation;
        this.sessions = sessions;
        this.setUp = setUp;
        this.passwords = passwords;
        this.demo = demo;
        this.demoPeople = demoPeople;
    }

    static Stream<Route> of(
            InstantSource clock,
            Live live,
            Organisation organisation,
            Sessions sessions,
            SetUp setUp,
            PasswordTurns passwords,
            App.@Nullable Demo demo) {
        SessionRoutes r = new SessionRoutes(
                clock, live, organisation, sessions, setUp, passwords, demo, demo == null ? List.of() : DEMO_PEOPLE);
        return Stream.of(
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
                Route.list(
                        "/api/tokens",
                        Right.SIGNED_IN,
                        "My API tokens",
                        Sessions.Token.class,
                        q -> sessions.tokensOf(q.person().id())),
                Route.post(
                                "/api/tokens",
                                Right.SIGNED_IN,
                                "Make an API token",
                                NewToken.class,
                                TokenMade.class,
                                r::makeToken)
                        .created(),
                Route.delete("/api/tokens/{id}", Right.SIGNED_IN, "Delete an API token", r::deleteToken));
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

    private Object entrance(Request q) {
        Optional<SessionView> session = q.personIfAny()
                .flatMap(p -> Optional.ofNullable(q.context().cookie(WebServer.COOKIE))
                        .flatMap(cookie -> sessions.find(Secrets.hashToken(cookie), clock.instant()))
                        .map(s -> view(p, s.csrf(), s)));
        return new Entrance(
                !organisation.hasPeople(),
                demo != null,
                demo == null ? null : demo.standins(),
                demoPeople,
                session.orElse(null));
    }

    private Object signIn(Request q) {
        SignIn body = q.body(SignIn.class);
        String name = Texts.clip(Request.needed(body.person(), "person").strip(), 300);
        String password = Texts.clip(Request.needed(body.password(), "password"), 500);
        Optional<Person> person = organisation.people().stream()
                .filter(p -> p.id().value().equals(name) || p.mail().equalsIgnoreCase(name))
                .findFirst();
        // Named as it is compared: another spelling of the same address is the same account.
        String account = person.map(p -> p.id().value()).orElse("? " + name.toLowerCase(Locale.ROOT));
        if (!throttle.allows(q.address(), account)) {
            throw Problem.tooOften().end();
        }
        String hash = person.flatMap(p -> organisation.passwordHash(p.id())).orElse(NOBODYS_HASH);
        boolean fits = passwords.fits(q, password, hash);
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
                .flatMap(d -> organisation.person(d.id()));
        return open(q, person.orElseThrow(() -> Problem.noRight("Nobody can be looked around as like this here.")
                .end()));
    }

    private SessionView open(Request q, Person person) {
        String token = Secrets.newToken();
        String csrf = Secrets.newToken();
        sessions.open(
                Secrets.hashToken(token),
                new Sessions.Session(person.id(), csrf, clock.instant().plus(LASTS)));
        WebServer.setCookie(q.context(), token, (int) LASTS.toSeconds());
        return view(person, csrf, null);
    }

    private SessionView view(Person person, String csrf, Sessions.@Nullable Session session) {
        String seenBy = session == null || session.seesAs() == null
                ? null
                : organisation.person(session.person()).map(Person::name).orElse(null);
        boolean acts = seenBy != null && sessions.mayActAs(session.person(), person.id(), clock.instant());
        return new SessionView(person.id(), person.name(), person.roles(), csrf, seenBy, acts);
    }

    private Object seeAs(Request q) {
        PersonId as = id(q.body(SignInAs.class).person());
        Person seen = organisation.person(as).filter(Person::active).orElseThrow(() -> Problem.invalid(
                        "person", "There is no active person '" + as + "'.")
                .end());
        Sessions.Session session = session(q);
        if (session.seesAs() != null || as.equals(session.person())) {
            throw Problem.conflict("Be yourself again first.").end();
        }
        sessions.seeAs(token(q), Answers.by(q, clock), as);
        return new SessionView(
                seen.id(),
                seen.name(),
                seen.roles(),
                session.csrf(),
                q.person().name(),
                sessions.mayActAs(session.person(), as, clock.instant()));
    }

    private Object seeAsMyself(Request q) {
        Sessions.Session session = session(q);
        if (session.seesAs() != null) {
            sessions.seeAs(token(q), new Journal.By(session.person(), clock.instant()), null);
        }
        return null;
    }

    private Sessions.Session session(Request q) {
        return sessions.find(token(q), clock.instant())
                .orElseThrow(() -> Problem.conflict("An API token cannot look as somebody else: sign in.")
                        .end());
    }

    private static String token(Request q) {
        String cookie = q.context().cookie(WebServer.COOKIE);
        return cookie == null ? "" : Secrets.hashToken(cookie);
    }

    private Object signOut(Request q) {
        String cookie = q.context().cookie(WebServer.COOKIE);
        if (cookie != null) {
            sessions.close(Secrets.hashToken(cookie));
        }
        live.lookWhoIsThere();
        WebServer.setCookie(q.context(), "", 0);
        return null;
    }

    private Object setUp(Request q) {
        if (organisation.hasPeople()) {
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
        organisation.putPerson(person, passwords.hash(q, Texts.clip(body.password(), 500)));
        usualHours(person.id());
        return open(q, person);
    }

    /** So that "4 working hours" mean something before anybody has said what hours there are. */
    private void usualHours(PersonId by) {
        Journal.By line = new Journal.By(by, clock.instant());
        WorkingCalendar weekdays = WorkingCalendar.weekdays(ZoneId.systemDefault());
        setUp.calendar(line, weekdays);
        setUp.usualCalendar(line, weekdays.key());
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
        Instant now = clock.instant();
        Instant until = now.plus(Duration.ofDays(days));
        Sessions.Scope scope = body.scope() == null ? Sessions.Scope.ALL : body.scope();
        sessions.addToken(id, Secrets.hashToken(token), q.person().id(), body.name(), scope, now, until);
        return new TokenMade(id, body.name(), token, until);
    }

    private Object deleteToken(Request q) {
        if (!sessions.deleteToken(q.context().pathParam("id"), q.person().id())) {
            throw Problem.notFound("You have no such token.").end();
        }
        live.lookWhoIsThere();
        return null;
    }
}
