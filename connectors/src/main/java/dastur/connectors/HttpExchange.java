package dastur.connectors;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.MissingNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.connectors.Connector.Heartbeat;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SentAs;
import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpHeaders;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import javax.net.ssl.SSLContext;
import org.jspecify.annotations.Nullable;

/** One call with its limits, its secret and its log. */
final class HttpExchange {
    private static final Set<Integer> REDIRECTS = Set.of(301, 302, 303, 307, 308);
    private static final int MOST_REDIRECTS = 3;

    /** What all calls have in common. @param asking for asking only: what is asked again over another connection does no harm */
    record Ways(HttpClient asking, SigningIn signingIn) {}

    /** @param leadsTo where it is asked instead; null for nowhere @param renewable whether a token may have been too old */
    private record Came(int status, String text, @Nullable String leadsTo, boolean renewable) {}

    private final Ways ways;
    private final Event.Call call;
    private final Connection connection;
    private final @Nullable String secret;
    private final Heartbeat heartbeat;
    private long deadline;
    boolean accepted;
    /** Whether answers to asking after a job are not told as they come. */
    boolean quiet;

    private String lastLine = "";
    private final List<String> hidden = new ArrayList<>();
    private HttpHeaders lastHeaders = HttpHeaders.of(Map.of(), (n, v) -> true);
    private URI lastAt = URI.create("");
    /** Bytes so far. */
    long read;

    HttpExchange(
            Ways ways,
            Event.Call call,
            Connection connection,
            @Nullable String secret,
            Heartbeat heartbeat,
            long deadline) {
        this.ways = ways;
        this.call = call;
        this.connection = connection;
        this.secret = secret;
        this.heartbeat = heartbeat;
        this.deadline = deadline;
        Stream.ofNullable(secret).forEach(hidden::add);
    }

    /** What says "no": certain only as long as nothing was accepted. */
    CallOutcome no(String why) {
        return accepted ? new CallOutcome.Unknown("It was accepted, but then: " + why) : new CallOutcome.Failed(why);
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
        String line =
                Texts.clip((far + (far.isEmpty() || words.isEmpty() ? "" : ": ") + words).replaceAll("\\s+", " "), 300);
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
                    && (uri.getAuthority().equals(URI.create(connection.base()).getAuthority())
                            || connection.allowedHosts().contains(uri.getAuthority()));
            if (!http || !allowed) {
                throw Definite.ours("The connection '" + connection.name() + "' does not allow this address.");
            }
            if (connection.base().startsWith("https:") && "http".equals(uri.getScheme())) {
                throw Definite.ours("'" + connection.name() + "' is reached over https://, and this leads to http://.");
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
            ways.signingIn().forget(connection);
            came = once(method, uri, body);
        }
        // Only what asks is asked elsewhere: of anything else nobody could say whether it was done here already.
        URI at = uri;
        for (int i = 0; i < MOST_REDIRECTS && method.equals("GET") && came.leadsTo() != null; i++) {
            at = led(at, came.leadsTo());
            came = once(method, at, null);
        }
        return judge(came);
    }

    private URI led(URI from, String to) throws Definite, Doubtful {
        URI there;
        try {
            there = resolve(from.resolve(to).toString());
        } catch (IllegalArgumentException e) {
            throw new Doubtful("It leads elsewhere, and what it says is no address.");
        }
        if (!heartbeat.mayAsk(there)) {
            throw new Definite("It is not allowed to ask at " + Texts.clip(there.getPath(), 120) + ".");
        }
        return there;
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
        SigningIn.Put put = ways.signingIn().into(request, connection, secret, this::resolve, left());
        put.hidden().stream().filter(h -> !hidden.contains(h)).forEach(hidden::add);
        if (body != null && call.headers().keySet().stream().noneMatch(SentAs.CONTENT_TYPE::equalsIgnoreCase)) {
            request.header(SentAs.CONTENT_TYPE, SentAs.JSON.type());
        }
        request.method(
                method, body == null ? HttpRequest.BodyPublishers.noBody() : HttpRequest.BodyPublishers.ofString(body));
        long start = System.nanoTime();
        SSLContext handshake = SigningIn.handshake(connection, secret);
        // What may change something goes over a connection of its own: one kept from before may be closed by the
        // other side just then, and nobody could say whether the call had arrived.
        HttpClient client = method.equals("GET") && handshake == null ? ways.asking() : HttpConnector.client(handshake);
        HttpResponse<InputStream> response;
        byte[] bytes;
        try {
            response = client.send(request.build(), HttpResponse.BodyHandlers.ofInputStream());
            bytes = Bounded.bytes(response, Answers.MAX_ANSWER, Duration.ofNanos(deadline - System.nanoTime()));
        } finally {
            if (client != ways.asking()) {
                client.shutdownNow();
            }
        }
        read += bytes.length;
        lastHeaders = response.headers();
        lastAt = uri;
        String text = HttpAnswer.text(response.headers(), bytes);
        lastLine = method + " " + uri + " → " + response.statusCode() + " in " + (System.nanoTime() - start) / 1_000_000
                + " ms\n" + Texts.clip(text, Answers.MAX_LOGGED);
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

    /** What may be done at an address. @param allows in the order in which it is told; empty where it is not */
    record Options(int status, List<String> allows) {
        boolean isWelcome() {
            return status >= 200 && status < 300;
        }

        boolean refuses() {
            return status == 401 || status == 403;
        }
    }

    /** Asks what may be done at an address; nothing is. */
    Options options(URI uri) throws IOException, InterruptedException, Definite {
        int status = once("OPTIONS", uri, null).status();
        return new Options(
                status,
                lastHeaders.allValues("Allow").stream()
                        .flatMap(a -> Stream.of(a.split(",")))
                        .map(String::strip)
                        .filter(a -> !a.isEmpty())
                        .toList());
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
        for (Action.OwnResult result : call.results()) {
            if (result.isOfStatus()
                    && result.equal().equals(String.valueOf(status))
                    && Action.OwnResult.isResult(result.equal())) {
                throw new Answers.OwnNo(result.name(), said);
            }
        }
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
