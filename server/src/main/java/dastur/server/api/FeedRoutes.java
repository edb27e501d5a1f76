package dastur.server.api;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.feed.Subscription;
import dastur.core.feed.SubscriptionKey;
import dastur.core.feed.Wanted;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.signal.Source;
import dastur.core.ticket.TicketKind;
import dastur.server.App.Design;
import dastur.server.App.Out;
import dastur.server.feed.Events;
import dastur.server.feed.Telling;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.server.signals.Proving;
import dastur.store.Feed;
import dastur.store.Subscriptions;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.concurrent.Semaphore;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Events out: the feed for those who ask, subscriptions for those who are told (I17). */
final class FeedRoutes {
    private static final int CHANGES = 200;
    private static final int MOST = 100;
    private static final int DELIVERIES_SHOWN = 100;
    private static final int LONGEST_WAIT_SECONDS = 30;
    private static final Duration LOOKS_EVERY = Duration.ofMillis(250);
    private static final Semaphore WAITING = new Semaphore(200);

    /**
     * A subscription.
     *
     * @param signs whether it has a secret, so that what it sends is signed
     * @param stand how far it was told; null when it is off
     */
    record SubscriptionView(Subscription subscription, boolean signs, Subscriptions.@Nullable Stand stand) {}

    record SubscriptionBody(String name, Boolean on, String address, Wanted wanted, List<String> fields, PersonId as) {}

    record SubscriptionPage(SubscriptionView view, List<Subscriptions.Delivery> deliveries) {}

    record EventBody(String event) {}

    /** A secret that was just made. It is shown this once. */
    record SigningSecret(String secret) {
        @Override
        public String toString() {
            return "SigningSecret";
        }
    }

    /** Kinds of entries that may be wanted. */
    record KindsView(List<String> kinds) {}

    private final Design design;
    private final Out out;
    private final InstantSource clock;

    private FeedRoutes(Design design, Out out, InstantSource clock) {
        this.design = design;
        this.out = out;
        this.clock = clock;
    }

    static Stream<Route> of(Design design, Out out, InstantSource clock) {
        FeedRoutes r = new FeedRoutes(design, out, clock);
        return Stream.of(
                Route.get(
                        "/api/events",
                        Right.SEE,
                        "What happened after a place in the log: CloudEvents, one a line; waits for the next where asked",
                        String.class,
                        r::events,
                        "after",
                        "kinds",
                        "tickets",
                        "condition",
                        "wait"),
                Route.get(
                        "/api/events/kinds",
                        Right.SEE,
                        "Kinds of entries",
                        KindsView.class,
                        q -> new KindsView(kinds())),
                Route.list("/api/subscriptions", Right.SEE, "Who is told", SubscriptionView.class, q -> r.all()),
                Route.get(
                        "/api/subscriptions/{key}",
                        Right.SEE,
                        "A subscription, with what became of events",
                        SubscriptionPage.class,
                        r::one),
                Route.put(
                        "/api/subscriptions/{key}",
                        Right.ADMINISTER,
                        "Set a subscription",
                        SubscriptionBody.class,
                        SubscriptionView.class,
                        r::set),
                Route.post(
                        "/api/subscriptions/{key}/secret",
                        Right.ADMINISTER,
                        "Make a secret that signs what is sent; it is shown once",
                        null,
                        SigningSecret.class,
                        r::secret),
                Route.post(
                        "/api/subscriptions/{key}/trial",
                        Right.ADMINISTER,
                        "Try its address",
                        null,
                        Telling.Try.class,
                        r::trial),
                Route.post(
                        "/api/subscriptions/{key}/again",
                        Right.ADMINISTER,
                        "Send an event again",
                        EventBody.class,
                        Telling.Try.class,
                        r::again));
    }

    private static List<String> kinds() {
        return Seal.kinds();
    }

    // --- the feed

    private Object events(Request q) {
        long after = q.query("after").map(FeedRoutes::place).orElseGet(out.feed()::end);
        Wanted wanted = new Wanted(
                words(q, "kinds"),
                words(q, "tickets").stream()
                        .map(w -> TicketKind.of(w).orElseThrow(() -> Problem.malformed(
                                        "tickets", "There is no kind of ticket '" + w + "'.")
                                .end()))
                        .collect(Collectors.toSet()),
                q.query("condition").orElse(null));
        check(wanted, "");
        int wait = q.query("wait")
                .map(w -> (int) Math.min(LONGEST_WAIT_SECONDS, place(w)))
                .orElse(0);
        Instant until = Instant.now().plusSeconds(wait);
        boolean waits = wait > 0 && WAITING.tryAcquire();
        try {
            StringBuilder lines = new StringBuilder();
            Feed.Page page = read(q, after, wanted, lines);
            while (waits && lines.isEmpty() && Instant.now().isBefore(until)) {
                Thread.sleep(LOOKS_EVERY);
                page = read(q, page.upto(), wanted, lines);
            }
            q.context().header("Dastur-Place", String.valueOf(page.upto()));
            return new WebServer.Raw("application/x-ndjson", lines.toString());
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw Problem.busy().end();
        } finally {
            if (waits) {
                WAITING.release();
            }
        }
    }

    private Feed.Page read(Request q, long after, Wanted wanted, StringBuilder lines) {
        Feed.Page page = out.feed().after(after, CHANGES);
        for (Feed.Change change : page.changes()) {
            for (Events.Event event : out.events().of(change, wanted, List.of(), q.person(), clock.instant())) {
                lines.append(event.json()).append('\n');
            }
        }
        return page;
    }

    private static long place(String text) {
        if (!text.matches("-?\\d{1,15}")) {
            throw Problem.malformed(null, "'" + text + "' is no whole number.").end();
        }
        return Long.parseLong(text);
    }

    private static Set<String> words(Request q, String name) {
        return q.query(name)
                .map(v -> Arrays.stream(v.split(","))
                        .map(String::strip)
                        .filter(w -> !w.isEmpty())
                        .collect(Collectors.toCollection(TreeSet::new)))
                .orElseGet(TreeSet::new);
    }

    private void check(Wanted wanted, String where) {
        for (String kind : wanted.kinds()) {
            if (!kinds().contains(kind)) {
                throw Problem.invalid(where + "kinds", "There is no kind of entry '" + kind + "'.")
                        .end();
            }
        }
        if (wanted.condition() != null) {
            new Expressions(Vocabulary.ofTicket(design.organisation().fields()))
                    .problemWithCondition(wanted.condition())
                    .ifPresent(p -> {
                        throw Problem.invalid(where + "condition", p.message()).end();
                    });
        }
    }

    // --- subscriptions

    private List<SubscriptionView> all() {
        var stands = out.subscriptions().stand();
        return out.subscriptions().all().stream()
                .map(s -> new SubscriptionView(s, signs(s.key()), stands.get(s.key())))
                .toList();
    }

    private boolean signs(SubscriptionKey key) {
        return design.secrets().find(Telling.secretName(key)).isPresent();
    }

    private Subscription found(Request q) {
        return out.subscriptions().find(q.path("key", SubscriptionKey::new)).orElseThrow(() -> Problem.notFound(
                        "There is no subscription of this name.")
                .end());
    }

    private SubscriptionView view(Subscription s) {
        return new SubscriptionView(
                s, signs(s.key()), out.subscriptions().stand().get(s.key()));
    }

    private Object one(Request q) {
        Subscription s = found(q);
        return new SubscriptionPage(view(s), out.subscriptions().latest(s.key(), DELIVERIES_SHOWN));
    }

    private Object set(Request q) {
        SubscriptionKey key = q.path("key", SubscriptionKey::new);
        SubscriptionBody body = q.body(SubscriptionBody.class);
        Wanted wanted = Request.needed(body.wanted(), "wanted");
        check(wanted, "wanted.");
        for (String field : Request.needed(body.fields(), "fields")) {
            if (design.organisation().fields().ticketField(field).isEmpty()) {
                throw Problem.invalid("fields", "Tickets have no field '" + field + "'.")
                        .end();
            }
        }
        PersonId as = Request.needed(body.as(), "as");
        if (design.organisation().person(as).filter(Right.SEE::of).isEmpty()) {
            throw Problem.invalid("as", "Choose an account that may see tickets: what it may not see is not sent.")
                    .end();
        }
        Optional<Subscription> before = out.subscriptions().find(key);
        if (before.isEmpty() && out.subscriptions().all().size() >= MOST) {
            throw Problem.invalid("key", "There are at most " + MOST + " subscriptions.")
                    .end();
        }
        Subscription s;
        try {
            s = new Subscription(
                    key,
                    Request.needed(body.name(), "name").strip(),
                    Request.needed(body.on(), "on"),
                    Request.needed(body.address(), "address").strip(),
                    wanted,
                    body.fields(),
                    as);
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("address", String.valueOf(e.getMessage())).end();
        }
        design.setUp().subscription(Answers.by(q, clock), s);
        // Another address may be tried at once.
        Subscriptions.Stand stand = out.subscriptions().stand().get(key);
        if (stand != null
                && before.filter(b -> !b.address().equals(s.address())).isPresent()) {
            out.subscriptions().stand(key, Subscriptions.Stand.at(stand.upto()));
        }
        return view(s);
    }

    private Object secret(Request q) {
        Subscription s = found(q);
        String made = Proving.fresh(Source.Proof.SIGNATURE);
        design.secrets().set(Answers.by(q, clock), Telling.secretName(s.key()), made);
        return new SigningSecret(made);
    }

    private Object trial(Request q) {
        return out.telling().trial(found(q));
    }

    private Object again(Request q) {
        Subscription s = found(q);
        String event = Request.needed(q.body(EventBody.class).event(), "event");
        return out.subscriptions()
                .delivery(s.key(), event)
                .flatMap(d -> out.telling().again(s, d))
                .orElseThrow(() -> Problem.notFound("This event is not listed, or not wanted any more.")
                        .end());
    }
}
