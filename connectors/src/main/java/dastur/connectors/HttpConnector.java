package dastur.connectors;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.MissingNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SentAs;
import java.io.IOException;
import java.io.InputStream;
import java.net.ConnectException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpConnectTimeoutException;
import java.net.http.HttpHeaders;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.channels.UnresolvedAddressException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;

/**
 * Makes one HTTP call and, for a long job, asks until it is done. Only allowed hosts are reached, redirects are
 * followed there alone and only by what asks, answers are bounded, and a secret never appears in a result.
 */
public final class HttpConnector implements Connector {
    private static final Duration CONNECT = Duration.ofSeconds(5);
    /** So long a job may take to end once it was told to. */
    private static final Duration ENDS_WITHIN = Duration.ofSeconds(15);

    private static final Set<Integer> REDIRECTS = Set.of(301, 302, 303, 307, 308);
    private static final int MOST_REDIRECTS = 3;
    private static final long MOST_OF_PAGES = 5_000_000;

    /** For asking only: what is asked again over another connection does no harm. */
    private final HttpClient asking = client(null);

    private final SigningIn signingIn = new SigningIn();

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
            if (call.pages() != null) {
                answer = pages(exchange, call.pages(), answer, heartbeat);
            }
            heartbeat.answered(exchange.scrub(answer.toString()));
            return Answers.done(
                    call, answer, exchange::scrub, exchange.log(), (System.nanoTime() - started) / 1_000_000, polls);
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

    /** Asks for all further pages, and puts their lists together in the place of the first. */
    private static JsonNode pages(Exchange exchange, Action.Pages pages, JsonNode first, Heartbeat heartbeat)
            throws IOException, InterruptedException, Definite, Doubtful, JobFailed, Abandoned {
        ArrayNode all = items(pages, first).deepCopy();
        Set<URI> asked = new HashSet<>();
        JsonNode page = first;
        int count = 1;
        for (Optional<URI> next = exchange.next(pages, page); next.isPresent(); next = exchange.next(pages, page)) {
            if (!heartbeat.stillMine()) {
                throw new Abandoned();
            }
            if (count == pages.most() || !asked.add(next.get())) {
                throw new JobFailed(
                        count == pages.most()
                                ? "The answer has more than " + pages.most() + " pages."
                                : "Its pages go round in a circle: one leads to a page that was asked for before.");
            }
            if (!heartbeat.mayAsk(next.get())) {
                throw new JobFailed("It is not allowed to ask for the page at "
                        + Texts.clip(next.get().getPath(), 120) + ".");
            }
            page = exchange.send("GET", next.get(), null);
            all.addAll(items(pages, page));
            count++;
            if (exchange.read > MOST_OF_PAGES) {
                throw new JobFailed("Its pages are longer than " + MOST_OF_PAGES + " bytes together.");
            }
        }
        ((ObjectNode) first.at(pages.itemsAt().substring(0, pages.itemsAt().lastIndexOf('/'))))
                .set(name(pages.itemsAt()), all);
        return first;
    }

    /** The last part of a JSON Pointer (RFC 6901). */
    private static String name(String pointer) {
        return pointer.substring(pointer.lastIndexOf('/') + 1)
                .replace("~1", "/")
                .replace("~0", "~");
    }

    private static ArrayNode items(Action.Pages pages, JsonNode page) throws JobFailed {
        boolean inObject = page.at(pages.itemsAt().substring(0, pages.itemsAt().lastIndexOf('/')))
                .isObject();
        if (inObject && page.at(pages.itemsAt()) instanceof ArrayNode items) {
            return items;
        }
        throw new JobFailed("A page has no list at " + pages.itemsAt() + ".");
    }

    /** What was accepted says itself that it failed, or what was asked does not come whole. */
    private static final class JobFailed extends Exception {
        JobFailed(String message) {
            super(message);
        }
    }

    private record Polled(JsonNode answer, int count) {}

    /** @param leadsTo where it is asked instead; null for nowhere @param renewable whether a token may have been too old */
    private record Came(int status, String text, @Nullable String leadsTo, boolean renewable) {}

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
        private final List<String> hidden = new ArrayList<>();
        private HttpHeaders lastHeaders = HttpHeaders.of(Map.of(), (n, v) -> true);
        private URI lastAt = URI.create("");
        /** Bytes so far. */
        private long read;

        Exchange(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat, long deadline) {
            this.call = call;
            this.connection = connection;
            this.secret = secret;
            this.heartbeat = heartbeat;
            this.deadline = deadline;
            Stream.ofNullable(secret).forEach(hidden::add);
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
                if (connection.base().startsWith("https:") && "http".equals(uri.getScheme())) {
                    throw Definite.ours(
                            "'" + connection.name() + "' is reached over https://, and this leads to http://.");
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
            Came came = once(method, uri, body);
            if (came.status() == 401 && came.renewable()) {
                // It certainly did nothing, and knows the token no longer.
                signingIn.forget(connection);
                came = once(method, uri, body);
            }
            // Only what asks is asked elsewhere: of anything else nobody could say whether it was done here already.
            for (int i = 0; i < MOST_REDIRECTS && method.equals("GET") && came.leadsTo() != null; i++) {
                URI there = resolve(uri.resolve(came.leadsTo()).toString());
                if (!heartbeat.mayAsk(there)) {
                    throw new Definite("It is not allowed to ask at " + Texts.clip(there.getPath(), 120) + ".");
                }
                came = once(method, there, null);
            }
            return judge(came);
        }

        private HttpRequest.Builder request(URI uri) throws Definite {
            HttpRequest.Builder request = HttpRequest.newBuilder(uri).timeout(left());
            request.header("Accept", "application/json, text/csv;q=0.9, application/xml;q=0.9, */*;q=0.1");
            for (Map.Entry<String, String> header : call.headers().entrySet()) {
                try {
                    request.setHeader(header.getKey(), header.getValue());
                } catch (IllegalArgumentException e) {
                    throw Definite.ours("Nothing was sent: the header '" + Texts.clip(header.getKey(), 60)
                            + "' of this action cannot be sent. Mend the action.");
                }
            }
            return request;
        }

        private Duration left() {
            return Duration.ofNanos(Math.max(1_000_000, deadline - System.nanoTime()));
        }

        private Came once(String method, URI uri, @Nullable String body)
                throws IOException, InterruptedException, Definite {
            HttpRequest.Builder request = request(uri);
            SigningIn.Put put = signingIn.into(request, connection, secret, this::resolve, left());
            put.hidden().stream().filter(h -> !hidden.contains(h)).forEach(hidden::add);
            if (body != null && call.headers().keySet().stream().noneMatch(SentAs.CONTENT_TYPE::equalsIgnoreCase)) {
                request.header(SentAs.CONTENT_TYPE, SentAs.JSON.type());
            }
            request.method(
                    method,
                    body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofString(body));
            long start = System.nanoTime();
            SSLContext handshake = SigningIn.handshake(connection, secret);
            // What may change something goes over a connection of its own: one kept from before may be closed by the
            // other side just then, and nobody could say whether the call had arrived.
            HttpClient client = method.equals("GET") && handshake == null ? asking : client(handshake);
            HttpResponse<InputStream> response;
            byte[] bytes;
            try {
                response = client.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
                bytes = Bounded.bytes(response, Answers.MAX_ANSWER, Duration.ofNanos(deadline - System.nanoTime()));
            } finally {
                if (client != asking) {
                    client.shutdownNow();
                }
            }
            read += bytes.length;
            lastHeaders = response.headers();
            lastAt = uri;
            String text = HttpAnswer.text(response.headers(), bytes);
            lastLine = method + " " + uri + " → " + response.statusCode() + " in "
                    + (System.nanoTime() - start) / 1_000_000 + " ms\n" + Texts.clip(text, Answers.MAX_LOGGED);
            if (!quiet) {
                heartbeat.heard(log() + "\n");
            }
            boolean leads = REDIRECTS.contains(response.statusCode());
            return new Came(
                    response.statusCode(),
                    text,
                    leads ? response.headers().firstValue("Location").orElse(null) : null,
                    put.renewable());
        }

        /** Where the next page is; empty where this is the last. */
        Optional<URI> next(Action.Pages pages, JsonNode page) throws Definite {
            Optional<String> next = pages.nextAt() == null
                    ? HttpAnswer.next(lastHeaders)
                    : Optional.of(page.at(pages.nextAt()).asText("")).filter(t -> !t.isBlank() && !t.equals("null"));
            try {
                return next.isPresent()
                        ? Optional.of(resolve(lastAt.resolve(next.get()).toString()))
                        : Optional.empty();
            } catch (IllegalArgumentException e) {
                throw new Definite("What the answer says of its next page is no address.");
            }
        }

        /**
         * An answer in the 400s, or 503, says that nothing was done; others leave it open, a redirect too: it is what many
         * answer with who have done it.
         */
        private JsonNode judge(Came came) throws Definite, Doubtful {
            int status = came.status();
            String text = came.text();
            if (status >= 200 && status < 300) {
                return HttpAnswer.read(HttpAnswer.type(lastHeaders), text);
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
            String clean = text;
            for (String one : hidden) {
                clean = Scrubbing.whole(one, clean);
            }
            return clean;
        }
    }
}
