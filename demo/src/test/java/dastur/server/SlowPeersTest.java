package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** An outside system that does not answer holds up its own calls and nothing else (W1, W2). */
class SlowPeersTest extends OnDemo {
    /** As many as can be under way to one peer at once, and many that wait. */
    private static final int CALLS = 68;

    private static final int PLACES = 16;

    private final AtomicInteger asked = new AtomicInteger();
    private final CountDownLatch mayAnswer = new CountDownLatch(1);
    private HttpServer peer;

    @BeforeEach
    void slowPeer() throws IOException {
        peer = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        peer.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        peer.createContext("/", exchange -> {
            asked.incrementAndGet();
            try {
                mayAnswer.await();
                byte[] answer = "{\"lock\":\"L-1\",\"status\":\"closed\"}".getBytes(StandardCharsets.UTF_8);
                exchange.sendResponseHeaders(200, answer.length);
                exchange.getResponseBody().write(answer);
            } catch (InterruptedException | IOException callerIsGone) {
                Thread.currentThread().interrupt();
            } finally {
                exchange.close();
            }
        });
        peer.start();
        call("halvard", "PUT", "/api/connections/lanes", """
                {"key":"lanes","name":"Lane controller","base":"http://127.0.0.1:%d","allowedHosts":[],"secret":null}""".formatted(
                        peer.getAddress().getPort()));
        DesignedWorkflow.publish(api, """
                workflow hang "Hang on a peer" for incident
                  owner ines
                close: run lane.close "Close the lane" at most 1 tries
                  with gate = ticket.ci
                  with why = ticket.title
                  already closed -> mark
                mark: update "Mark the CI"
                  set ci.lane = 'closed'
                end: done "closed"
                """);
        DesignedWorkflow.publish(api, """
                workflow short-wait "Wait a second" for incident
                  owner ines
                wait: wait 1 s
                end: done "waited"
                """);
        DesignedWorkflow.publish(api, """
                workflow other-peer "Ask another peer" for incident
                  owner ines
                enrol: run kiosk.enrol "Enrol the kiosk" at most 1 tries
                  with kiosk = ticket.ci
                  failed -> end
                end: done "asked"
                """);
    }

    @AfterEach
    void endPeer() {
        mayAnswer.countDown();
        peer.stop(0);
    }

    private static JsonNode call(String person, String method, String path, String body) {
        ApiClient.Answer answer = api.call(person, method, path, body);
        assertThat(answer.status())
                .as("%s %s: %s", method, path, answer.raw().body())
                .isLessThan(300);
        return answer.body();
    }

    private static String raise(String ci) {
        return call("ada", "POST", "/api/tickets", """
                {"kind":"incident","fields":{"title":"A thing to look at","ci":"%s","requester":"mira"}}""".formatted(ci))
                .get("ticket")
                .asText();
    }

    private static void start(String ticket, String workflow) {
        call("ada", "POST", "/api/tickets/" + ticket + "/runs", "{\"workflow\":\"" + workflow + "\"}");
    }

    private static boolean ran(String ticket, String result) {
        return ticket("ada", ticket).get("runs").findValuesAsText("result").contains(result);
    }

    @Test
    void callsThatHangHoldUpNeitherOtherCallsNorMailsNorAlarmsNorErrandsAndTheirResultsAreTakenInTheEnd() {
        List<String> hanging = new ArrayList<>();
        for (int i = 0; i < CALLS; i++) {
            String ticket = raise("kiosk-0" + (1 + i % 9));
            hanging.add(ticket);
            start(ticket, "hang");
        }
        until("all places are taken", () -> asked.get() >= PLACES);

        assertThat(asked.get()).as("to one peer only so many").isLessThan(CALLS / 2);
        String elsewhere = raise("kiosk-09");
        start(elsewhere, "other-peer");
        until("a call to another peer comes back", () -> ran(elsewhere, "asked"));

        String other = raise("book-web-1");
        start(other, "short-wait");
        until("an alarm rings", () -> ran(other, "waited"));
        call("ada", "POST", "/api/tickets/" + other + "/notes", "{\"text\":\"We look at it.\",\"toRequester\":true}");
        until("a mail goes out", () -> api.app().standins().mailbox().mails().stream()
                .anyMatch(m -> m.text().contains("We look at it.")));
        String linked = raise("book-web-2");
        call("ada", "POST", "/api/tickets/" + other + "/links", "{\"other\":\"" + linked + "\",\"as\":\"related to\"}");
        until("an errand is carried", () -> !ticket("ada", linked).get("links").isEmpty());

        // Each result changes a CI, whose other approvals are looked at: by other hands than those that brought it.
        mayAnswer.countDown();
        hanging.forEach(ticket -> until(ticket + " is finished", () -> ran(ticket, "closed")));
        String after = raise("kiosk-01");
        start(after, "hang");
        until("further calls are made", () -> ran(after, "closed"));
    }
}
