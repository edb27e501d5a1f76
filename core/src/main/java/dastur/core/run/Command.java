package dastur.core.run;

import dastur.core.partner.PartnerKey;
import dastur.core.people.PersonId;
import dastur.core.signal.Matter;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** What somebody or something asks a case to do. */
public sealed interface Command {
    /** What a person says to something that is asked of them. */
    non-sealed interface Answering extends Command {
        VisitId visit();

        /** Whether others may say it than those who are asked. */
        default Answerers who() {
            return Answerers.THE_ASKED;
        }

        /** Carries it out, or says why not. */
        Optional<Refusal> treat(Here here);
    }

    /** Who answers what is asked. */
    enum Answerers {
        /** Those who are asked: where it is treated, that is looked at. */
        THE_ASKED,
        /** The requester, and whoever works on tickets. */
        REQUESTER_AND_WORKERS
    }

    /** What comes back for a visit from a machine, from outside, or from another ticket. Taken at any time (D17). */
    non-sealed interface Returning extends Command {
        VisitId visit();

        /** Whether people who work on tickets may say it in its place. */
        default boolean byPeople() {
            return false;
        }

        /** Takes it in, or says why not. */
        Optional<Refusal> treat(Here here);
    }

    /** @param fields values by field name; blank ones count as absent */
    record RaiseTicket(
            TicketKind kind,
            Map<String, Object> fields,
            @Nullable String priorityReason) implements Command {
        @Override
        public boolean raises() {
            return true;
        }
    }

    /** Whether it makes the ticket that it is about. */
    default boolean raises() {
        return false;
    }

    /** Whether it sets off no trigger. */
    default boolean quiet() {
        return false;
    }

    /** Whether whoever gives it shows who it is. Where not, nothing starts by itself: people are asked (I2). */
    default boolean proved() {
        return true;
    }

    /**
     * A signal opens a ticket, and starts on it what its triggers say (I5, I28).
     *
     * @param looks the triggers that were looked at, for the record
     * @param starts those of them that do something
     * @param proved whether its sender shows who it is; where not, people are asked about all that would start by itself (I2)
     */
    record RaiseBySignal(
            TicketKind kind,
            Map<String, Object> fields,
            Event.SignalsHeard heard,
            List<Event.Look> looks,
            List<Trigger.Live> starts,
            boolean proved)
            implements Command {
        public RaiseBySignal {
            looks = List.copyOf(looks);
            starts = List.copyOf(starts);
        }

        @Override
        public boolean raises() {
            return true;
        }
    }

    /** The same, on a ticket that is a test of whoever says so (I4): of no matter, so that no fault joins it. */
    record RaiseTest(RaiseBySignal what) implements Command {
        @Override
        public boolean raises() {
            return true;
        }

        @Override
        public boolean proved() {
            return what.proved();
        }
    }

    /**
     * A trigger that listens to no ticket opens one of its own, and starts its workflow there (I28).
     *
     * @param title of the ticket
     * @param inputs values of the start form; those that the trigger gives by itself are added
     */
    record RaiseByCause(Cause cause, Trigger.Live live, String title, Map<String, Object> inputs) implements Command {
        @Override
        public boolean raises() {
            return true;
        }
    }

    /** Signals came about what this ticket is about (I7, I20). The rest as of one that opens a ticket. */
    record HearSignals(Event.SignalsHeard heard, List<Event.Look> looks, List<Trigger.Live> starts, boolean proved)
            implements Command {
        public HearSignals {
            looks = List.copyOf(looks);
            starts = List.copyOf(starts);
        }
    }

    /**
     * What the ticket is about has recovered, and has stayed so (I24).
     *
     * @param since when the last of it recovered
     */
    record Recover(Matter.Recovery as, Instant since) implements Command {}

    /**
     * What the ticket depends on came to be in fault after it (I22).
     *
     * @param cause the incident about that
     * @param links whether it is linked with it too; of very many below one cause only the first are
     */
    record FindCause(TicketId cause, boolean links) implements Command {}

    /** What it was folded under explains it no longer, or somebody looks at it by itself. */
    record StandByItself() implements Command {}

    /** @param fields new values by field name; null clears */
    record EditTicket(Map<String, Object> fields, @Nullable String reason) implements Command {}

    /**
     * Wishes for a CI inside a request or a change (M17).
     *
     * @param values of its other fields, by their names
     */
    record PlanCi(String id, String kind, Map<String, Object> values) implements Command {}

    record AddNote(String text, boolean toRequester) implements Command {}

    /**
     * Keeps what somebody has read by hand, by an action that only reads (I13).
     *
     * @param inputs what it was given, by what people call it
     * @param read whether it could be read
     * @param outputs what it said, by what people call it
     * @param why it could not be read; null where it could
     */
    record KeepReading(
            ActionKey action,
            String name,
            Map<String, Object> inputs,
            boolean read,
            Map<String, Object> outputs,
            @Nullable String why)
            implements Command {}

    /**
     * The requester says whether what is said to be done is solved for them (O4).
     *
     * @param text what they say with it; needed where it is not solved
     */
    record SaySolved(boolean solved, @Nullable String text) implements Command {}

    /** Links the ticket with another. @param mirrors whether the other side has done so and this follows */
    record LinkTicket(TicketId other, LinkKind as, boolean mirrors) implements Command {}

    /** Takes a link away. */
    record UnlinkTicket(TicketId other, LinkKind as, boolean mirrors) implements Command {}

    /** The ticket is followed at a partner's desk. @param theirs whether it was theirs first */
    record JoinPartner(
            PartnerKey partner, String id, @Nullable String link, boolean theirs) implements Command {}

    /**
     * One of their tickets that was open before the desks were joined is taken over (I15), as one of ours that is followed there. It is
     * done quietly: no trigger looks at it, and nobody is told.
     *
     * @param fields of the new ticket
     * @param takes what else they say of it
     * @param unknown their words that mean nothing here, by field: whoever has the ticket finds them on it
     */
    record TakeOver(JoinPartner join, Map<String, Object> fields, Map<String, Taken> takes, Map<String, String> unknown)
            implements Command {
        public TakeOver {
            fields = Map.copyOf(fields);
            takes = Map.copyOf(takes);
            unknown = Map.copyOf(unknown);
        }

        @Override
        public boolean raises() {
            return true;
        }

        @Override
        public boolean quiet() {
            return true;
        }
    }

    /** It is followed there no longer. @param why in words for people */
    record LeavePartner(PartnerKey partner, String why) implements Command {}

    /** A value of theirs that is taken over. @param word what they call it */
    record Taken(String word, Object value) {}

    /** A field of which both say something else. As of {@link AtPartner.Difference}. */
    record Disagreement(
            String field,
            @Nullable String ours,
            String word,
            @Nullable Object theirs,
            String why) {}

    /** The partner says something. @param comment its id among theirs @param by who, as they name them */
    record HearFromPartner(
            PartnerKey partner, String comment, @Nullable String by, String text) implements Command {}

    /**
     * A partner has changed theirs.
     *
     * @param takes what is taken over, by our field
     * @param differences all that a person must settle as of now; what is not among them has settled itself
     */
    record HearPartner(PartnerKey partner, Map<String, Taken> takes, List<Disagreement> differences)
            implements Command {
        public HearPartner {
            takes = Collections.unmodifiableMap(new TreeMap<>(takes));
            differences = List.copyOf(differences);
        }
    }

    /** Something of ours came to the partner, or did not. As of {@link Event.PartnerTold}. */
    record ToldPartner(
            PartnerKey partner,
            @Nullable Long entry,
            @Nullable Map<String, String> values,
            @Nullable String problem) implements Command {}

    /** A person says something to the partner. */
    record SayToPartner(PartnerKey partner, String text) implements Command {}

    /**
     * A person says what counts of a field that both sides see otherwise.
     *
     * @param ours what they were shown as ours
     * @param word what they were shown as theirs
     */
    record SettleDifference(
            PartnerKey partner,
            String field,
            boolean takesTheirs,
            @Nullable String ours,
            @Nullable String word,
            @Nullable String reason)
            implements Command {}

    /** Begins a workflow that a visit of another ticket has sent here (D11). */
    record StartSent(WorkflowKey workflow, int version, VisitId from, int depth, Map<String, Object> inputs)
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

    /** Says that somebody has looked at a result that came too late (D15). */
    record SettleLate(VisitId visit, @Nullable String note) implements Command {}

    /** Attaches a file whose bytes are stored already. @param hash SHA-256 of them, in hex */
    record AttachFile(@Nullable VisitId visit, String name, String type, long size, String hash, boolean toRequester)
            implements Command {}

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

    /** What a worker brings back from sending a message to one person. */
    record DeliveryResult(
            @Nullable VisitId visit, String message, PersonId person, boolean delivered, int tries, String detail)
            implements Command {}

    /** Tells the ticket that its room in chat is open. */
    record OpenRoom(String room, String name, boolean keepsAll) implements Command {}

    /** Brings what was said in the ticket's room onto its record. */
    record HearRoom(String room, List<Event.RoomLine> said) implements Command {}

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
}
