package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Sessions;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Lets an administrator, who may see Dastur as anybody, also work as one person for a short time: only that person can
 * say so, and both names go onto every record (N80).
 */
final class GrantRoutes {
    private static final Duration LONGEST = Duration.ofHours(12);

    record GrantBody(String grantee, Instant until) {}

    /**
     * @param grant whom I let act as me; null when nobody
     * @param candidates who could: administrators
     */
    record GrantView(Sessions.@Nullable Grant grant, List<PersonId> candidates) {}

    private final InstantSource clock;
    private final Organisation organisation;
    private final Sessions sessions;

    private GrantRoutes(InstantSource clock, Organisation organisation, Sessions sessions) {
        this.clock = clock;
        this.organisation = organisation;
        this.sessions = sessions;
    }

    static Stream<Route> of(InstantSource clock, Organisation organisation, Sessions sessions) {
        GrantRoutes r = new GrantRoutes(clock, organisation, sessions);
        return Stream.of(
                Route.get("/api/me/grant", Right.SIGNED_IN, "Whom I let act as me", GrantView.class, r::view),
                Route.put(
                        "/api/me/grant",
                        Right.SIGNED_IN,
                        "Let an administrator work as me for a time",
                        GrantBody.class,
                        GrantView.class,
                        r::set),
                Route.delete("/api/me/grant", Right.SIGNED_IN, "End it", r::end));
    }

    private Object view(Request q) {
        PersonId me = q.person().id();
        return new GrantView(
                sessions.grantOf(me)
                        .filter(g -> g.until().isAfter(clock.instant()))
                        .orElse(null),
                organisation.people().stream()
                        .filter(p -> Right.ADMINISTER.of(p) && !p.id().equals(me))
                        .map(Person::id)
                        .toList());
    }

    private Object set(Request q) {
        GrantBody body = q.body(GrantBody.class);
        PersonId grantee = TicketRoutes.id("grantee", body.grantee(), PersonId::new);
        Instant until = Request.needed(body.until(), "until");
        Instant now = clock.instant();
        if (grantee.equals(q.person().id())
                || organisation.person(grantee).filter(Right.ADMINISTER::of).isEmpty()) {
            throw Problem.invalid("grantee", "Name an administrator other than yourself: only they can see as others.")
                    .end();
        }
        if (!until.isAfter(now) || until.isAfter(now.plus(LONGEST))) {
            throw Problem.invalid("until", "It ends in the future, and within twelve hours.")
                    .end();
        }
        sessions.grant(Answers.by(q, clock), new Sessions.Grant(q.person().id(), grantee, until));
        return view(q);
    }

    private @Nullable Object end(Request q) {
        sessions.endGrant(Answers.by(q, clock), q.person().id());
        return null;
    }
}
