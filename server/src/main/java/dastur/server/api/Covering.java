package dastur.server.api;

import dastur.core.people.Actor;
import dastur.core.people.Cover;
import dastur.core.people.Group;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.run.Assigned;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Acting for somebody who is away: set by themselves, seen on the Desk, both names on the record (N42). */
final class Covering {
    private static final Duration LONGEST = Duration.ofDays(366);

    /** @param scope what the cover takes over; null for all */
    record CoverBody(String cover, Instant from, Instant until, Cover.@Nullable Scope scope) {}

    /**
     * A person's cover and whom they cover.
     *
     * @param mine who acts for me, now or later
     * @param covering those for whom I act now
     */
    record CoverView(List<Cover> mine, List<Cover> covering) {}

    private final Organisation organisation;
    private final Tickets tickets;
    private final InstantSource clock;

    Covering(Organisation organisation, Tickets tickets, InstantSource clock) {
        this.organisation = organisation;
        this.tickets = tickets;
        this.clock = clock;
    }

    Stream<Route> routes() {
        return Stream.of(
                Route.get(
                        "/api/me/cover",
                        Right.SIGNED_IN,
                        "Who acts for me, and for whom I act",
                        CoverView.class,
                        this::view),
                Route.put(
                        "/api/me/cover",
                        Right.SIGNED_IN,
                        "Say who acts for me",
                        CoverBody.class,
                        CoverView.class,
                        this::set),
                Route.delete("/api/me/cover", Right.SIGNED_IN, "I am back", this::end));
    }

    private Object view(Request q) {
        PersonId me = q.person().id();
        return new CoverView(organisation.coversOf(me), organisation.coveredBy(me, clock.instant()));
    }

    private Object set(Request q) {
        CoverBody body = q.body(CoverBody.class);
        PersonId me = q.person().id();
        PersonId cover;
        try {
            cover = new PersonId(Request.needed(body.cover(), "cover"));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("cover", e.getMessage()).end();
        }
        Instant from = Request.needed(body.from(), "from");
        Instant until = Request.needed(body.until(), "until");
        if (cover.equals(me)) {
            throw Problem.invalid("cover", "Choose somebody else: you cannot act for yourself.")
                    .end();
        }
        if (organisation.person(cover).filter(p -> p.active()).isEmpty()) {
            throw Problem.invalid("cover", "There is no active person '" + cover + "'.")
                    .end();
        }
        if (!until.isAfter(from) || until.isBefore(clock.instant())) {
            throw Problem.invalid("until", "It ends after it begins, and in the future.")
                    .end();
        }
        if (Duration.between(from, until).compareTo(LONGEST) > 0) {
            throw Problem.invalid("until", "A cover lasts a year at most.").end();
        }
        Cover.Scope scope = body.scope() == null ? Cover.Scope.ALL : body.scope();
        organisation.setCover(new Cover(me, cover, from, until, scope));
        return view(q);
    }

    private @Nullable Object end(Request q) {
        organisation.endCovers(q.person().id());
        return null;
    }

    // --- acting

    /** Who acts on a visit: the person in their own name where it is theirs, else for the one they cover whose it is. */
    Actor actor(Request q, VisitId id) {
        Actor own = q.actor();
        if (own instanceof Actor.OfPerson p && p.coverFor() != null) {
            return own;
        }
        PersonId me = q.person().id();
        List<Cover> covering = organisation.coveredBy(me, clock.instant());
        if (covering.isEmpty()) {
            return own;
        }
        Optional<Visit> visit = tickets.find(id.ticket()).flatMap(c -> c.visit(id));
        if (visit.isEmpty() || isFor(visit.get().waiting(), me)) {
            return own;
        }
        return covering.stream()
                .filter(c -> takesOver(c, visit.get().waiting()))
                .map(Cover::person)
                .filter(p -> isFor(visit.get().waiting(), p))
                .findFirst()
                .<Actor>map(p -> new Actor.OfPerson(me, p))
                .orElse(own);
    }

    /** Whether a cover takes over what is asked there. */
    static boolean takesOver(Cover cover, Waiting waiting) {
        return waiting.asks()
                .map(Waiting.Asked::cover)
                .filter(cover.scope()::meets)
                .isPresent();
    }

    /** The same for an item of a list. @param kind as lists call it */
    static boolean takesOver(Cover cover, String kind) {
        return switch (kind) {
            case "task" -> cover.scope().meets(Cover.Scope.TASKS);
            case "approval", "review" -> cover.scope().meets(Cover.Scope.DECISIONS);
            default -> false;
        };
    }

    private boolean isFor(Waiting waiting, PersonId person) {
        return waiting.asks()
                .filter(a -> person.equals(a.claimedBy())
                        || isOneOf(organisation, person, a.to())
                        || a.overseers() != null && isOneOf(organisation, person, a.overseers()))
                .isPresent();
    }

    static boolean isOneOf(Organisation organisation, PersonId person, Assigned assigned) {
        return assigned.people().contains(person)
                || assigned.groups().stream()
                        .map(organisation::group)
                        .flatMap(Optional::stream)
                        .map(Group::members)
                        .anyMatch(m -> m.contains(person));
    }
}
