package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.server.signals.Proving;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.Executors;
import java.util.function.Function;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Events out, attacked: who is told what, in which order, and what is done where it is not taken (I17). */
class FeedTest extends OnDemo {
    /** What came to the other side. */
    private record Came(Map<String, String> headers, String raw, JsonNode body) {
        String id() {
            return body.get("id").asText();
        }

        String type() {
            return body.get("type").asText();
        }
    }

    private final List<Came> came = Collections.synchronizedList(new ArrayList<>());
    private volatile Function<Came, Integer> answers = c -> 204;
    private HttpServer other;
    private String address;

    @BeforeEach
    void otherSide() throws IOException {
        other = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 50);
        other.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        other.createContext("/", exchange -> {
            Map<String, String> headers = new HashMap<>();
            exchange.getRequestHeaders()
                    .forEach((k, v) -> headers.put(k.toLowerCase(java.util.Locale.ROOT), v.getFirst()));
            String raw = new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
            Came one = new Came(headers, raw, Json.tree(Json.readMap(raw)));
            int status = answers.apply(one);
            if (status / 100 == 2) {
                came.add(one);
            }
            exchange.sendResponseHeaders(status, -1);
            exchange.close();
        });
        other.start();
        address = "http://127.0.0.1:" + other.getAddress().getPort() + "/events";
    }

    @AfterEach
    void over() {
        for (JsonNode s : api.call("halvard", "GET", "/api/subscriptions", null).body()) {
            set(s.at("/subscription/key").asText(), address, false, "");
        }
        other.stop(0);
    }

    private Answer set(String key, String to, boolean on, String wanted) {
        return api.call(
                "halvard",
                "PUT",
                "/api/subscriptions/" + key,
                "{\"name\":\"%s\",\"on\":%s,\"address\":\"%s\",\"wanted\":{\"kinds\":[],\"tickets\":[]%s},\"fields\":[\"title\",\"priority\"],\"as\":\"ada\"}"
                        .formatted(key, on, to, wanted));
    }

    /** Set, and known to whoever tells: from then on all is told. */
    private void subscribe(String key, String to, String wanted) {
        Answer answer = set(key, to, true, wanted);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        until(() -> page(key).at("/view/stand").isObject());
    }

    private static JsonNode page(String key) {
        return api.call("ada", "GET", "/api/subscriptions/" + key, null).body();
    }

    private static JsonNode delivery(String key, String event) {
        for (JsonNode d : page(key).get("deliveries")) {
            if (d.get("event").asText().equals(event)) {
                return d;
            }
        }
        return Json.mapper().missingNode();
    }

    private static String raise(String title) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"%s\",\"requester\":\"mira\"}}".formatted(title))
                .body()
                .get("ticket")
                .asText();
    }

    private static void note(String ticket, String text) {
        assertThat(api.call(
                                "ada",
                                "POST",
                                "/api/tickets/" + ticket + "/notes",
                                "{\"toRequester\":false,\"text\":\"" + text + "\"}")
                        .status())
                .isLessThan(300);
    }

    private List<String> idsOf(String ticket) {
        synchronized (came) {
            return came.stream()
                    .map(Came::id)
                    .filter(id -> id.startsWith(ticket + "/"))
                    .toList();
        }
    }

    private static void advance(Duration by) {
        api.app().app().demo().advance().accept(by);
    }

    // --- subscriptions

    @Test
    void whatHappensIsToldInItsOrderSignedAndWithoutTexts() {
        subscribe("told", address, "");
        String secret = api.call("halvard", "POST", "/api/subscriptions/told/secret", null)
                .body()
                .get("secret")
                .asText();
        String ticket = raise("Told abroad");
        note(ticket, "nobody elsewhere reads this");
        until(() -> idsOf(ticket).contains(ticket + "/2"));
        until(() -> came.stream().anyMatch(c -> c.type().equals("dastur.noteAdded.v1")));
        assertThat(idsOf(ticket))
                .isSortedAccordingTo(
                        java.util.Comparator.comparing(id -> Integer.parseInt(id.substring(id.indexOf('/') + 1))));
        assertThat(idsOf(ticket)).doesNotHaveDuplicates();
        Came first = came.stream()
                .filter(c -> c.id().equals(ticket + "/1"))
                .findFirst()
                .orElseThrow();
        assertThat(first.body().get("specversion").asText()).isEqualTo("1.0");
        assertThat(first.type()).isEqualTo("dastur.ticketRaised.v1");
        assertThat(first.headers().get("content-type")).isEqualTo("application/cloudevents+json");
        assertThat(first.body().at("/data/fields/title").asText()).isEqualTo("Told abroad");
        assertThat(first.headers().get("webhook-signature"))
                .isEqualTo("v1,"
                        + Proving.signed(
                                secret,
                                first.id(),
                                first.headers().get("webhook-timestamp"),
                                first.raw().getBytes(StandardCharsets.UTF_8)));
        assertThat(came.stream().map(Came::raw)).noneMatch(raw -> raw.contains("nobody elsewhere reads this"));
        // the far end has it before we have written down that it took it
        until(() -> delivery("told", ticket + "/1").path("state").asText().equals("delivered"));
        assertThat(page("told").toString()).doesNotContain(secret);
    }

    @Test
    void onlyWhatIsWantedIsTold() {
        subscribe("wanted", address, "");
        assertThat(set("wanted", address, true, ",\"condition\":\"ticket.priority == 'P1'\"")
                        .status())
                .isEqualTo(200);
        String other = raise("Nothing much");
        String urgent = api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"Everything\",\"requester\":\"mira\",\"impact\":1,\"urgency\":1}}")
                .body()
                .get("ticket")
                .asText();
        until(() -> idsOf(urgent).contains(urgent + "/1"));
        assertThat(idsOf(other)).isEmpty();
    }

    @Test
    void whatIsNotTakenIsTriedAgainInItsOrderAndNothingIsLost() {
        subscribe("later", address, "");
        answers = c -> 503;
        String ticket = raise("Later");
        until(() -> delivery("later", ticket + "/1").path("tries").asInt() >= 1);
        note(ticket, "second");
        until(() -> page("later").at("/view/stand").has("pausedUntil"));
        assertThat(page("later").at("/view/stand/failures").asInt()).isPositive();
        answers = c -> 204;
        advance(Duration.ofMinutes(10));
        until(() -> idsOf(ticket).size() >= 2);
        assertThat(idsOf(ticket).getFirst()).isEqualTo(ticket + "/1");
        until(() -> !page("later").at("/view/stand").has("pausedUntil"));
        assertThat(page("later").at("/view/stand/failures").asInt()).isZero();
    }

    @Test
    void whatIsRefusedFiveTimesIsGivenUpAndTheNextSaysSo() {
        String ticket = raise("Refused");
        subscribe("refused", address, "");
        answers = c -> c.type().contains("noteAdded") ? 422 : 204;
        note(ticket, "refused");
        long seq = lastSeq(ticket);
        String event = ticket + "/" + seq;
        answers = c -> c.id().equals(event) ? 422 : 204;
        for (int i = 0; i < 5; i++) {
            int tries = i + 1;
            until(() -> delivery("refused", event).path("tries").asInt() >= tries);
            advance(Duration.ofMinutes(31));
        }
        until(() -> delivery("refused", event).path("state").asText().equals("parked"));
        note(ticket, "next");
        until(() -> !idsOf(ticket).isEmpty());
        Came next = came.stream()
                .filter(c -> c.id().startsWith(ticket + "/"))
                .findFirst()
                .orElseThrow();
        assertThat(next.body().get("gap").asText()).isEqualTo(event);
        answers = c -> 204;
        Answer again = api.call("halvard", "POST", "/api/subscriptions/refused/again", "{\"event\":\"" + event + "\"}");
        assertThat(again.body().get("outcome").asText()).isEqualTo("TAKEN");
        assertThat(delivery("refused", event).get("state").asText()).isEqualTo("delivered");
    }

    private static long lastSeq(String ticket) {
        List<String> all = api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .body()
                .get("entries")
                .findValuesAsText("seq");
        return Long.parseLong(all.getLast());
    }

    @Test
    void whoIsGoneIsToldNoMore() {
        subscribe("gone", address, "");
        answers = c -> 410;
        raise("Gone");
        until(() -> page("gone").at("/view/stand/gone").asBoolean());
    }

    /** One that takes the connection and never answers delays no other. */
    @Test
    void oneSlowSubscriberDelaysNoOther() throws IOException {
        try (ServerSocket mute = new ServerSocket(0, 100, InetAddress.getLoopbackAddress())) {
            for (int i = 0; i < 5; i++) {
                subscribe("mute-" + i, "http://127.0.0.1:" + mute.getLocalPort() + "/", "");
            }
            subscribe("quick", address, "");
            String ticket = raise("Quick");
            until(() -> idsOf(ticket).contains(ticket + "/1"));
            assertThat(Stream.of(0, 1, 2, 3, 4)).allSatisfy(i -> assertThat(
                            delivery("mute-" + i, ticket + "/1").path("state").asText())
                    .isNotEqualTo("delivered"));
        }
    }

    @Test
    void anAddressIsTriedByOneClick() {
        set("tried", address, false, "");
        Answer tried = api.call("halvard", "POST", "/api/subscriptions/tried/trial", null);
        assertThat(tried.body().get("outcome").asText()).isEqualTo("TAKEN");
        assertThat(came.getFirst().type()).isEqualTo("dastur.trial.v1");
        set("tried", "http://127.0.0.1:1/", false, "");
        assertThat(api.call("halvard", "POST", "/api/subscriptions/tried/trial", null)
                        .body()
                        .get("answer")
                        .asText())
                .contains("cannot be reached");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     file:///etc/passwd  |                             | ada    | address
                     http://x.example/   | ,"condition":"ticket.nope"  | ada    | wanted.condition
                     http://x.example/   |                             | mira   | as
                     http://x.example/   |                             | nobody | as
                    """)
    void whatIsWrongIsNamed(String to, String wanted, String as, String where) {
        Answer answer = api.call(
                "halvard",
                "PUT",
                "/api/subscriptions/wrong",
                "{\"name\":\"wrong\",\"on\":true,\"address\":\"%s\",\"wanted\":{\"kinds\":[],\"tickets\":[]%s},\"fields\":[],\"as\":\"%s\"}"
                        .formatted(to, wanted == null ? "" : wanted, as));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        assertThat(api.call("ines", "PUT", "/api/subscriptions/wrong", "{}").status())
                .as("events leave the house: administrators say where to")
                .isEqualTo(403);
    }

    // --- the feed

    private static List<JsonNode> lines(Answer answer) {
        return answer.raw().body().lines().map(l -> Json.tree(Json.readMap(l))).toList();
    }

    @Test
    void whoCannotBeReachedAsksAndMissesNothing() {
        String from = api.call("ada", "GET", "/api/events", null)
                .raw()
                .headers()
                .firstValue("Dastur-Place")
                .orElseThrow();
        String ticket = raise("Asked for");
        note(ticket, "more");
        List<String> ids = new ArrayList<>();
        String[] place = {from};
        until(() -> {
            Answer page = api.call("ada", "GET", "/api/events?after=" + place[0], null);
            lines(page).forEach(l -> ids.add(l.get("id").asText()));
            place[0] = page.raw().headers().firstValue("Dastur-Place").orElseThrow();
            return ids.stream().filter(i -> i.startsWith(ticket + "/")).count() >= lastSeq(ticket);
        });
        assertThat(ids).doesNotHaveDuplicates();
        List<JsonNode> again = lines(api.call("ada", "GET", "/api/events?kinds=noteAdded&after=" + from, null));
        assertThat(again).isNotEmpty().allSatisfy(l -> assertThat(l.get("type").asText())
                .isEqualTo("dastur.noteAdded.v1"));
    }

    @Test
    void whoWaitsIsToldAtOnce() {
        String from = api.call("ada", "GET", "/api/events", null)
                .raw()
                .headers()
                .firstValue("Dastur-Place")
                .orElseThrow();
        CompletableFuture<Answer> waits = CompletableFuture.supplyAsync(
                () -> api.call("ada", "GET", "/api/events?kinds=ticketRaised&wait=30&after=" + from, null));
        String ticket = raise("Waited for");
        assertThat(lines(waits.join()))
                .extracting(l -> l.get("subject").asText())
                .contains(ticket);
    }

    @Test
    void strangersAreToldNothingAndBadQuestionsAreNamed() {
        assertThat(api.call("mira", "GET", "/api/events", null).status()).isEqualTo(403);
        assertThat(api.call("ada", "GET", "/api/events?after=x", null).status()).isEqualTo(400);
        assertThat(api.call("ada", "GET", "/api/events?kinds=nothing", null).status())
                .isEqualTo(422);
        assertThat(api.call("ada", "GET", "/api/events?condition=ticket.nope", null)
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ada", "GET", "/api/events?tickets=nothing", null).status())
                .isEqualTo(400);
    }
}
