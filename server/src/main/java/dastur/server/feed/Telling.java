package dastur.server.feed;

import dastur.connectors.Posting;
import dastur.core.feed.Patience;
import dastur.core.feed.Subscription;
import dastur.core.feed.SubscriptionKey;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.ticket.TicketId;
import dastur.server.signals.Proving;
import dastur.server.work.Repeatedly;
import dastur.store.Feed;
import dastur.store.Nodes;
import dastur.store.Subscriptions;
import dastur.store.Subscriptions.Delivery;
import dastur.store.Subscriptions.Stand;
import java.net.URI;
import java.net.http.HttpClient;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Posts events to those who subscribe: in order for each ticket, {@value #TICKETS_AT_ONCE} tickets at once, each subscription by itself,
 * so that one which does not answer delays no other. What was not taken is tried with growing pauses for three days, then given up
 * (I17).
 */
public final class Telling implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Telling.class);
    private static final Duration LOOKS_EVERY = Duration.ofMillis(500);
    private static final Duration FORGETS_EVERY = Duration.ofHours(1);
    private static final int CHANGES = 100;
    private static final int TICKETS_AT_ONCE = 8;

    /** What it works with. @param secret a secret's value by its name */
    public record Uses(
            Subscriptions subscriptions,
            Feed feed,
            Events events,
            Function<PersonId, Optional<Person>> person,
            Function<String, Optional<String>> secret,
            Nodes nodes,
            InstantSource clock) {}

    /** What became of one try. @param asked how long the other side asks to wait; null for nothing */
    public record Try(
            Patience.Outcome outcome,
            String answer,
            @Nullable Duration asked) {}

    private final Uses means;
    private final Posting posting = new Posting(HttpClient.newBuilder()
            .connectTimeout(Duration.ofSeconds(5))
            .followRedirects(HttpClient.Redirect.NEVER)
            .build());
    private final Set<SubscriptionKey> underWay = ConcurrentHashMap.newKeySet();
    private final ExecutorService crew = Executors.newVirtualThreadPerTaskExecutor();
    private final Repeatedly rounds;
    private Instant lastForgot = Instant.MIN;

    public Telling(Uses means) {
        this.means = means;
        this.rounds = new Repeatedly("telling", LOOKS_EVERY, this::round);
    }

    public void start() {
        rounds.start();
    }

    /** The name under which a subscription's secret is kept. */
    public static String secretName(SubscriptionKey key) {
        return "subscription." + key;
    }

    /** Whether a secret of this name is a subscription's. */
    public static boolean isOfSubscription(String name) {
        return name.startsWith("subscription.");
    }

    private void round() {
        if (means.nodes().has(Nodes.Duty.TELLING)) {
            look();
        }
    }

    private void look() {
        Instant now = means.clock().instant();
        Map<SubscriptionKey, Stand> stands = means.subscriptions().stand();
        Set<SubscriptionKey> on = new HashSet<>();
        for (Subscription s : means.subscriptions().all()) {
            if (!s.on()) {
                continue;
            }
            on.add(s.key());
            Stand stand = stands.get(s.key());
            if (stand == null) {
                means.subscriptions().stand(s.key(), Stand.at(means.feed().end()));
            } else if (!stand.gone()
                    && (stand.pausedUntil() == null || !stand.pausedUntil().isAfter(now))
                    && underWay.add(s.key())) {
                crew.submit(() -> tell(s, stand));
            }
        }
        stands.keySet().stream()
                .filter(key -> !on.contains(key) && !underWay.contains(key))
                .forEach(means.subscriptions()::end);
        if (lastForgot.isBefore(now.minus(FORGETS_EVERY))) {
            lastForgot = now;
            means.subscriptions().forgetBefore(now.minus(Subscriptions.KEPT));
        }
    }

    /** Page after page, as long as all of each was taken or given up. */
    private void tell(Subscription s, Stand from) {
        try {
            Stand stand = from;
            Feed.Page page = means.feed().after(stand.upto(), CHANGES);
            while (page.upto() > stand.upto() && !rounds.isStopping()) {
                stand = told(s, stand, page);
                page = stand.upto() == page.upto()
                        ? means.feed().after(stand.upto(), CHANGES)
                        : new Feed.Page(List.of(), -1);
            }
        } catch (RuntimeException e) {
            LOG.warn("the subscription {} could not be told", s.key(), e);
        } finally {
            underWay.remove(s.key());
        }
    }

    /** How a page goes. */
    private static final class Going {
        private final boolean over;
        private final Map<String, Delivery> before;
        private final Map<String, String> gaps;
        private final List<Delivery> came = Collections.synchronizedList(new ArrayList<>());
        private volatile boolean halted;
        private volatile boolean gone;
        private volatile @Nullable Duration asked;

        /** @param over whether what is not taken now is given up @param before what became of its events in earlier tries */
        Going(boolean over, Map<String, Delivery> before, Map<String, String> gaps) {
            this.over = over;
            this.before = before;
            this.gaps = gaps;
        }
    }

    /** Tells a page, and writes what became of it with where the subscription stands then. */
    private Stand told(Subscription s, Stand stand, Feed.Page page) {
        Instant now = means.clock().instant();
        Going going = new Going(
                stand.failingSince() != null && Patience.isOver(stand.failingSince(), now),
                means.subscriptions().within(s.key(), stand.upto(), page.upto()),
                means.subscriptions().gaps(s.key(), stand.upto()));
        ofTickets(s, byTicket(s, page, now), going);
        Stand then = then(stand, page, going, now);
        means.subscriptions().told(s.key(), going.came, then);
        return then;
    }

    private Map<TicketId, List<Events.Event>> byTicket(Subscription s, Feed.Page page, Instant now) {
        Map<TicketId, List<Events.Event>> byTicket = new LinkedHashMap<>();
        Optional<Person> as = means.person().apply(s.as()).filter(Right.SEE::of);
        for (Feed.Change change : page.changes()) {
            as.ifPresent(p -> means.events()
                    .of(change, s.wanted(), s.fields(), p, now)
                    .forEach(e -> byTicket.computeIfAbsent(e.ticket(), t -> new ArrayList<>())
                            .add(e)));
        }
        return byTicket;
    }

    private void ofTickets(Subscription s, Map<TicketId, List<Events.Event>> byTicket, Going going) {
        Semaphore places = new Semaphore(TICKETS_AT_ONCE);
        List<Future<?>> all = new ArrayList<>();
        for (List<Events.Event> events : byTicket.values()) {
            places.acquireUninterruptibly();
            all.add(crew.submit(() -> {
                try {
                    ofTicket(s, events, going);
                } finally {
                    places.release();
                }
            }));
        }
        for (Future<?> one : all) {
            try {
                one.get();
            } catch (ExecutionException e) {
                throw new IllegalStateException(e.getCause());
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
                going.halted = true;
            }
        }
    }

    private Stand then(Stand stand, Feed.Page page, Going going, Instant now) {
        if (going.gone) {
            return new Stand(stand.upto(), stand.failures() + 1, now, null, true);
        }
        if (going.halted) {
            int failures = stand.failures() + 1;
            Instant since = stand.failingSince() == null ? now : stand.failingSince();
            return new Stand(stand.upto(), failures, since, Patience.next(now, failures, going.asked), false);
        }
        // Ended in its middle: what was taken is noted, and it goes on here after the next start.
        return rounds.isStopping() ? stand : Stand.at(page.upto());
    }

    /** One after the other: the next of a ticket goes out when the one before was taken, or given up. */
    private void ofTicket(Subscription s, List<Events.Event> events, Going going) {
        String gap = going.gaps.get(events.getFirst().ticket().value());
        for (Events.Event event : events) {
            if (going.halted || going.gone || rounds.isStopping()) {
                return;
            }
            Delivery before = going.before.get(event.id());
            if (before == null || !before.isOver()) {
                before = one(s, gap == null ? event : event.afterGap(gap), before, going);
            }
            if (!before.isOver()) {
                return;
            }
            gap = before.state().equals("parked") ? event.id() : null;
        }
    }

    private Delivery one(Subscription s, Events.Event event, @Nullable Delivery before, Going going) {
        Try tried = post(s, event);
        int tries = before == null ? 1 : before.tries() + 1;
        String state =
                switch (tried.outcome()) {
                    case TAKEN -> "delivered";
                    case LATER -> going.over ? "parked" : "tried";
                    case GONE -> "tried";
                    case REFUSED -> tries >= Patience.TRIES_OF_REFUSED || going.over ? "parked" : "tried";
                };
        Delivery came = new Delivery(
                event.id(), event.place(), event.kind(), means.clock().instant(), state, tries, tried.answer());
        going.came.add(came);
        if (tried.outcome() == Patience.Outcome.GONE) {
            going.gone = true;
        } else if (!came.isOver()) {
            going.asked = tried.asked();
            going.halted = true;
        }
        return came;
    }

    /** Tells an address that it is tried, and says how it was answered. */
    public Try trial(Subscription s) {
        return post(s, Events.trial(means.clock().instant()));
    }

    /** Sends one event again, whatever became of it; says how it was answered. Empty where it is not to be had any more. */
    public Optional<Try> again(Subscription s, Delivery d) {
        Optional<Person> as = means.person().apply(s.as()).filter(Right.SEE::of);
        Optional<Events.Event> event = means.feed().after(d.place() - 1, 1).changes().stream()
                .flatMap(c -> as.stream()
                        .flatMap(
                                p -> means
                                        .events()
                                        .of(
                                                c,
                                                s.wanted(),
                                                s.fields(),
                                                p,
                                                means.clock().instant())
                                        .stream()))
                .filter(e -> e.id().equals(d.event()))
                .findFirst();
        return event.map(e -> {
            Try tried = post(s, e);
            boolean taken = tried.outcome() == Patience.Outcome.TAKEN;
            means.subscriptions()
                    .came(
                            s.key(),
                            new Delivery(
                                    d.event(),
                                    d.place(),
                                    d.kind(),
                                    means.clock().instant(),
                                    taken ? "delivered" : d.state(),
                                    d.tries() + 1,
                                    tried.answer()));
            return tried;
        });
    }

    private Try post(Subscription s, Events.Event event) {
        String body = event.json();
        Map<String, String> headers = new HashMap<>();
        headers.put("Content-Type", "application/cloudevents+json");
        Optional<String> secret = means.secret().apply(secretName(s.key()));
        if (secret.isPresent()) {
            String time = String.valueOf(means.clock().instant().getEpochSecond());
            headers.put("webhook-id", event.id());
            headers.put("webhook-timestamp", time);
            headers.put(
                    "webhook-signature",
                    "v1,"
                            + Proving.signed(
                                    secret.get(),
                                    event.id(),
                                    time,
                                    body.getBytes(java.nio.charset.StandardCharsets.UTF_8)));
        }
        try {
            Posting.Answered answered = posting.answered(URI.create(s.address()), body, headers);
            return new Try(
                    Patience.of(answered.status()), "It answered " + answered.status() + ".", answered.retryAfter());
        } catch (Posting.NotTaken e) {
            return new Try(Patience.Outcome.LATER, String.valueOf(e.getMessage()), null);
        }
    }

    /** Ends what is under way; what was not taken is told after the next start. */
    @Override
    public void close() {
        rounds.close();
        crew.shutdown();
    }
}
