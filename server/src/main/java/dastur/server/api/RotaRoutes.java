package dastur.server.api;

import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import dastur.server.auth.FeedLinks;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.Organisation;
import dastur.store.SetUp;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import net.fortuna.ical4j.model.Calendar;
import net.fortuna.ical4j.model.component.VEvent;
import net.fortuna.ical4j.model.property.Uid;
import org.jspecify.annotations.Nullable;

/** Who is on call when, who would be reached, and calendars of it (N20, N60; RFC 5545). */
final class RotaRoutes {
    private static final Duration SHOWN = Duration.ofDays(14);
    private static final Duration LOOKED_FOR_GAPS = Duration.ofDays(56);
    private static final Duration IN_FEED = Duration.ofDays(90);

    /** A level of a rota: who is on call now, what follows, and when nobody is. */
    record LevelView(
            int level, @Nullable PersonId now, @Nullable Instant until, List<Rota.Shift> next, List<Rota.Shift> gaps) {}

    /** @param mine whether the caller takes turns in it */
    record RotaView(Rota rota, boolean mine, List<LevelView> levels) {}

    /** @param person the one who stands in */
    record SwapBody(int level, PersonId person, Instant from, Instant until) {}

    /** One rung as it would fire. @param gap whether it would find nobody on call */
    record Reached(Instant at, Rung.Deed deed, List<PersonId> people, boolean gap) {}

    record FeedView(String mine, List<RotaFeed> rotas) {}

    record RotaFeed(RotaKey rota, String path) {}

    private final InstantSource clock;
    private final FeedLinks feeds;
    private final Organisation organisation;
    private final SetUp setUp;
    private final Workflows workflows;

    private RotaRoutes(
            InstantSource clock, FeedLinks feeds, Organisation organisation, SetUp setUp, Workflows workflows) {
        this.clock = clock;
        this.feeds = feeds;
        this.organisation = organisation;
        this.setUp = setUp;
        this.workflows = workflows;
    }

    static Stream<Route> of(
            InstantSource clock, FeedLinks feeds, Organisation organisation, SetUp setUp, Workflows workflows) {
        RotaRoutes r = new RotaRoutes(clock, feeds, organisation, setUp, workflows);
        return Stream.of(
                Route.list("/api/rotas", Right.SEE, "Who is on call", RotaView.class, r::rotas),
                Route.put("/api/rotas/{key}", Right.DESIGN, "Set a rota", Rota.class, null, r::put),
                Route.post(
                        "/api/rotas/{key}/swaps", Right.WORK, "Somebody stands in", SwapBody.class, null, r::standIn),
                Route.list(
                        "/api/ladders/{key}/reach",
                        Right.SEE,
                        "Who a ladder would reach, and when",
                        Reached.class,
                        r::reach,
                        "from",
                        "service"),
                Route.get("/api/feeds", Right.SEE, "My addresses for a calendar program", FeedView.class, r::feeds),
                Route.get("/api/feeds/{token}", Right.ANYBODY, "Turns on call (RFC 5545)", String.class, r::feed));
    }

    private Object rotas(Request q) {
        Instant now = clock.instant();
        return organisation.rotas().stream()
                .map(rota -> new RotaView(
                        rota,
                        takesTurns(rota, q.person().id()),
                        IntStream.rangeClosed(1, rota.levels().size())
                                .mapToObj(level -> level(rota, level, now))
                                .toList()))
                .toList();
    }

    private static LevelView level(Rota rota, int level, Instant now) {
        List<Rota.Shift> all = rota.shifts(level, now, now.plus(LOOKED_FOR_GAPS));
        Rota.Shift first = all.getFirst();
        return new LevelView(
                level,
                first.person(),
                first.until().isBefore(now.plus(LOOKED_FOR_GAPS)) ? first.until() : null,
                all.stream()
                        .filter(s -> s.from().isBefore(now.plus(SHOWN)))
                        .limit(40)
                        .toList(),
                all.stream().filter(s -> s.person() == null).limit(20).toList());
    }

    private static boolean takesTurns(Rota rota, PersonId person) {
        return rota.levels().stream().flatMap(l -> l.layers().stream()).anyMatch(l -> l.people()
                .contains(person));
    }

    private Object put(Request q) {
        Rota rota = q.body(Rota.class);
        if (!rota.key().equals(q.path("key", RotaKey::new))) {
            throw Problem.invalid("key", "A rota has the key it is stored under.")
                    .end();
        }
        SetUpRoutes.name(rota.name());
        Stream.concat(
                        rota.levels().stream().flatMap(l -> l.layers().stream()).flatMap(l -> l.people().stream()),
                        rota.swaps().stream().map(Rota.Swap::person))
                .distinct()
                .forEach(this::active);
        setUp.rota(Answers.by(q, clock), rota);
        return null;
    }

    private void active(PersonId id) {
        if (organisation.person(id).filter(p -> p.active()).isEmpty()) {
            throw Problem.invalid("levels", "'" + id + "' is not an active person.")
                    .end();
        }
    }

    private Rota known(Request q) {
        RotaKey key = q.path("key", RotaKey::new);
        return organisation.rota(key).orElseThrow(() -> Problem.notFound("There is no rota '" + key + "'.")
                .end());
    }

    private Object standIn(Request q) {
        Rota rota = known(q);
        SwapBody body = q.body(SwapBody.class);
        if (!takesTurns(rota, q.person().id()) && !Right.DESIGN.of(q.person())) {
            throw Problem.noRight("Those who take turns in " + rota.name() + " say who stands in.")
                    .end();
        }
        active(Request.needed(body.person(), "person"));
        List<Rota.Swap> swaps = new ArrayList<>(rota.swaps());
        Instant now = clock.instant();
        swaps.removeIf(s -> s.until().isBefore(now.minus(LOOKED_FOR_GAPS)));
        try {
            swaps.add(new Rota.Swap(
                    body.level(),
                    body.person(),
                    Request.needed(body.from(), "from"),
                    Request.needed(body.until(), "until")));
            setUp.rota(Answers.by(q, clock), new Rota(rota.key(), rota.name(), rota.zone(), rota.levels(), swaps));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("until", e.getMessage()).end();
        }
        return null;
    }

    /** Each rung with its moment and who it would reach, if a step opened at a moment (N20). */
    private Object reach(Request q) {
        LadderKey key = q.path("key", LadderKey::new);
        Ladder ladder = workflows.ladders().stream()
                .filter(l -> l.key().equals(key))
                .findFirst()
                .orElseThrow(() ->
                        Problem.notFound("There is no ladder '" + key + "'.").end());
        Instant from = q.moment("from").orElse(clock.instant());
        WorkingCalendar calendar = calendar(q.query("service").map(ServiceId::new));
        return ladder.rungs().stream()
                .map(rung -> {
                    Instant at = calendar.after(from, rung.after()).orElse(from);
                    List<Party> to =
                            switch (rung.deed()) {
                                case Rung.Tell t -> t.to();
                                case Rung.Add a -> a.to();
                                case Rung.HandOver h -> List.of(h.to());
                                case Rung.Remind r -> List.<Party>of();
                                case Rung.RaisePriority r -> List.<Party>of();
                                case Rung.Decide d -> List.<Party>of();
                            };
                    List<PersonId> people = to.stream()
                            .flatMap(p -> reached(p, at))
                            .distinct()
                            .sorted()
                            .toList();
                    boolean gap = to.stream()
                            .anyMatch(p ->
                                    p instanceof Party.OnCall o && onCall(o, at).isEmpty());
                    return new Reached(at, rung.deed(), people, gap);
                })
                .toList();
    }

    private WorkingCalendar calendar(Optional<ServiceId> service) {
        List<WorkingCalendar> all = organisation.calendars();
        return service.flatMap(organisation::service)
                .map(Service::calendar)
                .or(organisation::defaultCalendar)
                .flatMap(k -> all.stream().filter(c -> c.key().equals(k)).findFirst())
                .orElse(WorkingCalendar.ALWAYS);
    }

    /** What depends on a ticket names nobody here. */
    private Stream<PersonId> reached(Party party, Instant at) {
        return switch (party) {
            case Party.OfPerson p -> Stream.of(p.person());
            case Party.OfGroup g -> organisation.group(g.group()).stream().flatMap(x -> x.members().stream());
            case Party.OnCall o -> onCall(o, at).stream();
            case Party.OfRole r ->
                organisation.people().stream()
                        .filter(p -> p.active() && p.has(r.role()))
                        .map(p -> p.id());
            case Party.Requester r -> Stream.empty();
            case Party.TicketGroup t -> Stream.empty();
            case Party.CiOwner o -> Stream.empty();
            case Party.Manager m -> Stream.empty();
            case Party.TakesPart t -> Stream.empty();
            case Party.Computed c -> Stream.empty();
        };
    }

    private Optional<PersonId> onCall(Party.OnCall party, Instant at) {
        return organisation.rota(party.rota()).flatMap(r -> r.onCall(party.level(), at));
    }

    private Object feeds(Request q) {
        PersonId owner = q.person().id();
        return new FeedView(
                path(new FeedLinks.Feed(owner, null)),
                organisation.rotas().stream()
                        .map(r -> new RotaFeed(r.key(), path(new FeedLinks.Feed(owner, r.key()))))
                        .toList());
    }

    private String path(FeedLinks.Feed feed) {
        return "/api/feeds/" + feeds.token(feed);
    }

    private Object feed(Request q) {
        FeedLinks.Feed feed = feeds.read(q.context().pathParam("token"))
                .filter(f ->
                        organisation.person(f.owner()).filter(Right.SEE::of).isPresent())
                .orElseThrow(
                        () -> Problem.notFound("There is no such calendar.").end());
        Calendar calendar = new Calendar()
                .withProdId("-//Dastur//on call//EN")
                .withDefaults()
                .getFluentTarget();
        organisation.rotas().stream()
                .filter(r -> feed.rota() == null || r.key().equals(feed.rota()))
                .forEach(r -> events(r, feed, calendar));
        return new WebServer.Raw("text/calendar; charset=utf-8", calendar.toString());
    }

    private void events(Rota rota, FeedLinks.Feed feed, Calendar calendar) {
        Instant from = clock.instant().minus(SHOWN);
        for (int level = 1; level <= rota.levels().size(); level++) {
            for (Rota.Shift shift : rota.shifts(level, from, from.plus(IN_FEED))) {
                if (shift.person() != null
                        && (feed.rota() != null || shift.person().equals(feed.owner()))) {
                    calendar.add(event(rota, level, shift));
                }
            }
        }
    }

    private VEvent event(Rota rota, int level, Rota.Shift shift) {
        String who = organisation
                .person(shift.person())
                .map(p -> p.name())
                .orElse(shift.person().value());
        String what = "On call" + (level == 1 ? "" : " (level " + level + ")") + ", " + rota.name() + ": " + who;
        VEvent event = new VEvent(shift.from(), shift.until(), what);
        event.add(new Uid(rota.key() + "-" + level + "-" + shift.from().getEpochSecond() + "@dastur"));
        return event;
    }
}
