package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.step.approval.Approval;
import dastur.core.step.approval.ApprovalCommands.AnswerBack;
import dastur.core.step.approval.ApprovalCommands.AskBack;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.ApprovalCommands.WithdrawVote;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.approval.ApprovalEvents.ApprovalTurn;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Step;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Sequence, veto, comments, conditions on a yes, questions, and approvers who are computed (N12, N42). */
class ApprovalTermsTest {
    private static final Party TEO = new Party.OfPerson(World.TEO);
    private static final Party PRIYA = new Party.OfPerson(World.PRIYA);
    private static final Party MANAGERS = new Party.OfGroup(World.MANAGERS);

    private static World asked(ApprovalRule rule, Approval.Terms terms, Party... whom) {
        return asked(new World(), rule, terms, whom);
    }

    private static World asked(World world, ApprovalRule rule, Approval.Terms terms, Party... whom) {
        Step[] steps = World.gateWorkflow(rule).body().steps().stream()
                .map(s -> s instanceof Approval a
                        ? new Approval(
                                a.id(),
                                a.name(),
                                a.question(),
                                a.setsOff(),
                                List.of(whom),
                                rule,
                                a.notRequester(),
                                a.notDoersOf(),
                                a.shown(),
                                false,
                                a.within(),
                                a.ladder(),
                                a.ways(),
                                null,
                                terms)
                        : s)
                .toArray(Step[]::new);
        world.publish(
                World.workflow(steps),
                new Trigger(new TriggerId("created"), true, new Trigger.Created(null), List.of(), null));
        world.raise();
        world.lookDone("Close the lane");
        return world;
    }

    private static Actor by(PersonId person) {
        return Actor.of(person);
    }

    private static boolean closed(World world, String exit) {
        return world.record.stream()
                .anyMatch(r -> r.event() instanceof ApprovalClosed c && c.exit().equals(exit));
    }

    @Test
    void inASequenceTheNextIsAskedAfterAYesOfTheOneBefore() {
        World world = asked(new ApprovalRule.InSequence(), null, PRIYA, TEO);
        assertThat(world.votes().turn()).containsExactly(World.PRIYA);
        assertThat(world.refused(by(World.TEO), world.vote(true, null)).message())
                .contains("not your turn yet");
        world.accepted(by(World.PRIYA), world.vote(true, null));
        assertThat(world.votes().turn()).containsExactly(World.TEO);
        assertThat(world.kinds()).contains("ApprovalTurn");
        world.accepted(by(World.TEO), world.vote(true, null));
        assertThat(closed(world, "approved")).isTrue();
    }

    @Test
    void whoHasVotedIsNoLongerAsked() {
        World world = asked(new ApprovalRule.Everyone(), null, PRIYA, TEO);
        world.accepted(by(World.PRIYA), world.vote(true, null));
        assertThat(world.votes().asks().orElseThrow().to().people()).containsExactly(World.TEO);
    }

    @Test
    void aNoInASequenceEndsItAndNobodyElseIsAsked() {
        World world = asked(new ApprovalRule.InSequence(), null, PRIYA, TEO);
        world.accepted(by(World.PRIYA), world.vote(false, "no"));
        assertThat(closed(world, "declined")).isTrue();
        assertThat(world.kinds()).doesNotContain("ApprovalTurn");
    }

    @Test
    void aVoteTakenBackInASequenceGivesTheTurnBack() {
        World world = asked(new ApprovalRule.InSequence(), null, PRIYA, TEO);
        world.accepted(by(World.PRIYA), world.vote(true, null));
        world.accepted(by(World.PRIYA), new WithdrawVote(world.open().id()));
        assertThat(world.votes().turn()).containsExactly(World.PRIYA);
        // Lists learn of it too: nothing stays on the desk of the one who came next.
        assertThat(world.record.getLast().event())
                .isInstanceOfSatisfying(
                        ApprovalTurn.class, turn -> assertThat(turn.people()).containsExactly(World.PRIYA));
    }

    /** One yes would do, but Teo's no ends it, and without him it is not decided. */
    @Test
    void whoHasAVetoIsHeardBeforeAYesCounts() {
        Approval.Terms veto = new Approval.Terms(List.of(TEO), false, false);
        World world = asked(new ApprovalRule.AtLeast(1), veto, MANAGERS);
        world.accepted(by(World.PRIYA), world.vote(true, null));
        assertThat(closed(world, "approved")).isFalse();
        world.accepted(by(World.TEO), world.vote(false, null));
        assertThat(closed(world, "declined")).isTrue();

        World agreed = asked(new ApprovalRule.AtLeast(1), veto, MANAGERS);
        agreed.accepted(by(World.PRIYA), agreed.vote(true, null));
        agreed.accepted(by(World.TEO), agreed.vote(true, null));
        assertThat(closed(agreed, "approved")).isTrue();
    }

    /** Law 2: when all in order have said yes, it is the turn of whoever has a veto and was not needed so far. */
    @Test
    void whoHasAVetoComesLastInASequenceAndNobodyIsForgotten() {
        World world = asked(new ApprovalRule.InSequence(), new Approval.Terms(List.of(TEO), false, false), MANAGERS);
        world.accepted(by(World.PRIYA), world.vote(true, null));
        assertThat(closed(world, "approved")).isFalse();
        assertThat(world.votes().turn()).containsExactly(World.TEO);
        world.accepted(by(World.TEO), world.vote(true, null));
        assertThat(closed(world, "approved")).isTrue();
    }

    @ParameterizedTest
    @CsvSource({"true, true", "true, false", "false, true"})
    void aCommentIsAskedForOnBothWhereTheTermsSaySo(boolean always, boolean yes) {
        World world = asked(new ApprovalRule.AnyOne(), new Approval.Terms(List.of(), always, false), MANAGERS);
        Decision without = world.handle(by(World.TEO), world.vote(yes, " "));
        assertThat(without instanceof Decision.Refused).isEqualTo(always);
    }

    @Test
    void aYesCarriesAConditionOnlyWhereTheTermsAllowItAndStepsAfterItReadIt() {
        World world = asked(new ApprovalRule.AnyOne(), new Approval.Terms(List.of(), false, true), MANAGERS);
        Vote plain = world.vote(true, null);
        Vote no = new Vote(plain.visit(), plain.round(), plain.digest(), false, null, "gates 3 and 4 only");
        assertThat(world.refused(by(World.TEO), no).message()).contains("Only a yes");
        world.accepted(
                by(World.TEO),
                new Vote(plain.visit(), plain.round(), plain.digest(), true, null, "gates 3 and 4 only"));
        Run run = world.ticket.open().values().iterator().next();
        assertThat(run.seen(null).get("approve").get("conditions")).isEqualTo(List.of("gates 3 and 4 only"));

        World strict = asked(new ApprovalRule.AnyOne(), null, MANAGERS);
        Vote vote = strict.vote(true, null);
        assertThat(strict.handle(
                        by(World.TEO), new Vote(vote.visit(), vote.round(), vote.digest(), true, null, "only today")))
                .isInstanceOf(Decision.Refused.class);
    }

    /** Due after an hour; asked back after ten minutes and answered two hours later: fifty minutes are left. */
    @Test
    void clocksStandStillWhileAQuestionIsOpen() {
        World world = asked(new ApprovalRule.AnyOne(), null, MANAGERS);
        Instant due = world.votes().due();
        VisitId visit = world.open().id();
        world.pass(Duration.ofMinutes(10));
        assertThat(world.refused(by(World.RUNA), new AskBack(visit, "why?")).message())
                .contains("not asked");
        world.accepted(by(World.TEO), new AskBack(visit, "Is the spare gate open?"));
        assertThat(Engine.nextAlarm(world.ticket, world.upSince)).isEmpty();
        world.pass(Duration.ofHours(2));
        assertThat(world.open().stall()).isNull();
        assertThat(world.refused(by(World.PRIYA), new AskBack(visit, "And?")).message())
                .contains("open already");
        world.accepted(by(World.JONAS), new AnswerBack(visit, "Yes, since noon."));
        assertThat(world.votes().due()).isEqualTo(due.plus(Duration.ofHours(2)));
        world.pass(Duration.ofMinutes(49));
        assertThat(world.open().stall()).isNull();
        world.pass(Duration.ofMinutes(2));
        assertThat(world.open().stall().code()).isEqualTo("lapsed");
        assertThat(world.handle(by(World.JONAS), new AnswerBack(visit, "Again.")))
                .isInstanceOf(Decision.Refused.class);
    }

    /**
     * However a question and a hold lie over each other, the clock stands as long as either lasts, and no longer: minutes
     * after the approval was asked at which it happens, and by how many minutes it is due later.
     */
    @ParameterizedTest
    @CsvSource({
        "ask 5, answer 10, hold 20, resume 30, 15",
        "ask 5, hold 10, resume 20, answer 30, 25",
        "hold 5, resume 10, ask 20, answer 30, 15"
    })
    void aQuestionAndAHoldCountTheirTimeOnce(String first, String second, String third, String fourth, long later) {
        World world = asked(new ApprovalRule.AnyOne(), null, MANAGERS);
        Instant asked = world.now;
        Instant due = world.votes().due();
        VisitId visit = world.open().id();
        for (String happens : List.of(first, second, third, fourth)) {
            String[] words = happens.split(" ");
            world.pass(Duration.between(world.now, asked.plus(Duration.ofMinutes(Long.parseLong(words[1])))));
            switch (words[0]) {
                case "ask" -> world.accepted(by(World.TEO), new AskBack(visit, "Which?"));
                case "answer" -> world.accepted(by(World.JONAS), new AnswerBack(visit, "That."));
                default ->
                    world.accepted(
                            by(World.TEO),
                            new Command.Intervene(
                                    visit.run(),
                                    null,
                                    words[0].equals("hold") ? Intervention.HOLD : Intervention.RESUME,
                                    null,
                                    "as agreed",
                                    null,
                                    null));
            }
        }
        assertThat(world.votes().due()).isEqualTo(due.plus(Duration.ofMinutes(later)));
        assertThat(Engine.nextAlarm(world.ticket, world.upSince))
                .contains(world.votes().due());
    }

    @Test
    void approversAreFoundByRoleByRotaAndAsTheRequestersManager() {
        World world = new World();
        world.put(new LookupKey.OfRole(Role.AUDITOR), new Lookups.PeopleList(List.of(World.PRIYA)));
        Rota.Layer layer =
                new Rota.Layer(List.of(World.SEM, World.TEO), LocalDateTime.of(2026, 2, 23, 8, 0), 7, Map.of());
        world.put(
                new LookupKey.OfRota(new RotaKey("duty")),
                new Rota(
                        new RotaKey("duty"),
                        "Duty",
                        ZoneOffset.UTC,
                        List.of(new Rota.Level(List.of(layer))),
                        List.of()));
        world.put(
                new LookupKey.OfPerson(World.JONAS),
                new dastur.core.people.Person(
                        World.JONAS, "Jonas Achterberg", "", Set.of(Role.AGENT), true, World.SEM));
        asked(
                world,
                new ApprovalRule.Everyone(),
                null,
                new Party.OfRole(Role.AUDITOR),
                new Party.OnCall(new RotaKey("duty"), 1),
                new Party.Manager());
        assertThat(world.votes().electorate()).containsExactly(World.PRIYA, World.SEM, World.TEO);
    }

    @Test
    void nobodyOnCallStallsWithAReason() {
        World world = asked(new ApprovalRule.AnyOne(), null, new Party.OnCall(new RotaKey("none"), 1));
        assertThat(world.open().stall().code()).isEqualTo("cannot be met");
        assertThat(Optional.ofNullable(world.open().stall().why()).orElse("")).contains("0 may vote");
    }
}
