package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.ApiClient.Answer;
import java.io.IOException;
import java.io.InputStream;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;
import picocli.CommandLine;

/** Notation, rehearsals, signals and redaction over HTTP; workflows as files on the command line. */
class DesignRoutesTest extends OnDemo {
    private static WorkflowVersion shipped(String key) {
        try (InputStream in = DesignRoutesTest.class.getResourceAsStream("/demo/" + key + ".dastur")) {
            return Notation.read(new String(in.readAllBytes(), StandardCharsets.UTF_8), 1, Names.NONE)
                    .version();
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    private static String body(WorkflowVersion version, String more) {
        return "{\"version\":" + Json.write(version) + (more.isEmpty() ? "" : "," + more) + "}";
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "gate-lane-stuck-open",
                "seasonal-ticket-kiosk",
                "gate-certificates",
                "new-fare-rules",
                "passenger-service-down",
                "emergency-change",
                "emergency-follow-up",
                "winter-timetable-switch",
                "berth-drawings",
                "handed-to-the-supplier",
                "fares-on-kiosks"
            })
    void everyShippedWorkflowIsFreeOfBlockingFindingsAndItsTextIsItsOwn(String key) {
        JsonNode workflow =
                api.call("ines", "GET", "/api/workflows/" + key, null).body();
        for (JsonNode finding : workflow.get("findings")) {
            assertThat(finding.get("severity").asText()).as(finding.toString()).isNotEqualTo("blocks");
        }
        Answer written = api.call("ines", "POST", "/api/notation/write", "{\"version\":" + workflow.get("live") + "}");
        assertThat(Notation.read(written.body().get("text").asText(), 1, Names.NONE)
                        .version())
                .isEqualTo(shipped(key));
    }

    @ParameterizedTest
    @ValueSource(strings = {"dastur", "json", "bpmn"})
    void aWorkflowGoesOutAsAFileAndComesBackTheSame(String format) {
        WorkflowVersion version = shipped("new-fare-rules");
        JsonNode file = api.call(
                        "ines", "POST", "/api/files/workflow/write", body(version, "\"format\":\"" + format + "\""))
                .body();
        assertThat(file.get("name").asText()).isEqualTo("new-fare-rules-1." + format);
        String asked = Json.write(Map.of(
                "name", file.get("name").asText(), "text", file.get("text").asText()));
        Answer read = api.call("ines", "POST", "/api/files/workflow/read", asked);
        assertThat(Json.read(read.body().get("version").toString(), WorkflowVersion.class))
                .isEqualTo(version);
        assertThat(read.body().get("adapted")).isEmpty();
        assertThat(api.call("runa", "POST", "/api/files/workflow/read", asked).status())
                .isEqualTo(403);
    }

    @Test
    void aTableGoesOutAsDmnAndComesBackTheSame() {
        String table = """
                {"inputs":[{"label":"Impact","value":"ticket.impact"}],"hit":"first","rows":[{"cells":[">= 3"],"result":"later"}]}""";
        JsonNode file = api.call(
                        "ines", "POST", "/api/files/table/write", "{\"name\":\"How urgent\",\"table\":" + table + "}")
                .body();
        assertThat(file.get("name").asText()).isEqualTo("how-urgent.dmn");
        JsonNode read = api.call(
                        "ines",
                        "POST",
                        "/api/files/table/read",
                        Json.write(Map.of("text", file.get("text").asText())))
                .body();
        assertThat(read.get("table").toString()).isEqualTo(table);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "{\"name\":\"w.bpmn\",\"text\":\"<!DOCTYPE a><a/>\"}",
                "{\"name\":\"w.bpmn\",\"text\":\"<a>\"}",
                "{\"name\":\"w.json\",\"text\":\"{}\"}",
                "{\"name\":\"w.doc\",\"text\":\"x\"}",
                "{\"name\":\"w.bpmn\"}"
            })
    void aFileThatIsNoWorkflowIsRefusedInASentence(String body) {
        Answer answer = api.call("ines", "POST", "/api/files/workflow/read", body);
        assertThat(answer.status()).isEqualTo(422);
        assertThat(answer.body().get("detail").asText()).isNotBlank().doesNotContain("java.");
    }

    /** N30: asked first, it stands on the desks of the group that has the ticket, and one answer takes it from all. */
    @Test
    void aProposalStandsOnTheDeskUntilSomebodyAnswers() {
        Answer raised = api.call("ada", "POST", "/api/tickets", """
                {"kind":"incident","fields":{"title":"Certificate of gate 2 runs out","ci":"NSL-G2","requester":"greta",
                "impact":4,"urgency":3,"group":"pier-technicians"}}""");
        String number = raised.body().get("ticket").asText();
        String id = number + "/certificates-raised";
        assertThat(desk("runa")).contains(id);
        assertThat(desk("teo")).doesNotContain(id);
        String path = "/api/tickets/" + number + "/proposals/certificates-raised";
        assertThat(api.call("mira", "POST", path, "{\"start\":true}").status()).isEqualTo(403);
        assertThat(api.call("runa", "POST", path, "{}").status()).isEqualTo(422);
        Answer started = api.call("runa", "POST", path, "{\"start\":true}");
        assertThat(started.status()).as("%s", started.body()).isEqualTo(200);
        assertThat(desk("runa")).doesNotContain(id);
        JsonNode ticket =
                api.call("runa", "GET", "/api/tickets/" + number, null).body();
        assertThat(ticket.get("offers")).isEmpty();
        assertThat(ticket.get("runs").get(0).get("trigger").asText()).isEqualTo("certificates-raised");
        assertThat(api.call("ada", "POST", path, "{\"start\":false}").status()).isEqualTo(409);
    }

    @Test
    void aSentenceIsReadWithTheNamesOfTheOrganisation() {
        String text = Json.write(Map.of("text", "ask Pier tech"));
        String version = ",\"version\":" + Json.write(shipped("gate-certificates")) + "}";
        Answer answer =
                api.call("ines", "POST", "/api/notation/sentence", text.substring(0, text.length() - 1) + version);
        assertThat(answer.body().get("offers").get(0).asText()).isEqualTo("ask Pier technicians \"");
        assertThat(answer.body().get("problem").get("column").asInt()).isGreaterThan(1);
        assertThat(api.call("runa", "POST", "/api/notation/sentence", "{}").status())
                .isEqualTo(403);
    }

    @Test
    void aRehearsalWritesNothingAndCallsNothing() {
        api.untilQuiet();
        JsonNode before = api.call("ada", "GET", "/api/tickets", null).body();
        int calls = api.app().standins().lanes().calls();
        int mails = api.app().standins().mailbox().mails().size();

        Answer played = api.call(
                "ines",
                "POST",
                "/api/rehearsals",
                body(shipped("gate-lane-stuck-open"), "\"ticket\":\"I-1043\",\"toTheEnd\":true"));
        assertThat(played.status()).isEqualTo(200);
        assertThat(played.body().get("ended").asText()).isEqualTo("lane closed");
        assertThat(played.body().get("record").size()).isGreaterThan(8);

        assertThat(api.call("ada", "GET", "/api/tickets", null).body()).isEqualTo(before);
        assertThat(api.app().standins().lanes().calls()).isEqualTo(calls);
        assertThat(api.app().standins().mailbox().mails()).hasSize(mails);
    }

    @Test
    void exploringAndReplayingAnswerOverHttp() {
        Answer explored = api.call(
                "ines",
                "POST",
                "/api/rehearsals/explore",
                body(shipped("gate-lane-stuck-open"), "\"ticket\":\"I-1043\""));
        assertThat(explored.body().get("endings").findValuesAsText("result"))
                .contains("lane closed", "cleared on the spot");
        Answer replayed =
                api.call("ines", "POST", "/api/rehearsals/replay", body(shipped("gate-lane-stuck-open"), "\"most\":5"));
        assertThat(replayed.body().get("runs")).hasSize(5).allSatisfy(run -> assertThat(run.get("differences"))
                .as(run.toString())
                .isEmpty());
    }

    /** What began by a signal is replayed by it: it has no requester, and its starts are those of then (N30). */
    @Test
    void whatSignalsBeganIsReplayedToo() {
        Answer replayed = api.call(
                "ines", "POST", "/api/rehearsals/replay", body(shipped("frozen-departure-board"), "\"most\":20"));
        assertThat(replayed.body().get("runs").size()).isGreaterThan(9);
        assertThat(replayed.body().get("runs"))
                .allSatisfy(run ->
                        assertThat(run.get("differences")).as(run.toString()).isEmpty());
    }

    private static Answer rehearsed(String workflow, String more) {
        return api.call("ines", "POST", "/api/rehearsals", body(shipped(workflow), more + ",\"toTheEnd\":true"));
    }

    private static List<String> kinds(Answer rehearsed) {
        List<String> kinds = new ArrayList<>();
        rehearsed
                .body()
                .get("record")
                .forEach(entry ->
                        kinds.add(entry.at("/body/is").asText(entry.path("kind").asText())));
        return kinds;
    }

    @Test
    void aRehearsalBeginsByASignalThatCame() {
        Answer lines = api.call("ines", "GET", "/api/signals?source=board-monitor", null);
        String begins = "";
        for (var line : lines.body().get("lines")) {
            begins =
                    line.get("state").asText().equals("opened") ? line.get("id").asText() : begins;
        }
        String body = "\"begins\":{\"trigger\":\"frozen-departure-board-signal\",\"source\":\"board-monitor\",";
        Answer played = rehearsed("frozen-departure-board", body + "\"signal\":\"" + begins + "\"}");
        assertThat(played.status()).as(played.raw().body()).isEqualTo(200);
        assertThat(kinds(played)).startsWith("ticketRaised", "signalsHeard").contains("runStarted");
        assertThat(played.body().get("ended").asText()).isNotEmpty();

        Answer strange = rehearsed("frozen-departure-board", body + "\"sample\":\"nobody kept this\"}");
        assertThat(strange.status()).isEqualTo(404);
        Answer none = rehearsed("frozen-departure-board", body + "\"signal\":null}");
        assertThat(none.status()).isEqualTo(422);
        Answer trigger = rehearsed("frozen-departure-board", "\"begins\":{\"trigger\":\"of-another\"}");
        assertThat(trigger.status()).isEqualTo(422);
        assertThat(trigger.raw().body()).contains("Save what starts it first");
    }

    /** A signal that the trigger does not take up says why, and nothing is written. */
    @Test
    void aSignalThatStartsNothingSaysWhy() {
        Answer lines = api.call("ines", "GET", "/api/signals?source=board-monitor", null);
        String moves = "";
        for (var line : lines.body().get("lines")) {
            moves = line.path("sort").asText().equals("recovered")
                    ? line.get("id").asText()
                    : moves;
        }
        Answer played = rehearsed(
                "frozen-departure-board",
                "\"begins\":{\"trigger\":\"frozen-departure-board-signal\",\"source\":\"board-monitor\",\"signal\":\""
                        + moves + "\"}");
        assertThat(played.body().get("refused").asText()).startsWith("It does not start: ");
        assertThat(played.body().get("record")).isEmpty();
    }

    @Test
    void aRehearsalBeginsByItsTimeOrByACall() {
        Answer time = rehearsed(
                "fares-on-kiosks",
                "\"start\":\"2026-03-02T03:15:00Z\",\"begins\":{\"trigger\":\"fares-on-kiosks-daily\"}");
        assertThat(time.status()).as(time.raw().body()).isEqualTo(200);
        assertThat(time.body().path("refused").asText("")).isEmpty();
        assertThat(kinds(time)).startsWith("ticketRaised", "caused");
        assertThat(time.body().at("/record/0/at").asText()).startsWith("2026-03-02T03:15:00");
        assertThat(time.raw().body()).contains("time came");

        Answer call = rehearsed("booking-site-slow", "\"begins\":{\"trigger\":\"booking-site-slow-hook\"}");
        assertThat(call.status()).as(call.raw().body()).isEqualTo(200);
        assertThat(call.body().get("refused").asText())
                .as("a caller gives what the start form asks for")
                .isNotEmpty();
    }

    @Test
    void aKeptRehearsalThatEndsOtherwiseKeepsADraftFromBeingPublished() {
        WorkflowVersion version = shipped("seasonal-ticket-kiosk");
        String kept =
                "{\"cases\":[{\"name\":\"declined\",\"kind\":\"change\",\"fields\":{\"title\":\"x\",\"ci\":\"kiosk-11\",\"requester\":\"mira\"},"
                        + "\"inputs\":{},\"by\":\"mira\",\"start\":\"2026-03-02T10:00:00Z\","
                        + "\"answers\":[{\"step\":\"approve\",\"says\":\"declines\"}],\"expected\":\"refused\"}]}";
        String path = "/api/workflows/seasonal-ticket-kiosk";
        Answer put = api.call("ines", "PUT", path + "/cases", kept);
        assertThat(put.body().get("verdicts").get(0).has("problem")).isFalse();

        ObjectNode changed = (ObjectNode) Json.tree(version);
        String other = changed.toString().replace("\"result\":\"refused\"", "\"result\":\"not wanted\"");
        long revision =
                api.call("ines", "GET", path, null).body().get("draftRevision").asLong();
        Answer saved =
                api.call("ines", "PUT", path + "/draft", "{\"version\":" + other + ",\"revision\":" + revision + "}");
        Answer published = api.call(
                "ines",
                "POST",
                path + "/publish",
                "{\"revision\":" + saved.body().get("revision") + "}");
        assertThat(published.status()).isEqualTo(422);
        assertThat(published.body().get("detail").asText()).contains("'declined' ends with 'not wanted'");
    }

    @Test
    void wrongInputIsAnsweredClearly() {
        WorkflowVersion version = shipped("gate-certificates");
        Answer none = api.call("ines", "POST", "/api/rehearsals", body(version, "\"ticket\":\"I-99999\""));
        assertThat(none.status()).isEqualTo(404);
        Answer step = api.call(
                "ines",
                "POST",
                "/api/rehearsals",
                body(version, "\"answers\":[{\"step\":\"nowhere\",\"says\":\"does\"}]"));
        assertThat(step.body().get("refused").asText()).contains("does not wait");
        Answer says = api.call(
                "ines",
                "POST",
                "/api/rehearsals",
                body(version, "\"answers\":[{\"step\":\"list\",\"says\":\"sings\"}]"));
        assertThat(says.status()).isBetween(400, 422);
        Answer text = api.call("ines", "POST", "/api/notation/read", "{\"text\":\"hello\",\"number\":1}");
        assertThat(text.body().get("problems").get(0).get("message").asText()).contains("begins with a line such as");
        Answer list = api.call(
                "ines",
                "POST",
                "/api/notation/document",
                "{\"text\":\"no list\",\"version\":" + Json.write(version) + "}");
        assertThat(list.status()).isEqualTo(422);
        assertThat(list.body().get("detail").asText()).contains("No list was found");
    }

    // --- signals and redaction

    @Test
    void aSignalNobodyWaitsForIsKept() {
        Answer kept =
                api.call("runa", "POST", "/api/signals", "{\"signal\":\"board.up\",\"key\":\"ALD-01\",\"values\":{}}");
        assertThat(kept.body().get("kept").asBoolean()).isTrue();
        assertThat(api.call("mira", "POST", "/api/signals", "{\"signal\":\"x\"}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("runa", "POST", "/api/signals", "{\"signal\":\" \"}")
                        .status())
                .isEqualTo(422);
    }

    @Test
    void onlyAdministratorsTakeContentAway() {
        for (String person : new String[] {"ines", "runa", "oskar", "mira"}) {
            Answer answer = api.call(person, "POST", "/api/tickets/I-1043/record/1/redaction", "{\"reason\":\"x\"}");
            assertThat(answer.status()).as(person).isEqualTo(403);
        }
    }

    // --- files

    private record Printed(int exit, String text) {}

    private static Printed run(Object command, String... arguments) {
        StringWriter out = new StringWriter();
        CommandLine line =
                new CommandLine(command).setOut(new PrintWriter(out, true)).setErr(new PrintWriter(out, true));
        line.setExecutionExceptionHandler((e, c, parsed) -> {
            c.getErr().println(e.getMessage());
            return 1;
        });
        return new Printed(line.execute(arguments), out.toString());
    }

    @Test
    void filesAreCheckedConvertedAndRehearsed() throws IOException {
        Path workflow = folder.resolve("kiosk.dastur");
        Files.writeString(workflow, Notation.write(shipped("seasonal-ticket-kiosk")));
        Path snapshot = folder.resolve("snapshot.json");
        Answer saved = api.call("ines", "GET", "/api/snapshot", null);
        assertThat(saved.raw().body()).doesNotContain("@kestrel.example");
        Files.writeString(snapshot, saved.raw().body());

        Printed checked = run(new FileCommands.Check(), workflow.toString(), "--against", snapshot.toString());
        assertThat(checked.exit()).as(checked.text()).isZero();
        assertThat(checked.text()).contains("warns: enrol:");
        Printed alone = run(new FileCommands.Check(), workflow.toString());
        assertThat(alone.exit()).as(alone.text()).isZero();

        Path broken = folder.resolve("broken.dastur");
        Files.writeString(broken, Files.readString(workflow).replace("run kiosk.enrol", "run kiosk.enroll"));
        assertThat(run(new FileCommands.Check(), broken.toString(), "--against", snapshot.toString())
                        .exit())
                .isEqualTo(1);
        Files.writeString(broken, Files.readString(workflow).replace("approve: approve", "approve: aprove"));
        Printed unreadable = run(new FileCommands.Check(), broken.toString());
        assertThat(unreadable.exit()).isEqualTo(1);
        assertThat(unreadable.text()).contains("broken.dastur:5:10:").contains("Perhaps 'approve'?");

        Path json = folder.resolve("kiosk.json");
        Path back = folder.resolve("back.dastur");
        assertThat(run(new FileCommands.Convert(), workflow.toString(), json.toString())
                        .exit())
                .isZero();
        Path bpmn = folder.resolve("w.bpmn");
        assertThat(run(new FileCommands.Convert(), json.toString(), bpmn.toString())
                        .exit())
                .isZero();
        assertThat(FileCommands.read(bpmn)).isEqualTo(FileCommands.read(workflow));
        assertThat(run(new FileCommands.Convert(), json.toString(), back.toString())
                        .exit())
                .isZero();
        assertThat(Files.readString(back)).isEqualTo(Files.readString(workflow));

        Path kept = folder.resolve("case.json");
        Files.writeString(
                kept,
                "{\"name\":\"goes in\",\"kind\":\"change\",\"fields\":{\"title\":\"x\",\"requester\":\"mira\"},\"inputs\":{},"
                        + "\"by\":\"mira\",\"start\":\"2026-03-02T10:00:00Z\",\"answers\":[{\"step\":\"approve\",\"says\":\"declines\"}],\"expected\":\"refused\"}");
        Printed played = run(
                new FileCommands.Rehearse(),
                workflow.toString(),
                "--case",
                kept.toString(),
                "--against",
                snapshot.toString());
        assertThat(played.text()).contains("as expected");
        assertThat(played.exit()).isZero();
        Files.writeString(kept, Files.readString(kept).replace("\"expected\":\"refused\"", "\"expected\":\"in use\""));
        assertThat(run(
                                new FileCommands.Rehearse(),
                                workflow.toString(),
                                "--case",
                                kept.toString(),
                                "--against",
                                snapshot.toString())
                        .exit())
                .isEqualTo(1);
    }

    @Test
    void triggersOfAllWorkflowsAreLookedAtInTheOrderThatIsSet() {
        JsonNode before = api.call("ines", "GET", "/api/triggers", null).body();
        java.util.List<String> order = new java.util.ArrayList<>();
        before.forEach(t -> order.add(t.get("trigger").get("id").asText()));
        assertThat(order).hasSizeGreaterThan(2);
        String last = order.removeLast();
        order.addFirst(last);
        String body = Json.write(Map.of("order", order));
        assertThat(api.call("runa", "PUT", "/api/triggers/order", body).status())
                .isEqualTo(403);
        assertThat(api.call("ines", "PUT", "/api/triggers/order", "{\"order\":[\"nothing\"]}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("ines", "PUT", "/api/triggers/order", body).status())
                .isLessThan(300);
        JsonNode after = api.call("ines", "GET", "/api/triggers", null).body();
        assertThat(after.get(0).get("trigger").get("id").asText()).isEqualTo(last);

        // Saving a workflow's own triggers keeps its places.
        String workflow = after.get(0).get("workflow").asText();
        JsonNode own = api.call("ines", "GET", "/api/workflows/" + workflow, null)
                .body()
                .get("triggers");
        java.util.List<JsonNode> triggers = new java.util.ArrayList<>();
        own.forEach(t -> triggers.add(t.get("trigger")));
        assertThat(api.call(
                                "ines",
                                "PUT",
                                "/api/workflows/" + workflow + "/triggers",
                                "{\"triggers\":" + triggers + "}")
                        .status())
                .isLessThan(300);
        assertThat(api.call("ines", "GET", "/api/triggers", null)
                        .body()
                        .get(0)
                        .get("workflow")
                        .asText())
                .isEqualTo(workflow);
    }

    /** N32: what stands behind another shows how often that took what it would have taken. */
    @Test
    void whatTriggersCameToOfLateIsCounted() {
        JsonNode view = api.call("ada", "GET", "/api/triggers/figures", null).body();
        assertThat(view.get("causes").asInt()).isBetween(1, 1_000);
        JsonNode offers = null;
        for (JsonNode figure : view.get("figures")) {
            assertThat(figure.get("held").asLong())
                    .isLessThanOrEqualTo(figure.get("looked").asLong());
            if (figure.get("trigger").asText().equals("passenger-service-down-raised")) {
                offers = figure;
            }
        }
        assertThat(offers).isNotNull();
        assertThat(offers.at("/gaveWay/0/times").asLong()).isPositive();
        assertThat(offers.at("/gaveWay/0/to").asText()).isEqualTo("gate-raised");
        assertThat(api.call("mira", "GET", "/api/triggers/figures", null).status())
                .isEqualTo(403);
    }
}
