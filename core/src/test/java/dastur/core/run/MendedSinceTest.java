package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.ApprovalEvents.ApprovalAsked;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** An action that is mended or withdrawn while work is under way (M1, D19). */
class MendedSinceTest extends WrittenWorkflows {
    private static final Actor TEO = Actor.of(World.TEO);

    private static final String GUARDED = """
            go: approve "Close it?" by any one of group managers
              shows ticket.impact
            pause: ask group technicians "Ready?": "Done"
            close: run close-lane "Close"
              with gate = 'A'
            done: done "closed"
            """;

    private static Action close() {
        return World.closeLane(Action.Repeat.KEYED);
    }

    private static Action mended() {
        return like(close().key().value(), "/lanes/all/close");
    }

    /** The same under another key, or over another path. */
    private static Action like(String key, String path) {
        Action a = close();
        return new Action(
                new ActionKey(key),
                a.name(),
                a.description(),
                a.connection(),
                new Action.HttpCall("POST", path, a.call().headers(), a.call().body(), null),
                a.inputs(),
                a.outputs(),
                a.results(),
                a.repeat(),
                a.changesWorld(),
                a.timeLimit(),
                a.tries(),
                a.pause());
    }

    private void is(Action action) {
        world.put(new LookupKey.OfAction(action.key()), action);
    }

    private void approve() {
        Visit asked = open("go").getFirst();
        Votes votes = (Votes) asked.waiting();
        world.accepted(TEO, new Vote(asked.id(), votes.round(), votes.digest(), true, null));
    }

    private void intervene(String step, Intervention kind) {
        Visit visit = open(step).getFirst();
        world.accepted(TEO, new Command.Intervene(visit.id().run(), visit.id(), kind, null, "looked at it"));
    }

    private Optional<String> stall(String step) {
        return Optional.ofNullable(open(step).getFirst().stall()).map(s -> s.code() + ": " + s.why());
    }

    private boolean goesOut(String step) {
        return open(step).getFirst().waiting() instanceof CallUnderWay
                && stall(step).isEmpty();
    }

    @Test
    void whatWasMendedSincePeopleAgreedDoesNotGoOutUntilTheyAreAskedAgain() {
        is(close());
        publish(GUARDED);
        approve();
        is(mended());
        done(open("pause").getFirst(), "Done");
        assertThat(stall("close").orElseThrow())
                .startsWith("approval outdated")
                .contains("'Close it?'")
                .contains("the action 'Close a lane'");
        assertThat(all(CallRequested.class)).isEmpty();
        intervene("close", Intervention.ASK_AGAIN);
        approve();
        done(open("pause").getFirst(), "Done");
        assertThat(goesOut("close")).isTrue();
        assertThat(last(CallRequested.class).orElseThrow().call().path()).isEqualTo("/lanes/all/close");
    }

    @Test
    void aMendWhileTheyWereDecidingIsNoneThatTheySaw() {
        is(close());
        publish(GUARDED);
        is(mended());
        approve();
        done(open("pause").getFirst(), "Done");
        assertThat(stall("close").orElseThrow()).startsWith("approval outdated");
    }

    @Test
    void mendedBackItIsWhatTheyAgreedTo() {
        is(close());
        publish(GUARDED);
        approve();
        is(mended());
        done(open("pause").getFirst(), "Done");
        is(close());
        intervene("close", Intervention.RETRY);
        assertThat(goesOut("close")).isTrue();
    }

    @Test
    void whatAWorkflowBelowDoesIsPartOfWhatTheyAgreedTo() {
        is(close());
        publish("below", """
                pause: ask group technicians "Ready?": "Done"
                close: run close-lane "Close"
                  with gate = 'A'
                done: done "closed"
                """);
        publish("""
                go: approve "Close it?" by any one of group managers
                  shows ticket.impact
                sub: call below "Below"
                  "closed" -> done
                done: done "closed"
                """);
        approve();
        is(mended());
        done(open("pause").getFirst(), "Done");
        assertThat(stall("close").orElseThrow()).startsWith("approval outdated");
    }

    /** Another action than those that follow, and one that only reads, are no matter of an approval. */
    @Test
    void otherActionsMayBeMended() {
        is(close());
        publish(GUARDED);
        assertThat(last(ApprovalAsked.class).orElseThrow().allows())
                .extracting(a -> a.action() + " of " + a.workflow() + " " + a.version())
                .containsExactly("close-lane of " + World.GATE + " 1");
        world.put(new LookupKey.OfAction(new ActionKey("other")), mended());
        approve();
        done(open("pause").getFirst(), "Done");
        assertThat(goesOut("close")).isTrue();
    }

    /** What follows is what was agreed to: not what was done before, but what comes after the brackets around it as well. */
    @Test
    void whatWasDoneBeforeIsNoMatterOfIt() {
        for (String key : List.of("before", "inside", "beside", "after", "undoes")) {
            world.put(new LookupKey.OfAction(new ActionKey(key)), like(key, "/" + key));
        }
        publish("""
                first: run before "Before"
                  with gate = 'A'
                parts: stage "Parts"
                  go: approve "Go on?" by any one of group managers
                    shows ticket.impact
                    declined -> out
                  each: side by side "Both"
                    lane "Left"
                      left: run inside "Inside"
                        with gate = 'A'
                        put back with undoes
                          with gate = 'A'
                      leftDone: done "left"
                  out: done "out"
                  never: run beside "Beside"
                    with gate = 'A'
                last: run after "After"
                  with gate = 'A'
                done: done "closed"
                """);
        answer(open("first").getFirst(), ok("L-1"));
        assertThat(last(ApprovalAsked.class).orElseThrow().allows())
                .extracting(a -> a.action().value())
                .containsExactlyInAnyOrder("inside", "after");
    }

    /** What people agreed to before an update of the application is the same after it: this value never changes. */
    @Test
    void anActionIsKnownAgainByALaterRelease() {
        is(close().withdrawn("Not now."));
        publish(GUARDED);
        assertThat(last(ApprovalAsked.class).orElseThrow().allows().getFirst().as())
                .isEqualTo("47b8cf7a5076e4b9db81173d3f1e7dc31c4f0eba983547d5388dbd60c01e9824");
    }

    @Test
    void anApprovalOfAnEarlierReleaseBindsByItsValuesAlone() {
        is(close());
        publish(GUARDED);
        Map<String, Object> before =
                Json.readMap(Json.write(last(ApprovalAsked.class).orElseThrow()));
        before.remove("allows");
        assertThat(Json.read(Json.write(before), ApprovalAsked.class).allows()).isNull();
        Run.Guard guard = Json.read(
                "{\"approval\":\"go\",\"name\":\"Close it?\",\"shown\":[],\"values\":{},\"begunAt\":[]}",
                Run.Guard.class);
        assertThat(guard.allows()).isEmpty();
    }

    @Test
    void nothingBeginsByAnActionThatIsWithdrawnUntilItIsInUseAgain() {
        is(close());
        publish(GUARDED);
        approve();
        is(close().withdrawn("It closes the whole pier."));
        done(open("pause").getFirst(), "Done");
        assertThat(stall("close").orElseThrow())
                .startsWith("action withdrawn")
                .contains("'Close a lane' was withdrawn: It closes the whole pier.");
        assertThat(all(CallRequested.class)).isEmpty();
        intervene("close", Intervention.RETRY);
        assertThat(stall("close").orElseThrow()).startsWith("action withdrawn");
        is(close());
        intervene("close", Intervention.RETRY);
        assertThat(goesOut("close")).as("as it was agreed to").isTrue();
    }

    @Test
    void whatIsUnderWayGoesOnWhenItsActionIsWithdrawn() {
        is(close());
        publish("close: run close-lane \"Close\"\n  with gate = 'A'\ndone: done \"closed\"\n");
        is(close().withdrawn("It closes the whole pier."));
        answer(open("close").getFirst(), ok("L-1"));
        assertThat(world.ticket.open()).isEmpty();
    }

    @Test
    void aCheckDoesNotMeasureByIt() {
        is(close().withdrawn("It reads another gate."));
        publish("""
                check: check "Closed"
                  measure close-lane
                  with gate = 'A'
                  rule "Lock": measured.lock is 'L-1'
                  fail -> done
                done: done "closed"
                """);
        assertThat(stall("check").orElseThrow()).contains("It reads another gate.");
    }
}
