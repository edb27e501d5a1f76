package dastur.server.starts;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Json;
import dastur.core.signal.SourceKey;
import dastur.core.start.Watch;
import dastur.core.start.Watching;
import dastur.core.start.Watching.Reading;
import dastur.core.start.Watching.Seen;
import dastur.core.start.Watching.Turn;
import dastur.core.start.Watching.Turned;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Action;
import dastur.server.signals.Intake;
import dastur.server.work.OwnCalls;
import dastur.server.work.Repeatedly;
import dastur.store.Nodes;
import dastur.store.Watches;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Looks for all watches, each at its own times (I11). At most {@value #AT_ONCE} readings are under way, and {@value #OF_PEER} of one
 * outside system, so that one which does not answer delays no other; never two of one watch. What turns is kept like any signal before the
 * watch's stand says so.
 */
public final class Lookout implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Lookout.class);
    private static final int AT_ONCE = 16;
    private static final int OF_PEER = 4;
    private static final Duration LOOKS_EVERY = Duration.ofMillis(500);
    private static final Duration FORGETS_EVERY = Duration.ofHours(1);

    /** What it works with. @param held whether nothing may be started, since the database was restored */
    public record Uses(
            Watches watches, OwnCalls calls, Intake intake, Nodes nodes, BooleanSupplier held, InstantSource clock) {}

    private final Uses means;
    private final Semaphore places = new Semaphore(AT_ONCE);
    private final Set<SourceKey> underWay = ConcurrentHashMap.newKeySet();
    private final Map<String, AtomicInteger> ofPeer = new ConcurrentHashMap<>();
    private final Repeatedly rounds;
    private Instant lastForgot = Instant.MIN;

    public Lookout(Uses means) {
        this.means = means;
        this.rounds = new Repeatedly("lookout", LOOKS_EVERY, this::round);
    }

    public void start() {
        rounds.start();
    }

    private void round() {
        if (means.nodes().has(Nodes.Duty.STARTS) && !means.held().getAsBoolean()) {
            look();
        }
    }

    private void look() {
        Instant now = means.clock().instant();
        Map<SourceKey, Watches.Standing> standing = means.watches().standing();
        Set<SourceKey> on = new HashSet<>();
        for (Watch watch : means.watches().all()) {
            if (watch.on()) {
                on.add(watch.key());
                look(watch, standing.get(watch.key()), now);
            }
        }
        standing.keySet().stream().filter(key -> !on.contains(key)).forEach(means.watches()::end);
        if (lastForgot.isBefore(now.minus(FORGETS_EVERY))) {
            // What is left is forgotten in the next rounds: looks do not wait for it.
            lastForgot = means.watches().forget(now) ? now : lastForgot;
        }
    }

    private void look(Watch watch, Watches.@Nullable Standing stands, Instant now) {
        if (stands == null) {
            means.watches().begin(watch.key(), next(watch, now));
            return;
        }
        if (stands.next().isAfter(now) || underWay.contains(watch.key())) {
            return;
        }
        Optional<Action> action = means.calls().action(watch.action());
        String peer = action.map(Action::connection).orElse("");
        if (ofPeer.computeIfAbsent(peer, p -> new AtomicInteger()).get() >= OF_PEER || !places.tryAcquire()) {
            return;
        }
        long passed = Duration.between(stands.next(), now).toSeconds() / watch.everySeconds();
        if (!means.watches().claim(watch.key(), stands.next(), next(watch, now), passed)) {
            places.release();
            return;
        }
        underWay.add(watch.key());
        ofPeer.get(peer).incrementAndGet();
        Thread.ofVirtual().name("watch-" + watch.key()).start(() -> {
            try {
                take(watch, action, stands.stand());
            } catch (RuntimeException e) {
                LOG.warn("the watch {} could not look", watch.key(), e);
            } finally {
                ofPeer.get(peer).decrementAndGet();
                underWay.remove(watch.key());
                places.release();
            }
        });
    }

    /** Its next time: they lie apart for different watches, and stay the same for one. */
    static Instant next(Watch watch, Instant after) {
        long every = watch.everySeconds();
        long offset = Math.floorMod(watch.key().value().hashCode(), every);
        long since = after.getEpochSecond() - offset;
        return Instant.ofEpochSecond((Math.floorDiv(since, every) + 1) * every + offset);
    }

    private void take(Watch watch, Optional<Action> action, Watching.Stand before) {
        Seen seen = action.map(a -> read(watch, a, true))
                .orElseGet(() -> unread("There is no action '" + watch.action() + "' any more."));
        if (rounds.isStopping()) {
            return;
        }
        Watching.Step step = Watching.step(watch, before, seen);
        for (Turned turned : step.turns()) {
            // Kept before the stand says so: cut off in between, it is said again, and joins.
            String row = turned.row() == null ? "" : " " + turned.row();
            means.intake()
                    .keep(
                            watch.key(),
                            means.clock().instant(),
                            "watch " + turned.turn() + " " + turned.reading().at() + row,
                            Json.write(said(watch, turned)));
        }
        means.watches().saw(watch.key(), seen.whole(), step.stand());
    }

    private Seen unread(String why) {
        return Seen.nothing(means.clock().instant(), why);
    }

    /** Looks once. @param mine whether it stops when the application does */
    public Seen read(Watch watch, Action action, boolean mine) {
        if (action.changesWorld() || action.repeat() != Action.Repeat.FREE) {
            return unread("'" + action.name() + "' does not only read.");
        }
        String key = "watch." + watch.key() + "." + means.clock().instant().toEpochMilli();
        return judged(
                watch,
                action,
                means.calls().call(action.key(), watch.inputs(), key, () -> !mine || !rounds.isStopping()));
    }

    private Seen judged(Watch watch, Action action, CallOutcome outcome) {
        return switch (outcome) {
            case CallOutcome.Done done ->
                Watching.judged(
                        watch,
                        new Expressions(Vocabulary.ofReading(action, watch.each() != null)),
                        done.outputs(),
                        means.clock().instant());
            case CallOutcome.Failed no -> unread(OwnCalls.why(no));
            case CallOutcome.Unknown no -> unread(OwnCalls.why(no));
            case CallOutcome.Fault no -> unread(OwnCalls.why(no));
        };
    }

    /** What its source's mapping reads. */
    private static Map<String, Object> said(Watch watch, Turned turned) {
        Turn turn = turned.turn();
        Reading reading = turned.reading();
        Map<String, Object> said = new LinkedHashMap<>();
        boolean ofReading = turn == Turn.CANNOT_BE_READ || turn == Turn.READ_AGAIN;
        boolean fault = turn == Turn.FAULT || turn == Turn.CANNOT_BE_READ;
        String of = turned.row() == null ? "" : ": " + turned.row();
        said.put("sort", fault ? "fault" : "recovered");
        said.put(
                "severity",
                !fault ? "cleared" : ofReading ? "warning" : watch.severity().word());
        Object ci = ci(watch, turned);
        if (ci != null) {
            said.put("ci", ci);
        }
        if (watch.each() != null) {
            said.put("matter", watch.key() + (turned.row() == null ? " cannot be read" : " " + turned.row()));
        }
        said.put("what", watch.name() + of + (ofReading ? ": cannot be read" : ""));
        said.put("title", watch.name() + of + (ofReading ? " cannot be read" : ""));
        if (reading.why() != null) {
            said.put("text", reading.why());
        }
        said.put("at", reading.at().toString());
        said.put(turned.row() == null ? "read" : "row", reading.values());
        return said;
    }

    private static @Nullable Object ci(Watch watch, Turned turned) {
        boolean ofRow =
                turned.row() != null && watch.each() != null && watch.each().ci() != null;
        return ofRow
                ? turned.reading().values().get(watch.each().ci())
                : watch.ci() == null ? null : watch.ci().value();
    }

    /** Ends what is under way; what was not read is read after the next start. */
    @Override
    public void close() {
        rounds.close();
    }
}
