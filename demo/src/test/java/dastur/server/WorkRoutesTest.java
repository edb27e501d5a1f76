package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.standins.Mailbox;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Passing on, cover, interventions, the list of runs, and moving runs when publishing, over HTTP on the demo. */
class WorkRoutesTest extends OnDemo {
    private static Answer intervene(String person, String number, String kind, String more) {
        String run = ticket("ines", number).get("runs").get(0).get("id").asText();
        return api.call(
                person,
                "POST",
                "/api/tickets/" + number + "/interventions",
                "{\"run\":\"" + run + "\",\"kind\":\"" + kind + "\",\"reason\":\"as agreed\"" + more + "}");
    }

    @Test
    void aTaskIsPassedOnAndLeavesTheOthersDesks() {
        String number = raiseGate("ALD-G4");
        String visit = ask("runa", number).get("visit").asText();
        String path = "/api/tasks/" + visit + "/pass-on";
        assertThat(api.call("ada", "POST", path, "{\"person\":\"ada\",\"reason\":\"mine\"}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("runa", "POST", path, "{\"person\":\"ada\"}").status())
                .isEqualTo(422);
        assertThat(api.call("runa", "POST", path, "{\"reason\":\"x\"}").status())
                .isEqualTo(422);
        assertThat(api.call("runa", "POST", path, "{\"person\":\"nobody-known\",\"reason\":\"x\"}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("runa", "POST", path, "{\"person\":\"ada\",\"reason\":\"on the ferry\"}")
                        .status())
                .isEqualTo(200);
        assertThat(desk("ada")).contains(visit);
        assertThat(desk("runa")).doesNotContain(visit);
    }

    @Test
    void whoeverCoversSeesItOnTheDeskAndDecidesInTheOthersName() {
        String number = raiseGate("ALD-G4");
        String task = ask("runa", number).get("visit").asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\",\"form\":{}}");
        JsonNode approval = ask("teo", number);
        String vote = "/api/approvals/" + approval.get("visit").asText() + "/vote";
        String body = Json.write(Map.of(
                "round", approval.get("approval").get("round").asInt(),
                "digest", approval.get("approval").get("digest").asText(),
                "approve", true));
        assertThat(api.call("oskar", "POST", vote, body).status()).isEqualTo(403);

        assertThat(setCover("teo", "oskar", Duration.ZERO, Duration.ofHours(2)).status())
                .isEqualTo(200);
        JsonNode covered = api.call("oskar", "GET", "/api/desk", null).body().get("covered");
        assertThat(covered.findValuesAsText("person")).containsOnly("teo");
        assertThat(ask("oskar", number).get("coverFor").asText()).isEqualTo("teo");
        assertThat(api.call("oskar", "POST", vote, body).status()).isEqualTo(200);

        JsonNode record = api.call("ines", "GET", "/api/tickets/" + number + "/record", null)
                .body();
        assertThat(record.toString()).contains("\"coverFor\":\"teo\"");
        assertThat(api.call("teo", "DELETE", "/api/me/cover", null).status()).isLessThan(300);
        assertThat(api.call("oskar", "GET", "/api/desk", null).body().get("covered"))
                .isEmpty();
    }

    private static Answer setCover(String person, String cover, Duration from, Duration until) {
        Instant now = Instant.now();
        return api.call(
                person,
                "PUT",
                "/api/me/cover",
                Json.write(Map.of(
                        "cover",
                        cover,
                        "from",
                        now.plus(from).toString(),
                        "until",
                        now.plus(until).toString())));
    }

    @ParameterizedTest
    @CsvSource({"teo, teo, 1, 2", "teo, gone, 1, 2", "teo, oskar, 2, 1", "teo, oskar, -3, -2", "teo, oskar, 0, 20000"})
    void aCoverThatMakesNoSenseIsRefused(String person, String cover, long from, long until) {
        assertThat(setCover(person, cover, Duration.ofHours(from), Duration.ofHours(until))
                        .status())
                .isEqualTo(422);
    }

    /** N41: the mail's link shows what is asked and decides nothing; a post decides once, as the person it was made for. */
    @Test
    void aDecisionIsMadeByTheLinkOfAMail() {
        String number = raiseGate("ALD-G4");
        String task = ask("runa", number).get("visit").asText();
        api.call("runa", "POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\",\"form\":{}}");
        String token = awaitLink(number);
        String path = "/api/decisions/" + token;
        JsonNode shown = api.call("", "GET", path, null).body();
        assertThat(shown.get("open").asBoolean()).isTrue();
        assertThat(shown.get("person").asText()).isEqualTo("Priya Lund");
        assertThat(shown.get("shown")).isNotEmpty();
        assertThat(ask("priya", number).get("approval").get("cast")).isEmpty();
        assertThat(api.call("", "POST", path, "{}").status()).isEqualTo(422);
        assertThat(api.call("", "GET", path + "x", null).status()).isEqualTo(404);

        Map<String, String> key = Map.of("Idempotency-Key", "from-the-mail-1");
        assertThat(api.call("", "POST", path, "{\"approve\":true}", key).status())
                .isEqualTo(200);
        assertThat(api.call("", "POST", path, "{\"approve\":true}", key).status())
                .as("a repeated click does nothing twice")
                .isEqualTo(200);
        JsonNode again = api.call("", "GET", path, null).body();
        assertThat(again.get("open").asBoolean()).isFalse();
        assertThat(again.get("why").asText()).contains("decided");
        assertThat(api.call("", "POST", path, "{\"approve\":false,\"comment\":\"no\"}")
                        .status())
                .isEqualTo(409);
        JsonNode record = api.call("ines", "GET", "/api/tickets/" + number + "/record", null)
                .body();
        assertThat(record.toString()).contains("\"by\":\"priya\"").doesNotContain(token);
    }

    private static final Pattern LINK = Pattern.compile("/decide/([\\w.-]+)");

    /** The link in Priya's mail about a ticket, once it has come. */
    private static String awaitLink(String number) {
        Instant end = Instant.now().plusSeconds(20);
        while (Instant.now().isBefore(end)) {
            for (Mailbox.Mail mail : api.app().standins().mailbox().mails()) {
                Matcher link = LINK.matcher(mail.text());
                if (mail.to().startsWith("priya") && mail.subject().contains("(" + number + ")") && link.find()) {
                    return link.group(1);
                }
            }
            LockSupport.parkNanos(20_000_000);
        }
        throw new AssertionError("no mail with a link came");
    }

    @Test
    void aRunOnHoldRefusesAnswersUntilItIsResumed() {
        String number = raiseGate("ALD-G4");
        String visit = ask("runa", number).get("visit").asText();
        assertThat(intervene("runa", number, "hold", "").status()).isEqualTo(403);
        assertThat(intervene("ines", number, "hold", "").status()).isEqualTo(200);
        JsonNode held = api.call("ines", "GET", "/api/runs?status=held", null).body();
        assertThat(held.get("items").findValuesAsText("ticket")).contains(number);
        Answer claim = api.call("runa", "POST", "/api/tasks/" + visit + "/claim", null);
        assertThat(claim.status()).isEqualTo(409);
        assertThat(claim.body().get("detail").asText()).contains("on hold");
        assertThat(intervene("ines", number, "resume", "").status()).isEqualTo(200);
        assertThat(api.call("runa", "POST", "/api/tasks/" + visit + "/claim", null)
                        .status())
                .isEqualTo(200);
    }

    @Test
    void aSkippedStepAndAStepRunAgainAreOnTheRecordWithTheirReason() {
        String number = raiseGate("ALD-G4");
        String visit = ask("runa", number).get("visit").asText();
        String skip = ",\"visit\":\"" + visit + "\",\"exit\":\"Close the lane\"";
        assertThat(intervene("ines", number, "skip", skip).status()).isEqualTo(200);
        assertThat(ask("teo", number).get("kind").asText()).isEqualTo("approval");
        String first = ticket("ines", number)
                .get("runs")
                .get(0)
                .get("visits")
                .get(0)
                .get("step")
                .asText();
        assertThat(intervene("ines", number, "re-run from", ",\"step\":\"" + first + "\"")
                        .status())
                .isEqualTo(200);
        assertThat(ask("runa", number).get("kind").asText()).isEqualTo("task");
        assertThat(intervene("ines", number, "re-run from", ",\"step\":\"gone\"")
                        .status())
                .isEqualTo(422);
        assertThat(intervene("ines", number, "move to version", ",\"version\":77")
                        .status())
                .isEqualTo(422);
    }

    @Test
    void publishingMovesTheRunsThatStandOnStepsOfBothVersions() {
        String number = raiseGate("ALD-G4");
        String path = "/api/workflows/gate-lane-stuck-open";
        JsonNode workflow = api.call("ines", "GET", path, null).body();
        ObjectNode draft = workflow.get("live").deepCopy();
        draft.put("purpose", "Said better");
        long revision = api.call(
                        "ines",
                        "PUT",
                        path + "/draft",
                        "{\"version\":" + draft + ",\"revision\":" + workflow.get("draftRevision") + "}")
                .body()
                .get("revision")
                .asLong();
        JsonNode moves = api.call("ines", "GET", path + "/under-way", null).body();
        assertThat(moves.get("items").findValuesAsText("ticket")).contains(number);
        assertThat(moves.get("items").get(0).get("problems")).isEmpty();
        Answer published = api.call("ines", "POST", path + "/publish", "{\"revision\":" + revision + ",\"move\":true}");
        assertThat(published.body().get("moved").asInt())
                .isEqualTo(moves.get("items").size());
        assertThat(ticket("ines", number).get("runs").get(0).get("version").asInt())
                .isEqualTo(published.body().get("version").asInt());
    }

    @Test
    void theListOfRunsIsPagedAndSaysWhereEachStands() {
        JsonNode first = api.call("ines", "GET", "/api/runs", null).body();
        assertThat(first.get("items").size()).isPositive();
        assertThat(first.get("items").findValuesAsText("step")).isNotEmpty();
        JsonNode last = first.get("items").get(first.get("items").size() - 1);
        JsonNode second = api.call(
                        "ines",
                        "GET",
                        "/api/runs?after=" + last.get("run").get("id").asText(),
                        null)
                .body();
        assertThat(second.get("items").findValuesAsText("id"))
                .doesNotContainAnyElementsOf(first.get("items").findValuesAsText("id"));
        assertThat(api.call("ines", "GET", "/api/runs?status=nonsense", null).status())
                .isEqualTo(422);
        assertThat(api.call("mira", "GET", "/api/runs", null).status()).isEqualTo(403);
    }
}
