package dastur.relay;

import dastur.connectors.Connector;
import dastur.connectors.Connectors;
import dastur.connectors.ScriptConnector;
import dastur.connectors.relay.Allowed;
import dastur.connectors.relay.Work;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import java.net.URI;
import java.time.Duration;
import java.util.ArrayDeque;
import java.util.Deque;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/** Makes what the file allows, at its rates, with the zone's own secrets. */
final class Doing implements AutoCloseable {
    private static final long MINUTE = Duration.ofMinutes(1).toNanos();

    private final Folder folder;
    private final Allowed allowed;
    private final Connectors connectors = new Connectors();
    private final Connector scripts;
    /** When each was called within the last minute, by what the file calls it. */
    private final Map<String, Deque<Long>> called = new ConcurrentHashMap<>();

    Doing(Folder folder, Allowed allowed) {
        this.folder = folder;
        this.allowed = allowed;
        this.scripts = new ScriptConnector(folder.scripts(), folder.copies());
    }

    CallOutcome make(Work work, Connector.Heartbeat heartbeat) throws Connector.Abandoned {
        Event.Call call = work.call();
        Optional<String> refusal = allowed.refusal(work.connection(), call);
        if (refusal.isPresent()) {
            return new CallOutcome.Fault(refusal.get() + " Nothing was done.", false);
        }
        boolean script = Protocol.SCRIPT.methods().contains(call.method());
        String of = script ? "script " + Allowed.script(call) : work.connection();
        if (!passes(of, allowed.rate(work.connection(), call))) {
            return new CallOutcome.Failed(
                    "The file of the zone allows no more calls of '" + of + "' in this minute. Nothing was done.");
        }
        Allowed.Place place = allowed.connections().get(work.connection());
        Allowed.Script one = script ? allowed.scripts().get(Allowed.script(call)) : null;
        String secretName = one != null ? one.secret() : place == null ? null : place.secret();
        Optional<String> secret = secretName == null ? Optional.empty() : folder.secret(secretName);
        if (secretName != null && secret.isEmpty()) {
            return new CallOutcome.Fault(
                    "The secret '" + secretName + "' of the zone is not there. Nothing was done.", false);
        }
        return (script ? scripts : connectors)
                .call(call, there(work.connection(), place), secret.orElse(null), within(work.connection(), heartbeat));
    }

    private static Connection there(String name, Allowed.@Nullable Place place) {
        return place == null
                ? new Connection(name, name, "", List.of(), null)
                : new Connection(name, name, place.address(), place.hosts() == null ? List.of() : place.hosts(), null);
    }

    /** A long job is asked after only where the file allows to look. */
    private Connector.Heartbeat within(String connection, Connector.Heartbeat heartbeat) {
        return new Connector.Heartbeat() {
            @Override
            public boolean stillMine() {
                return heartbeat.stillMine();
            }

            @Override
            public boolean cancelled() {
                return heartbeat.cancelled();
            }

            @Override
            public void heard(String text) {
                heartbeat.heard(text);
            }

            @Override
            public void answered(String json) {
                heartbeat.answered(json);
            }

            @Override
            public boolean mayAsk(URI address) {
                return allowed.mayAsk(connection, path(address));
            }

            @Override
            public boolean mayCancel(URI address) {
                return allowed.mayCancel(connection, path(address));
            }
        };
    }

    private static String path(URI address) {
        String query = address.getRawQuery();
        return address.getRawPath() + (query == null ? "" : "?" + query);
    }

    private boolean passes(String of, int aMinute) {
        Deque<Long> times = called.computeIfAbsent(of, o -> new ArrayDeque<>());
        synchronized (times) {
            long now = System.nanoTime();
            while (!times.isEmpty() && now - times.peek() > MINUTE) {
                times.poll();
            }
            if (times.size() >= aMinute) {
                return false;
            }
            times.add(now);
            return true;
        }
    }

    @Override
    public void close() {
        connectors.close();
    }
}
