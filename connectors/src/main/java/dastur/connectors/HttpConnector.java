package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.MissingNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.channels.UnresolvedAddressException;
import java.time.Duration;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * Makes one HTTP call and, for a long job, asks until it is done. Only allowed hosts are reached, redirects are not
 * followed, answers are bounded, and a secret never appears in a result.
 */
public final class HttpConnector implements Connector {
    private static final Duration CONNECT = Duration.ofSeconds(5);
    /** So long a job may take to end once it was told to. */
    private static final Duration ENDS_WITHIN = Duration.ofSeconds(15);

    /** For asking only: what is asked again over another connection does no harm. */
    private final HttpClient asking = client();

    private static HttpClient client() {
        return HttpClient.newBuilder()
                .version(HttpClient.Version.HTTP_1_1)
                .followRedirects(HttpClient.Redirect.NEVER)
                .connectTimeout(CONNECT)
                .build();
    }

    /** The secret is sent as a bearer token (RFC 6750). */
    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        long started = System.nanoTime();
        Exchange exchange = new Exchange(
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
            heartbeat.answered(exchange.scrub(answer.toString()));
            return Answers.done(
                    call,
                    answer,
                    Answers.scrub(secret),
                    exchange.log(),
                    (System.nanoTime() - started) / 1_000_000,
                    polls);
        } catch (JobFailed e) {
            return new CallOutcome.Failed(exchange.scrub(e.getMessage()));
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

    /** A job that was accepted says itself that it failed. */
    private static final class JobFailed extends Exception {
        JobFailed(String message) {
            super(message);
        }
    }

    private record Polled(JsonNode answer, int count) {}

    private Polled poll(Exchange exchange, Action.Poll poll, JsonNode first, Heartbeat heartbeat)
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
            Exchange exchange, Action.Poll poll, String link, Heartbeat heartbeat, @Nullable String before, String why)
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

    /** One call with its limits, its secret and its log. */
    private final class Exchange {
        private final Event.Call call;
        private final Connection connection;
        private final @Nullable String secret;
        private final Heartbeat heartbeat;
        private long deadline;
        private boolean accepted;
        /** Whether answers to asking after a job are not told as they come. */
        private boolean quiet;

        private String lastLine = "";

        Exchange(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat, long deadline) {
            this.call = call;
            this.connection = connection;
            this.secret = secret;
            this.heartbeat = heartbeat;
            this.deadline = deadline;
        }

        /** What says "no": certain only as long as nothing was accepted. */
        CallOutcome no(String why) {
            return accepted
                    ? new CallOutcome.Unknown("It was accepted, but then: " + why)
                    : new CallOutcome.Failed(why);
        }

        boolean timeIsUp() {
            return System.nanoTime() > deadline;
        }

        void goesOnFor(Duration time) {
            deadline = System.nanoTime() + time.toNanos();
        }

        /** Until it is asked again, at the latest when the time is up. */
        void pause(Span every) throws InterruptedException {
            Thread.sleep(Duration.ofNanos(Math.min(
                    Duration.ofSeconds(every.roughSeconds()).toNanos(), Math.max(0, deadline - System.nanoTime()))));
        }

        /** Tells how far a job is, as a line "40 %: its disk is copied", when that is otherwise than before. */
        String says(Action.Poll poll, JsonNode answer, String before) {
            JsonNode percent = poll.percentAt() == null ? MissingNode.getInstance() : answer.at(poll.percentAt());
            String words = poll.sayingAt() == null
                    ? ""
                    : answer.at(poll.sayingAt()).asText("").strip();
            String far = percent.isNumber() ? Math.clamp(Math.round(percent.asDouble()), 0, 100) + " %" : "";
            String line = Texts.clip(
                    (far + (far.isEmpty() || words.isEmpty() ? "" : ": ") + words).replaceAll("\\s+", " "), 300);
            if (!line.isEmpty() && !line.equals(before)) {
                heartbeat.heard(scrub(line) + "\n");
            }
            return line;
        }

        URI resolve(String target) throws Definite {
            try {
                URI uri = URI.create(connection.base()).resolve(target);
                boolean http = "http".equals(uri.getScheme()) || "https".equals(uri.getScheme());
                boolean allowed = uri.getHost() != null
                        && (uri.getAuthority()
                                        .equals(URI.create(connection.base()).getAuthority())
                                || connection.allowedHosts().contains(uri.getAuthority()));
                if (!http || !allowed) {
                    throw Definite.ours("The connection '" + connection.name() + "' does not allow this address.");
                }
                Outward.check(connection, uri.getHost());
                return uri;
            } catch (Outward.Refused e) {
                throw Definite.ours(String.valueOf(e.getMessage()));
            } catch (IllegalArgumentException e) {
                throw Definite.ours("The address of '" + connection.name() + "' is not valid.");
            }
        }

        JsonNode send(String method, URI uri, @Nullable String body)
                throws IOException, InterruptedException, Definite, Doubtful {
            HttpRequest.Builder request = HttpRequest.newBuilder(uri)
                    .timeout(Duration.ofNanos(Math.max(1_000_000, deadline - System.nanoTime())));
            request.header("Accept", "application/json");
            for (Map.Entry<String, String> header : call.headers().entrySet()) {
                try {
                    request.header(header.getKey(), header.getValue());
                } catch (IllegalArgumentException e) {
                    throw Definite.ours("Nothing was sent: the header '" + Texts.clip(header.getKey(), 60)
                            + "' of this action cannot be sent. Mend the action.");
                }
            }
            if (secret != null) {
                request.header("Authorization", "Bearer " + secret);
            }
            if (body != null) {
                request.header("Content-Type", "application/json");
            }
            request.method(
                    method,
                    body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofString(body));
            long start = System.nanoTime();
            // What may change something goes over a connection of its own: one kept from before may be closed by the
            // other side just then, and nobody could say whether the call had arrived.
            HttpClient client = method.equals("GET") ? asking : client();
            HttpResponse<InputStream> response;
            String text;
            try {
                response = client.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
                text = Bounded.read(response, Answers.MAX_ANSWER, Duration.ofNanos(deadline - System.nanoTime()));
            } finally {
                if (client != asking) {
                    client.shutdownNow();
                }
            }
            lastLine = method + " " + uri + " → " + response.statusCode() + " in "
                    + (System.nanoTime() - start) / 1_000_000 + " ms\n" + Texts.clip(text, Answers.MAX_LOGGED);
            if (!quiet) {
                heartbeat.heard(log() + "\n");
            }
            return judge(response.statusCode(), text);
        }

        /**
         * An answer in the 400s, or 503, says that nothing was done; others leave it open, a redirect too: it is what many
         * answer with who have done it.
         */
        private JsonNode judge(int status, String text) throws Definite, Doubtful {
            if (status >= 200 && status < 300) {
                try {
                    return text.isBlank() ? MissingNode.getInstance() : Json.parse(text);
                } catch (JsonProcessingException e) {
                    return MissingNode.getInstance();
                }
            }
            String said = "It answered " + status + (text.isBlank() ? "." : ": " + Texts.clip(text.strip(), 200));
            if (status >= 400 && status < 500 || status == 503) {
                throw new Definite(said);
            }
            throw new Doubtful(said);
        }

        String log() {
            return scrub(lastLine);
        }

        String scrub(String text) {
            return Answers.scrub(secret).apply(text);
        }
    }
}
