package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Covers for tasks or for decisions, working as somebody who said so, forms half filled in, and what a decision shows. */
class StandingInTest extends OnDemo {
    @AfterEach
    void everybodyIsBack() {
        api.call("runa", "DELETE", "/api/me/cover", null);
        api.call("teo", "DELETE", "/api/me/cover", null);
        api.call("mira", "DELETE", "/api/me/grant", null);
    }

    private static Answer cover(String person, String by, String scope) {
        return api.call(
                person,
                "PUT",
                "/api/me/cover",
                Json.write(Map.of(
                        "cover",
                        by,
                        "scope",
                        scope,
                        "from",
                        Instant.now().minusSeconds(5).toString(),
                        "until",
                        Instant.now().plus(Duration.ofHours(2)).toString())));
    }

    private static List<String> coveredFor(String person) {
        return api.call(person, "GET", "/api/desk", null).body().get("covered").findValuesAsText("person");
    }

    @Test
    void oneCoverForTasksAndAnotherForDecisions() {
        String number = raiseGate("ALD-G3");
        String task = ask("runa", number).get("visit").asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/claim", null);
        assertThat(cover("runa", "ada", "tasks").status()).isEqualTo(200);
        assertThat(cover("runa", "oskar", "decisions").status()).isEqualTo(200);
        JsonNode mine = api.call("runa", "GET", "/api/me/cover", null).body().get("mine");
        assertThat(mine.findValuesAsText("cover")).containsExactly("oskar", "ada");
        assertThat(coveredFor("ada")).containsOnly("runa");
        assertThat(coveredFor("oskar")).isEmpty();
        Answer done = api.call(
                "ada", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Cleared on the spot\",\"form\":{}}");
        assertThat(done.status()).isEqualTo(200);
        assertThat(api.call("ines", "GET", "/api/tickets/" + number + "/record", null)
                        .body()
                        .toString())
                .contains("\"coverFor\":\"runa\",\"is\":\"person\",\"person\":\"ada\"");

        // One for everything takes the place of both.
        assertThat(cover("runa", "sem", "all").status()).isEqualTo(200);
        assertThat(api.call("runa", "GET", "/api/me/cover", null).body().get("mine"))
                .hasSize(1);
    }

    @Test
    void aCoverForTasksDoesNotDecide() {
        String number = raiseGate("ALD-G3");
        String task = ask("runa", number).get("visit").asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\",\"form\":{}}");
        cover("teo", "oskar", "tasks");
        JsonNode approval = ask("teo", number);
        String vote = Json.write(Map.of(
                "round", approval.get("approval").get("round").asInt(),
                "digest", approval.get("approval").get("digest").asText(),
                "approve", true));
        String path = "/api/approvals/" + approval.get("visit").asText() + "/vote";
        assertThat(api.call("oskar", "POST", path, vote).status()).isEqualTo(403);
        cover("teo", "oskar", "decisions");
        assertThat(api.call("oskar", "POST", path, vote).status()).isEqualTo(200);
    }

    /** N12: what else is open on the CI stands by name, and how this workflow ended before. */
    @Test
    void whoDecidesSeesWhatSpeaksAgainstIt() {
        String other = raiseGate("ALD-G3");
        String number = raiseGate("ALD-G3");
        String task = ask("runa", number).get("visit").asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\",\"form\":{}}");
        JsonNode shown = ask("teo", number).get("approval");
        assertThat(shown.get("others").findValuesAsText("number"))
                .contains(other)
                .doesNotContain(number);
        assertThat(shown.get("otherOpenOnCi").asLong()).isGreaterThanOrEqualTo(1);
        JsonNode endings = shown.get("endings");
        assertThat(endings.findValuesAsText("result")).contains("lane closed");
        assertThat(endings.get(0).get("times").asLong())
                .isGreaterThanOrEqualTo(
                        endings.get(endings.size() - 1).get("times").asLong());
    }

    /** N80: looking is an administrator's right; working as somebody needs that person's word, and both names stand. */
    @Test
    void anAdministratorWorksAsSomebodyWhoSaidSo() {
        ApiClient.Signed halvard = api.signedAnew("halvard");
        String note = "{\"text\":\"Typed for Mira.\",\"toRequester\":true}";
        Answer raised = api.call(
                "mira", "POST", "/api/tickets", "{\"kind\":\"request\",\"fields\":{\"title\":\"A till for pier 2\"}}");
        String number = raised.body().get("ticket").asText();
        String notes = "/api/tickets/" + number + "/notes";
        api.send(halvard, "POST", "/api/session/see-as", "{\"person\":\"mira\"}");
        assertThat(api.send(halvard, "POST", notes, note).status()).isEqualTo(403);

        Answer granted = api.call("mira", "PUT", "/api/me/grant", grant("halvard", Duration.ofHours(1)));
        assertThat(granted.status()).isEqualTo(200);
        assertThat(granted.body().get("candidates").toString()).contains("halvard");
        assertThat(api.send(halvard, "GET", "/api/entrance", null)
                        .body()
                        .get("session")
                        .get("actsAs")
                        .asBoolean())
                .isTrue();
        assertThat(api.send(halvard, "POST", notes, note).status()).isLessThan(300);
        assertThat(api.call("ines", "GET", "/api/tickets/" + number + "/record", null)
                        .body()
                        .toString())
                .contains("\"coverFor\":\"mira\",\"is\":\"person\",\"person\":\"halvard\"");
        // Nothing else of hers can be changed.
        Answer more = api.send(halvard, "PUT", "/api/me/grant", grant("halvard", Duration.ofHours(9)));
        assertThat(more.status()).isEqualTo(403);
        assertThat(more.body().get("detail").asText()).contains("work on tickets");

        assertThat(api.call("mira", "DELETE", "/api/me/grant", null).status()).isEqualTo(204);
        assertThat(api.send(halvard, "POST", notes, note).status()).isEqualTo(403);
        assertThat(api.call("halvard", "GET", "/api/journal", null)
                        .body()
                        .get("lines")
                        .findValuesAsText("did"))
                .contains("may be acted for", "no longer acted for");
    }

    private static String grant(String grantee, Duration length) {
        return Json.write(
                Map.of("grantee", grantee, "until", Instant.now().plus(length).toString()));
    }

    @ParameterizedTest
    @CsvSource({"ada, 1, grantee", "nobody, 1, grantee", "halvard, -1, until", "halvard, 13, until"})
    void aGrantThatMakesNoSenseIsRefused(String grantee, long hours, String where) {
        Answer refused = api.call("mira", "PUT", "/api/me/grant", grant(grantee, Duration.ofHours(hours)));
        assertThat(refused.status()).isEqualTo(422);
        assertThat(refused.body().get("where").asText()).isEqualTo(where);
    }

    /** N40: what somebody has filled in is theirs alone, on every device, and gone when it is of no use any more. */
    @Test
    void aFormHalfFilledInIsKeptForItsWriterAlone() {
        String number = raiseGate("ALD-G3");
        String task = ask("runa", number).get("visit").asText();
        String path = "/api/tasks/" + task + "/draft";
        assertThat(api.call("runa", "PUT", path, "{\"form\":{\"seen\":\"The arm is bent\"}}")
                        .status())
                .isEqualTo(204);
        JsonNode draft = ask("runa", number).get("task").get("draft");
        assertThat(draft.path("seen").asText()).isEqualTo("The arm is bent");
        assertThat(ask("ada", number).get("task").get("draft")).isEmpty();
        // Ada sees the ticket, but is not asked: nothing is kept of those who are not.
        assertThat(api.call("ada", "PUT", path, "{\"form\":{\"seen\":\"x\"}}").status())
                .isEqualTo(404);
        assertThat(api.call("mira", "PUT", "/api/tasks/I-9999/1.1/draft", "{\"form\":{}}")
                        .status())
                .isEqualTo(404);
        assertThat(api.call("runa", "PUT", path, "{\"form\":{\"seen\":\"" + "x".repeat(70_000) + "\"}}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ines", "GET", "/api/tickets/" + number + "/record", null)
                        .body()
                        .toString())
                .doesNotContain("The arm is bent");
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\",\"form\":{}}");
        assertThat(api.call("runa", "PUT", path, "{\"form\":{}}").status()).isEqualTo(404);
    }

    @Test
    void aViewBelongsToTheDeskOrToTheListOfTickets() {
        Answer made = api.call(
                "teo",
                "POST",
                "/api/views",
                "{\"name\":\"Decisions\",\"query\":\"kind=decisions\",\"shared\":false,\"place\":\"desk\"}");
        assertThat(made.body().get("place").asText()).isEqualTo("desk");
        Answer nowhere = api.call(
                "teo", "POST", "/api/views", "{\"name\":\"x\",\"query\":\"\",\"shared\":false,\"place\":\"cellar\"}");
        assertThat(nowhere.status()).isEqualTo(422);
        assertThat(nowhere.body().get("detail").asText()).contains("tickets, desk");
    }

    @Test
    void aGroupHasHoursOfItsOwn() {
        String body = "{\"name\":\"Crew office\",\"members\":[\"ada\"],\"calendar\":\"%s\"}";
        assertThat(api.call("ines", "PUT", "/api/groups/crew-hours", body.formatted("nonsense"))
                        .body()
                        .get("where")
                        .asText())
                .isEqualTo("calendar");
        assertThat(api.call("ines", "PUT", "/api/groups/crew-hours", body.formatted("office"))
                        .status())
                .isLessThan(300);
        assertThat(api.call("halvard", "GET", "/api/people", null)
                        .body()
                        .get("groups")
                        .toString())
                .contains("\"calendar\":\"office\"");
    }
}
