package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.standins.Mailbox;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Those who ask, and those who are asked without working here: what they may see, and what they are told. */
class RequesterTest extends OnDemo {
    @BeforeAll
    static void workflows() {
        DesignedWorkflow.publish(api, """
                workflow confirm-test "Confirm it" for incident
                  owner ines
                confirm: ask person mira "Confirm the delivery" within 2 h: "It came", "It did not"
                  say "Two boxes stand at {{ ticket.title }}."
                  "It did not" -> end
                end: done "confirmed"
                """);
        DesignedWorkflow.publish(api, """
                workflow ask-test "A request with a decision" for request
                  owner ines
                decide: approve "Send the drawings?" by any one of person teo within 1 h
                  shows ticket.title
                  asks why not
                  declined -> no
                work: update "Take it in hand"
                  set ticket.state = 'in hand'
                tell: tell the requester "{{ ticket.number }}: on their way" as "Tell"
                  say "The drawings come by mail."
                yes: done "sent"
                no: done "not sent"
                """);
    }

    private static JsonNode call(String person, String method, String path, String body) {
        ApiClient.Answer answer = api.call(person, method, path, body);
        assertThat(answer.status())
                .as("%s %s: %s", method, path, answer.raw().body())
                .isLessThan(300);
        return answer.body();
    }

    private static String raised(String person, String kind, String title, String more) {
        return call(
                        person,
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"" + kind + "\",\"fields\":{\"title\":\"" + title + "\"" + more + "}}")
                .get("ticket")
                .asText();
    }

    private static List<Mailbox.Mail> mails(String to, String words) {
        return api.app().standins().mailbox().mails().stream()
                .filter(m -> m.to().startsWith(to + "@") && (m.subject() + m.text()).contains(words))
                .toList();
    }

    /** U2, U4: whoever is asked sees what they are asked, is told so with all they need, and sees it afterwards too. */
    @Test
    void whoeverIsAskedSeesWhatTheyAreAskedAndNothingElse() {
        String number =
                raised("ada", "incident", "the quay", ",\"requester\":\"ada\",\"description\":\"Behind the shed\"");
        assertThat(api.call("mira", "GET", "/api/tickets/" + number, null).status())
                .isEqualTo(404);
        call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"confirm-test\"}");

        JsonNode seen = ticket("mira", number);
        assertThat(seen.get("fields").get("description").asText()).isEqualTo("Behind the shed");
        assertThat(seen.get("asks")).hasSize(1);
        assertThat(seen.get("asks").get(0).get("text").asText()).isEqualTo("Two boxes stand at the quay.");
        assertThat(seen.get("mayReadRecord").asBoolean()).isFalse();
        assertThat(seen.get("talk")).isEmpty();
        assertThat(api.call("mira", "GET", "/api/tickets/" + number + "/record", null)
                        .status())
                .isEqualTo(403);
        String visit = seen.get("asks").get(0).get("visit").asText();
        assertThat(desk("mira")).contains(visit);

        until("she is told", () -> !mails("mira", "For you: Confirm the delivery (" + number + ")")
                .isEmpty());
        Mailbox.Mail mail =
                mails("mira", "For you: Confirm the delivery (" + number + ")").getFirst();
        assertThat(mail.text())
                .contains(number + ": the quay")
                .contains("Two boxes stand at the quay.")
                .contains("Until ")
                .contains("/tickets/" + number);

        call("mira", "POST", "/api/tasks/" + visit + "/complete", "{\"outcome\":\"It came\",\"form\":{}}");
        assertThat(api.call("mira", "GET", "/api/tickets/" + number, null).status())
                .isEqualTo(200);
        JsonNode ending = call("mira", "GET", "/api/endings?item=" + visit, null);
        assertThat(ending.get("person").asText()).isEqualTo("mira");
        assertThat(ending.get("how").asText()).isEqualTo("gave “It came”");
    }

    /** U8: a request is raised by its requester, who sees what was said, sent and decided, and where it stands. */
    @Test
    void aRequesterSeesWhatBecameOfTheirRequest() {
        String number = raised("mira", "request", "A spare key", "");
        call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"ask-test\"}");
        JsonNode ask = ask("teo", number);
        call(
                "teo",
                "POST",
                "/api/approvals/" + ask.get("visit").asText() + "/vote",
                Json.write(Map.of(
                        "round", ask.get("approval").get("round").asInt(),
                        "digest", ask.get("approval").get("digest").asText(),
                        "approve", true)));
        call("ada", "POST", "/api/tickets/" + number + "/notes", "{\"text\":\"It takes a day.\",\"toRequester\":true}");
        JsonNode talk = ticket("mira", number).get("talk");
        assertThat(talk.findValuesAsText("what")).containsExactly("decided", "moved", "sent", "said");
        assertThat(talk.get(0).get("text").asText()).isEqualTo("Send the drawings? — approved");
        assertThat(talk.get(0).get("by").asText()).isEqualTo("Teo Marchetti");
        assertThat(talk.get(1).get("text").asText()).contains("“asked”").contains("“in hand”");
        assertThat(talk.get(2).get("text").asText()).contains("The drawings come by mail.");
        assertThat(talk.get(3).get("text").asText()).isEqualTo("It takes a day.");
    }

    /** U6: who is given a ticket is told, and has it on their Desk until it ends; who takes it themselves is not. */
    @Test
    void whoeverIsGivenATicketIsToldAndHasItOnTheirDesk() {
        String number = raised("ada", "incident", "A lamp flickers", ",\"requester\":\"mira\"");
        call("ada", "PUT", "/api/tickets/" + number, "{\"fields\":{\"assignee\":\"runa\"}}");
        until("Runa is told", () -> !mails("runa", "Given to you: A lamp flickers (" + number + ")")
                .isEmpty());
        assertThat(given("runa")).contains(number);
        call("priya", "PUT", "/api/tickets/" + number, "{\"fields\":{\"assignee\":\"priya\"}}");
        assertThat(given("runa")).doesNotContain(number);
        assertThat(given("priya")).contains(number);
        call("priya", "PUT", "/api/tickets/" + number, "{\"fields\":{\"state\":\"cancelled\"}}");
        assertThat(given("priya")).doesNotContain(number);
        api.untilQuiet();
        assertThat(mails("priya", "Given to you: A lamp flickers")).isEmpty();
    }

    private static List<String> given(String person) {
        return call(person, "GET", "/api/desk", null).get("tickets").findValuesAsText("number");
    }

    /** U4: a reminder repeats the question with a link to decide; a used link says by whom and how it was decided. */
    @Test
    void aUsedLinkSaysByWhomItWasDecided() {
        String number = raiseGate("ALD-G3");
        call(
                "runa",
                "POST",
                "/api/tasks/" + ask("runa", number).get("visit").asText() + "/complete",
                "{\"outcome\":\"Close the lane\"}");
        until("Priya is asked", () -> !mails("priya", "Decide: Close the lane? (" + number + ")")
                .isEmpty());
        String text = mails("priya", "Decide: Close the lane? (" + number + ")")
                .getFirst()
                .text();
        assertThat(text).contains(number + ": Gate stands open").contains("If nobody acts, ");
        String token = text.replaceAll("(?s).*/decide/([\\w.-]+).*", "$1");
        JsonNode ask = ask("teo", number);
        call(
                "teo",
                "POST",
                "/api/approvals/" + ask.get("visit").asText() + "/vote",
                Json.write(Map.of(
                        "round", ask.get("approval").get("round").asInt(),
                        "digest", ask.get("approval").get("digest").asText(),
                        "approve", true)));
        JsonNode view = api.call("", "GET", "/api/decisions/" + token, null).body();
        assertThat(view.get("open").asBoolean()).isFalse();
        assertThat(view.get("why").asText())
                .isEqualTo("Teo Marchetti decided it: approved. Nothing is needed from you.");
    }

    private static JsonNode asked(String person, String list, String number) {
        return call(person, "GET", "/api/asked", null)
                .get(list)
                .valueStream()
                .filter(t -> t.get("number").asText().equals(number))
                .findFirst()
                .orElseThrow();
    }

    /** O4: whoever asks sees what happens next and who has it, says that it is not solved, and is told what became of it. */
    @Test
    void whoeverAsksSeesWhereItStandsAndSaysWhetherItIsSolved() {
        String number = raised("mira", "request", "The drawings of berth 4", "");
        call("ada", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"ask-test\"}");
        JsonNode next = asked("mira", "open", number)
                .get("next")
                .valueStream()
                .filter(n -> n.get("what").asText().equals("decision"))
                .findFirst()
                .orElseThrow();
        assertThat(next.get("who").get(0).asText()).isEqualTo("Teo Marchetti");
        assertThat(next.get("due").isNull()).isFalse();
        assertThat(asked("mira", "open", number).get("asksMe").asBoolean()).isFalse();
        assertThat(call("ada", "GET", "/api/asked", null).get("open").valueStream())
                .noneMatch(t -> t.get("number").asText().equals(number));
        call("ada", "PUT", "/api/tickets/" + number, "{\"fields\":{\"state\":\"done\"}}");
        assertThat(asked("mira", "open", number).get("maySay").valueStream().map(JsonNode::asText))
                .containsExactlyInAnyOrder("solved", "not solved");
        assertThat(api.call("mira", "POST", "/api/tickets/" + number + "/solved", "{\"solved\":false}")
                        .body()
                        .get("where")
                        .asText())
                .isEqualTo("text");
        call("mira", "POST", "/api/tickets/" + number + "/solved", "{\"solved\":false,\"text\":\"Berth 3 came.\"}");
        assertThat(asked("mira", "open", number).get("state").asText()).isEqualTo("in hand");
        call(
                "ada",
                "PUT",
                "/api/tickets/" + number,
                "{\"fields\":{\"state\":\"closed\",\"cause\":\"Wrong sheet\",\"done\":\"Sent anew\",\"answer\":\"They come by mail.\"}}");
        JsonNode over = asked("mira", "ended", number);
        assertThat(over.get("answer").asText()).isEqualTo("They come by mail.");
        assertThat(over.get("maySay").valueStream().map(JsonNode::asText)).containsExactly("not solved");
        assertThat(api.call("runa", "POST", "/api/tickets/" + number + "/solved", "{\"solved\":true}")
                        .status())
                .isIn(403, 404);
    }
}
