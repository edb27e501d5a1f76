package dastur.server.api;

import dastur.core.partner.Partner;
import dastur.core.partner.PartnerKey;
import dastur.core.partner.Theirs;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.partners.Counting;
import dastur.store.Takeovers.Takeover;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What was open at a partner's desk before it was joined: counted, taken over, stopped (I15). */
final class TakeoverRoutes {
    private static final Duration LONGEST = Duration.ofDays(3_660);

    /** @param since what was touched there from then on */
    record SinceBody(Instant since) {}

    /** One of theirs that would be taken over. */
    record OpenView(String id, String title) {}

    /** A word of theirs that means nothing here. @param count how many of those that would be taken over say it */
    record UnknownView(String field, String word, int count) {}

    /**
     * What would be taken over; nothing is.
     *
     * @param problem why not all could be counted
     * @param unclear how many of the open ones do not say whether they are
     */
    record CountView(
            @Nullable String problem,
            int open,
            int unclear,
            int ended,
            int known,
            List<UnknownView> unknown,
            List<OpenView> first) {}

    /** How far it has come. @param left how many wait */
    record TakeoverView(
            Instant since,
            PersonId by,
            Instant at,
            String state,
            int taken,
            int refused,
            int ended,
            int left,
            @Nullable String problem) {}

    private final App.AtPartners at;
    private final InstantSource clock;

    private TakeoverRoutes(App.AtPartners at, InstantSource clock) {
        this.at = at;
        this.clock = clock;
    }

    static Stream<Route> of(App.AtPartners at, InstantSource clock) {
        TakeoverRoutes r = new TakeoverRoutes(at, clock);
        return Stream.of(
                Route.post(
                        "/api/partners/{key}/takeovers/count",
                        Right.DESIGN,
                        "Count what is open at a partner's desk, without any effect",
                        SinceBody.class,
                        CountView.class,
                        r::count),
                Route.post(
                        "/api/partners/{key}/takeovers",
                        Right.DESIGN,
                        "Take over what was open at a partner's desk before it was joined",
                        SinceBody.class,
                        TakeoverView.class,
                        r::begin),
                Route.post(
                        "/api/partners/{key}/takeovers/stop",
                        Right.DESIGN,
                        "Take over no more of it",
                        null,
                        TakeoverView.class,
                        r::stop));
    }

    /** Null where there was none. */
    static @Nullable TakeoverView view(App.AtPartners at, PartnerKey key) {
        return at.takeovers().find(key).map(TakeoverRoutes::view).orElse(null);
    }

    private static TakeoverView view(Takeover t) {
        return new TakeoverView(
                t.since(), t.by(), t.at(), t.state().word(), t.taken(), t.refused(), t.ended(), t.left(), t.problem());
    }

    private Partner partner(Request q) {
        return at.partners().find(q.path("key", PartnerKey::new)).orElseThrow(() -> Problem.notFound(
                        "There is no partner of this name.")
                .end());
    }

    private Instant since(Request q) {
        Instant since = Request.needed(q.body(SinceBody.class).since(), "since");
        if (since.isAfter(clock.instant())) {
            throw Problem.invalid("since", "Name a day that has been: what comes from now on comes by itself.")
                    .end();
        }
        if (since.isBefore(clock.instant().minus(LONGEST))) {
            throw Problem.invalid("since", "Name a day of the last ten years.").end();
        }
        return since;
    }

    private Object count(Request q) {
        Partner partner = partner(q);
        Counting.Counted counted = at.exchange().count(partner, since(q));
        List<UnknownView> unknown = new ArrayList<>();
        counted.words()
                .forEach((field, words) ->
                        words.forEach((word, count) -> unknown.add(new UnknownView(field, word, count))));
        return new CountView(
                counted.problem(),
                counted.open(),
                counted.unclear(),
                counted.ended(),
                counted.known(),
                unknown,
                counted.first().stream().map(TakeoverRoutes::open).toList());
    }

    private static OpenView open(Theirs t) {
        return new OpenView(t.id(), t.title());
    }

    private Object begin(Request q) {
        Partner partner = partner(q);
        Instant since = since(q);
        if (!partner.on()) {
            throw Problem.conflict("This desk is switched off: nothing is read there. Switch it on first.")
                    .end();
        }
        if (!at.takeovers().begin(Answers.by(q, clock), partner.key(), since)) {
            throw Problem.conflict("What is open there is being taken over already.")
                    .end();
        }
        at.exchange().wake();
        return shown(partner);
    }

    private Object stop(Request q) {
        Partner partner = partner(q);
        if (!at.takeovers().stop(Answers.by(q, clock), partner.key())) {
            throw Problem.conflict("Nothing is being taken over there any more.")
                    .end();
        }
        return shown(partner);
    }

    private Object shown(Partner partner) {
        return at.takeovers().find(partner.key()).map(TakeoverRoutes::view).orElseThrow();
    }
}
