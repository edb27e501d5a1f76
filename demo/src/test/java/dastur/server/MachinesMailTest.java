package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.standins.CopyVault;
import dastur.standins.Mailbox;
import java.net.http.HttpClient;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Mail of machines, from a real SMTP server through a real mailbox, and from some that mean no good (I2). */
class MachinesMailTest extends OnDemo {
    private static final String SOURCE = "/api/sources/nightly-copies";

    private static Mailbox mailbox() {
        return api.app().standins().mailbox();
    }

    private static JsonNode source() {
        return api.call("ada", "GET", SOURCE, null).body();
    }

    private static ObjectNode body() {
        ObjectNode body = (ObjectNode) source().get("source").deepCopy();
        body.remove("key");
        return body;
    }

    private static Answer set(String person, String key, ObjectNode body) {
        return api.call(person, "PUT", "/api/sources/" + key, body.toString());
    }

    private static List<JsonNode> came() {
        List<JsonNode> all = new ArrayList<>();
        api.call("ada", "GET", "/api/signals?source=nightly-copies", null)
                .body()
                .get("lines")
                .forEach(all::add);
        return all;
    }

    private static long refused(String reason) {
        long count = 0;
        for (JsonNode r : source().get("refused")) {
            count += r.get("reason").asText().equals(reason) ? r.get("count").asLong() : 0;
        }
        return count;
    }

    @Test
    void aMailOpensAnIncidentOnItsCiAndAnotherSaysThatItIsOver() {
        // A mail a night lies behind the demo.
        int before = came().size();
        api.app().standins().copies().failsOrNot();
        until(() -> came().size() == before + 1
                && came().getFirst().get("state").asText().equals("opened"));
        JsonNode ticket = ticket("ada", came().getFirst().get("ticket").asText());
        assertThat(ticket.at("/fields/ci").asText()).isEqualTo("GNQ-GW1");
        assertThat(ticket.at("/fields/title").asText()).endsWith("has not been copied tonight");
        assertThat(ticket.at("/fields/group").asText()).isEqualTo("service-desk");
        api.app().standins().copies().failsOrNot();
        until(() -> came().size() == before + 2
                && came().getFirst().get("state").asText().equals("joined"));
        assertThat(came().getFirst().get("sort").asText()).isEqualTo("recovered");
        JsonNode whole = api.call(
                        "ada",
                        "GET",
                        "/api/signals/" + came().getFirst().get("id").asText(),
                        null)
                .body();
        assertThat(whole.toString()).contains("412 files, 96 MB").contains(CopyVault.FROM);
    }

    @Test
    void onlyThoseWhoAreNamedAreTakenOthersAreCountedAndNothingBreaks() {
        int before = came().size();
        mailbox()
                .machine(
                        "vault@copies.kestrel.example.evil.example", Mailbox.MACHINES, "[FAILED] copy of ALD-GW1", "x");
        mailbox().machine("ada@kestrel.example", Mailbox.MACHINES, "[FAILED] copy of ALD-GW1", "x");
        until(() -> refused("not from there") == 2);
        assertThat(came()).hasSize(before);

        // A subject that is none, one that is long and strange, and the one after them is taken all the same.
        mailbox().machine(CopyVault.FROM, Mailbox.MACHINES, "", "");
        mailbox()
                .machine(
                        CopyVault.FROM,
                        Mailbox.MACHINES,
                        "{{ ci.name }} \u202e" + "x".repeat(5_000),
                        "y".repeat(90_000));
        mailbox().machine(CopyVault.FROM, Mailbox.MACHINES.toUpperCase(Locale.ROOT), "[SKIPPED] copy of GNQ-GW1", "");
        until(() -> came().size() == before + 3);
        until(() -> came().stream().noneMatch(c -> c.get("state").asText().equals("received")));
        assertThat(came().getFirst().get("sort").asText()).isEqualTo("news");

        ObjectNode shut = body().put("open", false);
        assertThat(set("halvard", "nightly-copies", shut).status()).isEqualTo(200);
        mailbox().machine(CopyVault.FROM, Mailbox.MACHINES, "[FAILED] copy of ALD-GW1", "x");
        until(() -> refused("shut") == 1);
        assertThat(set("halvard", "nightly-copies", shut.put("open", true)).status())
                .isEqualTo(200);
        assertThat(came()).hasSize(before + 3);
    }

    /** Anybody can have written a mail: what waits for a signal of its source goes on by a person, and by nobody else. */
    @Test
    void aMailLeadsNoRunOn() {
        DesignedWorkflow.publish(api, """
                workflow wait-for-the-copy "Wait for the copy" for request
                  owner ines
                copied: wait for signal "nightly-copies" with key "gnq-gw1/has not been copied"
                end: done "copied"
                """);
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"request","fields":{"title":"A copy, please","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        api.call("ines", "POST", "/api/tickets/" + number + "/runs", "{\"workflow\":\"wait-for-the-copy\"}");
        int before = came().size();
        mailbox().machine(CopyVault.FROM, Mailbox.MACHINES, "[DONE] nightly copy of GNQ-GW1", "1 file, 1 MB.");
        until(() -> came().size() == before + 1
                && !came().getFirst().get("state").asText().equals("received"));
        assertThat(came().getFirst().get("state").asText()).isNotEqualTo("taken");
        assertThat(ticket("ada", number).at("/runs/0/status").asText()).isNotEqualTo("finished");
        // The same signal, given by a person, is what it waits for.
        Answer given = api.call("ines", "POST", "/api/signals", """
                        {"signal":"nightly-copies","key":"gnq-gw1/has not been copied","values":{}}""");
        assertThat(given.status()).as(given.raw().body()).isLessThan(300);
        until(() -> ticket("ada", number).at("/runs/0/status").asText().equals("finished"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            {"to":"copies@kestrel.example","senders":[]}       | post.to      | takes what comes to
            {"to":"Dastur@kestrel.example","senders":[]}       | post.to      | the desk's own
            {"to":"nobody","senders":[]}                       | post.to      | no address
            {"to":"a@kestrel.example","senders":["x y"]}       | post.senders | no address
            """)
    void anAddressBelongsToOneAndIsOne(String post, String where, String why) {
        ObjectNode body = body();
        body.set("post", Json.read(post, JsonNode.class));
        Answer answer = set("halvard", "another", body);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(422);
        assertThat(answer.where()).isEqualTo(where);
        assertThat(answer.raw().body()).contains(why);
    }

    @Test
    void itIsSetByAdministratorsOnlyAndNobodyPostsInItsName() {
        assertThat(set("ines", "nightly-copies", body()).status()).isEqualTo(403);
        ObjectNode byToken = body().put("proof", "token");
        assertThat(set("halvard", "another", byToken).where()).isEqualTo("post");
        byToken = body();
        byToken.remove("post");
        assertThat(set("halvard", "another", byToken).where()).isEqualTo("post");
        Answer posted = api.send(
                HttpClient.newHttpClient(),
                "POST",
                "/in/nightly-copies",
                "{\"subject\":\"[FAILED] copy of GNQ-GW1\"}",
                Map.of("Content-Type", "application/json", "Authorization", "Bearer x"));
        assertThat(posted.status()).isEqualTo(401);
        assertThat(api.call("halvard", "POST", SOURCE + "/secrets", "{\"which\":1}")
                        .status())
                .isEqualTo(409);
    }
}
