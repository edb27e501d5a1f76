package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.store.Audit;
import java.net.http.HttpClient;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Planned work and consequences over HTTP (I21, I22): nothing is opened for what is explained, and nothing explained is forgotten. */
class ExplainedTest extends OnDemo {
    private static final String MAPPING = """
            {"rows":[{"to":"sort","from":{"is":"at","pointer":"/sort"}},
                     {"to":"severity","from":{"is":"at","pointer":"/severity"}},
                     {"to":"ci","from":{"is":"at","pointer":"/ci"}},
                     {"to":"what","from":{"is":"at","pointer":"/what"}},
                     {"to":"title","from":{"is":"at","pointer":"/title"}}]}""";

    private static String token;
    private final String what = "dark " + UUID.randomUUID();

    @BeforeAll
    static void aSource() {
        quiet(true);
        token = api.call("halvard", "POST", "/api/sources/watchers/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
    }

    private static void quiet(boolean inPlannedWork) {
        Answer set = api.call("halvard", "PUT", "/api/sources/watchers", """
                {"name":"Watchers","open":true,"proof":"token","mapping":%s,"otherwise":"incident","neverQuiet":%s}""".formatted(MAPPING, !inPlannedWork));
        assertThat(set.status()).as(set.raw().body()).isEqualTo(200);
    }

    private JsonNode says(String sort, String severity, String ci) {
        String body = Json.write(
                Map.of("sort", sort, "severity", severity, "ci", ci, "what", what, "title", ci + " is " + what));
        Answer answer = api.send(
                HttpClient.newHttpClient(),
                "POST",
                "/in/watchers",
                body,
                Map.of("Authorization", "Bearer " + token, "Content-Type", "application/json"));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(202);
        String id = answer.body().get("signal").asText();
        until(() -> !signal(id).at("/line/state").asText().equals("received"));
        return signal(id);
    }

    private static JsonNode signal(String id) {
        return api.call("ada", "GET", "/api/signals/" + id, null).body();
    }

    private JsonNode matter(String ci) {
        for (JsonNode m : api.call("ada", "GET", "/api/matters", null).body().get("matters")) {
            if (m.get("title").asText().equals(ci + " is " + what)) {
                return m;
            }
        }
        throw new AssertionError("no matter of " + ci);
    }

    private static void pass(int minutes) {
        assertThat(api.call("ada", "POST", "/api/demo/clock", "{\"minutes\":" + minutes + "}")
                        .status())
                .isLessThan(300);
    }

    private static void state(String ticket, String state) {
        Answer set = api.call("priya", "PUT", "/api/tickets/" + ticket, "{\"fields\":{\"state\":\"" + state + "\"}}");
        assertThat(set.status()).as(set.raw().body()).isLessThan(300);
    }

    /** A change on a CI, scheduled: its window opened an hour ago and closes in one. */
    private static String scheduled(String ci) {
        Instant now = api.app().app().clock().instant().truncatedTo(ChronoUnit.SECONDS);
        Answer raised = api.call(
                "priya", "POST", "/api/tickets", """
                {"kind":"change","fields":{"title":"New firmware","ci":"%s","plannedStart":"%s","plannedEnd":"%s",
                "impact":3,"urgency":3}}""".formatted(ci, now.minusSeconds(3_600), now.plusSeconds(3_600)));
        assertThat(raised.status()).as(raised.raw().body()).isLessThan(300);
        String number = raised.body().get("ticket").asText();
        state(number, "authorised");
        state(number, "scheduled");
        return number;
    }

    private static String record(String ticket) {
        return api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .raw()
                .body();
    }

    @Test
    void whatPlannedWorkExplainsIsNotedOnTheChangeAndJudgedTenMinutesAfterIt() {
        String change = scheduled("ALD-09");
        JsonNode noted = says("fault", "major", "ALD-09");
        assertThat(noted.at("/line/state").asText()).isEqualTo("noted");
        assertThat(noted.at("/line/ticket").asText()).isEqualTo(change);
        assertThat(noted.get("told").toString()).contains("planned work goes on there", change + " is scheduled");
        assertThat(noted.get("looks")).isEmpty();
        assertThat(record(change)).contains(what).contains("planned work");
        assertThat(matter("ALD-09").at("/aside/ticket").asText()).isEqualTo(change);
        assertThat(api.call("ada", "GET", "/api/matters?only=needing", null)
                        .raw()
                        .body())
                .doesNotContain(what);
        assertThat(api.call("ada", "GET", "/api/tickets/" + change + "/matters", null)
                        .raw()
                        .body())
                .contains(what);
        assertThat(says("fault", "major", "ALD-09").at("/line/state").asText()).isEqualTo("noted");

        // The work takes longer than planned: while it is implementing it explains what it did.
        state(change, "implementing");
        pass(90);
        until(() -> !matter("ALD-09").path("aside").isMissingNode());
        state(change, "reviewing");
        pass(2);
        until(() -> !matter("ALD-09").at("/aside/over").isMissingNode());
        assertThat(matter("ALD-09").path("ticket").isMissingNode()).isTrue();
        pass(11);
        until(() -> !matter("ALD-09").path("ticket").isMissingNode());
        String incident = matter("ALD-09").get("ticket").asText();
        assertThat(ticket("ada", incident).at("/fields/ci").asText()).isEqualTo("ALD-09");
        assertThat(matter("ALD-09").path("aside").isMissingNode()).isTrue();
        assertThat(api.call("ada", "GET", "/api/tickets/" + incident + "/record", null)
                        .raw()
                        .body())
                .contains(what);
    }

    @Test
    void theRecoveryOfWhatIsExplainedIsToldThereToo() {
        String change = scheduled("ALD-10");
        says("fault", "minor", "ALD-10");
        assertThat(says("recovered", "cleared", "ALD-10").at("/line/state").asText())
                .isEqualTo("noted");
        assertThat(record(change)).contains("\"recovered\"");
        assertThat(matter("ALD-10").path("aside").isMissingNode()).isTrue();
        pass(30);
        assertThat(matter("ALD-10").path("ticket").isMissingNode()).isTrue();
    }

    @Test
    void aChangeExplainsNeitherNeighboursNorWhatComesFromASourceThatIsNeverQuiet() {
        scheduled("ALD-12");
        assertThat(says("fault", "major", "ALD-13").at("/line/state").asText()).isEqualTo("opened");
        quiet(false);
        try {
            assertThat(says("fault", "major", "ALD-12").at("/line/state").asText())
                    .isEqualTo("opened");
        } finally {
            quiet(true);
        }
    }

    @Test
    void whatRunsOnSomethingInFaultFollowsFromItUntilThatIsRestored() {
        String cause = says("fault", "critical", "GNQ-GW1").at("/line/ticket").asText();
        String before = ticket("ada", cause).at("/fields/priority").asText();
        JsonNode board = says("fault", "major", "GNQ-04");
        assertThat(board.at("/line/state").asText()).isEqualTo("noted");
        assertThat(board.at("/line/ticket").asText()).isEqualTo(cause);
        assertThat(board.get("told").toString()).contains("something that it depends on is in fault", cause);
        assertThat(says("fault", "major", "ALD-04").at("/line/state").asText())
                .as("another pier has a gateway of its own")
                .isEqualTo("opened");
        assertThat(ticket("ada", cause).at("/fields/priority").asText()).isEqualTo(before);
        JsonNode explained = api.call("ada", "GET", "/api/tickets/" + cause + "/matters", null)
                .body();
        assertThat(explained.findValuesAsText("title")).contains("GNQ-04 is " + what, "GNQ-GW1 is " + what);

        state(cause, "restored");
        pass(2);
        until(() -> !matter("GNQ-04").at("/aside/over").isMissingNode());
        pass(11);
        until(() -> !matter("GNQ-04").path("ticket").isMissingNode());
        assertThat(matter("GNQ-04").get("ticket").asText()).isNotEqualTo(cause);
    }

    private static List<String> open(String query) {
        return api.call("ada", "GET", "/api/tickets?open=true" + query, null)
                .body()
                .get("items")
                .findValuesAsText("number");
    }

    private String opens(String severity, String ci) {
        JsonNode signal = says("fault", severity, ci);
        assertThat(signal.at("/line/state").asText()).isEqualTo("opened");
        return signal.at("/line/ticket").asText();
    }

    private static String under(String ticket) {
        return ticket("ada", ticket).at("/under/number").asText();
    }

    /** The boards go dark before anybody hears of the gateway: what nobody is at steps back behind it, and comes back. */
    @Test
    void aCauseThatComesLaterTakesWhatFollowedFromItUnderItself() {
        String dark = opens("major", "GNQ-05");
        String worse = opens("critical", "GNQ-06");
        String taken = opens("major", "GNQ-07");
        String left = opens("minor", "GNQ-08");
        note("runa", taken, "I am on my way.");
        String cause = opens("major", "GNQ-GW1");
        until(() -> under(dark).equals(cause) && under(left).equals(cause));
        assertThat(record(taken)).contains("\"causeFound\"");
        assertThat(under(taken)).as("somebody is at it").isEmpty();
        assertThat(under(worse)).as("it is worse than its cause").isEmpty();
        assertThat(open("")).contains(cause, taken, worse).doesNotContain(dark, left);
        assertThat(open("&ci=GNQ-05")).as("looked for, it is found").contains(dark);
        assertThat(open("&text=" + dark)).contains(dark);
        assertThat(ticket("ada", cause).get("folds").findValuesAsText("number")).containsExactly(dark, left);
        until(() -> ticket("ada", cause).get("links").toString().contains(dark));

        // Whoever takes it up finds it in its place again.
        note("runa", left, "This one is mine.");
        assertThat(open("")).contains(left);

        state(cause, "restored");
        pass(8);
        assertThat(under(dark)).isEqualTo(cause);
        pass(4);
        until(() -> under(dark).isEmpty());
        assertThat(open("")).contains(dark);
    }

    /** Thirty days of signals lie behind the demo: each went where its kind goes, and nothing of it is still in fault. */
    @Test
    void thePastHasSignalsOfThirtyDaysThatAreOver() {
        JsonNode boards = lines("board-monitor");
        assertThat(boards.findValuesAsText("state")).contains("opened", "joined");
        JsonNode copies = lines("nightly-copies");
        assertThat(copies).hasSizeBetween(28, 31);
        assertThat(copies.findValuesAsText("state").stream().filter("opened"::equals))
                .hasSize(2);
        for (JsonNode line : copies) {
            assertThat(Instant.parse(line.get("cameAt").asText())
                            .atOffset(java.time.ZoneOffset.UTC)
                            .getHour())
                    .isEqualTo(1);
        }
        JsonNode copied = null;
        for (JsonNode m : api.call("ada", "GET", "/api/matters", null).body().get("matters")) {
            copied = m.get("title").asText().contains("copied tonight") ? m : copied;
        }
        assertThat(copied.get("inFault")).isEmpty();
        assertThat(copied.get("state").asText()).isEqualTo("closed");
        assertThat(audited()).isEmpty();
    }

    private static JsonNode lines(String source) {
        return api.call("ada", "GET", "/api/signals?source=" + source, null)
                .body()
                .get("lines");
    }

    private static void note(String person, String ticket, String text) {
        Answer said = api.call(
                person,
                "POST",
                "/api/tickets/" + ticket + "/notes",
                "{\"text\":\"" + text + "\",\"toRequester\":false}");
        assertThat(said.status()).as(said.raw().body()).isLessThan(300);
    }

    /** One ticket a matter, always (I19): whoever bends a row is found out, and what is right is not. */
    @Test
    void theAuditKnowsWhichTicketAMatterHas() throws Exception {
        String one = opens("minor", "ALD-05");
        String other = opens("minor", "ALD-06");
        assertThat(audited()).isEmpty();
        String ofOne = matter("ALD-05").get("key").asText();
        bend("update matter set ticket = '" + other + "' where ticket = '" + one + "'");
        try {
            assertThat(audited()).anySatisfy(f -> assertThat(f).contains(one).contains("whose signals go to " + other));
            assertThat(audited()).anySatisfy(f -> assertThat(f).contains(other).contains("knows nothing of that"));
        } finally {
            bend("update matter set ticket = '" + one + "' where name = '" + ofOne + "'");
        }
        assertThat(audited()).isEmpty();
    }

    private static List<String> audited() {
        return new Audit(api.app().database(), api.app().app().kept().log())
                .ofMatters().stream().map(f -> f.where() + " " + f.what()).toList();
    }

    private static void bend(String sql) throws Exception {
        try (var connection = api.app().database().dataSource().getConnection();
                var statement = connection.createStatement()) {
            assertThat(statement.executeUpdate(sql)).isOne();
            connection.commit();
        }
    }

    @Test
    void whatIsWorseThanWhatItRunsOnHasATicketOfItsOwnBesideIt() {
        String cause = says("fault", "major", "NSL-GW1").at("/line/ticket").asText();
        JsonNode gate = says("fault", "critical", "NSL-G1");
        assertThat(gate.at("/line/state").asText()).isEqualTo("opened");
        String own = gate.at("/line/ticket").asText();
        until(() -> ticket("ada", own).get("links").toString().contains(cause));
    }
}
