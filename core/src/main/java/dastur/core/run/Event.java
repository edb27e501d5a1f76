package dastur.core.run;

import dastur.core.expression.Clause;
import dastur.core.people.PersonId;
import dastur.core.ticket.CiId;
import dastur.core.ticket.Field;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What happened: the body of one entry of a ticket's record. Events carry whole facts, so that folding them needs no
 * version, no look-up and no clock (D3). The set is closed; adding one means a case in {@link Fold}.
 */
public sealed interface Event {
    /** How what people were asked is over, where this event ends it; null where it does not say. */
    default @Nullable String outcome() {
        return null;
    }

    /** Those whom it asks something; nobody where it asks nothing. */
    default List<Assigned> asks() {
        return List.of();
    }

    /** A value before and after; absent is null. */
    record Change(@Nullable Object before, @Nullable Object after) {}

    /** A rung with the moment it fires, fixed when the step opened (D28). */
    record PlannedRung(int number, Instant due, Rung.Deed deed) {}

    /** An event by which a visit ends and the run goes on along a way; {@code to} is null where the line ends. */
    sealed interface Leaving extends Event {
        @Nullable String exit();

        @Nullable StepId to();

        @Override
        default @Nullable String outcome() {
            return exit();
        }
    }

    /** An event that gives something to send: to people, to a room, or to another ticket. */
    sealed interface Sending extends Event {}

    /** An event that says what became of a message to somebody. */
    sealed interface OfDelivery extends Event {
        String message();

        PersonId person();
    }

    // --- ticket

    /** The ticket was raised. */
    record TicketRaised(
            TicketKind kind,
            Map<String, Object> fields,
            @Content @Nullable Map<String, Object> texts,
            @Content @Nullable String priorityReason)
            implements Event {}

    /** Fields were changed by a person or a rung. */
    record TicketChanged(
            Map<String, Change> changes,
            @Content @Nullable Map<String, Change> texts,
            @Content @Nullable String reason) implements Event {
        @Override
        public @Nullable String outcome() {
            return "the ticket ended";
        }
    }

    /**
     * A file was attached as evidence (N8).
     *
     * @param hash SHA-256 of its bytes, in hex
     * @param size in bytes
     */
    record FileAttached(
            PersonId by,
            String hash,
            long size,
            String type,
            boolean toRequester,
            @Content @Nullable String name) implements Event {}

    /**
     * The ticket was linked with another.
     *
     * @param mirrors whether this follows from a link that was made on the other ticket
     */
    record TicketLinked(TicketId other, LinkKind as, boolean mirrors) implements Sending {}

    /** A link was taken away. */
    record TicketUnlinked(TicketId other, LinkKind as, boolean mirrors) implements Sending {}

    /** Somebody wrote a note. */
    record NoteAdded(boolean toRequester, @Content @Nullable String text) implements Event {}

    /** How soon it is to be responded to and restored was set, stands still, runs on or is met. */
    record TargetsSet(Map<Target.Kind, Target> targets, String why) implements Event {}

    /** The time to respond or to restore is over. */
    record TargetMissed(Target.Kind of, Instant due) implements Event {}

    // --- starting

    /** Triggers were looked at for a change of this ticket (N33). */
    record TriggersLookedAt(
            int looked,
            List<TriggerId> started,
            @Content @Nullable List<Look> looks) implements Event {}

    /**
     * Why a trigger did or did not start its workflow.
     *
     * @param mode what it does instead of starting it by itself; null where it does not come to that
     */
    record Look(
            TriggerId trigger,
            WorkflowKey workflow,
            String name,
            boolean started,
            Trigger.@Nullable Mode mode,
            String why,
            Clause.@Nullable Explained condition) {}

    /**
     * A trigger proposes to start its workflow instead of starting it (N30).
     *
     * @param asked those on whose desk it stands; nobody where it is only offered on the ticket
     */
    record StartOffered(TriggerId trigger, WorkflowKey workflow, String name, Assigned asked) implements Event {
        @Override
        public List<Assigned> asks() {
            return List.of(asked);
        }
    }

    /** Somebody said whether a proposed workflow is to start; its run follows where it is. */
    record StartAnswered(
            TriggerId trigger,
            WorkflowKey workflow,
            String name,
            boolean starts,
            @Content @Nullable String reason) implements Event {
        @Override
        public @Nullable String outcome() {
            return starts ? "started" : "not started";
        }
    }

    /**
     * A run began.
     *
     * @param versionHash SHA-256 of the version as it was kept then, in hexadecimal; null where nobody knew it
     */
    record RunStarted(
            WorkflowKey workflow,
            int version,
            String name,
            PersonId owner,
            @Nullable TriggerId trigger,
            int depth,
            StepId to,
            @Nullable VisitId parent,
            @Nullable String versionHash,
            @Content @Nullable Map<String, Object> inputs)
            implements Event {}

    /**
     * A run came to its end.
     *
     * @param stillOff what it switched off for a time and did not put back
     * @param results what it gives to its caller
     * @param answers the visit of another ticket that waits for it; null when none does
     */
    record RunEnded(
            String result,
            boolean stopped,
            @Nullable VisitId answers,
            @Nullable List<String> stillOff,
            @Content @Nullable Map<String, Object> results)
            implements Sending {}

    // --- human tasks

    /** A task was offered. */
    record TaskOffered(
            String name,
            Assigned to,
            @Nullable Assigned overseers,
            List<String> outcomes,
            List<Field> form,
            @Nullable Instant due,
            boolean leavesWhenOverdue,
            @Nullable Boolean mayLeaveOut,
            List<PlannedRung> rungs,
            @Content @Nullable String instructions)
            implements Event {
        @Override
        public List<Assigned> asks() {
            return overseers == null ? List.of(to) : List.of(to, overseers);
        }
    }

    /** A task was left out, by its condition or by a person's say: a normal result. */
    record TaskLeftOut(
            @Nullable PersonId by,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String reason) implements Leaving {}

    /** @param stopsLadder whether its ladder stands still while somebody has it; null for no */
    record TaskClaimed(PersonId by, @Nullable Boolean stopsLadder) implements Event {}

    /** @param rungs those of its ladder, planned anew; null where the ladder was not stopped */
    record TaskHandedBack(PersonId by, @Nullable List<PlannedRung> rungs) implements Event {}

    /** Somebody took back an outcome that they had given by mistake; the task is open as before (D29). */
    record TaskTakenBack(PersonId by, String exit) implements Event {}

    /** A task was passed on to others, who have it alone from now on. */
    record TaskPassedOn(
            PersonId by, Assigned to, @Content @Nullable String reason) implements Event {
        @Override
        public List<Assigned> asks() {
            return List.of(to);
        }
    }

    /** A task was done with one of its outcomes. @param asOverseer whether it was not offered to them; null for no */
    record TaskDone(
            PersonId by,
            String exit,
            @Nullable StepId to,
            @Nullable Boolean asOverseer,
            @Content @Nullable Map<String, Object> form,
            @Content @Nullable String note)
            implements Leaving {}

    /** Somebody asked others to help with a task; they may do it too. */
    record HelpAsked(
            PersonId by, Assigned to, @Content @Nullable String text) implements Event {
        @Override
        public List<Assigned> asks() {
            return List.of(to);
        }
    }

    // --- approvals

    /**
     * People were asked for a decision; a further round asks anew.
     *
     * @param sets from each of which one must say yes, another person each; null where only the number counts
     */
    record ApprovalAsked(
            int round,
            String name,
            List<PersonId> electorate,
            List<PersonId> excluded,
            String rule,
            int needed,
            List<String> shown,
            String digest,
            @Nullable Instant due,
            boolean commentOnDecline,
            List<PlannedRung> rungs,
            @Nullable String setsOff,
            @Nullable List<List<PersonId>> sets,
            @Nullable VoteTerms terms,
            @Content @Nullable String question,
            @Content @Nullable Map<String, Object> values)
            implements Event {
        @Override
        public @Nullable String outcome() {
            return "void";
        }

        @Override
        public List<Assigned> asks() {
            return List.of(new Assigned(List.of(), electorate));
        }
    }

    /** Those who come next in a sequence were asked, since the ones before have said yes. */
    record ApprovalTurn(int round, List<PersonId> people) implements Event {}

    /** Somebody who is asked for a decision asks back; the decision's clocks stand still until it is answered. */
    record AskedBack(PersonId by, @Content @Nullable String text) implements Event {}

    /** A question of an approver was answered. @param pausedSeconds how long the clocks stood still */
    record AnsweredBack(
            PersonId by,
            long pausedSeconds,
            @Content @Nullable String text) implements Event {
        @Override
        public @Nullable String outcome() {
            return "answered";
        }
    }

    /** Somebody took their vote back while the decision was open. */
    record VoteWithdrawn(int round, PersonId by) implements Event {}

    record VoteCast(
            int round,
            String digest,
            PersonId by,
            boolean yes,
            @Content @Nullable String comment,
            @Content @Nullable String condition)
            implements Event {}

    /** What was shown has changed: votes so far are void (N43). */
    record ApprovalVoided(
            int round,
            List<String> changed,
            @Content @Nullable Map<String, Change> values) implements Event {}

    record ApprovalClosed(
            String exit,
            @Nullable StepId to,
            int yes,
            int no,
            int electorate,
            @Nullable PersonId by,
            @Content @Nullable String comment,
            @Content @Nullable List<String> conditions)
            implements Leaving {}

    // --- decisions on data, updates, waits, ends

    /** A branch took a case; keeps every condition evaluated with its values. */
    record Branched(
            String exit,
            @Nullable StepId to,
            @Content @Nullable List<Clause.Explained> conditions) implements Leaving {}

    /** Fields, CI attributes and run variables were set, in one entry. */
    record Updated(
            String exit,
            @Nullable StepId to,
            Map<String, Change> changes,
            @Nullable CiId ci,
            @Content @Nullable Map<String, Change> texts,
            @Content @Nullable Map<String, Change> ciChanges,
            @Content @Nullable Map<String, Object> vars)
            implements Leaving {
        @Override
        public @Nullable String outcome() {
            return "the ticket ended";
        }
    }

    /**
     * A wait began: for a moment, a condition, a signal or a reply.
     *
     * @param until the moment; for a condition or signal how long at most, null for ever
     */
    record WaitBegan(
            @Nullable Instant until,
            @Nullable String condition,
            @Nullable String signal,
            @Nullable String key,
            @Nullable Assigned replyOf)
            implements Event {}

    /** One of those whose reply was waited for has written. */
    record ReplyCame(
            PersonId by,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String text) implements Leaving {}

    /** What was waited for has come true. */
    record ConditionMet(
            String exit, @Nullable StepId to, @Content Clause.@Nullable Explained condition) implements Leaving {}

    /** The signal that was waited for has come. @param signalId names the one signal, which counts once (D12) */
    record SignalCame(
            String signal,
            @Nullable String signalId,
            String exit,
            @Nullable StepId to,
            @Content @Nullable Map<String, Object> values)
            implements Leaving {}

    // --- brackets

    /**
     * A bracket was entered.
     *
     * @param bracket stage, fork, for each or repeat
     * @param due when a repeat gives up; null for no limit
     */
    record BracketOpened(
            String bracket,
            String name,
            int count,
            int needed,
            int atOnce,
            boolean stopAtFirst,
            @Nullable String item,
            List<Waiting.Begin> begins,
            @Nullable Instant due,
            @Content @Nullable List<Object> items)
            implements Event {}

    /** A further item or round of a bracket began. */
    record LineBegan(int index, StepId to) implements Event {}

    /** A line ended without an end of its own: an exit inside it leads nowhere. */
    record LineEnded(int index, boolean done, String result) implements Event {}

    /** A round of a repeat was judged. @param nextAt when the next begins; null when none does */
    record RoundJudged(
            int round,
            boolean holds,
            @Nullable Instant nextAt,
            @Content Clause.@Nullable Explained condition) implements Event {}

    /** A bracket was left. */
    record BracketLeft(String exit, @Nullable StepId to, int done, int failed, String why) implements Leaving {}

    // --- putting back

    /** A stage (the visit) or the run is put back, or only what was switched off for a time is. */
    record PutBackBegan(boolean all, String exit, boolean stopped, List<String> names) implements Event {}

    /** All was put back that could be. */
    record PutBackEnded(List<String> left) implements Event {}

    // --- other workflows

    /** Another workflow was called; its run is a child of this visit. */
    record WorkflowCalled(WorkflowKey workflow, int version, RunId child) implements Event {}

    /**
     * Another workflow was sent to another ticket, where it begins in a transaction of its own (D11).
     *
     * @param raises the kind of the ticket that is raised for it; null where it goes to a ticket that is there
     * @param ticket the ticket that is there; null where one is raised
     * @param depth how deep runs have called runs
     */
    record WorkflowSent(
            WorkflowKey workflow,
            int version,
            String name,
            @Nullable TicketKind raises,
            @Nullable TicketId ticket,
            int depth,
            @Content @Nullable Map<String, Object> fields,
            @Content @Nullable Map<String, Object> inputs)
            implements Sending {}

    /** The workflow that was sent has begun. */
    record SentRunBegan(RunId run) implements Event {}

    /** The run on the other ticket has ended. */
    record SentRunEnded(
            RunId run,
            String result,
            boolean stopped,
            @Content @Nullable Map<String, Object> results) implements Event {}

    /** The run on the other ticket is stopped, since the step that waits for it is over. */
    record SentRunRecalled(RunId run, String why) implements Sending {}

    /** The called run has ended, and its caller goes on. @param ticket the other ticket it ran on; null for this one */
    record CalledEnded(
            String exit,
            @Nullable StepId to,
            String result,
            @Nullable TicketId ticket,
            @Content @Nullable Map<String, Object> results)
            implements Leaving {}

    // --- checks

    /** A check has measured what its rules judge. */
    record Measured(
            int attempt,
            long tookMillis,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String log) implements Event {}

    /** A check was judged and does not hold yet; it is judged again. */
    record CheckJudged(
            int tries,
            int held,
            int rules,
            Instant nextAt,
            Instant until,
            @Content @Nullable List<RuleSeen> seen) implements Event {}

    /** A check came to its verdict. */
    record Checked(
            String exit,
            @Nullable StepId to,
            int tries,
            int held,
            int rules,
            @Content @Nullable List<RuleSeen> first,
            @Content @Nullable List<RuleSeen> last)
            implements Leaving {}

    /** A check does not hold, and a person is asked to look at it. */
    record ReviewAsked(
            String name,
            Assigned to,
            int tries,
            int held,
            int rules,
            boolean mayMeasureAgain,
            @Nullable List<String> verdicts,
            @Content @Nullable List<RuleSeen> first,
            @Content @Nullable List<RuleSeen> last)
            implements Event {
        /** What can be said; entries of before did not name it. */
        public List<String> sayable() {
            return verdicts != null
                    ? verdicts
                    : mayMeasureAgain ? List.of("accept", "measure again", "put back") : List.of("accept", "put back");
        }

        @Override
        public List<Assigned> asks() {
            return List.of(to);
        }
    }

    /** A person has looked at a check. */
    record Reviewed(
            PersonId by,
            String verdict,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String reason) implements Leaving {
        @Override
        public @Nullable String outcome() {
            return verdict;
        }
    }

    // --- call-in

    /** A call-in began to climb its ladder. @param as what whoever comes takes part as; null for nothing named */
    record CallInBegan(
            String name,
            @Nullable String as,
            List<PlannedRung> rungs,
            Instant until,
            @Content @Nullable String message) implements Event {}

    /** Somebody said that they come, or that they cannot. */
    record CallInAnswered(
            PersonId by,
            boolean accepted,
            @Nullable String as,
            @Nullable String exit,
            @Nullable StepId to) implements Leaving {
        @Override
        public @Nullable String outcome() {
            return accepted ? "accepted" : null;
        }
    }

    /** A visit was left by the clock, a rung, a delivery or an intervention. */
    record Left(String exit, @Nullable StepId to, String why) implements Leaving {}

    /** A line came to its end. @param ending what the end does beside; null as {@code stopsRun} says */
    record Ended(String result, boolean stopsRun, Step.@Nullable Ending ending) implements Event {}

    // --- automation

    /** What a worker needs to make a call, fixed when the step opened. Secrets are references. */
    record Call(
            String connection,
            String method,
            String path,
            Map<String, String> headers,
            @Nullable String body,
            Action.@Nullable Poll poll,
            List<Action.Output> outputs,
            List<Action.OwnResult> results,
            long limitSeconds) {}

    /** An automated step was started. */
    record CallRequested(
            ActionKey action,
            String actionName,
            int attempt,
            String key,
            Action.Repeat repeat,
            boolean changesWorld,
            int tries,
            long pauseSeconds,
            Instant deadline,
            @Nullable VisitId putsBack,
            @Content @Nullable Map<String, Object> inputs,
            @Content @Nullable Call call)
            implements Event {}

    /** An attempt did not succeed; the next one follows at {@code nextAt} under {@code nextKey}. */
    record AttemptFailed(
            int attempt,
            boolean unknown,
            @Nullable Instant nextAt,
            @Nullable String nextKey,
            @Content @Nullable String why)
            implements Event {}

    /** The next attempt was started. */
    record CallRepeated(
            ActionKey action,
            Action.Repeat repeat,
            int attempt,
            String key,
            Instant deadline,
            @Content @Nullable Call call)
            implements Event {}

    /** The call came to a result. */
    record CallDone(
            String exit,
            @Nullable StepId to,
            int attempt,
            long tookMillis,
            int polls,
            @Nullable String reference,
            @Nullable String link,
            @Nullable PutBackPlan putBack,
            @Content @Nullable Map<String, Object> putBackInputs,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String log)
            implements Leaving {}

    /**
     * The call came to a result for which no way leads on. The result is kept, and the call is not made again; a person says
     * which way the run goes.
     */
    record ResultKept(
            String exit,
            int attempt,
            long tookMillis,
            int polls,
            @Nullable String reference,
            @Nullable String link,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String log)
            implements Event {}

    /** How a completed call is undone, fixed when it is completed (D16). */
    record PutBackPlan(@Nullable VisitId stage, String name, ActionKey action, boolean always) {}

    /** All attempts failed and the way for failure is taken. */
    record CallFailed(
            String exit,
            @Nullable StepId to,
            int attempts,
            @Content @Nullable String error) implements Leaving {}

    /** Nobody knows whether the call happened: a person decides (D13). */
    record CallUnsure(int attempt, @Content @Nullable String why) implements Event {}

    /**
     * A result that came after the visit had ended; it moves nothing (D15).
     *
     * @param owner who must look, since the world has changed or may have; null where nothing can have
     */
    record LateResult(
            int attempt,
            String outcome,
            @Nullable PersonId owner,
            @Content @Nullable String detail) implements Event {}

    /** Somebody has looked at a result that came too late. */
    record LateSettled(PersonId by, @Content @Nullable String note) implements Event {
        @Override
        public @Nullable String outcome() {
            return "looked at";
        }
    }

    // --- messages

    /** A message is to be sent; a notify step goes on at once unless it awaits delivery. */
    record MessageQueued(
            String message,
            String purpose,
            List<PersonId> people,
            boolean awaited,
            @Nullable String exit,
            @Nullable StepId to,
            @Content @Nullable String subject,
            @Content @Nullable String text)
            implements Leaving, Sending {}

    /** Something is to be said in the ticket's room in chat, with these people invited. */
    record RoomTold(
            String message,
            boolean keepsAll,
            List<PersonId> invited,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String name,
            @Content @Nullable String text)
            implements Leaving, Sending {}

    /** The ticket's room is open. @param room what the chat server calls it */
    record RoomOpened(
            String room,
            boolean keepsAll,
            @Content @Nullable String name) implements Event {}

    /** It was said in the ticket's room. */
    record RoomTalked(
            String room, int lines, @Content @Nullable List<RoomLine> said) implements Event {}

    /** A line of a room. @param by who said it; null for somebody whom Dastur does not know */
    record RoomLine(@Nullable PersonId by, String name, String text) {}

    /** What was to be said in the room could not be. */
    record RoomFailed(String message, @Content @Nullable String why) implements Event {}

    record MessageDelivered(String message, PersonId person, String reference) implements OfDelivery {}

    record MessageFailed(
            String message,
            PersonId person,
            int tries,
            @Content @Nullable String why) implements OfDelivery {}

    /** A message that was given up is sent again. */
    record MessageResent(String message, PersonId person) implements OfDelivery {}

    // --- escalation and intervention

    /**
     * A rung of a ladder fired.
     *
     * @param needed how many must say yes now that others decide as well, as the rule says; null where that stays
     */
    record RungFired(
            int rung,
            Rung.Deed deed,
            boolean late,
            long shiftSeconds,
            @Nullable Assigned handedTo,
            List<PersonId> joined,
            @Nullable Integer needed)
            implements Event {
        @Override
        public List<Assigned> asks() {
            Assigned more = new Assigned(List.of(), joined);
            return handedTo == null ? List.of(more) : List.of(handedTo, more);
        }
    }

    /** A visit cannot go on by itself and says why. */
    record Stalled(String code, @Content @Nullable String why) implements Event {}

    /**
     * A person intervened.
     *
     * @param step where the run goes on from; only when it is run again from there
     * @param version the version it was moved to; only then
     */
    record Intervened(
            Intervention kind,
            @Nullable String exit,
            @Nullable StepId step,
            @Nullable Integer version,
            @Content @Nullable String reason)
            implements Event {
        Intervened(Intervention kind, @Nullable String exit, @Nullable String reason) {
            this(kind, exit, null, null, reason);
        }
    }

    /** A visit was withdrawn because the run ended. */
    record Withdrawn(String why) implements Event {
        @Override
        public @Nullable String outcome() {
            return "withdrawn";
        }
    }

    /** The content of an earlier entry was taken away for good; its sealed line stays (D22). */
    record Redacted(long seq, @Content @Nullable String reason) implements Event {}

    /** Somebody answered after the visit had closed; not folded (D4). */
    record CameTooLate(PersonId by, String what) implements Event {}
}
