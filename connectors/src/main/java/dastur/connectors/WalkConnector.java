package dastur.connectors;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.connectors.walk.Walking;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.Walk;
import java.io.IOException;
import java.net.InetAddress;
import java.net.URI;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Walks through the pages of a system in a browser of its own (N46, M12). What did not hold is a failure, unless a result of the action means
 * it; once something was pressed it is not tried again by itself.
 */
final class WalkConnector implements Connector {
    /** A browser takes some hundred megabytes: so many are open at once, whoever asks. */
    private static final Semaphore PLACES = new Semaphore(2, true);

    private final Duration patience;

    WalkConnector() {
        this(Walking.PATIENCE);
    }

    /** @param patience how long something that is to be on a page is waited for */
    WalkConnector(Duration patience) {
        this.patience = patience;
    }

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        UnaryOperator<String> scrub = Answers.scrub(secret);
        long started = System.nanoTime();
        long limit = Math.min(call.limitSeconds(), Walk.MOST_SECONDS);
        Along along =
                new Along(heartbeat, scrub, started + Duration.ofSeconds(limit).toNanos());
        Walk walk;
        List<Walking.Host> hosts;
        try {
            walk = Walk.of(call.body());
            if (!call.path().startsWith("/") || call.path().startsWith("//")) {
                throw new Walk.Unfit("The path begins with one /.");
            }
            hosts = hosts(connection);
        } catch (Walk.Unfit | Outward.Refused e) {
            return new CallOutcome.Fault(scrub.apply(String.valueOf(e.getMessage())), false);
        } catch (IOException e) {
            return new CallOutcome.Failed("No connection to " + connection.name() + ".", true);
        }
        Walking walking = new Walking(Protocol.walked(connection.base()), secret, along, patience);
        boolean place = false;
        try {
            place = place(along);
            ObjectNode answer = walking.make(call.path(), walk, hosts);
            long millis = (System.nanoTime() - started) / 1_000_000;
            heartbeat.answered(scrub.apply(answer.toString()));
            if (!answer.get("status").asText().equals("held")
                    && Answers.ownResult(call, answer).isEmpty()) {
                String why = scrub.apply(why(answer));
                return walking.hasPressed() ? new CallOutcome.Fault(why, false) : new CallOutcome.Failed(why);
            }
            return Answers.done(call, answer, scrub, Texts.clip(along.log.toString(), Answers.MAX_LOGGED), millis, 0);
        } catch (Walking.NotReached e) {
            return new CallOutcome.Failed(scrub.apply(connection.name() + ": " + e.getMessage()), true);
        } catch (Walking.Stopped e) {
            if (along.abandoned) {
                throw new Abandoned();
            }
            return broken(walking, String.valueOf(e.getMessage()));
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (IOException e) {
            return broken(walking, scrub.apply(String.valueOf(e.getMessage())));
        } finally {
            if (place) {
                PLACES.release();
            }
        }
    }

    /** Before something was pressed, nothing can have come of it. */
    private static CallOutcome broken(Walking walking, String why) {
        return walking.hasPressed() ? new CallOutcome.Unknown(why) : new CallOutcome.Failed(why);
    }

    private static String why(ObjectNode answer) {
        String missed =
                answer.get("missed").asInt() + " of " + answer.get("checks").size() + " checks did not hold";
        String first = answer.get("checks")
                .valueStream()
                .filter(c -> c.get("result").asText().equals("missed"))
                .map(c -> c.get("check").asText())
                .findFirst()
                .map(c -> ": " + c)
                .orElse("");
        return answer.has("why") ? answer.get("why").asText() : missed + first + ".";
    }

    private static boolean place(Along along) throws Walking.Stopped, Definite {
        try {
            while (!PLACES.tryAcquire(200, TimeUnit.MILLISECONDS)) {
                along.goesOn();
            }
            return true;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Definite("It was interrupted before it began.");
        }
    }

    /** Where the connection's hosts lead, each looked up once: the browser asks nobody else (M10). */
    private static List<Walking.Host> hosts(Connection connection) throws IOException, Outward.Refused {
        URI base = URI.create(Protocol.walked(connection.base()));
        int usual = base.getScheme().equals("https") ? 443 : 80;
        List<URI> all = Stream.concat(
                        Stream.of(base),
                        connection.allowedHosts().stream().map(h -> URI.create(base.getScheme() + "://" + h)))
                .toList();
        List<Walking.Host> hosts = new ArrayList<>();
        for (URI uri : all) {
            Outward.check(connection, uri.getHost());
            InetAddress address = InetAddress.getByName(uri.getHost());
            if (!Outward.mayLead(uri.getHost(), address)) {
                throw new IOException("It leads where it may not.");
            }
            hosts.add(new Walking.Host(uri.getHost(), uri.getPort() < 0 ? usual : uri.getPort(), literal(address)));
        }
        return hosts;
    }

    private static String literal(InetAddress address) {
        String plain = address.getHostAddress();
        return plain.contains(":") ? "[" + plain.replaceFirst("%.*", "") + "]" : plain;
    }

    /** Tells what is said, and ends the walk when its time is over or nobody wants it. */
    private static final class Along implements Walking.Companion {
        private final Heartbeat heartbeat;
        private final UnaryOperator<String> scrub;
        private final long deadline;
        private final StringBuilder log = new StringBuilder();
        private boolean abandoned;

        Along(Heartbeat heartbeat, UnaryOperator<String> scrub, long deadline) {
            this.heartbeat = heartbeat;
            this.scrub = scrub;
            this.deadline = deadline;
        }

        @Override
        public void said(String line) {
            String clean = scrub.apply(line) + "\n";
            log.append(clean);
            heartbeat.heard(clean);
        }

        @Override
        public void took(String name, byte[] png) {
            heartbeat.pictured(Texts.clip(scrub.apply(name), 100), png);
        }

        @Override
        public void goesOn() throws Walking.Stopped {
            if (!heartbeat.stillMine()) {
                abandoned = true;
                throw new Walking.Stopped("It was given up to another worker.");
            }
            if (heartbeat.cancelled()) {
                throw new Walking.Stopped("It was cancelled while it was under way.");
            }
            if (System.nanoTime() > deadline) {
                throw new Walking.Stopped("The walk was not done within its time limit.");
            }
        }
    }
}
