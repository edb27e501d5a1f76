package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingEvents.CallRequested;
import java.time.Duration;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What people approved is what goes out, in whatever order lines come to it (D19, E2, E3). */
class GuardsTest extends WrittenWorkflows {
    private static final Actor TEO = Actor.of(World.TEO);

    /** Two lanes that each have something of their own approved, and a pause before it is done. */
    private static final String LANES = """
            both: side by side "Both"
              lane "Left"
                leftGo: approve "Left?" by any one of group managers
                  shows ticket.impact
                leftPause: ask group technicians "Left ready?": "Done"
                leftCall: run close-lane "Close left"
                  with gate = 'left'
                leftDone: done "left"
              lane "Right"
                rightGo: approve "Right?" by any one of group managers
                  shows ticket.urgency
                rightPause: ask group technicians "Right ready?": "Done"
                rightCall: run close-lane "Close right"
                  with gate = 'right'
                rightDone: done "right"
            joined: done "joined"
            """;

    private void set(String field, long value) {
        world.accepted(RUNA, new Command.EditTicket(Map.of(field, value), null));
    }

    private void approve(String step) {
        Visit asked = open(step).getFirst();
        Votes votes = (Votes) asked.waiting();
        world.accepted(TEO, new Vote(asked.id(), votes.round(), votes.digest(), true, null));
    }

    private boolean outdated(String step) {
        return open(step).stream()
                .anyMatch(v -> v.stall() != null && v.stall().code().equals("approval outdated"));
    }

    private Command.Intervene intervene(String step, Intervention kind) {
        return new Command.Intervene(run().id(), open(step).getFirst().id(), kind, null, "looked at it");
    }

    @Test
    void theCallOfOneLaneDoesNotSettleWhatWasApprovedInAnother() {
        publish(LANES);
        approve("leftGo");
        approve("rightGo");
        done(open("leftPause").getFirst(), "Done");
        assertThat(open("leftCall").getFirst().waiting()).isInstanceOf(CallUnderWay.class);
        set("urgency", 4);
        done(open("rightPause").getFirst(), "Done");
        assertThat(outdated("rightCall")).isTrue();
        assertThat(all(CallRequested.class)).hasSize(1);
    }

    @Test
    void whatChangedInOneLaneHoldsUpNoOther() {
        publish(LANES);
        approve("leftGo");
        approve("rightGo");
        set("urgency", 4);
        done(open("leftPause").getFirst(), "Done");
        assertThat(outdated("leftCall")).isFalse();
        assertThat(all(CallRequested.class)).hasSize(1);
    }

    @Test
    void askedAgainInItsLaneItGoesOutWithWhatIsSoNow() {
        publish(LANES);
        approve("rightGo");
        set("urgency", 4);
        done(open("rightPause").getFirst(), "Done");
        world.accepted(TEO, intervene("rightCall", Intervention.ASK_AGAIN));
        approve("rightGo");
        done(open("rightPause").getFirst(), "Done");
        assertThat(all(CallRequested.class)).hasSize(1);
        assertThat(open("leftGo")).as("the other lane stands where it stood").hasSize(1);
    }

    @Test
    void aPlainRetryGoesThroughOnlyWhenItIsAsApprovedAgain() {
        publish(LANES);
        approve("rightGo");
        set("urgency", 4);
        done(open("rightPause").getFirst(), "Done");
        assertThat(world.refused(TEO, intervene("rightCall", Intervention.RETRY))
                        .message())
                .contains("ask again");
        set("urgency", 2);
        assertThat(world.refused(TEO, intervene("rightCall", Intervention.ASK_AGAIN))
                        .message())
                .contains("Retry");
        world.accepted(TEO, intervene("rightCall", Intervention.RETRY));
        assertThat(all(CallRequested.class)).hasSize(1);
    }

    /** What was approved before lines part binds the first call of each of them. */
    @Test
    void approvedBeforeAForkItBindsEveryLane() {
        publish("go: approve \"Both?\" by any one of group managers\n  shows ticket.impact\n"
                + LANES.replaceAll("(?m)^ *(left|right)Go: .*\n.*shows.*\n", ""));
        approve("go");
        done(open("leftPause").getFirst(), "Done");
        set("impact", 4);
        done(open("rightPause").getFirst(), "Done");
        assertThat(outdated("rightCall")).isTrue();
        // It stands around the lanes, so it cannot be asked again from within one.
        assertThat(world.refused(TEO, intervene("rightCall", Intervention.ASK_AGAIN))
                        .message())
                .contains("'Both?' was not asked in this line");
        world.accepted(TEO, intervene("rightCall", Intervention.GO_ON));
        assertThat(all(CallRequested.class)).hasSize(2);
    }

    /** That one lane has left a stage in which it came to its call settles nothing for another lane. */
    @Test
    void aStageThatIsLeftInOneLaneSettlesNothingForAnother() {
        publish("""
                go: approve "Both?" by any one of group managers
                  shows ticket.impact
                both: side by side "Both"
                  lane "Left"
                    inside: stage "Inside"
                      leftCall: run close-lane "Close left"
                        with gate = 'left'
                      insideDone: done "inside"
                    leftAgain: run close-lane "Close left again"
                      with gate = 'left again'
                    leftDone: done "left"
                  lane "Right"
                    rightPause: ask group technicians "Right ready?": "Done"
                    rightCall: run close-lane "Close right"
                      with gate = 'right'
                    rightDone: done "right"
                joined: done "joined"
                """);
        approve("go");
        set("impact", 4);
        answer(open("leftCall").getFirst(), ok("L-1"));
        assertThat(open("leftAgain").getFirst().waiting())
                .as("its own line has begun already")
                .isInstanceOf(CallUnderWay.class);
        done(open("rightPause").getFirst(), "Done");
        assertThat(outdated("rightCall")).isTrue();
        answer(open("leftAgain").getFirst(), ok("L-2"));
        world.accepted(TEO, intervene("rightCall", Intervention.GO_ON));
        answer(open("rightCall").getFirst(), ok("L-3"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("joined");
    }

    @Test
    void approvedInsideABracketItBindsWhatComesAfterIt() {
        publish("""
                first: stage "Decide"
                  go: approve "Go?" by any one of group managers
                    shows ticket.impact
                  decided: done "decided"
                pause: ask group technicians "Ready?": "Done"
                call: run close-lane "Close"
                  with gate = 'one'
                end: done "closed"
                """);
        approve("go");
        set("impact", 4);
        done(open("pause").getFirst(), "Done");
        assertThat(outdated("call")).isTrue();
    }

    /** Asked again in a stage that is entered a second time, the newer yes counts and the older one no longer. */
    @Test
    void theNewerYesTakesThePlaceOfTheOlderAlsoAfterItsStageWasLeft() {
        publish("""
                first: stage "Decide"
                  go: approve "Go?" by any one of group managers
                    shows ticket.impact
                  decided: done "decided"
                pause: ask group technicians "Ready?": "Done", "Once more"
                  "Once more" -> first
                call: run close-lane "Close"
                  with gate = 'one'
                end: done "closed"
                """);
        approve("go");
        set("impact", 4);
        done(open("pause").getFirst(), "Once more");
        approve("go");
        done(open("pause").getFirst(), "Done");
        assertThat(outdated("call")).isFalse();
        assertThat(all(CallRequested.class)).hasSize(1);
    }

    /** Each item has its own yes, about the same step. */
    @Test
    void ofAListEveryItemHasItsOwn() {
        publish("""
                each: for each gate in ['a', 'b'], 2 at a time
                  go: approve "Go?" by any one of group managers
                    shows ticket.impact
                  pause: ask group technicians "Ready?": "Done"
                  call: run close-lane "Close"
                    with gate = gate
                  closed: done "closed"
                end: done "all"
                """);
        approve("go");
        set("impact", 4);
        approve("go");
        List<Visit> pauses = open("pause");
        done(pauses.getFirst(), "Done");
        assertThat(outdated("call"))
                .as("the first was approved before it changed")
                .isTrue();
        done(pauses.getLast(), "Done");
        assertThat(all(CallRequested.class)).hasSize(1);
    }

    @Test
    void aCalledWorkflowIsBoundByWhatWasApprovedBeforeItWasCalled() {
        publish("inner", """
                pause: ask group technicians "Ready?": "Done"
                call: run close-lane "Close"
                  with gate = 'one'
                end: done "closed"
                """);
        publish("""
                go: approve "Go?" by any one of group managers
                  shows ticket.impact
                sub: call inner "Close it"
                  closed -> end
                end: done "done"
                """);
        approve("go");
        set("impact", 4);
        done(open("pause").getFirst(), "Done");
        assertThat(outdated("call")).isTrue();
        set("impact", 2);
        world.accepted(
                TEO,
                new Command.Intervene(
                        open("call").getFirst().id().run(),
                        open("call").getFirst().id(),
                        Intervention.RETRY,
                        null,
                        "as before"));
        assertThat(all(CallRequested.class)).hasSize(1);
        assertThat(run().guards()).as("it has begun").isEmpty();
    }

    /** What the workflow itself changes is not what was approved either; the designer is told so before. */
    @Test
    void theWorkflowsOwnUpdateDoesNotPassForWhatWasApproved() {
        publish("""
                go: approve "Go?" by any one of group managers
                  shows ticket.impact
                set: update "Change it"
                  set ticket.impact = 4
                call: run close-lane "Close"
                  with gate = 'one'
                end: done "closed"
                """);
        approve("go");
        assertThat(outdated("call")).isTrue();
    }

    /** Run again from behind a yes, the yes still is about what was shown. */
    @Test
    void doneAgainFromBehindTheApprovalItIsStillCompared() {
        publish("""
                go: approve "Go?" by any one of group managers
                  shows ticket.impact
                pause: ask group technicians "Ready?": "Done"
                call: run close-lane "Close"
                  with gate = 'one'
                end: done "closed"
                """);
        approve("go");
        set("impact", 4);
        world.accepted(
                TEO,
                new Command.Intervene(
                        run().id(), null, Intervention.RERUN, null, "once more", World.id("pause"), null));
        done(open("pause").getFirst(), "Done");
        assertThat(outdated("call")).isTrue();
    }

    /**
     * People edit, approve and go on in any order: no call ever goes out on a value that differs from what its approval showed when
     * it was given.
     */
    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 12, 13, 14, 15, 16, 17, 18, 19, 20, 21, 22, 23, 24, 25})
    void inAnyOrderNothingGoesOutThatWasNotApproved(long seed) {
        Random random = new Random(seed);
        publish(LANES);
        Map<String, String> field = Map.of("left", "impact", "right", "urgency");
        Map<String, Object> approved = new HashMap<>();
        for (int i = 0; i < 60 && !world.ticket.open().isEmpty(); i++) {
            String lane = random.nextBoolean() ? "left" : "right";
            int before = all(CallRequested.class).size();
            switch (random.nextInt(4)) {
                case 0 -> set(random.nextBoolean() ? "impact" : "urgency", 1 + random.nextInt(4));
                case 1 -> {
                    if (!open(lane + "Go").isEmpty()) {
                        approve(lane + "Go");
                        approved.put(lane, world.ticket.fields().get(field.get(lane)));
                    }
                }
                case 2 -> {
                    if (!open(lane + "Pause").isEmpty()) {
                        done(open(lane + "Pause").getFirst(), "Done");
                    }
                }
                default -> {
                    if (outdated(lane + "Call")) {
                        Intervention kind = random.nextBoolean() ? Intervention.ASK_AGAIN : Intervention.RETRY;
                        world.handle(TEO, intervene(lane + "Call", kind));
                    }
                }
            }
            world.pass(Duration.ofSeconds(1));
            List<CallRequested> calls = all(CallRequested.class);
            for (CallRequested call : calls.subList(before, calls.size())) {
                String of = String.valueOf(call.inputs().get("gate"));
                assertThat(world.ticket.fields().get(field.get(of)))
                        .as("seed %d: %s", seed, of)
                        .isEqualTo(approved.get(of));
            }
        }
        assertThat(approved).isNotEmpty();
    }
}
