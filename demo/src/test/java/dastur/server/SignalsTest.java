package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.locks.LockSupport;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Signals and those who wait for them meet, whoever comes first, and each counts once (D12a). */
class SignalsTest extends OnDemo {
    private static final int ROUNDS = 60;

    @BeforeAll
    static void waitsForABell() {
        DesignedWorkflow.publish(api, """
                workflow ring-the-bell "Ring the bell" for request
                  owner ines
                look: ask group pier-technicians "Look" within 1 h: "Done"
                bell: wait for signal "bell" with key ticket.number
                end: done "rung"
                """);
    }

    private static String started() {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"request","fields":{"title":"The bell is to ring","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        var answer = api.call("ines", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"ring-the-bell\"}");
        assertThat(answer.status()).as(answer.raw().body()).isLessThan(300);
        return number;
    }

    private static void look(String number) {
        String visit = ask("runa", number).get("visit").asText();
        var answer =
                api.call("runa", "POST", "/api/tasks/" + visit + "/complete", "{\"outcome\":\"Done\",\"form\":{}}");
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
    }

    private static JsonNode ring(String number, String id) {
        return api.call(
                        "teo",
                        "POST",
                        "/api/signals",
                        "{\"signal\":\"bell\",\"key\":\"" + number + "\"}",
                        Map.of("Idempotency-Key", id))
                .body();
    }

    private static boolean rung(String number) {
        return ticket("ada", number).get("runs").get(0).get("status").asText().equals("finished");
    }

    private static void untilRung(String number) {
        Instant end = Instant.now().plus(Duration.ofSeconds(20));
        while (!rung(number)) {
            assertThat(Instant.now()).as(number + " waits for ever").isBefore(end);
            LockSupport.parkNanos(20_000_000);
        }
    }

    /** A task done and the signal that comes after it sent at once: neither may miss the other. */
    @Test
    void aSignalAndItsWaitThatComeAtOnceMeet() throws Exception {
        api.as("runa");
        api.as("teo");
        List<String> numbers = new ArrayList<>();
        for (int i = 0; i < ROUNDS; i++) {
            numbers.add(started());
        }
        for (String number : numbers) {
            CountDownLatch go = new CountDownLatch(1);
            Thread ringing = Thread.ofVirtual().start(() -> {
                try {
                    go.await();
                } catch (InterruptedException e) {
                    return;
                }
                ring(number, "at-once-" + number);
            });
            go.countDown();
            look(number);
            ringing.join();
        }
        numbers.forEach(SignalsTest::untilRung);
    }

    /** Sent again under its id, a signal goes to nobody else and tells what became of it. */
    @Test
    void theSameSignalAgainCountsOnce() {
        String number = started();
        assertThat(ring(number, "kept-first").get("kept").asBoolean()).isTrue();
        assertThat(ring(number, "kept-first").get("kept").asBoolean()).isTrue();
        look(number);
        untilRung(number);
        JsonNode again = ring(number, "kept-first");
        assertThat(again.get("kept").asBoolean()).isFalse();
        assertThat(again.get("visit").asText()).startsWith(number + ".");
        String other = started();
        look(other);
        assertThat(ring(other, "kept-first").get("visit").asText()).startsWith(number + ".");
        assertThat(rung(other)).isFalse();
        assertThat(ring(other, "another-one").path("visit").asText()).startsWith(other + ".");
        untilRung(other);
    }
}
