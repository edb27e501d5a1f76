package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.standins.Faults;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;

/** The demo's sales ledger, a database that actions speak SQL to (M9). */
class LedgerTest extends OnDemo {
    @AfterEach
    void well() {
        fault(Faults.Fault.NONE);
    }

    private static void fault(Faults.Fault fault) {
        api.app().standins().faults().set("ledger", fault);
    }

    @Test
    void whatAKioskSoldIsReadAsATableOntoTheRecord() {
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Sold twice?","ci":"kiosk-03","requester":"mira","impact":3,"urgency":3}}""")
                .body()
                .get("ticket")
                .asText();
        JsonNode read = api.call(
                        "runa",
                        "POST",
                        "/api/tickets/" + ticket + "/readings",
                        "{\"action\":\"ledger.sales\",\"inputs\":{\"kiosk\":\"kiosk-03\"}}")
                .body();
        assertThat(read.at("/outputs/How many").asInt()).isEqualTo(6);
        JsonNode first = read.at("/outputs/Sales").get(0);
        assertThat(first.get("fare").asText()).isEqualTo("adult return");
        assertThat(first.get("pence").asInt()).isEqualTo(1_240);
        assertThat(first.get("void").asBoolean()).isFalse();
        assertThat(first.get("sold").asText()).endsWith("Z");
    }

    /** @return what came of one try to make a sale void, and its log */
    private static JsonNode tried(long number) {
        String path = "/api/actions/ledger.void/tries/" + UUID.randomUUID();
        api.call("ines", "PUT", path, Json.write(Map.of("inputs", Map.of("number", number), "why", "a test")));
        until("it is over", () -> !api.call("ines", "GET", path, null)
                .body()
                .at("/tried/said")
                .asText()
                .equals("under way"));
        return api.call("ines", "GET", path, null).body().get("tried");
    }

    @Test
    void aChangeIsDoneRefusedOrUnsureAndNeverMistaken() {
        long before = api.app().standins().ledger().voided();
        assertThat(tried(701).toString()).contains("\"count\":1");
        assertThat(api.app().standins().ledger().voided()).isEqualTo(before + 1);

        fault(Faults.Fault.REFUSES);
        assertThat(tried(702).toString()).contains("failed").contains("permission denied");
        fault(Faults.Fault.DOWN);
        assertThat(tried(702).toString()).contains("failed").contains("No connection to Sales ledger");
        assertThat(api.app().standins().ledger().voided()).isEqualTo(before + 1);

        fault(Faults.Fault.LOSES_ANSWERS);
        assertThat(tried(702).toString()).contains("unsure");
        assertThat(api.app().standins().ledger().voided())
                .as("it was done, and nobody heard of it")
                .isEqualTo(before + 2);
    }

    private static JsonNode tested(String connection) {
        return api.call("ines", "POST", "/api/connections/" + connection + "/test", "{}")
                .body();
    }

    @Test
    void aTestOfAConnectionTellsWhatItsActionsMayDo() {
        JsonNode said = tested("ledger");
        assertThat(said.get("letIn").asText()).isEqualTo("yes");
        assertThat(said.get("needs").findValuesAsText("says"))
                .containsOnly("yes")
                .hasSize(2);
        fault(Faults.Fault.REFUSES);
        assertThat(tested("ledger").get("needs").findValuesAsText("why"))
                .allSatisfy(why -> assertThat(why).contains("permission denied"));
        fault(Faults.Fault.DOWN);
        assertThat(tested("ledger").get("reached").asText()).isEqualTo("no");

        JsonNode kiosks = tested("kiosks");
        assertThat(kiosks.get("letIn").asText()).isEqualTo("yes");
        assertThat(kiosks.get("needs").findValuesAsText("says")).contains("yes", "cannot say");
        assertThat(tested("machines").get("reached").asText()).isEqualTo("cannot say");
        assertThat(api.call("runa", "POST", "/api/connections/ledger/test", "{}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("ines", "POST", "/api/connections/nothing/test", "{}")
                        .status())
                .isEqualTo(404);
    }
}
