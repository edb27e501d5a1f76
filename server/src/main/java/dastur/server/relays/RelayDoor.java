package dastur.server.relays;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.github.benmanes.caffeine.cache.Cache;
import com.github.benmanes.caffeine.cache.Caffeine;
import dastur.connectors.Connector;
import dastur.connectors.relay.Lines;
import dastur.connectors.relay.SignedText;
import dastur.connectors.relay.Work;
import dastur.connectors.relay.WorkDone;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Right;
import dastur.core.record.Signing;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Zone;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.store.Outbox;
import dastur.store.RelayWork;
import dastur.store.Relays;
import dastur.store.Relays.Relay;
import io.github.bucket4j.Bucket;
import java.security.KeyPair;
import java.time.Duration;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import java.util.stream.Stream;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The door at which relays ask (M13). Nobody signs in here: each request is signed by a key that somebody has let in, of
 * this minute, and what it takes away is signed for this relay only. Clocks here are those of the machines, not the demo's.
 */
public final class RelayDoor {
    private static final Logger LOG = LoggerFactory.getLogger(RelayDoor.class);
    private static final Duration LONGEST_WAIT = Duration.ofSeconds(20);
    private static final Duration LOOKS_EVERY = Duration.ofSeconds(2);
    private static final int AT_ONCE = 50;
    private static final int MOST_NAMED = 200;
    private static final int JOINS_A_MINUTE = 20;

    /**
     * What it works with.
     *
     * @param key signs what is given to relays
     * @param held whether nothing may go out, since a copy was brought back
     * @param wall the machines' time
     * @param clock the application's time
     */
    public record Uses(
            Relays relays,
            RelayWork work,
            Outbox outbox,
            Handing handing,
            CommandService commands,
            KeyPair key,
            BooleanSupplier held,
            InstantSource wall,
            InstantSource clock) {}

    private final Uses means;
    private volatile boolean ending;
    private final Cache<String, Bucket> joins = Caffeine.newBuilder()
            .maximumSize(10_000)
            .expireAfterAccess(Duration.ofMinutes(10))
            .build();

    public RelayDoor(Uses means) {
        this.means = means;
    }

    public Stream<Route> routes() {
        return Stream.of(
                Route.post(
                        Route.IN + "relay/join",
                        Right.ANYBODY,
                        "Ask to join a zone as its relay, by a code",
                        Lines.Join.class,
                        Lines.Joined.class,
                        this::join),
                Route.post(
                        Route.IN + "relay/hello",
                        Right.ANYBODY,
                        "Begin to work as a relay; signed",
                        Lines.Hello.class,
                        Lines.Welcome.class,
                        this::hello),
                Route.post(
                        Route.IN + "relay/take",
                        Right.ANYBODY,
                        "Wait for work; signed",
                        Lines.Take.class,
                        Lines.Given.class,
                        this::take),
                Route.post(
                        Route.IN + "relay/tell",
                        Right.ANYBODY,
                        "Say what goes on and what is done; signed",
                        Lines.Tell.class,
                        Lines.Told.class,
                        this::tell));
    }

    /** Lets no relay wait any longer: the application ends. */
    public void end() {
        ending = true;
        means.handing().wakeRelays();
    }

    // --- joining

    private Object join(Request q) {
        Bucket turns = joins.get(q.address(), k -> Bucket.builder()
                .addLimit(l -> l.capacity(JOINS_A_MINUTE).refillGreedy(JOINS_A_MINUTE, Duration.ofMinutes(1)))
                .build());
        if (!turns.tryConsume(1)) {
            throw Problem.tooFast("From this address so many ask to join.").end();
        }
        Lines.Join join = q.body(Lines.Join.class);
        understood(join.protocol());
        Request.needed(join.code(), "code");
        Request.needed(join.key(), "key");
        Request.needed(join.proof(), "proof");
        if (!Request.needed(join.name(), "name").matches("[A-Za-z0-9][A-Za-z0-9 ._-]{0,59}")) {
            throw Problem.invalid("name", "A relay's name has up to 60 letters, digits, blanks, dots and dashes.")
                    .end();
        }
        if (join.code().length() > 200 || join.key().length() > 200 || !join.proved()) {
            throw Problem.notProved("This is not signed by the key that it names.")
                    .end();
        }
        return switch (means.relays()
                .join(
                        UUID.randomUUID().toString(),
                        join.code(),
                        join.name(),
                        join.key(),
                        means.clock().instant())) {
            case Relays.Asked.Ok ok ->
                Lines.Joined.of(ok.relay().id(), ok.relay().zone(), join.key(), means.key());
            case Relays.Asked.NoSuchCode no ->
                throw Problem.notProved(
                                "This code is not, or no longer, one that can be used: each can be used once, within 15 minutes. Make a new one.")
                        .end();
            case Relays.Asked.NotSo no -> throw Problem.conflict(no.why()).end();
        };
    }

    private static void understood(int protocol) {
        if (protocol != Lines.PROTOCOL && protocol != Lines.PROTOCOL - 1) {
            throw Problem.conflict("This server understands relays of protocol " + Lines.PROTOCOL
                            + " and the one before, not of " + protocol + ". Bring relay or server up to date.")
                    .end();
        }
    }

    // --- who asks

    private record Asked<T>(Relay relay, T body) {}

    private <T> Asked<T> asked(Request q, Class<T> type, boolean in) {
        String id = Texts.clip(q.context().header(Lines.RELAY), 41);
        Optional<Relay> found = id.isEmpty() ? Optional.empty() : means.relays().find(id);
        String body = q.context().body();
        long at = at(q.context().header(Lines.AT));
        String signature = Texts.clip(q.context().header(Lines.SIGNATURE), 200);
        if (found.isEmpty()
                || !Signing.holds(
                        Lines.request(q.context().path(), at, body),
                        signature,
                        found.get().key())) {
            throw Problem.notProved("This is not signed by a relay that is known here.")
                    .end();
        }
        Relay relay = found.get();
        long off = at - means.wall().millis();
        if (Math.abs(off) > Work.SKEW.toMillis()) {
            throw Problem.notProved("The clock of this relay is " + Math.abs(off) / 1000 + " s "
                            + (off > 0 ? "ahead" : "behind") + ": it is "
                            + means.wall().instant()
                            + " here. Set it right; up to two minutes are borne.")
                    .end();
        }
        notLetGo(relay);
        if (in && relay.standing() != Relays.Standing.IN) {
            throw Problem.noRight("Nobody has let this relay in yet: compare its key on the page of its zone.")
                    .end();
        }
        return new Asked<>(relay, q.body(type));
    }

    private static void notLetGo(Relay relay) {
        if (relay.standing() == Relays.Standing.OUT) {
            throw Problem.gone(
                            "This relay was let go: nothing it says counts any more. To bring it back, let it join anew, in a folder of its own.")
                    .end();
        }
    }

    private static long at(@org.jspecify.annotations.Nullable String header) {
        return header != null && header.matches("\\d{1,15}") ? Long.parseLong(header) : 0;
    }

    // --- working

    private Object hello(Request q) {
        Asked<Lines.Hello> asked = asked(q, Lines.Hello.class, false);
        Lines.Hello hello = asked.body();
        understood(hello.protocol());
        means.relays()
                .hello(
                        asked.relay().id(),
                        Texts.clip(hello.boot(), 40),
                        hello.protocol(),
                        Texts.clip(hello.version(), 40),
                        Texts.clip(hello.allowed(), 64),
                        Request.needed(hello.may(), "may").stream()
                                .limit(MOST_NAMED)
                                .map(m -> Texts.clip(m, 150))
                                .toList());
        String zone = means.relays()
                .zone(asked.relay().zone())
                .map(Zone::name)
                .orElse(asked.relay().zone().value());
        return new Lines.Welcome(asked.relay().standing() == Relays.Standing.IN, zone);
    }

    private void counts(Relay relay, String boot, long turn) {
        if (means.relays().heard(relay.id(), boot, turn)) {
            return;
        }
        // Asked after it did not count: a copy may be brought back at any moment.
        boolean greeted =
                means.relays().find(relay.id()).filter(r -> r.boot() != null).isPresent();
        throw (greeted
                        ? Problem.conflict(
                                "Another process works under this relay's key now. Each relay has a key of its own: let one of the two join anew.")
                        : Problem.noRight("Greet first: since you did, a copy of the database was brought back here."))
                .end();
    }

    private Object take(Request q) {
        Asked<Lines.Take> asked = asked(q, Lines.Take.class, true);
        Relay relay = asked.relay();
        if (asked.body().turn() < 1) {
            throw Problem.invalid("turn", "Turns are counted from 1.").end();
        }
        counts(relay, asked.body().boot(), asked.body().turn());
        Set<String> has = Set.copyOf(Request.needed(asked.body().has(), "has"));
        int most = Math.clamp(asked.body().most(), 0, AT_ONCE);
        Semaphore wake = means.handing().forRelaysOf(relay.zone());
        long until = System.nanoTime() + LONGEST_WAIT.toNanos();
        try {
            while (true) {
                wake.drainPermits();
                // It may be let go while it waits.
                means.relays().find(relay.id()).ifPresent(RelayDoor::notLetGo);
                List<RelayWork.Call> taken = most == 0 || means.held().getAsBoolean()
                        ? List.of()
                        : means.work().take(relay.zone(), relay.id(), most, has);
                long left = until - System.nanoTime();
                if (!taken.isEmpty() || left <= 0 || ending) {
                    return new Lines.Given(
                            taken.stream().map(c -> given(relay, c)).toList());
                }
                wake.tryAcquire(Math.min(left, LOOKS_EVERY.toNanos()), TimeUnit.NANOSECONDS);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw Problem.busy().end();
        }
    }

    private SignedText given(Relay relay, RelayWork.Call call) {
        Action.Repeat repeat = Arrays.stream(Action.Repeat.values())
                .filter(r -> r.word().equals(call.repeat()))
                .findFirst()
                .orElse(Action.Repeat.NEVER);
        return new Work(
                        call.id(),
                        relay.zone(),
                        relay.id(),
                        call.connection(),
                        Json.read(call.body(), Event.Call.class),
                        repeat,
                        means.wall().instant())
                .signed(means.key());
    }

    private Object tell(Request q) {
        Asked<Lines.Tell> asked = asked(q, Lines.Tell.class, true);
        Relay relay = asked.relay();
        Lines.Tell tell = asked.body();
        if (Request.needed(tell.underWay(), "underWay").size() > MOST_NAMED
                || Request.needed(tell.said(), "said").size() > MOST_NAMED
                || Request.needed(tell.done(), "done").size() > MOST_NAMED) {
            throw Problem.invalid(null, "Of each at most " + MOST_NAMED + " are told at once.")
                    .end();
        }
        // What is done counts also from a process that another has taken over from: it was given to this key.
        List<String> kept = new ArrayList<>();
        tell.done().forEach(d -> keep(relay, d).ifPresent(kept::add));
        counts(relay, tell.boot(), 0);
        tell.said().forEach(s -> {
            if (isOf(relay, s.work())) {
                means.handing().heard(s.work(), Texts.clip(s.text(), 64_000));
            }
        });
        Set<String> unwanted = means.work().stillAt(relay.id(), tell.underWay());
        return new Lines.Told(kept, List.copyOf(unwanted));
    }

    private boolean isOf(Relay relay, String work) {
        return means.work().find(work).filter(r -> relay.id().equals(r.relay())).isPresent();
    }

    /** Keeps what became of a call. Returns its id where the relay need not say it again. */
    private Optional<String> keep(Relay relay, SignedText came) {
        Optional<WorkDone> opened = WorkDone.open(came, relay.id(), relay.key());
        if (opened.isEmpty()) {
            LOG.warn("relay {} said something that it has not signed, or that cannot be read", relay.id());
            return readable(came);
        }
        WorkDone done = opened.get();
        Optional<RelayWork.Row> row = means.work().find(done.work());
        if (row.isEmpty() || !row.get().call().zone().equals(relay.zone())) {
            return Optional.of(done.work());
        }
        Optional<RelayWork.Row> before = means.work().done(done.work(), relay.id(), came.text(), came.signature());
        boolean awaited = means.handing().over(done.work());
        if (before.isPresent() && !awaited && nobodyComesBackTo(before.get())) {
            late(before.get(), done);
        }
        return Optional.of(done.work());
    }

    /** Whoever waited has given it up, or is gone for good: the visit is unsure, or over. */
    private boolean nobodyComesBackTo(RelayWork.Row row) {
        return row.standing() == RelayWork.Standing.LEFT
                || !means.outbox().has(row.call().id());
    }

    /** One that cannot be opened is not asked for for ever. */
    private static Optional<String> readable(SignedText came) {
        try {
            return Optional.of(Json.parse(came.text()).path("work").asText()).filter(w -> !w.isEmpty());
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }

    /** Nobody waits any more: the ticket is told all the same, where it settles what was unsure, or stands as late (D15). */
    private void late(RelayWork.Row row, WorkDone done) {
        if (row.call().origin() == null) {
            return;
        }
        Connector.Of of = Json.read(row.call().origin(), Connector.Of.class);
        means.commands()
                .handleRepeatable(
                        of.ticket(),
                        "call." + done.work(),
                        new Actor.OfAction(new ActionKey(of.action().isBlank() ? "unknown" : of.action())),
                        new CallResult(of.visit(), of.attempt(), done.outcome()));
    }
}
