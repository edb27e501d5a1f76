package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.callin.AnswerCallIn;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.check.CheckCommands.ReviewCheck;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.task.TaskCommands.LeaveOut;
import dastur.core.ticket.TicketId;
import dastur.server.work.CommandService.Outcome;
import dastur.standins.PierGateways;
import dastur.standins.Standins;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Workflows that ship, run against the stand-ins. */
class ShippedTest extends OnDemo {
    /** So many looks, a fiftieth of a second apart, must find the same before a minute passes. */
    private static final int STILL = 20;

    private static final int MOST_MINUTES = 12;

    private static Standins standins;

    @BeforeAll
    static void start() {
        standins = api.app().standins();
    }

    private static void pass(int minutes) {
        HttpClient.newHttpClient()
                .sendAsync(
                        HttpRequest.newBuilder(URI.create(standins.address() + "/pass"))
                                .header("Content-Type", "application/x-www-form-urlencoded")
                                .POST(HttpRequest.BodyPublishers.ofString("minutes=" + minutes))
                                .build(),
                        HttpResponse.BodyHandlers.discarding())
                .join();
    }

    private static String started(String workflow, String kind, String fields, Map<String, Object> inputs) {
        String number = api.call("ada", "POST", "/api/tickets", "{\"kind\":\"" + kind + "\",\"fields\":" + fields + "}")
                .body()
                .get("ticket")
                .asText();
        var started = api.call(
                "ada",
                "POST",
                "/api/tickets/" + number + "/runs",
                Json.write(Map.of("workflow", workflow, "inputs", inputs)));
        assertThat(started.status()).as(started.raw().body()).isEqualTo(200);
        return number;
    }

    private static JsonNode ticket(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number, null).body();
    }

    private static boolean isAsked(String number, String name) {
        return visit(number, name) != null;
    }

    private static String visit(String number, String name) {
        for (JsonNode ask : ticket(number).get("asks")) {
            if (ask.get("name").asText().equals(name)) {
                return ask.get("visit").asText();
            }
        }
        return null;
    }

    private static void complete(String person, String number, String task, String outcome, String form) {
        until(() -> isAsked(number, task));
        VisitId visit = new VisitId(visit(number, task));
        assertThat(handle(person, visit, new CompleteTask(visit, outcome, Json.readMap(form), null)))
                .isInstanceOf(Outcome.Done.class);
    }

    /** As the person themselves: some cannot be signed in as in the demo. */
    private static Outcome handle(String person, VisitId visit, Command command) {
        return api.app()
                .app()
                .work()
                .commands()
                .handle(visit.ticket(), UUID.randomUUID().toString(), Actor.of(new PersonId(person)), command);
    }

    private static String result(String number) {
        until(() -> ticket(number).get("runs").get(0).get("status").asText().equals("finished"));
        return ticket(number).get("runs").get(0).get("result").asText();
    }

    @Test
    void faresAreSentToTheKiosksThatAreBehindAndTheOneThatIsOffBecomesATask() {
        String first = started("fares-on-kiosks", "incident", "{\"title\":\"Fares\",\"requester\":\"mira\"}", Map.of());
        until(() -> isAsked(first, "Bring the fares to the kiosks that are left"));
        standins.kiosks().switchOn();
        complete("runa", first, "Bring the fares to the kiosks that are left", "They are current", "{}");
        assertThat(result(first)).isEqualTo("all sent");
        assertThat(ticket(first).get("fields").get("done").asText()).contains("sent to 2 kiosks");
        String second =
                started("fares-on-kiosks", "incident", "{\"title\":\"Fares\",\"requester\":\"mira\"}", Map.of());
        assertThat(result(second)).isEqualTo("all sent");
        String third = started("fares-on-kiosks", "incident", "{\"title\":\"Fares\",\"requester\":\"mira\"}", Map.of());
        assertThat(result(third)).isEqualTo("all current");
    }

    @Test
    void whoeverComesTakesPartAndTheNextIsAskedWhenTheFirstCannot() {
        String number = started(
                "passenger-service-down",
                "incident",
                "{\"title\":\"All boards dark\",\"requester\":\"mira\",\"service\":\"departure-boards\",\"impact\":2,\"urgency\":2}",
                Map.of());
        assertThat(ticket(number).get("fields").get("major").asBoolean()).isTrue();
        until(() -> isAsked(number, "Lead the incident"));
        String lead = visit(number, "Lead the incident");
        String first = asked(number, "Lead the incident").get(0).asText();
        assertThat(answer(first, lead, false)).isInstanceOf(Outcome.Done.class);
        until(() -> asked(number, "Lead the incident").size() > 1);
        String second = asked(number, "Lead the incident").get(1).asText();
        assertThat(second).isNotEqualTo(first);
        assertThat(answer(second, lead, true)).isInstanceOf(Outcome.Done.class);
        for (String name : new String[] {"Inform the passengers", "Write what happens"}) {
            until(() -> isAsked(number, name));
            String someone = asked(number, name).get(0).asText();
            assertThat(answer(someone, visit(number, name), true)).isInstanceOf(Outcome.Done.class);
        }
        until(() -> ticket(number).get("parts").has("incident commander")
                && ticket(number).get("parts").has("scribe"));
        until(() -> isAsked(number, "Write the next update"));
        complete("teo", number, "Write the next update", "It is restored", "{\"words\":\"All boards show again.\"}");
        complete(
                "teo",
                number,
                "Say what it was",
                "Close it",
                "{\"cause\":\"a gateway\",\"what\":\"restarted\",\"answer\":\"They work again.\"}");
        assertThat(result(number)).isEqualTo("restored");
        assertThat(ticket(number).get("state").asText()).isEqualTo("closed");
    }

    /** The directory is changed after the manager's yes, and changed back when the time is over (N73). */
    @Test
    void whoeverMaySeeTheRosterIsLetInAndOutAgain() {
        String number = started(
                "access-to-the-roster",
                "request",
                "{\"title\":\"I need the roster\",\"requester\":\"mira\"}",
                Map.of("days", 2));
        until(() -> isAsked(number, "Let them see the roster?"));
        assertThat(standins.directory().roster()).doesNotContain("mira");
        VisitId visit = new VisitId(visit(number, "Let them see the roster?"));
        JsonNode approval = ticket(number).get("asks").get(0).get("approval");
        assertThat(handle(
                        "pavel",
                        visit,
                        new Vote(
                                visit,
                                approval.get("round").asInt(),
                                approval.get("digest").asText(),
                                true,
                                null)))
                .isInstanceOf(Outcome.Done.class);
        until(() -> ticket(number)
                .get("runs")
                .get(0)
                .get("visits")
                .findValuesAsText("step")
                .contains("wait"));
        assertThat(standins.directory().roster()).contains("mira");
        pass(2 * 24 * 60 + 5);
        // Who was signed in is not any more, after two days.
        for (String person : List.of("ada", "ines", "teo", "runa", "halvard")) {
            api.signAnew(person);
        }
        until(() -> !standins.directory().roster().contains("mira"));
        assertThat(result(number)).isEqualTo("over");
    }

    /** Six of seven are removed by machine, one is in use: its host's team is told which, and the owner hears of it. */
    @Test
    void traceFilesThatFillAHostAreRemovedButForOneInUse() {
        standins.devices().traces().fill();
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"The disk of the rostering server is full","ci":"roster-1",
                        "requester":"mira","impact":3,"urgency":2}}""")
                .body()
                .get("ticket")
                .asText();
        until(() -> isAsked(number, "Look at what is left"));
        assertThat(standins.devices().traces().names())
                .containsExactly(
                        "crew-app.1.trace",
                        "crew-app.2.trace",
                        "roster-sync.0.trace",
                        "roster-sync.4.trace",
                        "start.log");
        String asked = api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .raw()
                .body();
        assertThat(asked).contains("Removed: 6 of 7").contains("Not removed: roster-sync.4.trace");
        String visit = "";
        for (JsonNode e : Json.read(asked, JsonNode.class).get("entries")) {
            visit = e.get("kind").asText().equals("bracketOpened")
                    ? e.get("visit").asText()
                    : visit;
        }
        JsonNode list = api.call("ada", "GET", "/api/tickets/" + number + "/lists/" + visit, null)
                .body();
        assertThat(list.at("/list/left").asText()).isEqualTo("some failed");
        JsonNode rows = list.get("rows");
        assertThat(rows).hasSize(7);
        assertThat(rows.findValuesAsText("state")).containsOnlyOnce("failed");
        assertThat(rows.findValuesAsText("why")).singleElement().asString().contains("roster-sync.4.trace");
        complete("aino", number, "Look at what is left", "There is room again", "{}");
        assertThat(result(number)).isEqualTo("room by hand");
        assertThat(ticket(number).at("/fields/done").asText()).startsWith("6 of 7 trace files");
    }

    /** What ships is what others begin from: nothing blocks it, and nothing is warned of either. */
    @Test
    void nothingIsFoundInWhatShips() {
        JsonNode all = api.call("ines", "GET", "/api/workflows", null).body();
        assertThat(all.size()).isEqualTo(22);
        for (JsonNode workflow : all) {
            String key = workflow.get("key").asText();
            List<String> found = api.call("ines", "GET", "/api/workflows/" + key, null)
                    .body()
                    .findValuesAsText("code");
            // A kiosk that cannot be enrolled is meant to stall: the demo shows how that is repaired.
            assertThat(found)
                    .as(key)
                    .isEqualTo(key.equals("seasonal-ticket-kiosk") ? List.of("no way for failure") : List.of());
        }
    }

    /** Over SSH: a restart helps one board; another needs a part, is looked at on site and restarted once more. */
    @Test
    void aFrozenBoardIsRestartedAndOneThatNeedsAPartGoesRoundAgain() {
        standins.devices().freeze("ALD-07", true);
        String first = frozen("ALD-07");
        until(() -> standins.devices().picture("ALD-07").equals("moves"));
        passUntil(first, () -> ticket(first).get("ended").asBoolean());
        assertThat(result(first)).isEqualTo("moves again");

        standins.devices().needsPart("ALD-08", true);
        String second = frozen("ALD-08");
        until(() -> standins.devices().picture("ALD-08").equals("stands still") && step(second, "restart"));
        passUntil(second, () -> isAsked(second, "Look at the board on site"));
        assertThat(log(second)).contains("no picture for 120 s");
        complete("runa", second, "Look at the board on site", "It needs a part", "{\"found\":\"a burnt driver\"}");
        until(() -> isAsked(second, "Order a part for the board?"));
        VisitId part = new VisitId(visit(second, "Order a part for the board?"));
        assertThat(vote("teo", part)).isInstanceOf(Outcome.Done.class);
        until(() -> isAsked(second, "Fit the part"));
        standins.devices().needsPart("ALD-08", false);
        complete("runa", second, "Fit the part", "Fitted", "{}");
        passUntil(second, () -> ticket(second).get("ended").asBoolean());
        assertThat(result(second)).isEqualTo("moves again");
        assertThat(ticket(second).get("fields").get("cause").asText()).isEqualTo("a burnt driver");
    }

    private static String frozen(String board) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"The picture is frozen\",\"requester\":\"mira\",\"ci\":\""
                                + board + "\"}}")
                .body()
                .get("ticket")
                .asText();
    }

    private static String log(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .raw()
                .body();
    }

    private static boolean step(String number, String step) {
        return log(number).contains("\"step\":\"" + step + "\"");
    }

    /**
     * Each minute lets a check that settles look once more. None passes while a machine is asked, since its time would be over,
     * nor before the record has stood still for a moment: on a slow machine all of them would pass before anybody looks.
     */
    private static void passUntil(String number, BooleanSupplier condition) {
        int[] minutes = {0};
        int[] still = {0};
        long[] seq = {0};
        until(() -> {
            long now = seq(number);
            still[0] = now == seq[0] && !isCalling(number) ? still[0] + 1 : 0;
            seq[0] = now;
            if (condition.getAsBoolean()) {
                return true;
            }
            if (still[0] >= STILL && minutes[0] < MOST_MINUTES) {
                still[0] = 0;
                minutes[0]++;
                pass(1);
            }
            return false;
        });
    }

    private static long seq(String number) {
        return api.app()
                .app()
                .work()
                .tickets()
                .find(new TicketId(number))
                .orElseThrow()
                .seq();
    }

    private static boolean isCalling(String number) {
        return api.app().app().work().tickets().find(new TicketId(number)).stream()
                .flatMap(c -> c.open().values().stream())
                .flatMap(r -> r.open().values().stream())
                .anyMatch(v -> v.waiting() instanceof CallUnderWay call && !call.betweenAttempts());
    }

    private static Outcome vote(String person, VisitId visit) {
        Votes votes = (Votes) api.app()
                .app()
                .work()
                .tickets()
                .find(visit.ticket())
                .flatMap(c -> c.visit(visit))
                .orElseThrow()
                .waiting();
        return handle(person, visit, new Vote(visit, votes.round(), votes.digest(), true, null));
    }

    /** From a document of fourteen rows: a part that is run again, a step that is left out, and what differs afterwards. */
    @Test
    void aGatewayIsUpgradedAndStartedOnceMoreWhereTooFewDevicesAnswer() {
        PierGateways gateways = standins.devices().gateways();
        gateways.trouble("ALD-GW1", Optional.of(PierGateways.Trouble.UNTIL_STARTED));
        String number = upgraded("7.3.0", 90);
        passUntil(number, () -> isToReview(number));
        assertThat(ticket(number).at("/asks/0/review").toString()).contains("78.6 %, needs at least 90 %");
        review(number, "Enough devices answer again", ReviewVerdict.MEASURE_AGAIN);
        until(() -> isAsked(number, "Look at the boards on the pier"));
        VisitId walk = new VisitId(visit(number, "Look at the boards on the pier"));
        assertThat(handle("runa", walk, new LeaveOut(walk, "The pier is shut until five.")))
                .isInstanceOf(Outcome.Done.class);
        assertThat(result(number)).isEqualTo("upgraded");
        assertThat(ticket(number).at("/fields/done").asText()).endsWith("7.2.1 to 7.3.0; 14 of 14 devices answer");
        assertThat(api.call("ada", "GET", "/api/cis/ALD-GW1", null)
                        .body()
                        .at("/ci/attributes/firmware")
                        .asText())
                .isEqualTo("7.3.0");
        JsonNode summary = api.call("ada", "GET", "/api/tickets/" + number + "/runs/" + number + ".1/summary", null)
                .body();
        assertThat(summary.get("inputs").toString())
                .contains("{\"label\":\"Who is at the pier meanwhile\",\"value\":\"Runa Feld\"");
        JsonNode captures = api.call("ada", "GET", "/api/tickets/" + number + "/captures", null)
                .body();
        JsonNode differ =
                compared(ref(captures, "Count the devices before"), ref(captures, "Enough devices answer again"));
        JsonNode devices = differ.at("/sides/tables/0");
        assertThat(devices.get("key").asText()).isEqualTo("device");
        List<String> turned = new ArrayList<>();
        devices.get("rows").forEach(r -> {
            if (!r.get("change").asText().equals("same")) {
                turned.add(r.at("/after/device").asText() + r.get("differs"));
            }
        });
        assertThat(turned).containsExactly("ALD-12[\"answers\"]", "ALD-13[\"answers\"]", "ALD-14[\"answers\"]");

        gateways.trouble("ALD-GW1", Optional.of(PierGateways.Trouble.UNTIL_PUT_BACK));
        String again = upgraded("7.4.0", 90);
        passUntil(again, () -> isToReview(again));
        review(again, "Enough devices answer again", ReviewVerdict.PUT_BACK);
        assertThat(result(again)).isEqualTo("put back");
        assertThat(gateways.version("ALD-GW1")).isEqualTo("7.2.1");
        assertThat(ticket(again).get("state").asText()).isEqualTo("backed out");
        gateways.trouble("ALD-GW1", Optional.empty());
    }

    private static String upgraded(String version, int atLeast) {
        String number = started(
                "gateway-software-upgrade",
                "change",
                "{\"title\":\"New software for the pier\",\"requester\":\"greta\",\"ci\":\"ALD-GW1\"}",
                Map.of(
                        "version", version,
                        "older", "7.2.1",
                        "atLeast", atLeast,
                        "begins", "2026-01-01T00:00:00Z",
                        "pier", "runa",
                        "reason", "The boards fall behind."));
        String name = "Put the new software onto this gateway?";
        until(() -> isAsked(number, name));
        assertThat(vote("teo", new VisitId(visit(number, name)))).isInstanceOf(Outcome.Done.class);
        return number;
    }

    /** A check that settles stands there as well, before anybody is asked. */
    private static boolean isToReview(String number) {
        return ticket(number).at("/asks/0").has("review");
    }

    private static void review(String number, String name, ReviewVerdict verdict) {
        VisitId visit = new VisitId(visit(number, name));
        assertThat(handle("teo", visit, new ReviewCheck(visit, verdict, "Seen")))
                .isInstanceOf(Outcome.Done.class);
    }

    /** The first time that devices were counted there: a try that could not be measured has a place as well, and no devices. */
    private static String ref(JsonNode captures, String name) {
        for (JsonNode one : captures) {
            if (one.get("name").asText().equals(name)
                    && one.get("names").toString().contains("\"devices\"")) {
                return one.get("ref").asText();
            }
        }
        throw new AssertionError(name + " is not in " + captures);
    }

    private static JsonNode compared(String before, String after) {
        return api.call("ada", "GET", "/api/comparisons?before=" + before + "&after=" + after, null)
                .body();
    }

    /** Over DNS: a name that is pointed elsewhere is seen there; when the portal does not open, it leads back. */
    @Test
    void thePortalMovesAndIsPutBackWhenItDoesNotOpen() {
        String number = moved("10.30.9.2");
        complete("sem", number, "Open the portal from a phone", "It opens", "{}");
        assertThat(result(number)).isEqualTo("moved");
        assertThat(standins.names().names()).containsEntry("wifi.kestrel.example", "10.30.9.2");
        assertThat(ticket(number).get("fields").get("done").asText())
                .isEqualTo("wifi.kestrel.example: 10.30.9.1 to 10.30.9.2");

        String again = moved("10.30.9.3");
        until(() -> standins.names().names().containsValue("10.30.9.3"));
        complete("sem", again, "Open the portal from a phone", "It does not open", "{}");
        assertThat(result(again)).isEqualTo("put back");
        assertThat(standins.names().names()).containsEntry("wifi.kestrel.example", "10.30.9.2");
        assertThat(ticket(again).get("state").asText()).isEqualTo("backed out");
    }

    private static String moved(String address) {
        String number = started(
                "wifi-portal-move",
                "change",
                "{\"title\":\"Portal\",\"requester\":\"mira\",\"impact\":3}",
                Map.of("address", address));
        until(() -> isAsked(number, "Move the portal?"));
        assertThat(vote("teo", new VisitId(visit(number, "Move the portal?")))).isInstanceOf(Outcome.Done.class);
        return number;
    }

    private static JsonNode asked(String number, String name) {
        for (JsonNode ask : ticket(number).get("asks")) {
            if (ask.get("name").asText().equals(name)) {
                return ask.get("callIn").get("asked");
            }
        }
        return Json.mapper().createArrayNode();
    }

    private static Outcome answer(String person, String visit, boolean comes) {
        VisitId id = new VisitId(visit);
        return handle(person, id, new AnswerCallIn(id, comes));
    }
}
