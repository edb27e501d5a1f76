package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** What a call says at length stands whole on its ticket, as a file (M7). */
class LongLogsTest extends OnDemo {
    private static final int OFTEN = 150;

    @AfterEach
    void asItWas() {
        api.app().standins().devices().repeat(1);
    }

    private static String run(String key) {
        DesignedWorkflow.publish(api, """
                workflow %s "%s" for incident
                  owner ines

                look: run board.log "Read its log"
                  with board = ticket.ci

                done: done "read" as "Read"
                """.formatted(key, key));
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Board","ci":"ALD-05","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        api.call("ada", "POST", "/api/tickets/" + ticket + "/runs", "{\"workflow\":\"" + key + "\",\"inputs\":{}}");
        until("it is read", () -> ticket("ada", ticket)
                .get("runs")
                .findValuesAsText("result")
                .contains("read"));
        return ticket;
    }

    @Test
    void whatIsLongerThanTheRecordHasRoomForIsAFile() {
        api.app().standins().devices().repeat(OFTEN);
        String ticket = run("long-log");

        JsonNode file = ticket("ada", ticket).get("files").get(0);
        assertThat(file.get("name").asText()).isEqualTo("look, what it said.txt");
        String text = api.call(
                        "ada",
                        "GET",
                        "/api/tickets/" + ticket + "/files/" + file.get("hash").asText(),
                        null)
                .raw()
                .body();
        assertThat(text.lines().filter("08:01 picture loaded"::equals)).hasSize(OFTEN);
        assertThat(text).contains("08:14 picture loaded");
    }

    /** Its output cannot say; the call has come to its end all the same, and is not made once more (M4). */
    @Test
    void whatIsLongerThanItsOutputHoldsIsLeftOutAndStandsInTheFile() {
        api.app().standins().devices().repeat(5_000);
        String ticket = run("longer-log");

        JsonNode files = ticket("ada", ticket).get("files");
        assertThat(files).hasSize(1);
        assertThat(files.get(0).get("size").asInt()).isGreaterThan(175_000);
        assertThat(api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                        .raw()
                        .body())
                .contains("“Last lines” is left out: it has 1750")
                .doesNotContain("attemptFailed");
    }

    /** More than is read as an answer stands in the file all the same, and nowhere else: what was written while it went on is let go. */
    @Test
    void whatIsLongerThanAnAnswerStandsWholeInTheFile() {
        api.app().standins().devices().repeat(60_000);
        String ticket = run("longest-log");

        JsonNode file = ticket("ada", ticket).get("files").get(0);
        assertThat(file.get("size").asInt()).isGreaterThan(2_000_000);
        assertThat(api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                        .raw()
                        .body())
                .contains("bytes were said, more than are read");
        until("it stands twice", () -> api.call(
                        "ada", "GET", "/api/tickets/" + ticket + "/calls/" + ticket + ".1.1/1?from=0", null)
                .body()
                .get("text")
                .asText()
                .isEmpty());
    }

    @Test
    void whatTheRecordHoldsIsNoFile() {
        assertThat(ticket("ada", run("short-log")).get("files")).isEmpty();
    }
}
