package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Calls over a connection that a person, or its breaker, holds back: they wait, and what could not begin did not happen (M6, N84). */
class HeldCallsTest extends OnDemo {
    private final AtomicInteger asked = new AtomicInteger();
    private HttpServer peer;

    @BeforeAll
    static void workflow() {
        DesignedWorkflow.publish(api, """
                workflow held "Close a lane that is held" for incident
                  owner ines
                close: run lane.close "Close the lane" within 15 min at most 1 tries
                  with gate = ticket.ci
                  with why = ticket.title
                  already closed -> closed
                  failed -> broken
                closed: done "closed"
                broken: done "broken"
                """);
    }

    @BeforeEach
    void peer() throws IOException {
        peer = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        peer.createContext("/", exchange -> {
            asked.incrementAndGet();
            byte[] answer = "{\"lock\":\"L-1\",\"status\":\"closed\"}".getBytes(StandardCharsets.UTF_8);
            exchange.sendResponseHeaders(200, answer.length);
            exchange.getResponseBody().write(answer);
            exchange.close();
        });
        peer.start();
        leadsTo(peer.getAddress().getPort());
    }

    @AfterEach
    void end() {
        peer.stop(0);
    }

    private static void leadsTo(int port) {
        done(api.call("halvard", "PUT", "/api/connections/lanes", """
                {"key":"lanes","name":"Lane controller","base":"http://127.0.0.1:%d","allowedHosts":[],"secret":null}""".formatted(port)));
    }

    private static ApiClient.Answer done(ApiClient.Answer answer) {
        assertThat(answer.status()).as(answer.raw().body()).isLessThan(300);
        return answer;
    }

    private static void calls(boolean held) {
        done(api.call(
                "halvard",
                "PUT",
                "/api/connections/lanes/calls",
                "{\"held\":" + held + ",\"why\":\"The controller is moved to another rack.\"}"));
    }

    private static JsonNode held() {
        return api.call("ada", "GET", "/api/automation", null).body().at("/held/lanes");
    }

    private static String started() {
        String number = done(api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"A thing to look at","ci":"kiosk-03","requester":"mira"}}"""))
                .body()
                .get("ticket")
                .asText();
        done(api.call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"held\"}"));
        return number;
    }

    private static String result(String number) {
        return ticket("ada", number).at("/runs/0/result").asText();
    }

    private static void pass(int minutes) throws Exception {
        HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(api.app().standins().address() + "/pass"))
                                .header("Content-Type", "application/x-www-form-urlencoded")
                                .POST(HttpRequest.BodyPublishers.ofString("minutes=" + minutes))
                                .build(),
                        HttpResponse.BodyHandlers.discarding());
    }

    @Test
    void whatAPersonHoldsBackHasFailedInTheEndAndIsNotDoneAfterwards() throws Exception {
        calls(true);
        assertThat(held().at("/byHand/why").asText()).contains("another rack");
        String number = started();
        JsonNode line = api.call("ada", "GET", "/api/tickets/" + number + "/calls", null)
                .body()
                .get(0);
        assertThat(line.at("/over/connection").asText()).isEqualTo("Lane controller");
        pass(16);
        until("it has failed", () -> result(number).equals("broken"));
        assertThat(api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                        .raw()
                        .body())
                .contains("could not begin within its time limit")
                .doesNotContain("callUnsure");
        calls(false);
        String after = started();
        until("it goes out", () -> result(after).equals("closed"));
        assertThat(asked).as("only the one that was still wanted").hasValue(1);
        assertThat(api.call("halvard", "GET", "/api/journal", null).raw().body())
                .contains("held back", "let out")
                .contains("another rack");
        assertThat(api.call("ines", "PUT", "/api/connections/lanes/calls", "{\"held\":true,\"why\":\"x\"}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("halvard", "PUT", "/api/connections/lanes/calls", "{\"held\":true,\"why\":\" \"}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("halvard", "PUT", "/api/connections/none/calls", "{\"held\":true,\"why\":\"x\"}")
                        .status())
                .isEqualTo(404);
    }

    /** M1: what is withdrawn while its call waits does not go out when the connection is let out, and says so. */
    @Test
    void whatIsWithdrawnWhileItWaitsIsNotSent() {
        calls(true);
        String number = started();
        String withdrawal = "/api/actions/lane.close/versions/1/withdrawal";
        done(api.call("ines", "PUT", withdrawal, "{\"why\":\"It closes the wrong lane.\"}"));
        try {
            calls(false);
            until("it has failed", () -> result(number).equals("broken"));
            assertThat(api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                            .raw()
                            .body())
                    .contains("was withdrawn while this waited: It closes the wrong lane. Nothing was sent.");
            assertThat(asked).hasValue(0);
        } finally {
            done(api.call("ines", "POST", "/api/actions/lane.close/versions/1/use", null));
        }
    }

    /** Five reach nobody; the sixth and seventh wait, one goes out as a probe when it may, and then both are done, once each. */
    @Test
    void whereNobodyIsReachedTheOthersWaitUntilAProbeFindsSomebody() throws Exception {
        int live = peer.getAddress().getPort();
        int dead;
        try (var socket = new java.net.ServerSocket(0)) {
            dead = socket.getLocalPort();
        }
        leadsTo(dead);
        List<String> unlucky = new ArrayList<>();
        for (int i = 0; i < 5; i++) {
            unlucky.add(started());
        }
        unlucky.forEach(
                number -> until(number + " has failed", () -> result(number).equals("broken")));
        until("the breaker holds", () -> !held().isMissingNode());
        String sixth = started();
        String seventh = started();
        leadsTo(live);
        assertThat(asked).hasValue(0);
        assertThat(result(sixth)).isEmpty();
        pass(1);
        until(
                "the probe goes out",
                () -> result(sixth).equals("closed") && result(seventh).equals("closed"));
        assertThat(asked).hasValue(2);
        assertThat(held().isMissingNode()).isTrue();
    }
}
