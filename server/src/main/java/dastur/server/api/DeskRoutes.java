package dastur.server.api;

import dastur.core.people.Right;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Matters;
import dastur.store.Organisation;
import dastur.store.Tickets;
import dastur.store.Undelivered;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.stream.Stream;

/** What a person's desk shows. */
final class DeskRoutes {
    /** A draft that differs from what is live is shown to its owner after this long. */
    private static final Duration FORGOTTEN_AFTER = Duration.ofDays(1);

    private final Tickets tickets;
    private final Organisation organisation;
    private final Workflows workflows;
    private final Undelivered undelivered;
    private final Matters matters;
    private final InstantSource clock;

    private DeskRoutes(
            Tickets tickets,
            Organisation organisation,
            Workflows workflows,
            Undelivered undelivered,
            Matters matters,
            InstantSource clock) {
        this.matters = matters;
        this.tickets = tickets;
        this.organisation = organisation;
        this.workflows = workflows;
        this.undelivered = undelivered;
        this.clock = clock;
    }

    static Stream<Route> of(
            Tickets tickets,
            Organisation organisation,
            Workflows workflows,
            Undelivered undelivered,
            Matters matters,
            InstantSource clock) {
        DeskRoutes r = new DeskRoutes(tickets, organisation, workflows, undelivered, matters, clock);
        return Stream.of(Route.get("/api/desk", Right.SIGNED_IN, "What needs me", Views.DeskView.class, r::desk));
    }

    private Object desk(Request q) {
        String me = q.person().id().value();
        Tickets.Counts counts = Right.SEE.of(q.person()) ? tickets.counts() : new Tickets.Counts(0, 0);
        return new Views.DeskView(
                tickets.workFor(me),
                tickets.workNamed(me).stream().map(Tickets.WorkItem::visit).toList(),
                organisation.coveredBy(q.person().id(), clock.instant()).stream()
                        .flatMap(c -> tickets.workNamed(c.person().value()).stream()
                                .filter(w -> Covering.takesOver(c, w.kind()))
                                .map(w -> new Views.CoveredItem(c.person().value(), w)))
                        .toList(),
                tickets.stalledOf(me),
                Right.WORK.of(q.person()) ? tickets.heldBy(me) : List.of(),
                Right.DESIGN.of(q.person())
                        ? workflows.forgottenDrafts(
                                q.person().id(), clock.instant().minus(FORGOTTEN_AFTER))
                        : List.of(),
                clock.instant(),
                counts.openTickets(),
                counts.stalledRuns(),
                Right.WORK.of(q.person()) ? undelivered.count() : 0,
                Right.SEE.of(q.person()) ? matters.needing() : 0);
    }
}
