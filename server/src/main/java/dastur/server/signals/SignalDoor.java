package dastur.server.signals;

import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.signal.Envelope;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Incoming.Arrival;
import dastur.store.Incoming.Fate;
import dastur.store.Sources;
import io.github.bucket4j.Bucket;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Stream;

/**
 * The door for senders: {@code POST /in/{source}}. Asks in this order: rate of the address, size, who it is, rate of the source;
 * then what came is kept, and only then answered (I1). Nobody needs an account here, and no cookie counts.
 */
public final class SignalDoor {
    private static final int MOST_BYTES = 256 * 1024;

    private record Limit(int atOnce, int aSecond) {}

    private static final Limit OF_ADDRESS = new Limit(20_000, 4_000);
    private static final Limit OF_SOURCE = new Limit(10_000, 2_000);

    /** Headers that are kept with what came: nothing that proves who sent it. */
    private static final List<String> KEPT = List.of("content-type", "user-agent", "webhook-id", "idempotency-key");

    /** What was taken. @param signals their ids, in the order in which they stood in the request */
    record Taken(String signal, List<String> signals) {}

    private final Sources sources;
    private final Intake intake;
    private final Proving proving;
    private final Refusals refusals;
    private final InstantSource clock;
    private final Cache<String, Bucket> buckets = Caffeine.newBuilder()
            .maximumSize(100_000)
            .expireAfterAccess(Duration.ofMinutes(10))
            .build();

    private SignalDoor(
            Sources sources,
            Intake intake,
            Refusals refusals,
            Function<String, Optional<String>> secret,
            InstantSource clock) {
        this.sources = sources;
        this.intake = intake;
        this.proving = new Proving(secret);
        this.refusals = refusals;
        this.clock = clock;
    }

    /** @param secret a secret's value by its name */
    public static Stream<Route> of(
            Sources sources,
            Intake intake,
            Refusals refusals,
            Function<String, Optional<String>> secret,
            InstantSource clock) {
        SignalDoor door = new SignalDoor(sources, intake, refusals, secret, clock);
        return Stream.of(Route.post(
                        Route.IN + "{source}",
                        Right.ANYBODY,
                        "Give what happened to a source: CloudEvents, JSON or a form",
                        null,
                        Taken.class,
                        door::came)
                .accepted());
    }

    private Object came(Request q) {
        Optional<Source> source = sources.find(q.path("source", SourceKey::new));
        if (source.isEmpty()) {
            throw Problem.notFound("There is no source of this name.").end();
        }
        Source of = source.get();
        if (!passes("a:" + q.address(), OF_ADDRESS, 1)) {
            throw refused(of, "too fast", Problem.tooFast("From this address comes too much at once."));
        }
        byte[] body = q.context().bodyAsBytes();
        if (body.length > MOST_BYTES) {
            throw refused(of, "too large", Problem.tooLarge(MOST_BYTES));
        }
        Map<String, String> headers = headers(q);
        Instant now = clock.instant();
        Optional<Proving.No> no = proving.refused(of, headers, body, now);
        if (no.isPresent()) {
            throw refused(of, no.get().reason(), Problem.notProved(no.get().words()));
        }
        if (!of.open()) {
            throw refused(
                    of, "shut", Problem.conflict("'" + of.name() + "' is shut at this moment; nothing was taken."));
        }
        List<Envelope.Event> events = events(of, headers, body);
        if (!passes("s:" + of.key(), OF_SOURCE, events.size())) {
            throw refused(of, "too fast", Problem.tooFast("This source takes 2,000 events a second."));
        }
        return taken(of, keep(of, headers, events, now));
    }

    private List<Envelope.Event> events(Source of, Map<String, String> headers, byte[] body) {
        try {
            String text = StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(body))
                    .toString();
            return Envelope.open(headers, text);
        } catch (CharacterCodingException e) {
            throw refused(of, "not readable", Problem.malformed(null, "The body is not UTF-8."));
        } catch (Envelope.Unreadable e) {
            throw refused(of, "not readable", Problem.malformed(null, String.valueOf(e.getMessage())));
        }
    }

    private List<Fate> keep(Source of, Map<String, String> headers, List<Envelope.Event> events, Instant now) {
        Map<String, String> kept = new TreeMap<>();
        headers.forEach((name, value) -> {
            if (KEPT.contains(name) || name.startsWith("ce-")) {
                kept.put(Texts.clip(name, 100), Texts.clip(value, 300));
            }
        });
        String asJson = Json.write(kept);
        String text = asJson.length() <= 8_000 ? asJson : "{}";
        String whole = Optional.ofNullable(headers.get("webhook-id")).orElse(headers.get("idempotency-key"));
        List<Arrival> arrivals = new ArrayList<>();
        for (int i = 0; i < events.size(); i++) {
            Envelope.Event event = events.get(i);
            String delivery = whole == null ? event.delivery() : events.size() == 1 ? whole : whole + " " + i;
            arrivals.add(intake.arrival(of.key(), now, delivery, text, Json.write(event.body())));
        }
        return intake.keep(arrivals);
    }

    /** What was not taken of a batch is said of the whole: the sender mends it and sends it again, and nothing is twice. */
    private Taken taken(Source of, List<Fate> fates) {
        List<String> ids = new ArrayList<>();
        for (Fate fate : fates) {
            switch (fate) {
                case Fate.Kept k -> ids.add(k.id());
                case Fate.Another a ->
                    throw refused(
                            of,
                            "another body",
                            Problem.invalid(
                                    null,
                                    "Under this delivery id something else came before: it stands as " + a.before()
                                            + "."));
            }
        }
        return new Taken(ids.isEmpty() ? "" : ids.getFirst(), ids);
    }

    private Problem.Ended refused(Source source, String reason, Problem problem) {
        refusals.count(source.key(), reason, problem.detail(), clock.instant());
        return problem.end();
    }

    private boolean passes(String who, Limit limit, int events) {
        return buckets.get(who, k -> Bucket.builder()
                        .addLimit(l -> l.capacity(limit.atOnce()).refillGreedy(limit.aSecond(), Duration.ofSeconds(1)))
                        .build())
                .tryConsume(Math.max(1, events));
    }

    private static Map<String, String> headers(Request q) {
        Map<String, String> headers = new TreeMap<>();
        q.context().headerMap().forEach((name, value) -> headers.put(name.toLowerCase(Locale.ROOT), value));
        return headers;
    }
}
