package dastur.server.api;

import dastur.core.people.Right;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Whether all is well, and the demo's clock. */
final class HealthRoutes {
    record Health(String status, Instant at, long openTickets, long stalledRuns) {}

    /** Lets time pass in the demo. */
    record Pass(int minutes) {}

    private final Tickets tickets;
    private final InstantSource clock;
    private final App.@Nullable Demo demo;

    private HealthRoutes(Tickets tickets, InstantSource clock, App.@Nullable Demo demo) {
        this.tickets = tickets;
        this.clock = clock;
        this.demo = demo;
    }

    static Stream<Route> of(Tickets tickets, InstantSource clock, App.@Nullable Demo demo) {
        HealthRoutes r = new HealthRoutes(tickets, clock, demo);
        return Stream.of(
                Route.get("/api/health", Right.ANYBODY, "Whether all is well", Health.class, r::health),
                Route.post("/api/demo/clock", Right.WORK, "Let time pass in the demo", Pass.class, null, r::pass));
    }

    private Object health(Request q) {
        try {
            var counts = tickets.counts();
            return new Health("up", clock.instant(), counts.openTickets(), counts.stalledRuns());
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

    private Object pass(Request q) {
        if (demo == null) {
            throw Problem.notFound("Only the demo's clock can be moved.").end();
        }
        int minutes = q.body(Pass.class).minutes();
        if (minutes < 1 || minutes > 10_080) {
            throw Problem.invalid("minutes", "Between 1 minute and a week.").end();
        }
        demo.advance().accept(Duration.ofMinutes(minutes));
        return null;
    }
}
