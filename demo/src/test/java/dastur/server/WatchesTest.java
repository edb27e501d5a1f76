package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.server.ApiClient.Answer;
import dastur.standins.Faults;
import dastur.standins.KioskManager;
import dastur.store.Workflows;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.http.HttpClient;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Watches, attacked: what they may do, what they see, what becomes of it, and that one slow peer delays no other (I11). */
class WatchesTest extends OnDemo {
    private static final String BODY = """
            {"name":"%s","on":true,"action":"%s","inputs":%s,"every":"%s","holds":"%s","severity":"major",
             "otherwise":"incident","group":"pier-technicians"%s}""";

    private static String body(String name, String action, String inputs, String every, String holds, String more) {
        return BODY.formatted(name, action, inputs, every, holds, more);
    }

    private static Answer put(String key, String body) {
        return api.call("ines", "PUT", "/api/watches/" + key, body);
    }

    private static void made(String key, String body) {
        Answer answer = put(key, body);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        until(() -> watch(key).get("line").has("next"));
    }

    private static JsonNode watch(String key) {
        return api.call("ada", "GET", "/api/watches/" + key, null).body();
    }

    private static List<String> saw(String key) {
        return watch(key).get("stretches").findValuesAsText("said");
    }

    private static long readings(String key) {
        return watch(key).get("stretches").findValues("count").stream()
                .mapToLong(JsonNode::asLong)
                .sum();
    }

    private static List<String> states(String source) {
        return api.call("ada", "GET", "/api/signals?source=" + source, null)
                .body()
                .get("lines")
                .findValuesAsText("state");
    }

    /** By the demo's clock, so that nobody waits for the next time. */
    private static void oneTimeOn() {
        api.app().app().demo().advance().accept(Duration.ofSeconds(10));
    }

    /** Moves the clock on until the watch has read once more. */
    private static void looks(String key) {
        long before = readings(key);
        oneTimeOn();
        until(() -> readings(key) > before);
    }

    @AfterEach
    void allWell() {
        api.app().standins().kiosks().fallSilent(false);
        api.app().standins().kiosks().useUpPaper(Set.of());
        api.app().standins().faults().set("kiosks", Faults.Fault.NONE);
    }

    @Test
    void whatTurnsBecomesASignalAnIncidentAndIsWellAgain() {
        made(
                "silent-1",
                body(
                        "Silent one",
                        "kiosk.heard",
                        "{}",
                        "10 s",
                        "read.minutes > 20",
                        ",\"calm\":\"read.minutes < 10\""));
        looks("silent-1");
        assertThat(saw("silent-1")).containsExactly("does not hold");
        assertThat(states("silent-1")).as("what does not turn is no signal").isEmpty();
        api.app().standins().kiosks().fallSilent(true);
        looks("silent-1");
        looks("silent-1");
        assertThat(saw("silent-1")).containsExactly("holds", "does not hold");
        until(() -> states("silent-1").equals(List.of("opened")));
        JsonNode line = api.call("ada", "GET", "/api/signals?source=silent-1", null)
                .body()
                .get("lines")
                .get(0);
        JsonNode ticket = ticket("ada", line.get("ticket").asText());
        assertThat(ticket.at("/fields/title").asText()).isEqualTo("Silent one");
        assertThat(ticket.at("/fields/group").asText()).isEqualTo("pier-technicians");
        api.app().standins().kiosks().fallSilent(false);
        looks("silent-1");
        until(() -> states("silent-1").equals(List.of("joined", "opened")));
        assertThat(watch("silent-1").at("/line/inFault").asBoolean()).isFalse();
    }

    @Test
    void whatCannotBeReadIsNeitherAndIsSaidWhenItLasts() {
        made(
                "unread-1",
                body("Unread one", "kiosk.heard", "{}", "10 s", "read.minutes > 20", ",\"unreadAfter\":\"10 s\""));
        looks("unread-1");
        api.app().standins().faults().set("kiosks", Faults.Fault.DOWN);
        looks("unread-1");
        assertThat(saw("unread-1").getFirst()).isEqualTo("could not be read");
        looks("unread-1");
        until(() -> states("unread-1").equals(List.of("opened")));
        assertThat(watch("unread-1").at("/stretches/0/note").asText()).isNotBlank();
        api.app().standins().faults().set("kiosks", Faults.Fault.NONE);
        looks("unread-1");
        until(() -> states("unread-1").size() == 2);
        assertThat(saw("unread-1")).containsExactly("does not hold", "could not be read", "does not hold");
    }

    /** Twenty watches of a peer that takes the connection and never answers: those of another go on. */
    @Test
    void oneSlowPeerDelaysNoOther() throws IOException {
        try (ServerSocket mute = new ServerSocket(0, 500, InetAddress.getLoopbackAddress())) {
            Workflows workflows = api.app().app().design().workflows();
            Action heard = workflows.actions().stream()
                    .filter(a -> a.key().value().equals("kiosk.heard"))
                    .findFirst()
                    .orElseThrow();
            workflows.putConnection(
                    new Connection("mute", "Mute", "http://127.0.0.1:" + mute.getLocalPort(), List.of(), null));
            workflows.putAction(new Action(
                    new ActionKey("mute.read"),
                    "Read what is mute",
                    "Never answers.",
                    "mute",
                    heard.call(),
                    heard.inputs(),
                    heard.outputs(),
                    heard.results(),
                    heard.repeat(),
                    false,
                    Span.parse("60 s"),
                    1,
                    heard.pause()));
            for (int i = 0; i < 20; i++) {
                made("slow-" + i, body("Slow " + i, "mute.read", "{}", "10 s", "read.minutes > 20", ""));
            }
            made("quick", body("Quick", "fares.read", "{\"site\":\"ALD\"}", "10 s", "read.adult > 1000.0", ""));
            oneTimeOn();
            for (int i = 0; i < 3; i++) {
                looks("quick");
            }
            for (int i = 0; i < 20; i++) {
                assertThat(saw("slow-" + i)).as("it waits for its answer").isEmpty();
                String off = body("Slow " + i, "mute.read", "{}", "10 s", "read.minutes > 20", "")
                        .replace("\"on\":true", "\"on\":false");
                assertThat(put("slow-" + i, off).status()).isEqualTo(200);
            }
        }
    }

    private static JsonNode each(String key, String query) {
        Answer answer = api.call("ada", "GET", "/api/watches/" + key + "/readings" + query, null);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        return answer.body();
    }

    @Test
    void eachReadingIsToldByItselfAndNobodyElseIsToldOfIt() {
        made("each-1", body("Each one", "kiosk.heard", "{}", "10 s", "read.minutes > 20", ""));
        looks("each-1");
        looks("each-1");
        looks("each-1");
        JsonNode all = each("each-1", "").get("readings");
        assertThat(all.findValuesAsText("said")).isNotEmpty().containsOnly("does not hold");
        assertThat(all.size()).isEqualTo((int) readings("each-1")).isGreaterThanOrEqualTo(3);
        String last = all.get(0).get("at").asText();
        String second = all.get(1).get("at").asText();
        assertThat(last).isGreaterThan(second);
        assertThat(all.get(0).get("values").asText()).contains("\"minutes\":2");
        assertThat(watch("each-1").at("/stretches/0/extremes/numbers/minutes").toString())
                .isEqualTo("{\"least\":2,\"most\":2}");
        JsonNode earlier = each("each-1", "?from=" + second + "&before=" + last);
        assertThat(earlier.get("readings").findValuesAsText("at")).containsExactly(second);
        assertThat(earlier.get("more").asBoolean()).isFalse();
        assertThat(api.call("mira", "GET", "/api/watches/each-1/readings", null).status())
                .isEqualTo(403);
        assertThat(api.call("ada", "GET", "/api/watches/no-such/readings", null).status())
                .isEqualTo(404);
    }

    @ParameterizedTest
    @CsvSource({
        "from,yesterday",
        "before,2026-13-01T00:00:00Z",
        "before,%2B999999999-01-01T00:00:00Z",
        "from,-0044-03-15T00:00:00Z"
    })
    void noTimeThatNobodyCanCompareReachesTheDatabase(String where, String time) {
        made("asked-1", body("Asked one", "kiosk.heard", "{}", "10 s", "read.minutes > 20", ""));
        Answer answer = api.call("ada", "GET", "/api/watches/asked-1/readings?" + where + "=" + time, null);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(400);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        assertThat(answer.body().get("detail").asText()).contains("is a time such as");
    }

    @Test
    void whatIsSwitchedOffLooksNoMore() {
        made("off-1", body("Off one", "kiosk.heard", "{}", "10 s", "read.minutes > 20", ""));
        looks("off-1");
        put(
                "off-1",
                body("Off one", "kiosk.heard", "{}", "10 s", "read.minutes > 20", "")
                        .replace("\"on\":true", "\"on\":false"));
        until(() -> !watch("off-1").get("line").has("next"));
        until(() -> api.app().app().starts().watches().standing().keySet().stream()
                .noneMatch(k -> k.value().equals("off-1")));
        long before = readings("off-1");
        oneTimeOn();
        made("beside", body("Beside", "kiosk.heard", "{}", "10 s", "read.minutes > 20", ""));
        looks("beside");
        assertThat(readings("off-1")).isEqualTo(before);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     kiosk.distribute | {}                 | 1 min   | read.minutes > 20 |                                 | action
                     nothing          | {}                 | 1 min   | read.minutes > 20 |                                 | action
                     kiosk.heard      | {}                 | 5 s     | read.minutes > 20 |                                 | every
                     kiosk.heard      | {}                 | 2 days  | read.minutes > 20 |                                 | every
                     kiosk.heard      | {}                 | 1 min   | read.nothing > 20 |                                 | holds
                     kiosk.heard      | {}                 | 1 min   | read.minutes      |                                 | holds
                     kiosk.heard      | {}                 | 1 min   | read.minutes > 20 | ,'calm':'read.minutes <'        | calm
                     kiosk.heard      | {'more':1}         | 1 min   | read.minutes > 20 |                                 | inputs.more
                     fares.read       | {}                 | 1 min   | read.adult > 1.0  |                                 | inputs.site
                     kiosk.heard      | {}                 | 1 min   | read.minutes > 20 | ,'ci':'no-such-ci'              | ci
                     kiosk.heard      | {}                 | 1 min   | row.metres < 20   |                                 | holds
                     kiosk.heard      | {}                 | 1 min   | row.metres < 20   | ,'each':{'list':'kiosk','known':'kiosk'}  | each.list
                     kiosk.paper      | {}                 | 1 min   | row.metres < 20   | ,'each':{'list':'others','known':'kiosk'} | each.list
                    """)
    void whatIsWrongIsNamedAndNothingIsSet(
            String action, String inputs, String every, String holds, String more, String where) {
        String json = body("Wrong", action, inputs, every, holds, more == null ? "" : more)
                .replace('\'', '"');
        Answer answer = put("wrong", json);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        assertThat(api.call("ada", "GET", "/api/watches/wrong", null).status()).isEqualTo(404);
    }

    private static List<String> tickets(String source) {
        return api.call("ada", "GET", "/api/signals?source=" + source, null)
                .body()
                .get("lines")
                .findValuesAsText("ticket");
    }

    @Test
    void eachRowOfAListIsAFaultOfItsOwn() {
        KioskManager kiosks = api.app().standins().kiosks();
        String body = body(
                "Out of paper",
                "kiosk.paper",
                "{}",
                "10 s",
                "row.metres < 20",
                ",\"each\":{\"list\":\"kiosks\",\"known\":\"kiosk\",\"ci\":\"kiosk\"}");
        made("paper-1", body);
        looks("paper-1");
        assertThat(watch("paper-1").at("/stretches/0/values").asText()).isEqualTo("{\"rows\":12}");
        kiosks.useUpPaper(Set.of("kiosk-02", "kiosk-08"));
        looks("paper-1");
        looks("paper-1");
        until(() -> states("paper-1").equals(List.of("opened", "opened")));
        assertThat(watch("paper-1").at("/line/rows").toString()).isEqualTo("[\"kiosk-02\",\"kiosk-08\"]");
        List<String> opened = tickets("paper-1");
        assertThat(opened).doesNotHaveDuplicates();
        assertThat(opened.stream().map(t -> ticket("ada", t).at("/fields/ci").asText()))
                .containsExactlyInAnyOrder("kiosk-02", "kiosk-08");

        // How bad a row is is told from the row: set on the page of its signals, and kept when the watch is changed.
        ObjectNode source = (ObjectNode)
                api.call("ada", "GET", "/api/sources/paper-1", null).body().get("source");
        source.remove("key");
        String severity = "{\"to\":\"severity\",\"from\":{\"is\":\"at\",\"pointer\":\"/severity\"}";
        assertThat(source.toString()).contains(severity);
        String own = source.toString()
                .replace(
                        severity,
                        "{\"to\":\"severity\",\"from\":{\"is\":\"at\",\"pointer\":\"/row/metres\"},"
                                + "\"table\":{\"6\":\"critical\"},\"otherwise\":\"warning\"");
        own = own.replace("\"neverQuiet\":false", "\"neverQuiet\":true,\"silentAfterMinutes\":20160");
        assertThat(api.call("halvard", "PUT", "/api/sources/paper-1", own).status())
                .isEqualTo(200);
        made("paper-1", body.replace("Out of paper", "No paper"));
        JsonNode stays =
                api.call("ada", "GET", "/api/sources/paper-1", null).body().get("source");
        assertThat(stays.get("name").asText()).isEqualTo("No paper");
        assertThat(stays.get("neverQuiet").asBoolean()).isTrue();
        assertThat(stays.get("silentAfterMinutes").asInt()).isEqualTo(20_160);

        // One is filled in, a third runs out.
        kiosks.useUpPaper(Set.of("kiosk-08", "kiosk-03"));
        looks("paper-1");
        until(() -> states("paper-1").equals(List.of("opened", "joined", "opened", "opened"))
                || states("paper-1").equals(List.of("joined", "opened", "opened", "opened")));
        JsonNode third = null;
        for (JsonNode line : api.call("ada", "GET", "/api/signals?source=paper-1", null)
                .body()
                .get("lines")) {
            third = line.get("title").asText().equals("No paper: kiosk-03") ? line : third;
        }
        assertThat(third).isNotNull();
        assertThat(third.get("severity").asText()).isEqualTo("critical");
        assertThat(watch("paper-1").at("/line/rows").toString()).isEqualTo("[\"kiosk-03\",\"kiosk-08\"]");
        kiosks.useUpPaper(Set.of());
        looks("paper-1");
        until(() -> states("paper-1").size() == 6);
        assertThat(watch("paper-1").at("/line/inFault").asBoolean()).isFalse();
        assertThat(watch("paper-1").at("/line/rows")).isEmpty();
    }

    @Test
    void itTakesNoOthersNameAndNobodySendsInItsName() {
        assertThat(put("board-monitor", body("Board monitor", "kiosk.heard", "{}", "1 min", "read.minutes > 20", ""))
                        .status())
                .isEqualTo(409);
        made("own-name", body("Own name", "kiosk.heard", "{}", "1 min", "read.minutes > 20", ""));
        Answer forged = api.send(
                HttpClient.newHttpClient(),
                "POST",
                "/in/own-name",
                "{\"sort\":\"fault\",\"what\":\"forged\"}",
                Map.of("Authorization", "Bearer x", "Content-Type", "application/json"));
        assertThat(forged.status()).isEqualTo(401);
        assertThat(api.call("runa", "PUT", "/api/watches/own-name", "{}").status())
                .isEqualTo(403);
    }

    @Test
    void lookingOnceHasNoEffect() {
        String body = body("Once", "kiosk.heard", "{}", "1 min", "read.minutes > 20", "");
        Answer once = api.call("ines", "POST", "/api/watches/once/readings", body);
        assertThat(once.body().get("said").asText()).isEqualTo("does not hold");
        assertThat(once.body().at("/values/minutes").asInt()).isEqualTo(2);
        assertThat(api.call("ada", "GET", "/api/watches/once", null).status()).isEqualTo(404);
        assertThat(api.call("runa", "POST", "/api/watches/once/readings", body).status())
                .isEqualTo(403);
    }
}
