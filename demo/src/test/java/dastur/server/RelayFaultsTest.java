package dastur.server;

import static dastur.server.RelayStage.ok;
import static dastur.server.RelayStage.until;
import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.workflow.ZoneKey;
import dastur.store.Database;
import dastur.store.Keeping;
import dastur.store.RelayWork;
import dastur.store.Relays;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A workflow's call in a zone, while the application ends and begins, and while nobody hears of the relay (M15, D13, D15). */
class RelayFaultsTest {
    private static final ZoneKey CELLAR = new ZoneKey("cellar");

    @TempDir
    Path folder;

    private ApiClient api;
    private RelayStage stage;

    @BeforeEach
    void start() {
        api = ApiClient.demo(folder.resolve("data"));
        stage = new RelayStage(api, "cellar", folder, () -> api.app().port());
        stage.build();
        DesignedWorkflow.publish(api, """
                workflow crew-machine "A machine for the crew" for incident
                  owner ines
                launch: run launch.cellar "Launch it" at most 1 tries
                  with name = 'crew-7'
                  failed -> none
                end: done "launched"
                none: done "not launched"
                """);
    }

    @AfterEach
    void end() {
        stage.close();
        api.close();
    }

    private String started() {
        String ticket =
                ok(api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"A machine is wanted","ci":"kiosk-01","requester":"mira"}}""")).get("ticket").asText();
        ok(api.call("ada", "POST", "/api/tickets/" + ticket + "/runs", "{\"workflow\":\"crew-machine\"}"));
        return ticket;
    }

    private JsonNode ticket(String number) {
        return api.call("ada", "GET", "/api/tickets/" + number, null).body();
    }

    private boolean ran(String ticket, String result) {
        return ticket(ticket).get("runs").findValuesAsText("result").contains(result);
    }

    private boolean unsure(String ticket) {
        return ticket(ticket).toString().contains("unsure");
    }

    /** The relay goes on meanwhile; the application, when it is there again, goes on with what it finds. */
    @Test
    void theApplicationEndsInTheMiddleAndNothingIsLostOrDoneTwice() throws Exception {
        stage.mayAnswer = new CountDownLatch(1);
        stage.admit("first");
        stage.start("first");
        String ticket = started();
        until("the machine is asked", () -> !stage.asked.isEmpty());

        stage.line().cut();
        api.close();
        stage.mayAnswer.countDown();
        api = ApiClient.again(folder.resolve("data"));
        assertThat(ran(ticket, "launched")).isFalse();
        stage.line().heal();

        until("the run ends", () -> ran(ticket, "launched"));
        assertThat(stage.asked).hasSize(1);
        assertThat(api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                        .raw()
                        .body())
                .contains("10.0.7.20");
    }

    /** What was unsure is settled by what the relay says in the end, as long as nobody has said it themselves. */
    @Test
    void aResultThatComesLateSettlesWhatWasUnsure() throws Exception {
        stage.mayAnswer = new CountDownLatch(1);
        stage.admit("first");
        stage.start("first");
        String ticket = started();
        until("the machine is asked", () -> !stage.asked.isEmpty());
        stage.line().cut();
        api.app().app().demo().advance().accept(java.time.Duration.ofMinutes(3));
        until("it is unsure", () -> unsure(ticket));
        assertThat(ran(ticket, "launched")).isFalse();
        stage.mayAnswer.countDown();
        stage.line().heal();
        until("the run ends", () -> ran(ticket, "launched"));
        assertThat(stage.asked).hasSize(1);
    }

    /** The same after the application was away, so that nobody in it waits for the call any more. */
    @Test
    void aResultThatComesLateToAnApplicationThatBeganAnewSettlesItToo() throws Exception {
        stage.mayAnswer = new CountDownLatch(1);
        stage.admit("first");
        stage.start("first");
        String ticket = started();
        until("the machine is asked", () -> !stage.asked.isEmpty());
        stage.line().cut();
        api.app().app().demo().advance().accept(java.time.Duration.ofMinutes(3));
        until("it is unsure", () -> unsure(ticket));
        api.close();
        api = ApiClient.again(folder.resolve("data"));
        stage.mayAnswer.countDown();
        stage.line().heal();
        until("the run ends", () -> ran(ticket, "launched"));
        assertThat(stage.asked).hasSize(1);
    }

    /** Without a relay, it certainly did not happen: the way for failure is taken, and nobody has to find out. */
    @Test
    void whatNoRelayTookWithinItsTimeHasFailedAndIsNotUnsure() throws Exception {
        stage.admit("first");
        String ticket = started();
        until("the call waits", () -> new RelayWork(api.app().database()).waiting(CELLAR) == 1);
        api.app().app().demo().advance().accept(java.time.Duration.ofMinutes(3));
        until("it is over", () -> new RelayWork(api.app().database()).waiting(CELLAR) == 0);
        stage.start("first");
        until("it is told", () -> ran(ticket, "not launched") || unsure(ticket));
        assertThat(stage.asked).isEmpty();
        assertThat(ran(ticket, "not launched")).isTrue();
    }

    /** What waited in a copy that was brought back may be done long since: no relay gets it before somebody says so. */
    @Test
    void whileACopyIsHeldNothingIsGivenToARelay() throws Exception {
        stage.admit("first");
        Database database = api.app().database();
        new Keeping(database).beginEpoch("a test", "a copy", Instant.now());
        waits("from-the-copy", "never");
        stage.start("first");
        Relays relays = new Relays(database);
        String id = stage.view("first").get("id").asText();
        until("it is seen", () -> relays.find(id).orElseThrow().seenAt() != null);
        Instant greeted = relays.find(id).orElseThrow().seenAt();
        until("it asks for work", () -> relays.find(id).orElseThrow().seenAt().isAfter(greeted));
        Instant released = Instant.now();
        new Keeping(database).goOn();
        until("the machine is asked", () -> !stage.asked.isEmpty());
        String begun = Files.readString(stage.folder("first").resolve("journal.jsonl"))
                .lines()
                .filter(l -> l.contains("BEGUN"))
                .findFirst()
                .orElseThrow();
        assertThat(Instant.parse(Json.parse(begun).get("at").asText()))
                .isAfterOrEqualTo(released.truncatedTo(ChronoUnit.MILLIS));
    }

    private void waits(String id, String repeat) {
        String call = Json.write(
                new Event.Call("cellar", "POST", "/machines", Map.of(), null, null, List.of(), List.of(), 60));
        new RelayWork(api.app().database()).keep(new RelayWork.Call(id, CELLAR, "machines", call, repeat, null));
    }

    /** One relay may have done since the copy what another would now be given: what is to be done once is left to a person. */
    @Test
    void whatACopyHadForARelayIsNotDoneAgainByAnother() throws Exception {
        waits("once", "never");
        Database database = api.app().database();
        new Keeping(database).beginEpoch("a test", "a copy", Instant.now());
        new Keeping(database).goOn();
        waits("again", "free");
        stage.admit("second");
        stage.start("second");
        until("the one that may be repeated is done", () -> stage.asked.size() == 1);
        RelayWork work = new RelayWork(database);
        until("it is told", () -> work.find("again").orElseThrow().standing() == RelayWork.Standing.DONE);
        assertThat(work.find("once").orElseThrow().standing()).isEqualTo(RelayWork.Standing.LEFT);
        assertThat(stage.asked).hasSize(1);
    }

    /** A relay that works meanwhile is asked to greet again, and goes on. */
    @Test
    void aRelayOutlivesThatACopyIsBroughtBack() throws Exception {
        stage.admit("first");
        stage.start("first");
        until("it works", () -> stage.view("first").get("sight").asText().equals("IN_SIGHT"));
        Database database = api.app().database();
        new Keeping(database).beginEpoch("a test", "a copy", Instant.now());
        new Keeping(database).goOn();
        waits("again", "free");
        until("the machine is asked", () -> !stage.asked.isEmpty());
        assertThat(stage.view("first").get("two").asBoolean()).isFalse();
    }
}
