package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.io.TempDir;

/** Tests over HTTP: the whole application on a copy of the demo, one for all tests of a class. */
abstract class OnDemo {
    @TempDir
    static Path folder;

    static ApiClient api;

    @BeforeAll
    static void startDemo() {
        api = ApiClient.demo(folder.resolve("data"));
    }

    @AfterAll
    static void stopDemo() {
        api.close();
    }

    static JsonNode ticket(String person, String number) {
        return api.call(person, "GET", "/api/tickets/" + number, null).body();
    }

    /** The first thing that a person is asked on a ticket. */
    static JsonNode ask(String person, String number) {
        return ticket(person, number).get("asks").get(0);
    }

    /** What stands on a person's desk, by one of its members. */
    static List<String> desk(String person, String member) {
        return api.call(person, "GET", "/api/desk", null).body().get("items").findValuesAsText(member);
    }

    static List<String> desk(String person) {
        return desk(person, "visit");
    }

    /** A gate that stands open; its workflow begins at once. */
    static String raiseGate(String ci) {
        return api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Gate stands open","ci":"%s","requester":"mira",
                        "impact":2,"urgency":2,"group":"pier-technicians"}}""".formatted(ci))
                .body()
                .get("ticket")
                .asText();
    }

    /** Waits until it is so: what machines and clocks do takes a moment. */
    static void until(BooleanSupplier so) {
        until("it never came to be so", so);
    }

    /** @param what is not so when it takes longer than a minute */
    static void until(String what, BooleanSupplier so) {
        Instant end = Instant.now().plus(Duration.ofMinutes(1));
        while (!so.getAsBoolean()) {
            assertThat(Instant.now()).as(what).isBefore(end);
            LockSupport.parkNanos(20_000_000);
        }
    }
}
