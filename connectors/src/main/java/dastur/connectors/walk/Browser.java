package dastur.connectors.walk;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import java.io.IOException;
import java.io.InputStream;
import java.io.UncheckedIOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Base64;
import java.util.List;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * A browser without a window, at a page (W3C WebDriver). It is new for each walk and reaches nothing but the hosts it was given: every
 * other name and address leads nowhere, for pages, scripts and pictures alike.
 */
final class Browser implements AutoCloseable {
    /** As a WebDriver calls what it keeps an element under. */
    private static final String ELEMENT = "element-6066-11e4-a52e-4f735466cecf";

    private static final int MOST_ANSWER = 20_000_000;
    private static final Duration PAGE_WITHIN = Duration.ofSeconds(30);

    /** The driver says that something could not be done. */
    static final class Refused extends Exception {
        private static final long serialVersionUID = 1;

        private final String code;

        Refused(String code, String message) {
            super(message);
            this.code = code;
        }

        /** As the standard calls it, such as {@code element click intercepted}. */
        String code() {
            return code;
        }
    }

    /**
     * What is found under a name.
     *
     * @param count how many are of the name
     * @param text what stands there, or what the page says
     * @param others what else there is of its kind
     */
    record Found(int count, String element, String text, boolean ready, List<String> others) {}

    private static final String FIND = script("find.js");
    private static final String COVER = script("cover.js");

    private final Driver driver;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(5)).build();
    private final String session;

    /**
     * @param reached what may be reached, as {@code host:port} pairs with the address that each leads to
     * @throws IOException when there is no browser, or it does not start
     */
    Browser(List<Reached> reached) throws IOException {
        driver = Driver.start();
        try {
            session = begun(reached);
        } catch (IOException | RuntimeException e) {
            driver.close();
            throw e;
        }
    }

    /** A host and port with the address it leads to. */
    record Reached(String host, int port, String address) {
        String rule() {
            return "MAP " + host + ":" + port + " " + address + ":" + port;
        }
    }

    private String begun(List<Reached> reached) throws IOException {
        String rules = String.join(", ", reached.stream().map(Reached::rule).toList()) + ", MAP * ~NOTFOUND";
        ObjectNode wanted = Json.mapper().createObjectNode();
        ObjectNode always = wanted.putObject("capabilities").putObject("alwaysMatch");
        always.put("browserName", "chrome").put("unhandledPromptBehavior", "dismiss");
        always.putObject("timeouts")
                .put("pageLoad", PAGE_WITHIN.toMillis())
                .put("script", 5_000)
                .put("implicit", 0);
        ObjectNode options = always.putObject("goog:chromeOptions");
        ArrayNode args = options.putArray("args");
        List.of(
                        "--headless",
                        "--disable-gpu",
                        "--disable-quic",
                        "--no-first-run",
                        "--disable-background-networking",
                        "--disable-component-update",
                        "--disable-sync",
                        "--disable-extensions",
                        "--no-proxy-server",
                        "--force-webrtc-ip-handling-policy=disable_non_proxied_udp",
                        "--window-size=1280,800",
                        "--user-data-dir=" + driver.profile(),
                        "--host-resolver-rules=" + rules)
                .forEach(args::add);
        // Nothing is downloaded.
        options.putObject("prefs").put("download_restrictions", 3);
        try {
            return send("POST", "/session", wanted).path("sessionId").asText();
        } catch (Refused e) {
            throw new IOException("The browser could not be started: " + e.getMessage(), e);
        }
    }

    void open(String address) throws IOException, Refused {
        send("POST", at("/url"), Json.mapper().createObjectNode().put("url", address));
    }

    /** @param sought field, press, text or read */
    Found find(String sought, String name) throws IOException, Refused {
        JsonNode found = run(FIND, sought, name);
        List<String> others =
                found.path("others").valueStream().map(JsonNode::asText).toList();
        return new Found(
                found.path("count").asInt(),
                found.path("element").path(ELEMENT).asText(""),
                found.path("text").asText(""),
                found.path("ready").asBoolean(true),
                others);
    }

    void press(String element) throws IOException, Refused {
        send("POST", of(element, "/click"), Json.mapper().createObjectNode());
    }

    void type(String element, String text) throws IOException, Refused {
        send("POST", of(element, "/clear"), Json.mapper().createObjectNode());
        if (!text.isEmpty()) {
            send("POST", of(element, "/value"), Json.mapper().createObjectNode().put("text", text));
        }
    }

    /** Chooses an option of a list. @return whether it has one of that name */
    boolean choose(String element, String option) throws IOException, Refused {
        return run("""
                        const [list, wanted] = arguments;
                        const plain = (text) => (text ?? "").replace(/\\s+/g, " ").trim();
                        const option = Array.from(list.options ?? []).find((o) => plain(o.text) === plain(wanted) && !o.disabled);
                        if (!option) return false;
                        list.value = option.value;
                        list.dispatchEvent(new Event("input", { bubbles: true }));
                        list.dispatchEvent(new Event("change", { bubbles: true }));
                        return true;
                        """, Json.mapper().createObjectNode().put(ELEMENT, element), option)
                .asBoolean();
    }

    /** A picture of what is to be seen, as PNG, without the secret. */
    byte[] picture(@Nullable String secret) throws IOException, Refused {
        String covered = secret == null ? "" : secret;
        run(COVER, covered, false);
        try {
            return Base64.getDecoder()
                    .decode(send("GET", at("/screenshot"), null).asText());
        } finally {
            run(COVER, covered, true);
        }
    }

    private JsonNode run(String script, Object... arguments) throws IOException, Refused {
        ObjectNode body = Json.mapper().createObjectNode().put("script", script);
        ArrayNode args = body.putArray("args");
        for (Object argument : arguments) {
            args.add(Json.tree(argument));
        }
        return send("POST", at("/execute/sync"), body);
    }

    private String at(String path) {
        return "/session/" + session + path;
    }

    private String of(String element, String path) {
        return at("/element/" + element + path);
    }

    private JsonNode send(String method, String path, @Nullable JsonNode body) throws IOException, Refused {
        HttpRequest.BodyPublisher sent = body == null
                ? HttpRequest.BodyPublishers.noBody()
                : HttpRequest.BodyPublishers.ofString(body.toString());
        HttpRequest request = HttpRequest.newBuilder(URI.create("http://127.0.0.1:" + driver.port() + path))
                .timeout(PAGE_WITHIN.plusSeconds(10))
                .header("Content-Type", "application/json; charset=utf-8")
                .method(method, sent)
                .build();
        try {
            HttpResponse<InputStream> answer = client.send(request, HttpResponse.BodyHandlers.ofInputStream());
            byte[] bytes;
            try (InputStream in = answer.body()) {
                bytes = in.readNBytes(MOST_ANSWER + 1);
            }
            if (bytes.length > MOST_ANSWER) {
                throw new IOException("What the browser said is too large.");
            }
            JsonNode value =
                    Json.parse(new String(bytes, StandardCharsets.UTF_8)).path("value");
            if (answer.statusCode() != 200) {
                throw new Refused(
                        value.path("error").asText("unknown error"),
                        value.path("message").asText("").lines().findFirst().orElse(""));
            }
            return value;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("It was interrupted.", e);
        }
    }

    private static String script(String name) {
        try (InputStream in = Objects.requireNonNull(Browser.class.getResourceAsStream(name))) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Override
    public void close() {
        client.close();
        driver.close();
    }
}
