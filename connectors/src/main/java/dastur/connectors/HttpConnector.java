package dastur.connectors;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SignIn;
import java.io.IOException;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.nio.channels.UnresolvedAddressException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;

/**
 * Makes one HTTP call and, for a long job, asks until it is done. Only allowed hosts are reached, redirects are
 * followed there alone and only by what asks, answers are bounded, and a secret never appears in a result.
 */
public final class HttpConnector implements Connector {
    private static final Duration CONNECT = Duration.ofSeconds(5);
    /** 401, Unauthorized: whoever signs in so is nobody it knows (RFC 9110, 15.5.2). */
    private static final int UNKNOWN_TO_IT = 401;

    /** So long a job may take to end once it was told to. */
    private static final Duration ENDS_WITHIN = Duration.ofSeconds(15);

    private final HttpExchange.Ways ways = new HttpExchange.Ways(client(null), new SigningIn());

    /** @param handshake what is shown in it; null for nothing */
    static HttpClient client(@Nullable SSLContext handshake) {
        HttpClient.Builder client = HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .followRedirects(HttpClient.Redirect.NEVER)
                .connectTimeout(CONNECT);
        return (handshake == null ? client : client.sslContext(handshake)).build();
    }

    /** The secret is used as the connection says. */
    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        long started = System.nanoTime();
        HttpExchange exchange = new HttpExchange(
                ways,
                call,
                connection,
                secret,
                heartbeat,
                started + Duration.ofSeconds(call.limitSeconds()).toNanos());
        try {
            URI first = exchange.resolve(connection.base() + call.path());
            JsonNode answer = exchange.send(call.method(), first, call.body());
            // From here on it has happened, or may have: nothing that follows says that it did not.
            exchange.accepted = true;
            int polls = 0;
            if (call.poll() != null) {
                Polled polled = poll(exchange, call.poll(), answer, heartbeat);
                answer = polled.answer();
                polls = polled.count();
            }
            if (call.pages() != null) {
                answer = HttpPages.whole(exchange, call.pages(), answer, heartbeat);
            }
            heartbeat.answered(exchange.scrub(answer.toString()));
            return Answers.done(
                    call, answer, exchange::scrub, exchange.log(), (System.nanoTime() - started) / 1_000_000, polls);
        } catch (JobFailed e) {
            return new CallOutcome.Failed(exchange.scrub(e.getMessage()));
        } catch (Answers.OwnNo e) {
            return exchange.accepted
                    ? exchange.no(exchange.scrub(e.getMessage()))
                    : new CallOutcome.Done(
                            e.result(),
                            Map.of(),
                            null,
                            null,
                            exchange.log(),
                            (System.nanoTime() - started) / 1_000_000,
                            0);
        } catch (Definite e) {
            return exchange.accepted ? exchange.no(exchange.scrub(e.getMessage())) : e.outcome(exchange::scrub);
        } catch (ConnectException | HttpConnectTimeoutException | UnresolvedAddressException e) {
            String why = "No connection to " + connection.name() + ".";
            return exchange.accepted ? exchange.no(why) : new CallOutcome.Failed(why, true);
        } catch (Bounded.TooLong | Bounded.TooSlow e) {
            return new CallOutcome.Unknown(e.getMessage());
        } catch (IOException e) {
            return new CallOutcome.Unknown("The connection to " + connection.name() + " broke before an answer came.");
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(exchange.scrub(e.getMessage()));
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Abandoned();
        }
    }

    /**
     * Asks what may be done at each address (OPTIONS, RFC 9110, 9.3.7), which changes nothing. Whoever does not tell is not taken to refuse.
     */
    Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite {
        HttpExchange exchange = greeting(connection, secret);
        String root = URI.create(connection.base()).getPath();
        try {
            HttpExchange.Options first =
                    exchange.options(exchange.resolve(connection.base() + (root.isEmpty() ? "/" : "")));
            boolean refused = first.status() == UNKNOWN_TO_IT;
            URI welcome = null;
            List<Greeted.Given> given = new ArrayList<>();
            for (Event.Call call : calls) {
                URI where = exchange.resolve(connection.base() + call.path());
                HttpExchange.Options at = exchange.options(where);
                refused |= at.status() == UNKNOWN_TO_IT;
                welcome = at.isWelcome() ? where : welcome;
                given.add(given(at, call.method()));
            }
            boolean in = !refused && secret != null && isLetIn(connection, welcome);
            return new Greeted(
                    Greeted.Says.YES,
                    refused ? Greeted.Says.NO : in ? Greeted.Says.YES : Greeted.Says.CANNOT_SAY,
                    refused ? "It does not take what we sign in with." : null,
                    given);
        } catch (IOException | UnresolvedAddressException e) {
            throw Definite.unreached("No connection to " + connection.name() + ".");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw Definite.unreached("It was given up.");
        }
    }

    private HttpExchange greeting(Connection connection, @Nullable String secret) {
        return new HttpExchange(
                ways,
                Greeter.call(),
                connection,
                secret,
                Greeter.ALIVE,
                System.nanoTime() + Duration.ofSeconds(Greeter.SECONDS).toNanos());
    }

    /** Whoever gave a token has let us in, and so has whoever refuses those who come without our secret. */
    private boolean isLetIn(Connection connection, @Nullable URI welcome)
            throws IOException, InterruptedException, Definite {
        return connection.signIn() instanceof SignIn.ClientCredentials
                || welcome != null
                        && greeting(connection, null).options(welcome).refuses();
    }

    private static Greeted.Given given(HttpExchange.Options at, String method) {
        if (at.status() == UNKNOWN_TO_IT) {
            return Greeted.Given.no("It does not take what we sign in with.");
        }
        // Also where the question itself is refused: that says nothing of what it asks about.
        if (at.allows().isEmpty()) {
            return Greeted.Given.cannotSay("It does not tell what may be done there: it answered " + at.status() + ".");
        }
        return at.allows().contains(method)
                ? Greeted.Given.YES
                : Greeted.Given.no("There it allows " + String.join(", ", at.allows()) + ".");
    }

    /** What was accepted says itself that it failed, or what was asked does not come whole. */
    static final class JobFailed extends Exception {
        private static final long serialVersionUID = 1;

        JobFailed(String message) {
            super(message);
        }
    }

    private record Polled(JsonNode answer, int count) {}

    private Polled poll(HttpExchange exchange, Action.Poll poll, JsonNode first, Heartbeat heartbeat)
            throws IOException, InterruptedException, Definite, Doubtful, JobFailed, Abandoned {
        String link = first.at(poll.linkAt()).asText("");
        JsonNode answer = first;
        // Where it says itself how far it is, its answers as they come would only hide that.
        exchange.quiet = poll.tells();
        String said = "";
        String cancelled = null;
        int count = 0;
        while (true) {
            said = exchange.says(poll, answer, said);
            String state = answer.at(poll.stateAt()).asText("");
            if (state.equals(poll.doneWhen())) {
                return new Polled(answer, count);
            }
            if (state.equals(poll.failedWhen())) {
                throw new JobFailed((cancelled == null ? "" : cancelled + " ") + "The job ended as '"
                        + Texts.clip(state, 60) + "': "
                        + Texts.clip(answer.path("why").asText(""), 200));
            }
            if (link.isBlank()) {
                throw new Definite("The answer does not say where to ask for the job.");
            }
            if (exchange.timeIsUp()) {
                cancelled = cancel(
                        exchange, poll, link, heartbeat, cancelled, "The job was not done within the time limit.");
            }
            exchange.pause(poll.every());
            if (!heartbeat.stillMine()) {
                throw new Abandoned();
            }
            if (cancelled == null && heartbeat.cancelled()) {
                cancelled =
                        cancel(exchange, poll, link, heartbeat, null, "It was cancelled while the job was under way.");
            }
            URI next = exchange.resolve(link);
            if (!heartbeat.mayAsk(next)) {
                throw new Definite(
                        "It is not allowed to ask after the job at " + Texts.clip(next.getPath(), 120) + ".");
            }
            answer = exchange.send("GET", next, null);
            count++;
        }
    }

    /**
     * Tells a job to end, where it can be told. It has ended when it says so; until then nobody knows.
     *
     * @param before why it was told so already; null where it was not
     * @return why it was told
     */
    private static String cancel(
            HttpExchange exchange,
            Action.Poll poll,
            String link,
            Heartbeat heartbeat,
            @Nullable String before,
            String why)
            throws IOException, InterruptedException, Definite, Doubtful {
        if (before != null) {
            throw new Doubtful(before + " It was told to end, but has not said that it did.");
        }
        URI at = exchange.resolve(link);
        if (!Boolean.TRUE.equals(poll.cancels()) || !heartbeat.mayCancel(at)) {
            throw new Doubtful(why);
        }
        exchange.goesOnFor(ENDS_WITHIN);
        try {
            exchange.send("DELETE", at, null);
        } catch (Definite e) {
            throw new Doubtful(why + " It could not be told to end: " + e.getMessage());
        }
        return why;
    }
}
