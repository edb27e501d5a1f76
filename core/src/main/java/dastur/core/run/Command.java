package dastur.core.run;

import dastur.core.people.PersonId;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.StepId;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What somebody or something asks a case to do. */
public sealed interface Command {
    /** What a person says to something that is asked of them. */
    sealed interface Answering extends Command {
        VisitId visit();
    }

    /** @param fields values by field name; blank ones count as absent */
    record RaiseTicket(
            TicketKind kind,
            Map<String, Object> fields,
            @Nullable String priorityReason) implements Command {}

    /** @param fields new values by field name; null clears */
    record EditTicket(Map<String, Object> fields, @Nullable String reason) implements Command {}

    record AddNote(String text, boolean toRequester) implements Command {}

    /** Links the ticket with another. @param mirrors whether the other side has done so and this follows */
    record LinkTicket(TicketId other, LinkKind as, boolean mirrors) implements Command {}

    /** Takes a link away. */
    record UnlinkTicket(TicketId other, LinkKind as, boolean mirrors) implements Command {}

    /** Begins a workflow that a visit of another ticket has sent here (D11). */
    record StartSent(WorkflowKey workflow, int version, VisitId from, int depth, Map<String, Object> inputs)
            implements Command {}

    /** Tells a visit that what it sent has begun. */
    record SentBegan(VisitId visit, RunId run) implements Command {}

    /** Tells a visit that what it sent could not begin. */
    record SentRefused(VisitId visit, String why) implements Command {}

    /** Tells a visit how the run that it sent has ended. */
    record SentEnded(VisitId visit, RunId run, String result, boolean stopped, Map<String, Object> results)
            implements Command {}

    /** Stops a run that another ticket has sent here and no longer waits for. */
    record RecallSent(RunId run, String why) implements Command {}

    record StartRun(WorkflowKey workflow, Map<String, Object> inputs) implements Command {}

    /**
     * Says whether a workflow that a trigger proposes is to start.
     *
     * @param inputs values of its start form; only where it starts
     */
    record AnswerOffer(
            TriggerId trigger,
            boolean start,
            Map<String, Object> inputs,
            @Nullable String reason) implements Command {}

    record ClaimTask(VisitId visit) implements Answering {}

    record HandBackTask(VisitId visit) implements Answering {}

    record CompleteTask(
            VisitId visit,
            String outcome,
            Map<String, Object> form,
            @Nullable String note) implements Answering {}

    record Vote(
            VisitId visit,
            int round,
            String digest,
            boolean yes,
            @Nullable String comment,
            @Nullable String condition) implements Answering {
        /** Without a condition. */
        public Vote(VisitId visit, int round, String digest, boolean yes, @Nullable String comment) {
            this(visit, round, digest, yes, comment, null);
        }
    }

    /** Somebody who is asked for a decision asks back first. */
    record AskBack(VisitId visit, String text) implements Answering {}

    /** Answers what an approver asked. */
    record AnswerBack(VisitId visit, String text) implements Answering {}

    /** Asks others to help with a task. */
    record AskHelp(VisitId visit, Assigned to, String text) implements Answering {}

    /** Says that somebody has looked at a result that came too late (D15). */
    record SettleLate(VisitId visit, @Nullable String note) implements Command {}

    /** Attaches a file whose bytes are stored already. @param hash SHA-256 of them, in hex */
    record AttachFile(@Nullable VisitId visit, String name, String type, long size, String hash, boolean toRequester)
            implements Command {}

    /** Takes one's own vote back while the decision is open. */
    record WithdrawVote(VisitId visit) implements Answering {}

    /** Takes one's own outcome back, shortly after and while nothing has followed from it (D29). */
    record TakeBack(VisitId visit) implements Answering {}

    /** Passes a task on to a group or a person, who then has it alone. */
    record PassOnTask(VisitId visit, Assigned to, String reason) implements Answering {}

    /** Leaves an optional task out. */
    record LeaveOut(VisitId visit, String reason) implements Answering {}

    /** What a reviewer of a check says. */
    enum ReviewVerdict {
        ACCEPT("accept"),
        MEASURE_AGAIN("measure again"),
        PUT_BACK("put back"),
        /** It does not hold, and the run goes on along that way. */
        REFUSE("does not hold");

        private final String word;

        ReviewVerdict(String word) {
            this.word = word;
        }

        @com.fasterxml.jackson.annotation.JsonValue
        public String word() {
            return word;
        }
    }

    record ReviewCheck(
            VisitId visit, ReviewVerdict verdict, @Nullable String reason) implements Answering {}

    /** Somebody who was called in says whether they come. */
    record AnswerCallIn(VisitId visit, boolean accepted) implements Answering {}

    /** A signal has come for a visit that waits for it. */
    record SignalCame(VisitId visit, String signalId, Map<String, Object> values) implements Command {}

    /**
     * A person intervenes in a run.
     *
     * @param exit the exit to leave by, for {@link Intervention#TAKE_EXIT} and {@link Intervention#SKIP}
     * @param step where to go on from, for {@link Intervention#RERUN}
     * @param version the version to move to, for {@link Intervention#MOVE}
     */
    record Intervene(
            RunId run,
            @Nullable VisitId visit,
            Intervention kind,
            @Nullable String exit,
            String reason,
            @Nullable StepId step,
            @Nullable Integer version)
            implements Command {
        /** One that names neither a step nor a version. */
        public Intervene(RunId run, @Nullable VisitId visit, Intervention kind, @Nullable String exit, String reason) {
            this(run, visit, kind, exit, reason, null, null);
        }
    }

    /** What a worker brings back from a call. */
    record CallResult(VisitId visit, int attempt, CallOutcome outcome) implements Command {}

    /** What a worker brings back from sending a message to one person. */
    record DeliveryResult(
            @Nullable VisitId visit, String message, PersonId person, boolean delivered, int tries, String detail)
            implements Command {}

    /** Tells the ticket that its room in chat is open. */
    record OpenRoom(String room, String name, boolean keepsAll) implements Command {}

    /** Brings what was said in the ticket's room onto its record. */
    record HearRoom(String room, java.util.List<Event.RoomLine> said) implements Command {}

    /** Says that something could not be said in the room. */
    record RoomFailed(String message, String why) implements Command {}

    /** Sends a message again that was given up. */
    record Resend(String message, PersonId person) implements Command {}

    /** Time has passed: fires what is due, goes on where a decision was cut, and checks that nothing is stuck. */
    record Tick() implements Command {}

    /**
     * Looks again whether everything that waits still has somebody or something to wait for, and whether what open
     * approvals show is still so (law 2; D17, D18).
     */
    record Recheck() implements Command {}

    /**
     * Takes the free text and values of an entry away for good (D22).
     *
     * @param seq the entry's number
     */
    record Redact(long seq, String reason) implements Command {}

    /** How a call ended, as far as the worker knows. */
    sealed interface CallOutcome {
        record Done(
                String exit,
                Map<String, Object> outputs,
                @Nullable String reference,
                @Nullable String link,
                String log,
                long tookMillis,
                int polls)
                implements CallOutcome {}

        /** It certainly did not happen, or the other side said no. */
        record Failed(String why) implements CallOutcome {}

        /** Nobody knows. */
        record Unknown(String why) implements CallOutcome {}

        /**
         * A fault on this side: another try would meet it again, so there is none by itself.
         *
         * @param sent whether it may have gone out before the fault
         */
        record Fault(String why, boolean sent) implements CallOutcome {}
    }
}
