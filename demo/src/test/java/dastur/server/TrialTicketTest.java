package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.connectors.walk.Walking;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.TicketId;
import dastur.server.work.CommandService.Outcome;
import dastur.standins.Faults;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIf;

/** The winter timetable, whose trial ticket a machine buys as a passenger would (M12): the walk, its pictures, and what does not hold. */
@EnabledIf("hasBrowser")
class TrialTicketTest extends OnDemo {
    static boolean hasBrowser() {
        return Walking.program().isPresent();
    }

    @AfterEach
    void asItWas() {
        api.app().standins().shop().forgetPrices(false);
        api.app().standins().faults().set("shop", Faults.Fault.NONE);
    }

    /** A change whose thirty tasks are done, so that the trial ticket is next. */
    private static String started(String first) {
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"change","fields":{"title":"Winter timetable","service":"booking-site","requester":"emil"}}""")
                .body()
                .get("ticket")
                .asText();
        assertThat(api.call("ada", "POST", "/api/tickets/" + ticket + "/runs", """
                                {"workflow":"winter-timetable-switch","inputs":{"first":"%s","sailing":"09:20","price":"12.40"}}""".formatted(first))
                        .status())
                .isEqualTo(200);
        until("the board is asked", () -> !open(ticket).isEmpty());
        while (open(ticket).stream().anyMatch(v -> v.waiting() instanceof Votes)) {
            Visit visit = open(ticket).getFirst();
            Votes votes = (Votes) visit.waiting();
            PersonId next = votes.turn().stream()
                    .filter(p -> !votes.cast().containsKey(p))
                    .findFirst()
                    .orElseThrow();
            send(next, visit.id(), new Vote(visit.id(), votes.round(), votes.digest(), true, null));
        }
        for (int done = 0; done < 30; done++) {
            until("the next of the thirty is asked", () -> open(ticket).stream().anyMatch(TrialTicketTest::isTask));
            done(
                    open(ticket).stream()
                            .filter(TrialTicketTest::isTask)
                            .findFirst()
                            .orElseThrow(),
                    "Done",
                    Map.of());
        }
        return ticket;
    }

    private static boolean isTask(Visit visit) {
        return visit.waiting() instanceof OpenTask;
    }

    private static List<Visit> open(String ticket) {
        return standing(ticket).open().values().stream()
                .flatMap(run -> run.open().values().stream())
                .toList();
    }

    private static Case standing(String ticket) {
        return api.app().app().work().tickets().find(new TicketId(ticket)).orElseThrow();
    }

    private static void done(Visit visit, String outcome, Map<String, Object> form) {
        OpenTask task = (OpenTask) visit.waiting();
        PersonId by = api.app()
                .app()
                .design()
                .organisation()
                .group(task.to().groups().getFirst())
                .orElseThrow()
                .members()
                .iterator()
                .next();
        send(by, visit.id(), new CompleteTask(visit.id(), outcome, form, null));
    }

    private static void send(PersonId person, VisitId visit, Command command) {
        assertThat(api.app()
                        .app()
                        .work()
                        .commands()
                        .handle(visit.ticket(), UUID.randomUUID().toString(), Actor.of(person), command))
                .isInstanceOf(Outcome.Done.class);
    }

    private static Visit asked(String ticket, String name) {
        until("it is asked: " + name, () -> open(ticket).stream()
                .anyMatch(v -> v.waiting() instanceof OpenTask t && t.name().equals(name)));
        return open(ticket).getFirst();
    }

    private static List<String> files(String ticket) {
        return ticket("ada", ticket).get("files").findValuesAsText("name");
    }

    @Test
    void aTicketIsBoughtAsAPassengerWouldAndItsPicturesStandOnTheChange() {
        int before = api.app().standins().shop().sold().size();
        String ticket = started("14 December");
        until("it is closed", () -> ticket("ada", ticket).get("state").asText().equals("closed"));

        assertThat(api.app().standins().shop().sold()).hasSize(before + 1);
        assertThat(files(ticket)).containsExactly("Sailings.png", "Receipt.png");
        JsonNode picture = ticket("ada", ticket).get("files").get(1);
        assertThat(picture.has("by")).isFalse();
        assertThat(api.call(
                                "ada",
                                "GET",
                                "/api/tickets/" + ticket + "/files/"
                                        + picture.get("hash").asText(),
                                null)
                        .raw()
                        .headers()
                        .firstValue("Content-Type"))
                .hasValueSatisfying(type -> assertThat(type).startsWith("image/png"));
        assertThat(ticket("ada", ticket).get("fields").get("done").asText())
                .isEqualTo("Thirty tasks of six teams; trial ticket KF-" + (7001 + before));
        String record = api.call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .raw()
                .body();
        assertThat(record).contains("Expect to see “12.40”", "held").doesNotContain("missed\":1");
    }

    @Test
    void aCheckThatFailsLeavesATaskOpenWithThePictureThatShowsIt() {
        api.app().standins().shop().forgetPrices(true);
        String ticket = started("15 December");
        Visit look = asked(ticket, "Mend what the trial ticket showed");

        assertThat(files(ticket)).containsExactly("Sailings.png", "Not so: Expect to see “12.40”.png", "Receipt.png");
        api.app().standins().shop().forgetPrices(false);
        done(look, "Mended", Map.of());
        until("it is closed", () -> ticket("ada", ticket).get("state").asText().equals("closed"));
    }

    @Test
    void whereTheShopIsNotThereAPersonBuysIt() {
        api.app().standins().faults().set("shop", Faults.Fault.DOWN);
        String ticket = started("16 December");
        Visit look = asked(ticket, "Mend what the trial ticket showed");

        assertThat(files(ticket)).containsExactly("Stuck at step 1.png");
        done(look, "It is right as it is", Map.of());
        until("it is closed", () -> ticket("ada", ticket).get("state").asText().equals("closed"));
    }
}
