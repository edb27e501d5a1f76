package dastur.server;

import static dastur.server.RelayStage.ok;
import static dastur.server.RelayStage.until;
import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.server.work.CommandService.Outcome;
import java.nio.file.Path;
import java.time.Duration;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What ships for machines, with the relay of the demo and the host that only it reaches. */
class NewMachineTest {
    @TempDir
    static Path folder;

    private static ApiClient api;

    @BeforeAll
    static void start() {
        api = ApiClient.withRelay(folder.resolve("data"));
    }

    @AfterAll
    static void end() {
        api.close();
    }

    private static String started(String name) {
        return started(name, "small");
    }

    private static String started(String name, String size) {
        String ticket =
                ok(api.call("ada", "POST", "/api/tickets", """
                        {"kind":"change","fields":{"title":"A machine for the crew office","ci":"roster-1","requester":"emil"}}""")).get("ticket").asText();
        ok(api.call(
                "ada",
                "POST",
                "/api/tickets/" + ticket + "/runs",
                "{\"workflow\":\"new-machine-for-the-crew-office\",\"inputs\":{\"name\":\"" + name + "\",\"size\":\""
                        + size + "\"}}"));
        return ticket;
    }

    private static JsonNode ask(String ticket, String name) {
        for (JsonNode ask :
                api.call("ada", "GET", "/api/tickets/" + ticket, null).body().get("asks")) {
            if (ask.get("name").asText().equals(name)) {
                return ask;
            }
        }
        return null;
    }

    private static void send(String person, VisitId visit, Command command) {
        assertThat(api.app()
                        .app()
                        .work()
                        .commands()
                        .handle(visit.ticket(), UUID.randomUUID().toString(), Actor.of(new PersonId(person)), command))
                .isInstanceOf(Outcome.Done.class);
    }

    private static void vote(String ticket, boolean yes, String why) {
        until("it is asked", () -> ask(ticket, "Launch this machine?") != null);
        VisitId visit =
                new VisitId(ask(ticket, "Launch this machine?").get("visit").asText());
        Votes votes = (Votes) api.app()
                .app()
                .work()
                .tickets()
                .find(visit.ticket())
                .orElseThrow()
                .visit(visit)
                .orElseThrow()
                .waiting();
        send("teo", visit, new Vote(visit, votes.round(), votes.digest(), yes, why));
    }

    private static boolean ran(String ticket, String result) {
        return api.call("ada", "GET", "/api/tickets/" + ticket, null)
                .body()
                .get("runs")
                .findValuesAsText("result")
                .contains(result);
    }

    @Test
    void approvedItIsLaunchedByTheRelayAndItsAddressComesBack() {
        String ticket = started("crew-7");
        vote(ticket, true, null);
        until("the desk is asked", () -> ask(ticket, "Sign in to the new machine") != null);
        assertThat(api.app().standins().machines().launched()).containsEntry("crew-7", "small");
        JsonNode asked = ask(ticket, "Sign in to the new machine");
        assertThat(asked.toString()).contains("10.20.7.");
        VisitId visit = new VisitId(asked.get("visit").asText());
        assertThat(ci("crew-7").get("life").asText()).isEqualTo("ordered");
        assertThat(ticketOf(ticket).get("fields").get("ci").asText()).isEqualTo("crew-7");
        send("ada", visit, new CompleteTask(visit, "It works", Map.of(), null));
        until("it is closed", () -> ran(ticket, "launched"));
        assertThat(ci("crew-7").get("life").asText()).isEqualTo("in use");
        assertThat(ci("crew-7").get("kind").asText()).isEqualTo("machine");
        assertThat(ci("crew-7").get("address").asText()).startsWith("10.20.7.");
        assertThat(api.call("ada", "GET", "/api/cis/crew-7", null).body().get("unmet"))
                .isEmpty();
        JsonNode closed = api.call("ada", "GET", "/api/tickets/" + ticket, null).body();
        assertThat(closed.toString()).contains("crew-7 is at 10.20.7.");
        String record = api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .raw()
                .body();
        assertThat(record).contains("script room-left (SHA-256");
        assertThat(record).doesNotContain(token());
    }

    @Test
    void whatComesOtherwiseThanItWasWishedIsTold() {
        String ticket = started("crew-10", "large");
        vote(ticket, true, null);
        until("the desk is asked", () -> ask(ticket, "Sign in to the new machine") != null);
        assertThat(ask(ticket, "Sign in to the new machine").toString()).contains("middle; large was asked for");
        JsonNode unmet = api.call("ada", "GET", "/api/cis/crew-10", null).body().get("unmet");
        assertThat(unmet.toString()).isEqualTo("[{\"name\":\"size\",\"wished\":\"large\",\"real\":\"middle\"}]");
        assertThat(ci("crew-10").get("attributes").get("size").asText()).isEqualTo("middle");
    }

    private static String token() {
        try {
            return java.nio.file.Files.readString(folder.resolve("data/relay/secrets/machine-host"))
                    .strip();
        } catch (java.io.IOException e) {
            throw new AssertionError(e);
        }
    }

    // --- one that has stopped

    private static String reported(String title, String ci) {
        return ok(api.call("ada", "POST", "/api/tickets", """
                        {"kind":"incident","fields":{"title":"%s","ci":"%s","requester":"mira","impact":3,"urgency":3}}""".formatted(title, ci)))
                .get("ticket")
                .asText();
    }

    @Test
    void aPhraseInTheTitleStartsAMachineThatHasStopped() {
        api.app().standins().machines().stop("book-web-1");
        String ticket = reported("Booking web node 1 HAS STOPPED again", "book-web-1");
        until("it is started", () -> ran(ticket, "started"));
        assertThat(api.app().standins().machines().stopped()).doesNotContain("book-web-1");
        JsonNode closed = api.call("ada", "GET", "/api/tickets/" + ticket, null).body();
        assertThat(closed.get("fields").get("answer").asText()).isEqualTo("Booking web node 1 is up again.");
        // Without the phrase, or elsewhere than in that room, nothing starts by itself.
        assertThat(runs(reported("Booking web node 1 is slow", "book-web-1"))).isZero();
        assertThat(runs(reported("Booking web node 3 has stopped", "book-web-3")))
                .isZero();
    }

    @Test
    void oneThatDoesNotComeUpGoesToAPerson() {
        api.app().standins().machines().stayDown(true);
        api.app().standins().machines().stop("book-web-2");
        String ticket = reported("Booking web node 2 has stopped", "book-web-2");
        until("it was told to start", () -> ask(ticket, "It is up") != null);
        until("somebody is asked", () -> {
            // A measurement that is under way comes back before the next.
            api.app().app().demo().advance().accept(Duration.ofSeconds(2));
            return ask(ticket, "Start it by hand") != null;
        });
        VisitId visit = new VisitId(ask(ticket, "Start it by hand").get("visit").asText());
        api.app().standins().machines().stayDown(false);
        send("dario", visit, new CompleteTask(visit, "It is up", Map.of("found", "A fuse."), null));
        until("it is closed", () -> ran(ticket, "started by hand"));
        assertThat(ticketOf(ticket).get("fields").get("done").asText()).isEqualTo("A fuse.");
        api.app().standins().machines().start("book-web-2");
    }

    private static JsonNode ticketOf(String ticket) {
        return api.call("ada", "GET", "/api/tickets/" + ticket, null).body();
    }

    private static int runs(String ticket) {
        return api.call("ada", "GET", "/api/tickets/" + ticket, null)
                .body()
                .get("runs")
                .size();
    }

    @Test
    void oneThatIsUpIsNotTouchedAndSomebodyAsks() {
        String ticket = reported("Booking web node 2 has stopped", "book-web-2");
        until("somebody is asked", () -> ask(ticket, "See what is the matter") != null);
        VisitId visit =
                new VisitId(ask(ticket, "See what is the matter").get("visit").asText());
        send("ada", visit, new CompleteTask(visit, "It is settled", Map.of("found", "A proxy was in the way."), null));
        until("it is closed", () -> ran(ticket, "was up"));
        assertThat(api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                        .raw()
                        .body())
                .doesNotContain("Start a machine");
    }

    @Test
    void declinedNothingIsLaunched() {
        String ticket = started("crew-8");
        vote(ticket, false, "not before the season");
        until("it is refused", () -> ran(ticket, "refused"));
        assertThat(api.app().standins().machines().launched()).doesNotContainKey("crew-8");
        assertThat(ci("crew-8").get("life").asText()).isEqualTo("retired");
        // Its name is free again, and what is planned anew is the same CI.
        String again = started("crew-8");
        until("it is asked anew", () -> ask(again, "Launch this machine?") != null);
        assertThat(ci("crew-8").get("life").asText()).isEqualTo("planned");
    }

    @Test
    void aNameThatIsTakenIsNotPlannedTwice() {
        String first = started("crew-9");
        until("it is asked", () -> ask(first, "Launch this machine?") != null);
        String second = started("crew-9");
        until("it says so", () -> ticketOf(second)
                .toString()
                .contains("There is a CI 'crew-9' already: machine, planned. Name another."));
        assertThat(ticketOf(second).get("fields").get("ci").asText()).isEqualTo("roster-1");
    }

    private static JsonNode ci(String id) {
        return api.call("ada", "GET", "/api/cis/" + id, null).body().get("ci");
    }
}
