package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.store.Audit;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Workflows over the CIs that stand beside a ticket's own (M17), on the demo's network. */
class BesideTest extends OnDemo {
    @BeforeAll
    static void published() {
        DesignedWorkflow.publish(api, """
                workflow boards-out "Boards taken out" for incident
                  owner ines
                  purpose "Takes out each board that runs on the gateway."

                each: for each board in near.carries.filter(c, c.kind == 'board'), 3 at a time as "Each board":
                  some failed -> note
                  none -> note
                  out: update "Take the board out"
                    the ci is board.id
                    set ci.life = 'retired'
                    set ci.firmware to "none, see {{ ticket.number }}"
                  gone: done "out" as "Out"

                note: update "Note how many"
                  set ticket.answer to "{{ near.carries.filter(c, c.kind == 'board' && c.life == 'retired').size() }} of {{ near.all.size() }}, on {{ ci.id }}: {{ near.runsOn.size() }}"

                done: done "out" as "Out"
                """);
    }

    @Test
    void eachCiBesideTheTicketsIsSetOnItsOwnPageAndTheRecordStaysWhole() {
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Boards are taken away","ci":"NSL-GW1","requester":"mira",
                        "impact":3,"urgency":3}}""")
                .body()
                .get("ticket")
                .asText();
        api.call("ada", "POST", "/api/tickets/" + ticket + "/runs", "{\"workflow\":\"boards-out\",\"inputs\":{}}");
        until("it is done", () -> ticket("ada", ticket)
                .get("runs")
                .findValuesAsText("result")
                .contains("out"));

        assertThat(ticket("ada", ticket).get("fields").get("answer").asText()).isEqualTo("8 of 10, on NSL-GW1: 0");
        JsonNode board = api.call("ada", "GET", "/api/cis/NSL-03", null).body();
        assertThat(board.get("ci").get("life").asText()).isEqualTo("retired");
        assertThat(board.get("ci").get("attributes").get("firmware").asText()).isEqualTo("none, see " + ticket);
        assertThat(board.get("changes").findValuesAsText("ticket")).contains(ticket);
        assertThat(api.call("ada", "GET", "/api/cis/NSL-G1", null)
                        .body()
                        .get("ci")
                        .get("life")
                        .asText())
                .as("a gate is no board")
                .isEqualTo("in use");
        Audit.Report audit =
                new Audit(api.app().database(), api.app().app().kept().log()).run(done -> {});
        assertThat(audit.findings()).isEmpty();
    }
}
