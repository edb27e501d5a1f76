package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.server.ApiClient.Answer;
import java.util.List;
import org.junit.jupiter.api.Test;

/** What the one who is asked is shown: held, overseen, and what may still be taken back (U7, U9, U10). */
class AskedTest extends OnDemo {
    private static Answer post(String person, String path, String body) {
        return api.call(person, "POST", path, body);
    }

    private static Answer complete(String person, JsonNode ask, String outcome) {
        return post(
                person,
                "/api/tasks/" + ask.get("visit").asText() + "/complete",
                "{\"outcome\":\"" + outcome + "\",\"form\":{}}");
    }

    private static List<String> mayTakeBack(String person, String ticket) {
        return ticket(person, ticket)
                .get("mayTakeBack")
                .valueStream()
                .map(JsonNode::asText)
                .toList();
    }

    @Test
    void takingBackIsOfferedToWhoGaveTheOutcomeAndOnlyWhileNothingFollowed() {
        String number = raiseGate("ALD-G2");
        JsonNode look = ask("runa", number);
        assertThat(mayTakeBack("runa", number)).isEmpty();
        assertThat(complete("runa", look, "Close the lane").status()).isEqualTo(200);
        assertThat(mayTakeBack("runa", number))
                .containsExactly(look.get("visit").asText());
        assertThat(mayTakeBack("ada", number)).isEmpty();
        JsonNode approval = ask("priya", number);
        Answer vote = post(
                "priya",
                "/api/approvals/" + approval.get("visit").asText() + "/vote",
                "{\"approve\":true,\"round\":%s,\"digest\":%s}"
                        .formatted(
                                approval.get("approval").get("round"),
                                approval.get("approval").get("digest")));
        assertThat(vote.status()).as(vote.raw().body()).isEqualTo(200);
        assertThat(mayTakeBack("runa", number)).isEmpty();
    }

    @Test
    void whatIsHeldSaysSoBeforeAnybodyAnswers() {
        String number = raiseGate("ALD-G3");
        JsonNode look = ask("runa", number);
        assertThat(look.has("heldSince")).isFalse();
        String hold = "{\"run\":%s,\"kind\":\"%s\",\"reason\":\"we wait for the ferry\"}";
        Answer held =
                post("ines", "/api/tickets/" + number + "/interventions", hold.formatted(look.get("run"), "hold"));
        assertThat(held.status()).as(held.raw().body()).isEqualTo(200);
        assertThat(ask("runa", number).get("heldSince").asText()).isNotEmpty();
        assertThat(heldOnDesk("runa", number)).isTrue();
        assertThat(complete("runa", look, "Close the lane").status()).isEqualTo(409);
        assertThat(post("ines", "/api/tickets/" + number + "/interventions", hold.formatted(look.get("run"), "resume"))
                        .status())
                .isEqualTo(200);
        assertThat(ask("runa", number).has("heldSince")).isFalse();
        assertThat(heldOnDesk("runa", number)).isFalse();
    }

    private static JsonNode onDesk(String person, String ticket) {
        return api.call(person, "GET", "/api/desk", null)
                .body()
                .get("items")
                .valueStream()
                .filter(i -> i.get("ticket").asText().equals(ticket))
                .findFirst()
                .orElseThrow();
    }

    private static boolean heldOnDesk(String person, String ticket) {
        return onDesk(person, ticket).get("held").asBoolean();
    }

    @Test
    void whoOverseesIsToldThatItIsOfferedToOthersAndTheRecordSaysAsWhatTheyActed() {
        DesignedWorkflow.publish(api, """
                workflow overseen "Overseen" for incident
                  owner ines
                look: ask group pier-technicians "Look at it": "Done"
                  overseen by person priya
                end: done "done"
                """);
        String number = post("ada", "/api/tickets", """
                {"kind":"incident","fields":{"title":"Nothing in particular","ci":"kiosk-09","requester":"mira"}}""").body().get("ticket").asText();
        assertThat(post("ada", "/api/tickets/" + number + "/runs", "{\"workflow\":\"overseen\"}")
                        .status())
                .isLessThan(300);
        assertThat(ask("runa", number).get("overseeing").asBoolean()).isFalse();
        JsonNode overseen = ask("priya", number);
        assertThat(overseen.get("mine").asBoolean()).isTrue();
        assertThat(overseen.get("overseeing").asBoolean()).isTrue();
        assertThat(onDesk("runa", number).get("overseen").asBoolean()).isFalse();
        assertThat(onDesk("priya", number).get("overseen").asBoolean()).isTrue();
        assertThat(complete("priya", overseen, "Done").status()).isEqualTo(200);
        JsonNode entries = api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .body()
                .get("entries");
        JsonNode done = entries.valueStream()
                .filter(e -> e.get("kind").asText().equals("taskDone"))
                .findFirst()
                .orElseThrow();
        assertThat(done.get("body").get("asOverseer").asBoolean()).isTrue();
        assertThat(done.get("stepName").asText()).isEqualTo("Look at it");
    }
}
