package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.standins.Faults.Fault;
import dastur.standins.PartnerDesk;
import dastur.standins.Standins;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;

/** What was open at the supplier's desk before it was joined: counted, taken over quietly, stopped, cut off (I15). */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class TakeoversTest extends OnDemo {
    private static final String DESK = "/api/partners/lane-supplier";

    private static Standins standins;
    private static PartnerDesk desk;

    @BeforeAll
    static void start() {
        standins = api.app().standins();
        desk = standins.partner();
        until(() -> view().get("line").hasNonNull("lookedAt"));
    }

    @AfterEach
    void calm() {
        standins.faults().set("partner", Fault.NONE);
        desk.sheetsOf(20);
    }

    private static JsonNode view() {
        return api.call("ines", "GET", DESK, null).body();
    }

    private static JsonNode work() {
        return view().get("takeover");
    }

    private static String since(int days) {
        return Json.write(
                Map.of("since", Instant.now().minus(Duration.ofDays(days)).toString()));
    }

    private static Answer begin(int days) {
        return api.call("ines", "POST", DESK + "/takeovers", since(days));
    }

    private static JsonNode takenOver(int days) {
        Answer begun = begin(days);
        assertThat(begun.status()).as(begun.raw().body()).isEqualTo(200);
        until(() -> work().get("state").asText().equals("done"));
        return work();
    }

    private static Stream<JsonNode> theirs() {
        return StreamSupport.stream(view().get("tickets").spliterator(), false);
    }

    private static JsonNode theirs(String no) {
        return theirs().filter(t -> t.get("id").asText().equals(no)).findFirst().orElseThrow();
    }

    /** Our ticket of one of theirs. */
    private static JsonNode ours(String no) {
        return ticket("ada", theirs(no).get("ticket").asText());
    }

    private static List<String> entered(String no) {
        JsonNode record = api.call(
                        "ada", "GET", "/api/tickets/" + theirs(no).get("ticket").asText() + "/record", null)
                .body();
        return record.findValuesAsText("kind");
    }

    private static void sql(String... statements) throws SQLException {
        try (Connection c = api.app().database().dataSource().getConnection();
                Statement s = c.createStatement()) {
            for (String one : statements) {
                s.execute(one);
            }
            c.commit();
        }
    }

    @Test
    @Order(1)
    void itIsCountedFirstAndNothingIsDone() {
        Answer counted = api.call("ines", "POST", DESK + "/takeovers/count", since(30));

        assertThat(counted.status()).as(counted.raw().body()).isEqualTo(200);
        JsonNode count = counted.body();
        assertThat(count.hasNonNull("problem")).isFalse();
        assertThat(count.get("open").asInt()).isEqualTo(4);
        assertThat(count.get("ended").asInt()).isEqualTo(1);
        assertThat(count.get("unclear").asInt()).isEqualTo(1);
        assertThat(count.get("unknown").toString()).contains("state", "on the bench");
        assertThat(count.get("first").findValuesAsText("id"))
                .contains("F-412", "F-460")
                .doesNotContain("F-440");
        assertThat(api.call("ines", "POST", DESK + "/takeovers/count", since(8))
                        .body()
                        .get("open")
                        .asInt())
                .isEqualTo(2);
        assertThat(view().hasNonNull("takeover")).isFalse();
        assertThat(theirs()).noneMatch(t -> t.get("id").asText().equals("F-412"));
        assertThat(api.call("ada", "POST", DESK + "/takeovers/count", since(30)).status())
                .isEqualTo(403);
    }

    @Test
    @Order(2)
    void onlyWhoDesignsBeginsItAndOnlyForDaysThatHaveBeen() {
        assertThat(api.call("ada", "POST", DESK + "/takeovers", since(30)).status())
                .isEqualTo(403);
        assertThat(begin(-1).body().toString()).contains("that has been");
        assertThat(begin(9_999).status()).isEqualTo(422);
        assertThat(api.call("ines", "POST", DESK + "/takeovers", "{}").status()).isEqualTo(422);
        assertThat(api.call("ines", "POST", "/api/partners/nobody/takeovers", since(30))
                        .status())
                .isEqualTo(404);
        assertThat(api.call("ines", "POST", DESK + "/takeovers/stop", null).status())
                .isEqualTo(409);
        assertThat(view().hasNonNull("takeover")).isFalse();
    }

    @Test
    @Order(3)
    void whileTheyAreAwayItWaitsAndMayBeStopped() {
        standins.faults().set("partner", Fault.REFUSES);
        List<CompletableFuture<Integer>> two = IntStream.range(0, 2)
                .mapToObj(i -> CompletableFuture.supplyAsync(() -> begin(30).status()))
                .toList();
        assertThat(two.stream().map(CompletableFuture::join)).containsExactlyInAnyOrder(200, 409);
        assertThat(work().get("state").asText()).isEqualTo("reading");
        assertThat(api.call("ada", "POST", DESK + "/takeovers/stop", null).status())
                .isEqualTo(403);
        assertThat(api.call("ines", "POST", DESK + "/takeovers/stop", null).status())
                .isEqualTo(200);
        assertThat(work().get("state").asText()).isEqualTo("stopped");
        standins.faults().set("partner", Fault.NONE);
        until(() -> !view().get("line").hasNonNull("failingSince"));
        assertThat(theirs()).noneMatch(t -> t.get("id").asText().equals("F-412"));
    }

    @Test
    @Order(4)
    void whatIsOpenThereBecomesOursQuietlyAndIsFollowed() {
        desk.stood("F-470", "", "One without a title.", "C", "logged", 5);
        JsonNode done = takenOver(30);
        desk.drop("F-470");

        assertThat(done.get("problem").asText())
                .as("what cannot be read is not left out silently")
                .isEqualTo("Not all could be read: 'F-470' has no title at /fault/head.");
        assertThat(done.get("taken").asInt()).isEqualTo(4);
        assertThat(done.get("ended").asInt()).isEqualTo(1);
        assertThat(done.get("refused").asInt() + done.get("left").asInt()).isZero();
        assertThat(done.get("by").asText()).isEqualTo("ines");
        JsonNode lane = ours("F-412");
        assertThat(lane.at("/fields/title").asText()).isEqualTo("Lane 7 opens late");
        assertThat(lane.at("/fields/impact").asInt()).isEqualTo(2);
        assertThat(lane.at("/fields/state").asText()).isEqualTo("waiting");
        assertThat(lane.at("/fields/group").asText()).isEqualTo("suppliers-liaison");
        assertThat(ours("F-460").at("/partners/0/differences").toString()).contains("on the bench");
        until(() -> entered("F-412").contains("partnerSaid"));
        for (String no : List.of("F-412", "F-431", "F-455", "F-460")) {
            assertThat(entered(no)).as(no).doesNotContain("messageQueued", "runStarted", "triggersLookedAt");
        }
        assertThat(theirs()).noneMatch(t -> t.get("id").asText().equals("F-440"));

        desk.grade("F-431", "A");
        until(() -> ours("F-431").at("/fields/impact").asInt() == 1);
        assertThat(takenOver(30).get("taken").asInt()).as("those came before").isZero();
    }

    @Test
    @Order(5)
    void whatWasCutOffInTheMiddleIsTakenOverOnce() throws SQLException {
        String before = theirs("F-412").get("ticket").asText();
        // As it stood when the process was killed between the ticket and its row.
        sql(
                "update partner_ticket set state = 'new', ticket = null, take_at = current_timestamp where their_id = 'F-412'",
                "update partner_takeover set state = 'taking'");
        until(() -> work().get("state").asText().equals("done"));
        assertThat(theirs("F-412").get("ticket").asText()).isEqualTo(before);

        String motor = theirs("F-455").get("ticket").asText();
        // And as it stands where somebody has stopped it just then: when it changes there, it is the same one.
        sql("delete from partner_ticket where their_id = 'F-455'");
        desk.say("F-455", "Supplier", "It is cooler now.", "");
        until(() -> theirs().anyMatch(t ->
                t.get("id").asText().equals("F-455") && t.get("state").asText().equals("followed")));
        assertThat(theirs("F-455").get("ticket").asText()).isEqualTo(motor);
    }

    @Test
    @Order(6)
    void itIsSlowAndWhatIsStoppedKeepsWhatWasTaken() {
        IntStream.range(0, 40).forEach(i -> desk.stood("G-" + i, "Hinge " + i, "It squeaks.", "D", "logged", 40));
        Instant begun = Instant.now();
        assertThat(begin(50).status()).isEqualTo(200);
        until(() -> work().get("taken").asInt() >= 10);
        assertThat(Duration.between(begun, Instant.now())).isGreaterThan(Duration.ofMillis(1_000));
        assertThat(api.call("ines", "POST", DESK + "/takeovers/stop", null).status())
                .isEqualTo(200);
        JsonNode stopped = work();
        assertThat(stopped.get("state").asText()).isEqualTo("stopped");
        assertThat(stopped.get("left").asInt()).isZero();
        assertThat(stopped.get("taken").asInt()).isBetween(10, 39);
        // One more may have been in hand as it was stopped.
        until(() -> theirs().filter(t -> t.get("id").asText().startsWith("G-")).count()
                == work().get("taken").asInt());
        assertThat(theirs().filter(t -> t.get("id").asText().startsWith("G-")))
                .allMatch(t -> t.get("state").asText().equals("followed"));

        String left = IntStream.range(0, 40)
                .mapToObj(i -> "G-" + i)
                .filter(no -> theirs().noneMatch(t -> t.get("id").asText().equals(no)))
                .findFirst()
                .orElseThrow();
        desk.grade(left, "C");
        until(() -> theirs().anyMatch(t -> t.get("id").asText().equals(left) && t.hasNonNull("ticket")));
        assertThat(entered(left)).as("it comes as any other").contains("signalsHeard");
    }

    @Test
    @Order(7)
    void ofTooManyNoneIsTaken() {
        desk.sheetsOf(500);
        IntStream.range(0, 10_001).forEach(i -> desk.stood("M-" + i, "Rail " + i, "Worn.", "D", "logged", 60));
        long before = theirs().count();
        assertThat(begin(70).status()).isEqualTo(200);
        until(() -> work().get("state").asText().equals("failed"));
        assertThat(work().get("problem").asText())
                .contains("More than 10000 are open")
                .contains("Nothing was taken");
        assertThat(work().get("taken").asInt() + work().get("left").asInt()).isZero();
        assertThat(theirs().count()).isEqualTo(before);
        assertThat(theirs()).noneMatch(t -> t.get("id").asText().startsWith("M-"));
    }
}
