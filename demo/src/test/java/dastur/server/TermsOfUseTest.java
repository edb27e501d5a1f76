package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.standins.Faults;
import dastur.standins.Mailbox;
import java.util.List;
import java.util.UUID;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Who keeps an action, who may use it and where (M5, N86): wherever it can be used, and by whom it is set. */
class TermsOfUseTest extends OnDemo {
    private static final String FREE = "{}";

    private static Answer set(String person, String action, String terms) {
        return api.call(person, "PUT", "/api/actions/" + action + "/terms", terms.replace('\'', '"'));
    }

    private static void is(String action, String terms) {
        Answer answer = set("halvard", action, terms);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
    }

    private static JsonNode terms(String person, String action) {
        return api.call(person, "GET", "/api/actions/" + action + "/terms", null)
                .body();
    }

    @AfterEach
    void everybodyMayUseThem() {
        api.app().standins().faults().set("lanes", Faults.Fault.NONE);
        Stream.of("board.look", "lane.close").forEach(a -> is(a, FREE));
        oskar("auditor");
    }

    private static void oskar(String role) {
        Answer set = api.call("halvard", "PUT", "/api/people/oskar", """
                {"name":"Oskar Varga","mail":"oskar@kestrel.example","roles":["%s"],"active":true,"groups":[]}""".formatted(role));
        assertThat(set.status()).as(set.raw().body()).isLessThan(300);
    }

    @Test
    void itsKeeperAloneChangesItAndAdministratorsMayToo() {
        oskar("process owner");
        is("lane.close", "{'keeper':'ines'}");
        assertThat(terms("oskar", "lane.close").get("mayChange").asBoolean()).isFalse();
        assertThat(terms("ines", "lane.close").get("mayChange").asBoolean()).isTrue();
        Answer taken = set("oskar", "lane.close", "{'keeper':'oskar'}");
        assertThat(taken.status()).isEqualTo(403);
        assertThat(taken.raw().body()).contains("kept by Ines Okafor-Lind");
        JsonNode view =
                api.call("oskar", "GET", "/api/actions/lane.close", null).body();
        ObjectNode body = Json.mapper().createObjectNode();
        body.set("action", ((ObjectNode) view.get("action").deepCopy()).put("description", "Mine."));
        body.set("on", view.get("number"));
        body.put("why", "to see");
        for (Answer refused : List.of(
                api.call("oskar", "PUT", "/api/actions/lane.close", body.toString()),
                api.call("oskar", "PUT", "/api/actions/lane.close/versions/1/withdrawal", "{\"why\":\"to see\"}"),
                api.call("oskar", "POST", "/api/actions/lane.close/versions/1/use", null),
                api.call("oskar", "POST", "/api/actions/lane.close/terms/renewal", null))) {
            assertThat(refused.status()).as(refused.raw().body()).isEqualTo(403);
        }
        assertThat(api.call("ines", "GET", "/api/actions/lane.close", null)
                        .body()
                        .get("number"))
                .isEqualTo(view.get("number"));
        assertThat(terms("ines", "lane.close").at("/terms/keeper").asText()).isEqualTo("ines");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {'keeper':'ada'}                        | keeper
            {'keeper':'nobody-here'}                | keeper
            {'tellAfter':3}                         | keeper
            {'renewMonths':12}                      | keeper
            {'groups':['nobody']}                   | groups
            {'services':['nothing']}                | services
            {'sites':['']}                          | sites
            {'keeper':'ines','tellAfter':0}         |
            {'keeper':'ines','renewMonths':1000}    |
            """)
    void whatCannotBeIsRefusedAtItsPlace(String terms, String where) {
        Answer refused = set("ines", "lane.close", terms);
        assertThat(refused.status()).as(refused.raw().body()).isEqualTo(422);
        if (where != null) {
            assertThat(refused.where()).isEqualTo(where);
        }
        assertThat(terms("ines", "lane.close").at("/terms/keeper").isMissingNode())
                .isTrue();
    }

    private static Answer read(String person, String ci) {
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"Is it dark?","ci":"%s","requester":"mira","impact":3,"urgency":3}}""".formatted(ci))
                .body()
                .get("ticket")
                .asText();
        return api.call(
                person,
                "POST",
                "/api/tickets/" + ticket + "/readings",
                "{\"action\":\"board.look\",\"inputs\":{\"board\":\"ALD-07\"}}");
    }

    @Test
    void aReadingByHandIsForThoseAndThereAlone() {
        String site = api.call("ada", "GET", "/api/cis/ALD-07", null)
                .body()
                .at("/ci/site")
                .asText();
        is("board.look", "{'groups':['pier-technicians'],'sites':['" + site + "']}");
        assertThat(read("runa", "ALD-07").status()).isEqualTo(200);
        Answer other = read("ada", "ALD-07");
        assertThat(other.status()).isEqualTo(403);
        assertThat(other.raw().body()).contains("Pier technicians");
        assertThat(api.call("ada", "GET", "/api/readings", null).body().findValuesAsText("key"))
                .doesNotContain("board.look");
        assertThat(api.call("runa", "GET", "/api/readings", null).body().findValuesAsText("key"))
                .contains("board.look");
        Answer elsewhere = read("runa", "GNQ-G2");
        assertThat(elsewhere.status()).as(elsewhere.raw().body()).isEqualTo(409);
        assertThat(elsewhere.raw().body()).contains("stands at " + site + " alone");
    }

    @Test
    void atTryIsForThoseToo() {
        is("lane.close", "{'groups':['pier-technicians']}");
        Answer refused = api.call(
                "ines",
                "PUT",
                "/api/actions/lane.close/tries/" + UUID.randomUUID(),
                "{\"inputs\":{\"gate\":\"ALD-G1\",\"why\":\"x\"},\"why\":\"to see\"}");
        assertThat(refused.status()).as(refused.raw().body()).isEqualTo(403);
        assertThat(refused.raw().body()).contains("Pier technicians");
    }

    @Test
    void itsKeeperIsToldOnTheTicketAndByMailWhenItGoesBadly() {
        is("lane.close", "{'keeper':'ines','tellAfter':1}");
        api.app().standins().faults().set("lanes", Faults.Fault.DOWN);
        DesignedWorkflow.publish(api, """
                workflow shut "Shut a gate" for incident
                  owner ines
                close: run lane.close "Close it" at most 1 tries
                  with gate = ticket.ci
                  with why = 'to see'
                  ok -> end
                  already closed -> end
                end: done "closed"
                """);
        String ticket = raiseGate("GNQ-G2");
        api.call("teo", "POST", "/api/tickets/" + ticket + "/runs", "{\"workflow\":\"shut\",\"inputs\":{}}");
        until("the keeper has a mail", () -> api.app().standins().mailbox().mails().stream()
                .filter(m -> m.toString().contains("ines@"))
                .map(Mailbox.Mail::toString)
                .anyMatch(m -> m.contains("has gone badly once") && m.contains(ticket)));
        JsonNode record = api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .body();
        assertThat(record.toString()).contains("has gone badly").contains("/actions/lane.close");
    }

    @Test
    void whatIsKeptIsAskedForInTimeAndSaidToBeRightStill() {
        JsonNode kept = api.call("ines", "GET", "/api/kept-actions", null).body();
        assertThat(kept.findValuesAsText("key")).containsExactly("machine.launch");
        assertThat(api.call("halvard", "GET", "/api/kept-actions", null).body()).isEmpty();
        assertThat(api.call("ines", "POST", "/api/actions/kiosk.enrol/terms/renewal", null)
                        .status())
                .as("which nobody is asked for")
                .isEqualTo(409);
        Answer renewed = api.call("ines", "POST", "/api/actions/machine.launch/terms/renewal", null);
        assertThat(renewed.status()).isEqualTo(200);
        assertThat(api.call("ines", "GET", "/api/kept-actions", null).body()).isEmpty();
        assertThat(api.call("halvard", "GET", "/api/journal", null).body().toString())
                .contains("terms of use");
    }
}
