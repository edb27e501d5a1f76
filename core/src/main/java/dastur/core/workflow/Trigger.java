package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Sort;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.Promised;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Rhythm;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/**
 * What starts a workflow (N30). It belongs to the workflow, not to a version: it is switched on and off without a new one.
 *
 * @param services limits it to tickets of these services; empty for all
 * @param condition an expression that must hold; null for none
 * @param mode what it does then; left out, it starts the workflow
 * @param unlessEarlier whether it starts nothing when an earlier trigger has started something; left out for no
 * @param besides whether it starts its workflow also while a run of it is under way on the ticket; left out for no
 */
public record Trigger(
        TriggerId id,
        boolean on,
        When when,
        List<ServiceId> services,
        @Nullable String condition,
        Mode mode,
        @Nullable Boolean unlessEarlier,
        @Nullable Boolean besides) {
    /** One that starts nothing a second time while it runs. */
    public Trigger(
            TriggerId id,
            boolean on,
            When when,
            List<ServiceId> services,
            @Nullable String condition,
            Mode mode,
            @Nullable Boolean unlessEarlier) {
        this(id, on, when, services, condition, mode, unlessEarlier, null);
    }

    /** One that looks at no other. */
    public Trigger(
            TriggerId id, boolean on, When when, List<ServiceId> services, @Nullable String condition, Mode mode) {
        this(id, on, when, services, condition, mode, null);
    }

    /** One that starts its workflow by itself. */
    public Trigger(TriggerId id, boolean on, When when, List<ServiceId> services, @Nullable String condition) {
        this(id, on, when, services, condition, Mode.STARTS);
    }

    public Trigger {
        services = List.copyOf(services);
        mode = mode == null ? Mode.STARTS : mode;
        unlessEarlier = Boolean.TRUE.equals(unlessEarlier) ? true : null;
        besides = Boolean.TRUE.equals(besides) ? true : null;
    }

    /** The same, switched on. */
    public Trigger switchedOn() {
        return new Trigger(id, true, when, services, condition, mode, unlessEarlier, besides);
    }

    /** Whether it leaves a ticket alone on which its workflow is under way already (E10). */
    public boolean notWhileOneRuns() {
        return besides == null;
    }

    /** Whether it gives way to earlier ones. */
    public boolean givesWay() {
        return unlessEarlier != null;
    }

    /**
     * Whether this one starts a workflow whenever another would: it listens to the same thing, for all services of the
     * other, on no other condition.
     */
    public boolean covers(Trigger other) {
        boolean sameThing = when.equals(other.when)
                || when instanceof Created c && other.when instanceof Created && c.kind() == null;
        return on
                && mode == Mode.STARTS
                && sameThing
                && (services.isEmpty() || !other.services.isEmpty() && services.containsAll(other.services))
                && (condition == null || condition.isBlank() || condition.equals(other.condition));
    }

    /** What a trigger does when all it asks for is so (N30). */
    public enum Mode {
        /** Starts the workflow by itself. */
        STARTS("starts"),
        /** Asks people whether to start it; stands on their desks. */
        ASKS("asks first"),
        /** Stands on the ticket for whoever wants to start it. */
        OFFERS("offers"),
        /** Starts nothing; the record says that it would have. */
        NOTES("only notes");

        private final String word;

        Mode(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** A workflow's live trigger, as the engine looks at it. */
    public record Live(WorkflowKey workflow, int version, String name, Trigger trigger) {
        /** The same, but that people are asked where it would start by itself. */
        public Live asking() {
            Trigger t = trigger;
            return t.mode() != Mode.STARTS
                    ? this
                    : new Live(
                            workflow,
                            version,
                            name,
                            new Trigger(
                                    t.id(),
                                    t.on(),
                                    t.when(),
                                    t.services(),
                                    t.condition(),
                                    Mode.ASKS,
                                    t.unlessEarlier(),
                                    t.besides()));
        }
    }

    /** The event a trigger listens to. */
    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
    @JsonSubTypes({
        @JsonSubTypes.Type(value = Created.class, name = "created"),
        @JsonSubTypes.Type(value = FieldReaches.class, name = "field reaches"),
        @JsonSubTypes.Type(value = ApprovalEnds.class, name = "approval ends"),
        @JsonSubTypes.Type(value = ClockReaches.class, name = "clock reaches"),
        @JsonSubTypes.Type(value = SignalEntered.class, name = "signal entered"),
        @JsonSubTypes.Type(value = ByHand.class, name = "by hand"),
        @JsonSubTypes.Type(value = SignalComes.class, name = "signal comes"),
        @JsonSubTypes.Type(value = TimeComes.class, name = "time comes"),
        @JsonSubTypes.Type(value = Called.class, name = "called")
    })
    public sealed interface When {
        @Nullable TicketKind kind();
    }

    /** A ticket was created. */
    public record Created(@Nullable TicketKind kind) implements When {}

    /** A field of a ticket reaches a value, whoever set it. */
    public record FieldReaches(@Nullable TicketKind kind, String field, String value) implements When {}

    /**
     * An approval that a run on the ticket has asked for was voted on to its end (I12).
     *
     * @param exit how it ended: {@code approved} or {@code declined}
     */
    public record ApprovalEnds(@Nullable TicketKind kind, String exit) implements When {
        /** What a vote may end as. */
        public static final List<String> EXITS = List.of("approved", "declined");
    }

    /**
     * A clock of the ticket has run for a part of what was promised (I12). What the ticket waited does not count.
     *
     * @param clock which of its clocks
     * @param percent of the time that was promised, 1 to 100
     */
    public record ClockReaches(@Nullable TicketKind kind, Promised clock, int percent) implements When {}

    /**
     * A signal that turns its matter is entered on a ticket that was there before: it joins it, or is noted there since the ticket
     * explains it (I12).
     *
     * @param source whose signals; null for any
     * @param sort which signals; left out, faults
     */
    public record SignalEntered(
            @Nullable TicketKind kind,
            @Nullable SourceKey source,
            @Nullable Sort sort) implements When {
        public SignalEntered {
            sort = sort == null ? Sort.FAULT : sort;
        }
    }

    /** A person may start it from a ticket. */
    public record ByHand(@Nullable TicketKind kind) implements When {}

    /**
     * A signal comes that turns its matter: what begins, gets worse, recovers, or is news (I20). It opens a ticket where none is
     * about the matter yet.
     *
     * @param kind of the ticket that it opens; left out, an incident
     * @param source whose signals; null for any
     * @param sort which signals; left out, faults
     * @param atLeast how bad it must be at least; null for any
     * @param recovery what is done when it has recovered; left out, that is proposed
     * @param mostAMinute how often it starts its workflow within a minute, and six times that within an hour; what is more is held
     *     back until somebody says so (I27). Left out, {@value #USUAL_MOST}
     */
    public record SignalComes(
            @Nullable TicketKind kind,
            @Nullable SourceKey source,
            @Nullable Sort sort,
            @Nullable Severity atLeast,
            Matter.@Nullable Recovery recovery,
            @Nullable Integer mostAMinute)
            implements When {
        /** How often what comes from outside starts a workflow within a minute. */
        public static final int USUAL_MOST = 10;

        /** The most that can be set. */
        public static final int MOST = 300;

        /** One that starts as often as usual. */
        public SignalComes(
                @Nullable TicketKind kind,
                @Nullable SourceKey source,
                @Nullable Sort sort,
                @Nullable Severity atLeast,
                Matter.@Nullable Recovery recovery) {
            this(kind, source, sort, atLeast, recovery, null);
        }

        public SignalComes {
            kind = kind == null ? TicketKind.INCIDENT : kind;
            sort = sort == null ? Sort.FAULT : sort;
            recovery = recovery == null ? Matter.Recovery.USUAL : recovery;
        }
    }

    /** Something that starts a workflow on a ticket of its own: there is none that it listens to. */
    public sealed interface OfItself extends When {
        /** What it opens, with the runs that it starts on it. */
        @Override
        TicketKind kind();
    }

    /**
     * Its time has come (I10).
     *
     * @param kind of the ticket that it opens; left out, a routine
     * @param title of that ticket; null for the workflow's name
     * @param inputs an expression for each value of the start form that it gives; {@code now} is the planned moment
     * @param missed what is done about what was missed while nothing ran; left out, it is made good within an hour
     * @param overlap what is done while a run that it started is still under way; left out, it is skipped
     */
    public record TimeComes(
            TicketKind kind,
            Rhythm rhythm,
            @Nullable String title,
            Map<String, String> inputs,
            Missed missed,
            Overlap overlap)
            implements OfItself {
        public TimeComes {
            kind = kind == null ? TicketKind.ROUTINE : kind;
            Objects.requireNonNull(rhythm, "A schedule says when.");
            title = title == null || title.isBlank() ? null : title.strip();
            inputs = inputs == null ? Map.of() : Step.ordered(inputs);
            missed = missed == null ? Missed.MADE_GOOD : missed;
            overlap = overlap == null ? Overlap.SKIPPED : overlap;
        }
    }

    /** What is done about a time that passed while nothing ran. */
    public enum Missed {
        /** Started once, late, within an hour. */
        MADE_GOOD("made good"),
        LEFT_OUT("left out");

        private final String word;

        Missed(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** What is done when the time comes and what was started before is still under way. */
    public enum Overlap {
        SKIPPED("skipped"),
        /** One waits until that has ended. */
        WAITS("waits"),
        /** At most {@value #SIDE_BY_SIDE} at a time. */
        BESIDE("side by side");

        /** So many at a time. */
        public static final int SIDE_BY_SIDE = 10;

        private final String word;

        Overlap(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }

        /** How many may be under way before another one has to wait or is skipped. */
        public int most() {
            return this == BESIDE ? SIDE_BY_SIDE : 1;
        }
    }

    /**
     * A program calls its address, with the values of the start form by their names (I9).
     *
     * @param kind of the ticket that it opens; left out, a routine
     * @param title of that ticket; null for the workflow's name
     * @param tellsTicket whether callers are told the ticket's number
     */
    public record Called(
            TicketKind kind,
            @Nullable String title,
            @Nullable Boolean tellsTicket) implements OfItself {
        public Called {
            kind = kind == null ? TicketKind.ROUTINE : kind;
            title = title == null || title.isBlank() ? null : title.strip();
            tellsTicket = Boolean.TRUE.equals(tellsTicket) ? true : null;
        }
    }
}
