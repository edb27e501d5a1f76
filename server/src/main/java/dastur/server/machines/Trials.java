package dastur.server.machines;

import dastur.connectors.Connector;
import dastur.connectors.Connector.Abandoned;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.Composed;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.Walk;
import dastur.store.ActionTries;
import dastur.store.ActionTries.Try;
import dastur.store.Journal;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** Tries actions from their page (M3): dry, which sends nothing, or in earnest, which is kept before it is sent. */
public final class Trials implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Trials.class);
    private static final int AT_ONCE = 8;
    /** What an answer may take beyond the call's own limit. */
    private static final Duration GRACE = Duration.ofSeconds(30);

    /** What it works with. @param secret a secret's value by its name */
    public record Uses(
            ActionTries tries,
            Voices voices,
            Connector connector,
            Function<String, Optional<Connection>> connection,
            Function<String, Optional<String>> secret,
            InstantSource clock) {}

    /** What became of asking for a try. */
    public sealed interface Begun {
        record Ok(Try kept) implements Begun {}

        /** As many are under way as may be. */
        record TooMany() implements Begun {}

        /** The connection or its secret is not there. */
        record Cannot(String why) implements Begun {}
    }

    private final Uses means;
    private final Semaphore places = new Semaphore(AT_ONCE);
    private volatile boolean stopping;

    public Trials(Uses means) {
        this.means = means;
    }

    /** By what a try is known where its log is kept. */
    public static String voice(String id) {
        return "try." + id;
    }

    /** What would be sent, as text; nothing is. */
    public String dry(Action action, Connection over, Map<String, Object> inputs) {
        return shown(composed(action, inputs, "the-key-of-the-call"), over);
    }

    private Event.Call composed(Action action, Map<String, Object> inputs, String key) {
        return Composed.of(
                action,
                inputs,
                key,
                action.timeLimit().roughSeconds(),
                means.clock().instant());
    }

    private static String shown(Event.Call call, Connection over) {
        StringBuilder text = new StringBuilder();
        text.append(call.method()).append(' ');
        boolean pathless = over.protocol() == Protocol.SSH;
        text.append(over.inZone()
                        .map(z -> "by a relay of " + z.zone() + ", over what its file calls " + z.name()
                                + (pathless ? "" : ": " + call.path()))
                        .orElse(pathless ? over.base() : over.base() + call.path()))
                .append('\n');
        call.headers()
                .forEach((name, value) ->
                        text.append(name).append(": ").append(value).append('\n'));
        if (over.secret() != null) {
            text.append("signed in with the secret ").append(over.secret()).append('\n');
        }
        if (call.body() != null) {
            text.append('\n')
                    .append(over.protocol() == Protocol.WALK ? walk(call.body()) : call.body())
                    .append('\n');
        }
        return text.toString();
    }

    /** A walk's steps as sentences, with their values. */
    private static String walk(String body) {
        try {
            AtomicInteger number = new AtomicInteger();
            return Walk.of(body).steps().stream()
                    .map(step -> number.incrementAndGet() + ". " + step.sentence())
                    .collect(Collectors.joining("\n"));
        } catch (Walk.Unfit e) {
            return e.getMessage();
        }
    }

    /** Begins a try in earnest; known by its id, it is made once. @param why what is said to it; null for nothing */
    public Begun begin(Journal.By by, String id, Action action, Map<String, Object> inputs, @Nullable String why) {
        Optional<Try> known = means.tries().find(action.key(), id);
        if (known.isPresent()) {
            return new Begun.Ok(known.get());
        }
        Optional<Connection> over = means.connection().apply(action.connection());
        if (over.isEmpty()) {
            return new Begun.Cannot("There is no connection '" + action.connection() + "'.");
        }
        String secretName = over.get().secret();
        Optional<String> secret =
                secretName == null ? Optional.empty() : means.secret().apply(secretName);
        if (secretName != null && secret.isEmpty()) {
            return new Begun.Cannot(
                    "The secret '" + secretName + "' of '" + over.get().name() + "' is not set.");
        }
        if (!places.tryAcquire()) {
            return new Begun.TooMany();
        }
        boolean goesOn = false;
        try {
            Event.Call call = composed(action, inputs, "try." + id);
            Instant now = by.at();
            Try begun = new Try(
                    id,
                    action.key(),
                    now,
                    now.plus(Duration.ofSeconds(call.limitSeconds())).plus(GRACE),
                    by.person(),
                    inputs,
                    shown(call, over.get()),
                    Try.UNDER_WAY,
                    null,
                    null,
                    null,
                    null);
            means.tries().forgetBefore(now.minus(ActionTries.KEPT));
            String told =
                    call.method() + " " + call.path() + " over " + over.get().name();
            if (means.tries().begin(by, begun, why == null ? told : told + ": " + why)) {
                goesOn = true;
                Thread.ofVirtual().name("try-" + id).start(() -> {
                    try {
                        make(begun, action.repeat(), call, over.get(), secret.orElse(null));
                    } finally {
                        places.release();
                    }
                });
            }
            return new Begun.Ok(means.tries().find(action.key(), id).orElse(begun));
        } finally {
            if (!goesOn) {
                places.release();
            }
        }
    }

    private void make(Try begun, Action.Repeat repeat, Event.Call call, Connection over, @Nullable String secret) {
        long started = System.nanoTime();
        AtomicReference<String> answer = new AtomicReference<>();
        try (Voices.Voice voice = means.voices().of(voice(begun.id()))) {
            CallOutcome outcome = means.connector().call(call, over, secret, new Connector.Heartbeat() {
                @Override
                public boolean stillMine() {
                    return !stopping;
                }

                @Override
                public Connector.Known known() {
                    return new Connector.Known(voice(begun.id()), null, repeat);
                }

                @Override
                public void heard(String text) {
                    voice.heard(text);
                }

                @Override
                public void answered(String json) {
                    answer.set(json);
                }
            });
            means.tries().end(came(begun, outcome, answer.get(), (System.nanoTime() - started) / 1_000_000));
        } catch (Abandoned e) {
            LOG.info("a try of {} was under way when the application ended", begun.action());
        } catch (RuntimeException e) {
            LOG.error("a try of {} failed through a fault of our own", begun.action(), e);
            means.tries()
                    .end(begun.came(
                            Try.UNSURE,
                            "Dastur itself failed while it made this call; it may have gone out.",
                            null,
                            answer.get(),
                            (System.nanoTime() - started) / 1_000_000));
        }
    }

    private static Try came(Try begun, CallOutcome outcome, @Nullable String answer, long millis) {
        return switch (outcome) {
            case CallOutcome.Done done -> begun.came(done.exit(), null, done.outputs(), answer, millis);
            case CallOutcome.Failed failed -> begun.came(Try.FAILED, failed.why(), null, answer, millis);
            case CallOutcome.Unknown unknown -> begun.came(Try.UNSURE, unknown.why(), null, answer, millis);
            case CallOutcome.Fault fault ->
                begun.came(fault.sent() ? Try.UNSURE : Try.FAILED, fault.why(), null, answer, millis);
        };
    }

    /** A try as it stands now: one that nobody waits for any more, since the application was killed, is unsure. */
    public static Try asOf(Try kept, Instant now) {
        return kept.said().equals(Try.UNDER_WAY) && now.isAfter(kept.overAt())
                ? kept.came(
                        Try.UNSURE,
                        "The application stopped while this was under way: look at the other side.",
                        null,
                        null,
                        Duration.between(kept.begunAt(), kept.overAt()).toMillis())
                : kept;
    }

    /** What is under way is given up; that it was begun stands in the journal. */
    @Override
    public void close() {
        stopping = true;
    }
}
