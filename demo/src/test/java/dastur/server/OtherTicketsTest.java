package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.server.ApiClient.Answer;
import java.util.List;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** What one ticket has to do with another: links, and workflows that run on another ticket (D11). */
class OtherTicketsTest extends OnDemo {
    @BeforeAll
    static void start() {
        DesignedWorkflow.publish(api, """
                workflow order-part "Order a part" for change
                  owner ines
                  asks part: text "Part" required
                look: ask group pier-technicians "Order it": "Ordered", "Not needed"
                  "Not needed" -> none
                ordered: done "ordered"
                none: done "not needed"
                """);
        DesignedWorkflow.publish(api, """
                workflow needs-part "Needs a part" for incident
                  owner ines
                order: call order-part on a new change "Order the part"
                  set ticket.title = "Part for " + ticket.title
                  with part = "hinge"
                  ordered -> note
                  "not needed" -> none
                  stopped -> none
                note: update "Note the change"
                  set ticket.cause = "part ordered by " + steps.order.ticket
                done: done "ordered"
                none: done "no part"
                """);
    }

    private static String raise(String title) {
        return api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"%s","requester":"mira"}}""".formatted(title))
                .body()
                .get("ticket")
                .asText();
    }

    private static JsonNode ticket(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number, null).body();
    }

    private static List<String> links(String number) {
        return ticket(number).get("links").findValuesAsText("number");
    }

    private static String begun(String number) {
        Answer started = api.call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"needs-part\"}");
        assertThat(started.status()).as(started.raw().body()).isEqualTo(200);
        until(() -> !links(number).isEmpty());
        return links(number).getFirst();
    }

    @Test
    void aWorkflowOnANewTicketBringsItsResultBack() {
        String number = raise("Flap hangs");
        String change = begun(number);
        assertThat(change).startsWith("C-");
        JsonNode other = ticket(change);
        assertThat(other.get("title").asText()).isEqualTo("Part for Flap hangs");
        assertThat(other.get("fields").get("requester").asText()).isEqualTo("mira");
        assertThat(other.get("links").get(0).get("as").asText()).isEqualTo("works for");
        String task = other.get("asks").get(0).get("visit").asText();
        assertThat(api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Ordered\"}")
                        .status())
                .isEqualTo(200);
        until(() -> ticket(number).get("runs").get(0).get("status").asText().equals("finished"));
        JsonNode after = ticket(number);
        assertThat(after.get("fields").get("cause").asText()).isEqualTo("part ordered by " + change);
        assertThat(after.get("runs").get(0).get("result").asText()).isEqualTo("ordered");
    }

    @Test
    void stoppingTheCallerStopsTheRunOnTheOtherTicket() {
        String number = raise("Flap squeaks");
        String change = begun(number);
        String run = ticket(number).get("runs").get(0).get("id").asText();
        Answer stopped = api.call("ines", "POST", "/api/tickets/" + number + "/interventions", """
                {"run":"%s","kind":"stop run","reason":"found a spare one"}""".formatted(run));
        assertThat(stopped.status()).as(stopped.raw().body()).isEqualTo(200);
        until(() -> ticket(change).get("runs").get(0).get("status").asText().equals("stopped"));
    }

    @Test
    void aLinkStandsOnBothTicketsAndGoesFromBoth() {
        String one = raise("One");
        String two = raise("Two");
        String body = "{\"as\":\"caused by\",\"other\":\"" + two + "\"}";
        assertThat(api.call("ada", "POST", "/api/tickets/" + one + "/links", body)
                        .status())
                .isEqualTo(200);
        until(() -> links(two).contains(one));
        assertThat(ticket(two).get("links").get(0).get("as").asText()).isEqualTo("causes");
        assertThat(api.call("ada", "POST", "/api/tickets/" + one + "/links", body)
                        .status())
                .isEqualTo(422);
        assertThat(api.call("mira", "POST", "/api/tickets/" + one + "/links", body)
                        .status())
                .isEqualTo(403);
        assertThat(api.call(
                                "ada",
                                "POST",
                                "/api/tickets/" + one + "/links",
                                "{\"as\":\"causes\",\"other\":\"I-999999\"}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ada", "POST", "/api/tickets/" + two + "/links/removal", """
                {"as":"causes","other":"%s"}""".formatted(one))
                        .status())
                .isEqualTo(200);
        until(() -> links(one).isEmpty());
    }
}
