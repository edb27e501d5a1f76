package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.standins.Faults.Fault;
import dastur.standins.PartnerDesk;
import dastur.standins.Standins;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The supplier's desk, joined to ours: both ways, at odds, away, and lying (I15, I16). */
class PartnersTest extends OnDemo {
    private static final String SUPPLIER = "lane-supplier";

    private static Standins standins;
    private static PartnerDesk desk;

    @BeforeAll
    static void start() {
        standins = api.app().standins();
        desk = standins.partner();
        lookUntil("it is looked at", () -> line().hasNonNull("lookedAt"));
    }

    @AfterEach
    void calm() {
        standins.faults().set("partner", Fault.NONE);
        desk.holdToGrade(false);
        desk.forgetKeys(false);
        desk.answerForOne(200);
        desk.mixUp(false);
        desk.takeLessSeriously(false);
        desk.clockIsOff(Duration.ZERO);
    }

    private static void lookUntil(String what, BooleanSupplier condition) {
        Instant end = Instant.now().plusSeconds(60);
        while (!condition.getAsBoolean()) {
            assertThat(Instant.now())
                    .as(() -> "waited too long until " + what + ": " + view())
                    .isBefore(end);
            api.call("ines", "POST", "/api/partners/" + SUPPLIER + "/again", "{}");
            LockSupport.parkNanos(200_000_000);
        }
    }

    private static JsonNode view() {
        return api.call("ines", "GET", "/api/partners/" + SUPPLIER, null).body();
    }

    private static JsonNode line() {
        return view().get("line");
    }

    private static JsonNode ticket(String number) {
        return ticket("ada", number);
    }

    private static String field(String number, String name) {
        return ticket(number).get("fields").path(name).asText();
    }

    private static Stream<JsonNode> each(JsonNode list) {
        return StreamSupport.stream(list.spliterator(), false);
    }

    /** What the supplier knows as ours. */
    private static PartnerDesk.Fault theirs(String number) {
        return desk.faults().stream()
                .filter(f -> f.yours().equals(number))
                .findFirst()
                .orElse(null);
    }

    private static JsonNode at(String number) {
        return ticket(number).get("partners").path(0);
    }

    /** An incident of impact 2 that is handed to the supplier and followed there. Returns its number. */
    private static String handed(String title) {
        String number = raised(title);
        Answer started = api.call(
                "ada",
                "POST",
                "/api/tickets/" + number + "/runs",
                "{\"workflow\":\"handed-to-the-supplier\",\"inputs\":{}}");
        assertThat(started.status()).as(started.raw().body()).isEqualTo(200);
        return number;
    }

    private static String raised(String title) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        Json.write(Map.of(
                                "kind",
                                "incident",
                                "fields",
                                Map.of("title", title, "requester", "mira", "impact", 2, "urgency", 2))))
                .body()
                .get("ticket")
                .asText();
    }

    private static String followed(String title) {
        String number = handed(title);
        lookUntil("it is followed", () -> !at(number).isMissingNode());
        return number;
    }

    private static Answer say(String person, String number, String text) {
        return api.call(
                person,
                "POST",
                "/api/tickets/" + number + "/partners/" + SUPPLIER + "/words",
                Json.write(Map.of("text", text)));
    }

    private static Answer settle(String person, String number, boolean theirs, JsonNode shown) {
        return api.call(
                person,
                "POST",
                "/api/tickets/" + number + "/partners/" + SUPPLIER + "/differences",
                Json.write(Map.of(
                        "field", shown.get("field").asText(),
                        "takesTheirs", theirs,
                        "ours", shown.get("ours").asText(),
                        "word", shown.get("word").asText())));
    }

    private static JsonNode difference(String number, String field) {
        return each(at(number).path("differences"))
                .filter(d -> d.get("field").asText().equals(field))
                .findFirst()
                .orElse(null);
    }

    private static List<JsonNode> entries(String number, String kind) {
        JsonNode record = api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .body();
        return each(record.get("entries"))
                .filter(e -> e.get("kind").asText().equals(kind))
                .toList();
    }

    @Test
    void whatIsHandedToThemComesBackByItself() {
        String number = followed("Hinge of lane 3 worn");
        PartnerDesk.Fault fault = theirs(number);
        assertThat(fault.grade()).isEqualTo("B");
        assertThat(at(number).get("id").asText()).isEqualTo(fault.no());
        assertThat(at(number).get("name").asText()).isEqualTo("Lane supplier");
        assertThat(at(number).get("theirs").asBoolean()).isFalse();
        desk.reach(fault.no(), "looking");
        desk.say(fault.no(), "Tove at the supplier", "Which firmware is on it?", "");
        lookUntil("their words came", () -> entries(number, "partnerSaid").size() == 1);
        assertThat(say("ada", number, "It is 4.2.").status()).isEqualTo(200);
        lookUntil("ours came there", () -> desk.fault(fault.no()).words().size() == 2);
        assertThat(desk.fault(fault.no()).words().get(1).said()).isEqualTo("It is 4.2.");
        assertThat(desk.fault(fault.no()).words().get(1).who()).isEqualTo("Ada Brandvold");
        desk.solve(fault.no(), "A new hinge is in.");
        lookUntil("it is closed", () -> ticket(number).get("ended").asBoolean());
        assertThat(field(number, "answer")).isEqualTo("A new hinge is in.");
        assertThat(field(number, "done")).isEqualTo("A new hinge is in.");
        lookUntil(
                "they hear that it is closed",
                () -> desk.fault(fault.no()).stage().equals("shut"));
        // Our own words come back with every look, and are not theirs.
        assertThat(entries(number, "partnerSaid")).hasSize(1);
        assertThat(entries(number, "saidToPartner")).hasSize(1);
    }

    // --- at odds

    @Test
    void whatTheySeeOtherwiseIsSettledByWhoeverHasTheTicket() {
        desk.takeLessSeriously(true);
        String number = followed("Lane 7 rattles");
        lookUntil("it is asked", () -> difference(number, "impact") != null);
        JsonNode asked = difference(number, "impact");
        assertThat(asked.get("ours").asText()).isEqualTo("2");
        assertThat(asked.get("word").asText()).isEqualTo("C");
        assertThat(asked.get("theirs").asInt()).isEqualTo(3);
        assertThat(desk("ada", "ticket")).contains(number);
        assertThat(field(number, "impact")).isEqualTo("2");

        assertThat(settle("mira", number, true, asked).status()).isEqualTo(403);
        ObjectNode stale = asked.deepCopy();
        stale.put("word", "D");
        Answer late = settle("ada", number, true, stale);
        assertThat(late.status()).isEqualTo(409);
        assertThat(late.body().get("detail").asText())
                .contains("changed since you looked")
                .contains("they say C");
        assertThat(settle("ada", number, true, asked).status()).isEqualTo(200);
        assertThat(field(number, "impact")).isEqualTo("3");
        assertThat(settle("teo", number, false, asked).status()).isEqualTo(409);
        assertThat(desk("ada", "ticket")).doesNotContain(number);
        assertThat(desk.fault(theirs(number).no()).grade()).isEqualTo("C");
        assertThat(entries(number, "differenceSettled")).hasSize(1);
    }

    @Test
    void oursIsHeldToUntilTheyTakeItAndTheirNoComesBackInTheirWords() {
        desk.takeLessSeriously(true);
        desk.holdToGrade(true);
        String number = followed("Lane 8 rattles");
        lookUntil("it is asked", () -> difference(number, "impact") != null);
        assertThat(settle("ada", number, false, difference(number, "impact")).status())
                .isEqualTo(200);
        lookUntil("their no came back", () -> difference(number, "impact") != null);
        assertThat(difference(number, "impact").get("why").asText()).contains("we hold to grade C");
        assertThat(field(number, "impact")).isEqualTo("2");
        assertThat(desk.fault(theirs(number).no()).grade()).isEqualTo("C");
        desk.holdToGrade(false);
        assertThat(settle("ada", number, false, difference(number, "impact")).status())
                .isEqualTo(200);
        lookUntil("they take it", () -> desk.fault(theirs(number).no()).grade().equals("B"));
        lookUntil("nothing is open any more", () -> difference(number, "impact") == null);
        assertThat(field(number, "impact")).isEqualTo("2");
    }

    @Test
    void aWordThatMeansNothingAndAMoveThatOurStatesRefuseGoToAPerson() {
        String number = followed("Lane 9 rattles");
        String no = theirs(number).no();
        desk.reach(no, "melted");
        lookUntil("it is asked", () -> difference(number, "state") != null);
        assertThat(field(number, "state")).isEqualTo("waiting");
        assertThat(difference(number, "state").get("takeable").asBoolean()).isFalse();
        assertThat(settle("ada", number, true, difference(number, "state"))
                        .body()
                        .get("detail")
                        .asText())
                .contains("means nothing here");
        desk.reach(no, "looking");
        lookUntil("it has settled itself", () -> difference(number, "state") == null);
        assertThat(entries(number, "differenceSettled")).hasSize(1);

        Answer restored = api.call(
                "ada",
                "PUT",
                "/api/tickets/" + number,
                "{\"fields\":{\"state\":\"cancelled\"},\"reason\":\"Asked twice.\"}");
        assertThat(restored.status()).as(restored.raw().body()).isEqualTo(200);
        lookUntil("they hear of it", () -> desk.fault(no).stage().equals("shut"));
        desk.reach(no, "parts");
        lookUntil("ours is told again, or theirs is left", () -> each(view().get("log"))
                .filter(l -> l.get("theirs").asText().equals(no))
                .anyMatch(l -> l.get("verdict").asText().equals("refused")
                        || l.get("verdict").asText().equals("sent")
                                && l.get("way").asText().equals("out")));
        assertThat(field(number, "state")).isEqualTo("cancelled");
        assertThat(at(number).get("differences")).isEmpty();
    }

    @Test
    void aQuarrelOfTwoMachinesEnds() {
        String number = followed("Lane 4 flickers");
        String no = theirs(number).no();
        for (int i = 0; i < 40 && !at(number).get("over").asBoolean(); i++) {
            String grade = i % 2 == 0 ? "D" : "B";
            String impact = i % 2 == 0 ? "4" : "2";
            desk.grade(no, grade);
            api.call("ines", "POST", "/api/partners/" + SUPPLIER + "/again", Json.write(Map.of("id", no)));
            lookUntil(
                    "it came here or was left",
                    () -> field(number, "impact").equals(impact)
                            || at(number).get("over").asBoolean());
        }
        assertThat(at(number).get("over").asBoolean()).isTrue();
        assertThat(entries(number, "partnerLeft")
                        .getFirst()
                        .get("body")
                        .get("why")
                        .asText())
                .contains("more than 20 changes");
    }

    // --- away

    @Test
    void whileTheyAreAwayNothingIsLostAndNothingIsSaidTwice() {
        // They would say it as often as they are told: only looking before saying it again keeps it to once.
        desk.forgetKeys(true);
        String number = followed("Lane 5 rattles");
        String no = theirs(number).no();
        standins.faults().set("partner", Fault.DOWN);
        lookUntil("it is noticed", () -> line().hasNonNull("problem"));
        assertThat(line().get("problem").asText()).contains("503");
        assertThat(say("ada", number, "First.").status()).isEqualTo(200);
        assertThat(say("ada", number, "Second.").status()).isEqualTo(200);
        desk.say(no, "Tove at the supplier", "Said while away.", "");
        standins.faults().set("partner", Fault.LOSES_ANSWERS);
        lookUntil("both came there", () -> desk.fault(no).words().size() >= 3);
        standins.faults().set("partner", Fault.NONE);
        lookUntil(
                "both are known to be there",
                () -> entries(number, "partnerTold").size() == 2);
        assertThat(desk.fault(no).words().stream().map(PartnerDesk.Word::said))
                .containsExactly("Said while away.", "First.", "Second.");
        lookUntil("theirs came", () -> entries(number, "partnerSaid").size() == 1);
        assertThat(line().hasNonNull("problem")).isFalse();
    }

    private static boolean isOver(String number) {
        return at(number).path("over").asBoolean();
    }

    /** Has one of theirs asked for by itself. */
    private static void askFor(String no) {
        int before = desk.askedForOne();
        Answer asked = api.call("ada", "POST", "/api/partners/" + SUPPLIER + "/again", Json.write(Map.of("id", no)));
        assertThat(asked.status()).as(asked.raw().body()).isEqualTo(200);
        lookUntil("they were asked for " + no, () -> desk.askedForOne() > before);
    }

    private static String problem() {
        return line().path("problem").asText();
    }

    /** A list of what has changed tells of nothing that is gone; only their own word does, said twice (I15). */
    @Test
    void oneThatIsGoneThereIsMarkedAndComesBack() {
        String number = followed("The lane's cabinet does not shut");
        PartnerDesk.Fault theirs = theirs(number);
        desk.answerForOne(503);
        askFor(theirs.no());
        lookUntil("it cannot be read", () -> problem().contains("could not be read by itself"));
        desk.answerForOne(403);
        askFor(theirs.no());
        lookUntil("it may not be read", () -> problem().contains("answered 403"));
        desk.answerForOne(200);
        desk.mixUp(true);
        askFor(theirs.no());
        lookUntil("the answer is about another", () -> problem().contains("is about 'F-0'"));
        desk.mixUp(false);
        desk.answerForOne(404);
        askFor(theirs.no());
        lookUntil("they have said so once", () -> problem().isEmpty());
        desk.answerForOne(200);
        assertThat(isOver(number)).as("it stands in their list").isFalse();

        PartnerDesk.Fault gone = desk.drop(theirs.no());
        askFor(theirs.no());
        lookUntil("they have said it twice", () -> isOver(number));
        assertThat(record(number)).containsOnlyOnce("\"kind\":\"partnerLeft\"").contains("is gone there");
        assertThat(each(view().get("tickets")).filter(t -> t.get("id").asText().equals(theirs.no())))
                .singleElement()
                .satisfies(t -> assertThat(t.get("problem").asText()).contains("is gone there"));
        askFor(theirs.no());
        assertThat(isOver(number)).as("nobody follows what is gone").isTrue();

        desk.putBack(gone);
        lookUntil("it is followed again", () -> !isOver(number));
        desk.say(theirs.no(), "Tove", "We had mislaid it.", "");
        lookUntil("what they say is heard", () -> record(number).contains("We had mislaid it."));
    }

    private static String record(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number + "/record", null)
                .raw()
                .body();
    }

    @Test
    void thatTheirClockIsOffHidesNothing() {
        desk.clockIsOff(Duration.ofHours(-3));
        String number = followed("Lane 6 rattles");
        String no = theirs(number).no();
        desk.reach(no, "parts");
        desk.say(no, "Tove at the supplier", "In three days.", "");
        lookUntil("their words came", () -> entries(number, "partnerSaid").size() == 1);
        desk.clockIsOff(Duration.ofHours(2));
        desk.grade(no, "A");
        lookUntil("their grade came", () -> field(number, "impact").equals("1"));
    }

    /** Both say what came of it while nothing goes over the line. Their clock is two hours behind. */
    private static String bothAnswer(String title, String theirs, Duration before, String ours) {
        String number = followed(title);
        desk.clockIsOff(Duration.ofHours(-2));
        standins.faults().set("partner", Fault.DOWN);
        lookUntil("they are away", () -> line().hasNonNull("failingSince"));
        Instant now = Instant.now();
        assertThat(api.call(
                                "ada",
                                "PUT",
                                "/api/tickets/" + number,
                                Json.write(Map.of("fields", Map.of("answer", ours))))
                        .status())
                .isEqualTo(200);
        desk.outcome(theirs(number).no(), theirs, now.minus(before).minus(Duration.ofHours(2)));
        return number;
    }

    private static void theyAreBack(String number) {
        standins.faults().set("partner", Fault.NONE);
        lookUntil("they are there again for " + number, () -> !line().hasNonNull("failingSince"));
    }

    @Test
    void ofBothAnswersTheLaterCountsByOneClock() {
        String later =
                bothAnswer("Arm of lane 5 bent", "A new arm is in.", Duration.ofSeconds(90), "It was bent back.");
        theyAreBack(later);
        lookUntil("ours goes there", () -> theirs(later).outcome().equals("It was bent back."));
        assertThat(field(later, "answer")).isEqualTo("It was bent back.");
        assertThat(at(later).get("differences")).isEmpty();

        String close = bothAnswer("Arm of lane 6 bent", "A new arm is in.", Duration.ofSeconds(1), "It was bent back.");
        theyAreBack(close);
        lookUntil("a person is asked", () -> difference(close, "answer") != null);
        assertThat(difference(close, "answer").get("why").asText()).contains("Nobody can tell who was later");
        assertThat(theirs(close).outcome()).isEqualTo("A new arm is in.");

        String earlier = bothAnswer("Arm of lane 8 bent", "", Duration.ZERO, "It was bent back.");
        Instant said = Instant.now();
        until(() -> Instant.now().isAfter(said.plusSeconds(7)));
        desk.outcome(theirs(earlier).no(), "A new arm is in.", Instant.now().minus(Duration.ofHours(2)));
        theyAreBack(earlier);
        lookUntil("theirs is taken over", () -> field(earlier, "answer").equals("A new arm is in."));
        assertThat(theirs(earlier).outcome()).isEqualTo("A new arm is in.");
    }

    // --- theirs first

    @Test
    void aFaultOfTheirsOpensOneIncidentAndOurAnswerGoesBack() {
        String no = desk.raiseOwn("Lane software loses its settings", "Seen at two customers.", "A", "", "");
        lookUntil("it is followed", () -> ours(no) != null);
        String number = ours(no);
        assertThat(field(number, "title")).isEqualTo("Lane software loses its settings");
        assertThat(field(number, "group")).isEqualTo("suppliers-liaison");
        lookUntil("their grade counts", () -> field(number, "impact").equals("1"));
        assertThat(at(number).get("theirs").asBoolean()).isTrue();
        desk.say(no, "Tove at the supplier", "Seen at a third.", "");
        lookUntil("their words came", () -> entries(number, "partnerSaid").size() == 1);
        Answer edited = api.call(
                "ada",
                "PUT",
                "/api/tickets/" + number,
                "{\"fields\":{\"state\":\"restored\",\"answer\":\"We rolled it back.\"}}");
        assertThat(edited.status()).as(edited.raw().body()).isEqualTo(200);
        lookUntil("they hear of it", () -> desk.fault(no).stage().equals("right"));
        assertThat(desk.fault(no).outcome()).isEqualTo("We rolled it back.");
        assertThat(each(view().get("tickets"))
                        .filter(t -> t.get("ticket") != null
                                && t.get("ticket").asText().equals(number)))
                .hasSize(1);
    }

    @Test
    void thatTheyNameATicketOfOursIsNotEnough() {
        String secret = raised("Only for our eyes");
        String no = desk.raiseOwn("We know your number", "Let us in.", "B", "", "");
        desk.name(no, secret);
        lookUntil("it counts as theirs", () -> each(view().get("tickets"))
                .anyMatch(t -> t.get("id").asText().equals(no) && t.hasNonNull("ticket")));
        JsonNode theirs = each(view().get("tickets"))
                .filter(t -> t.get("id").asText().equals(no))
                .findFirst()
                .orElseThrow();
        assertThat(theirs.get("ticket").asText()).isNotEqualTo(secret);
        assertThat(ticket(secret).get("partners")).isEmpty();

        // One that was raised there answers for its own only.
        String number = followed("Lane 10 rattles");
        String other = desk.raiseOwn("We know this one too", "Let us in.", "B", "", "");
        desk.name(other, number);
        lookUntil("it counts as theirs", () -> each(view().get("tickets"))
                .anyMatch(t -> t.get("id").asText().equals(other) && t.hasNonNull("ticket")));
        assertThat(at(number).get("id").asText())
                .isEqualTo(theirs(number, other).no());
    }

    private static PartnerDesk.Fault theirs(String number, String except) {
        return desk.faults().stream()
                .filter(f -> f.yours().equals(number) && !f.no().equals(except))
                .findFirst()
                .orElseThrow();
    }

    @Test
    void theirWishForAMachineIsDecidedInChatAndTheAnswerStandsOnTheirTicket() {
        String small = desk.raiseOwn("A machine to try on", "For two weeks.", "D", "machine", "small");
        String huge = desk.raiseOwn("A huge machine", "For ever.", "D", "machine", "huge");
        lookUntil("somebody is asked", () -> standins.chat().with("@teo:kestrel.example").stream()
                .anyMatch(e -> e.text().contains("Let the supplier have a machine?")));
        lookUntil("it is followed", () -> ours(small) != null);
        String number = ours(small);
        assertThat(ticket(number).get("kind").asText()).isEqualTo("request");
        standins.chat().say("@teo:kestrel.example", "2: We have none left", asked("Let the supplier have a machine?"));
        lookUntil("it is refused", () -> field(number, "state").equals("refused"));
        lookUntil("they hear of it", () -> desk.fault(small).stage().equals("shut"));
        assertThat(desk.fault(small).outcome()).startsWith("Not this time.");
        lookUntil("the huge one is an incident like any other", () -> each(view().get("tickets"))
                .anyMatch(t -> t.get("id").asText().equals(huge)
                        && t.hasNonNull("ticket")
                        && t.get("ticket").asText().startsWith("I-")));
    }

    /** Our number of one of theirs, once it is followed. */
    private static String ours(String no) {
        return each(view().get("tickets"))
                .filter(t -> t.get("id").asText().equals(no)
                        && t.get("state").asText().equals("followed"))
                .map(t -> t.get("ticket").asText())
                .findFirst()
                .orElse(null);
    }

    private static String asked(String words) {
        return standins.chat().with("@teo:kestrel.example").stream()
                .filter(e -> e.text().contains(words))
                .reduce((a, b) -> b)
                .orElseThrow()
                .id();
    }

    @Test
    void whatIsRedactedHereLeavesWhatCameAndWentAboutTheTicket() {
        String no = desk.raiseOwn("Lane 9 is stuck, the badge 77-1234 lies in it", "Badge 77-1234.", "C", "", "");
        lookUntil("it is followed", () -> ours(no) != null);
        String number = ours(no);
        String other = followed("Arm of lane 1 squeaks");
        assertThat(say("ada", number, "The card is 4970-1111.").status()).isEqualTo(200);
        assertThat(say("ada", other, "The card is 4970-2222.").status()).isEqualTo(200);
        lookUntil("they hear both", () -> logged("4970-1111") && logged("4970-2222"));
        assertThat(logged("77-1234")).isTrue();

        long seq = entries(number, "saidToPartner").getFirst().get("seq").asLong();
        assertThat(api.call(
                                "halvard",
                                "POST",
                                "/api/tickets/" + number + "/record/" + seq + "/redaction",
                                "{\"reason\":\"Nobody is to read it.\"}")
                        .status())
                .isEqualTo(200);
        assertThat(logged("4970-1111")).isFalse();
        assertThat(logged("77-1234")).as("what came before there was a ticket").isFalse();
        assertThat(logged("4970-2222")).as("of another ticket").isTrue();
        assertThat(each(view().get("log")))
                .anyMatch(l -> l.path("why").asText().equals("It was redacted with the ticket."));
    }

    private static boolean logged(String words) {
        return view().get("log").toString().contains(words);
    }

    // --- setting up

    private static ObjectNode body() {
        JsonNode view = view();
        ObjectNode body = view.get("partner").deepCopy();
        body.remove("key");
        body.set("otherwise", view.get("otherwise"));
        body.set("group", view.get("group"));
        return body;
    }

    private static void refused(String what, ObjectNode body, String where, String why) {
        Answer answer = api.call("ines", "PUT", "/api/partners/" + SUPPLIER, body.toString());
        assertThat(answer.status()).as(what + ": " + answer.raw().body()).isEqualTo(422);
        assertThat(answer.body().toString()).as(what).contains(where).contains(why);
    }

    @Test
    void whatCannotWorkIsRefusedAndChangesNothing() {
        JsonNode before = view().get("partner");
        refused("an action that is not there", body().put("list", "no.such"), "list", "no action 'no.such'");
        refused("one that changes the world", body().put("list", "partner.raise"), "list", "does not only read");
        refused("one without the output", body().put("list", "kiosk.fares"), "list", "no input 'since'");
        refused("too often", body().put("every", "1 s"), "every", "every 5 seconds");
        refused("no such attribute", body().put("ciBy", "noSuch"), "ciBy", "no 'noSuch'");
        ObjectNode word = body();
        ((ObjectNode) word.at("/shared/0/words/0")).put("ours", "nine");
        refused("a word that is no value", word, "shared", "'nine' is no value of 'impact'");
        ObjectNode field = body();
        ((ObjectNode) field.at("/shared/0")).put("ours", "noSuch");
        refused("a field that is not there", field, "shared", "no field 'noSuch'");
        ObjectNode input = body();
        ((ObjectNode) input.at("/shared/0")).put("as", "noSuch");
        refused("an input that is not there", input, "change", "no input 'noSuch'");
        ObjectNode later = body();
        ((ObjectNode) later.get("places")).remove("changed");
        refused("who was later without a time", later, "shared", "when they were changed");
        ObjectNode place = body();
        ((ObjectNode) place.get("places")).put("id", "no");
        assertThat(api.call("ines", "PUT", "/api/partners/" + SUPPLIER, place.toString())
                        .status())
                .isBetween(400, 422);
        assertThat(api.call("ada", "PUT", "/api/partners/" + SUPPLIER, body().toString())
                        .status())
                .isEqualTo(403);
        assertThat(view().get("partner")).isEqualTo(before);
    }

    @Test
    void oneLookShowsWhatTheirWordsWouldMean() {
        desk.raiseOwn("To be looked at", "Nothing.", "C", "", "");
        Answer look = api.call("ines", "POST", "/api/partners/" + SUPPLIER + "/looks", body().toString());
        assertThat(look.status()).as(look.raw().body()).isEqualTo(200);
        assertThat(look.body().hasNonNull("problem")).isFalse();
        assertThat(look.body().get("count").asInt()).isPositive();
        assertThat(look.body().get("tickets").get(0).get("words").toString())
                .contains("\"field\":\"impact\"")
                .contains("\"meaning\"");
        standins.faults().set("partner", Fault.REFUSES);
        assertThat(api.call("ines", "POST", "/api/partners/" + SUPPLIER + "/looks", body().toString())
                        .body()
                        .get("problem")
                        .asText())
                .contains("409");
    }
}
