package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.expression.Clause;
import dastur.core.partner.PartnerKey;
import dastur.core.people.PersonId;
import dastur.core.signal.Aside;
import dastur.core.signal.Severity;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.Promised;
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
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * What happened: the body of one entry of a ticket's record. Events carry whole facts, so that folding them needs no
 * version, no look-up and no clock (D3). The set is closed; adding one means a case in {@link Fold}.
 */
public sealed interface Event {
    /** How what people were asked is over, where this event ends it; null where it does not say. */
    default @Nullable String outcome() {
        return this instanceof Leaving l ? l.exit() : null;
    }

    /** Those whom it asks something; nobody where it asks nothing. */
    default List<Assigned> asks() {
        return List.of();
    }

    /** What it says that tickets are found by: what people wrote, and values that were entered or read. */
    default Stream<?> words() {
        return Stream.empty();
    }

    /** How it ended what people were asked, in words that follow who did it; null where it did not. */
    default @Nullable String endedBy() {
        return this instanceof Leaving l && l.exit() != null ? "gave “" + l.exit() + "”" : null;
    }

    /** The CI that it makes or changes; null for none. */
    default @Nullable OfCi changesCi() {
        return null;
    }

    /** The values of a map; none for null. */
    static Stream<?> wordsOf(@Nullable Map<String, Object> values) {
        return values == null ? Stream.empty() : values.values().stream();
    }

    /** What values came to by changes; none for null. */
    static Stream<?> after(@Nullable Map<String, Change> changes) {
        return changes == null
                ? Stream.empty()
                : changes.values().stream().map(Change::after).filter(Objects::nonNull);
    }

    /** A value before and after; absent is null. */
    record Change(@Nullable Object before, @Nullable Object after) {
        /** What is otherwise, by name, in the order of the names. */
        public static Map<String, Change> between(Map<String, Object> before, Map<String, Object> after) {
            Map<String, Change> changed = new TreeMap<>();
            TreeSet<String> names = new TreeSet<>(before.keySet());
            names.addAll(after.keySet());
            for (String name : names) {
                if (!Objects.equals(before.get(name), after.get(name))) {
                    changed.put(name, new Change(before.get(name), after.get(name)));
                }
            }
            return changed;
        }
    }

    /** A rung with the moment it fires, fixed when the step opened (D28). */
    record PlannedRung(int number, Instant due, Rung.Deed deed) {
        /** As alarms of the visit. */
        public static List<Visit.Alarm> alarms(List<PlannedRung> rungs) {
            return rungs.stream()
                    .map(r -> new Visit.Alarm(r.due(), Visit.AlarmKind.RUNG, r.number(), r.deed()))
                    .toList();
        }
    }

    /** An event by which a visit ends and the run goes on along a way; {@code to} is null where the line ends. */
    interface Leaving {
        @Nullable String exit();

        @Nullable StepId to();
    }

    /** An event on a visit: it says by itself what follows from it. */
    non-sealed interface OfVisit extends Event {
        /**
         * What it does to the case, one after the other.
         *
         * @param before the visit as it was; null where it was not open
         */
        List<Effect> effects(@Nullable Visit before, Recorded r);

        /** Whether by it somebody has taken up what the ticket is about, so that it is responded to. */
        default boolean responds() {
            return false;
        }

        /** As what an approval was voted to its end; null for everything else. */
        default @Nullable String decided() {
            return null;
        }

        /** The fields of the ticket that it sets, by name. */
        default Set<String> setsFields() {
            return Set.of();
        }

        /** What was measured, read or filled in, by name: what may be compared with another time (N52); null for nothing. */
        default @Nullable Map<String, Object> brings() {
            return null;
        }

        /** What rules saw when they judged; null where none did. */
        default @Nullable List<RuleSeen> saw() {
            return null;
        }
    }

    /**
     * What becomes of a CI.
     *
     * @param makes whether it was not there before
     */
    record OfCi(CiId ci, boolean makes, Map<String, Change> changes) {
        /** The CI with it. @param before null where it is not there yet */
        public ConfigurationItem on(@Nullable ConfigurationItem before) {
            Map<String, @Nullable Object> after = new HashMap<>();
            changes.forEach((name, change) -> after.put(name, change.after()));
            ConfigurationItem of = before == null
                    ? ConfigurationItem.planned(ci, String.valueOf(after.getOrDefault("kind", "")))
                    : before;
            return of.with(after);
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
            implements Event {
        @Override
        public Stream<?> words() {
            return Stream.concat(wordsOf(fields), wordsOf(texts));
        }
    }

    /** Fields were changed by a person or a rung. */
    record TicketChanged(
            Map<String, Change> changes,
            @Content @Nullable Map<String, Change> texts,
            @Content @Nullable String reason) implements Event {
        @Override
        public @Nullable String outcome() {
            return "the ticket ended";
        }

        @Override
        public Stream<?> words() {
            return after(texts);
        }
    }

    /**
     * Somebody wishes for a CI inside a request or a change (M17): it is planned, and the ticket is about it.
     *
     * @param makes whether it was not there before; null where one that was retired is planned anew
     */
    record CiPlanned(
            CiId ci,
            @Nullable Boolean makes,
            Map<String, Change> changes,
            @Content @Nullable Map<String, Change> ciChanges)
            implements Event {
        @Override
        public @Nullable OfCi changesCi() {
            return ciChanges == null ? null : new OfCi(ci, makes != null, ciChanges);
        }

        @Override
        public Stream<?> words() {
            return after(ciChanges);
        }
    }

    /**
     * A file was attached as evidence (N8).
     *
     * @param hash SHA-256 of its bytes, in hex
     * @param size in bytes
     */
    record FileAttached(
            @Nullable PersonId by,
            String hash,
            long size,
            String type,
            boolean toRequester,
            @Content @Nullable String name)
            implements Event {
        @Override
        public Stream<?> words() {
            return Stream.ofNullable(name);
        }
    }

    // --- partners

    /**
     * The ticket is followed at a partner's desk from now.
     *
     * @param id of theirs
     * @param theirs whether it was theirs first
     */
    record PartnerJoined(
            PartnerKey partner, String id, @Nullable String link, boolean theirs) implements Event {}

    /** It is followed there no longer. */
    record PartnerLeft(PartnerKey partner, String why) implements Event {}

    /**
     * Both sides say something else of a field, and no rule decides; somebody is to say what counts.
     *
     * @param label of the field, as people know it
     * @param word what they say, in their words
     * @param theirs what that means here
     */
    record PartnerDiffers(
            PartnerKey partner,
            String field,
            String label,
            Assigned asked,
            @Content @Nullable String ours,
            @Content @Nullable String word,
            @Content @Nullable Object theirs,
            String why)
            implements Event {
        @Override
        public List<Assigned> asks() {
            return List.of(asked);
        }
    }

    /** What counts of a field that both sides saw otherwise was said, or it has settled itself. @param word theirs, as it was shown */
    record DifferenceSettled(
            PartnerKey partner,
            String field,
            Way way,
            @Content @Nullable String word,
            @Content @Nullable String reason) implements Event {
        /** What counts. */
        public enum Way {
            THEIRS("theirs"),
            OURS("ours"),
            /** There is no difference any more. */
            GONE("gone");

            private final String word;

            Way(String word) {
                this.word = word;
            }

            @JsonValue
            public String word() {
                return word;
            }
        }
    }

    /** Somebody said something to the partner. It is sent; {@link PartnerTold} says whether it came there. */
    record SaidToPartner(
            PartnerKey partner, @Content @Nullable String text) implements Event {
        @Override
        public Stream<?> words() {
            return Stream.ofNullable(text);
        }
    }

    /** The partner said something. @param comment its id among theirs @param by who, as they name them */
    record PartnerSaid(
            PartnerKey partner,
            String comment,
            @Content @Nullable String by,
            @Content @Nullable String text) implements Event {
        @Override
        public Stream<?> words() {
            return Stream.ofNullable(text);
        }
    }

    /**
     * Something of ours came to the partner, or did not.
     *
     * @param entry the entry that was told; null for values
     * @param values what they are called there, by our names
     * @param problem why it did not come there
     */
    record PartnerTold(
            PartnerKey partner,
            @Nullable Long entry,
            @Content @Nullable Map<String, String> values,
            @Content @Nullable String problem)
            implements Event {}

    /**
     * The ticket was linked with another.
     *
     * @param mirrors whether this follows from a link that was made on the other ticket
     */
    record TicketLinked(TicketId other, LinkKind as, boolean mirrors) implements Sending {}

    /** A link was taken away. */
    record TicketUnlinked(TicketId other, LinkKind as, boolean mirrors) implements Sending {}

    /** Somebody wrote a note. */
    record NoteAdded(boolean toRequester, @Content @Nullable String text) implements Event {
        @Override
        public Stream<?> words() {
            return Stream.ofNullable(text);
        }
    }

    /** Somebody read something by hand (I13). @param inputs and outputs by what people call them */
    record ReadByHand(
            ActionKey action,
            String name,
            boolean read,
            @Content @Nullable Map<String, Object> inputs,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String why)
            implements Event {
        @Override
        public Stream<?> words() {
            return wordsOf(outputs);
        }
    }

    /** How soon it is to be responded to and restored was set, stands still, runs on or is met. */
    record TargetsSet(Map<Promised, Target> targets, String why) implements Event {}

    /** The time to respond or to restore is over. */
    record TargetMissed(Promised of, Instant due) implements Event {}

    /** A part of what was promised is over, at which something may start (I12). @param percent of it */
    record ClockReached(Promised of, int percent) implements Event {}

    // --- signals

    /**
     * Signals came about what this ticket is about, one or many of the same (I7).
     *
     * @param turn what they did to their matter
     * @param signal the id of the last of them
     * @param worst how bad it was at worst; null where nothing says so
     * @param ci what they speak of, where that is known
     * @param because why they are noted on a ticket that is not about them; null where it is (I21, I22)
     */
    record SignalsHeard(
            SourceKey source,
            Turn turn,
            long count,
            Instant first,
            Instant last,
            String signal,
            @Nullable Severity worst,
            @Nullable CiId ci,
            Aside.@Nullable Because because,
            @Content @Nullable String matter,
            @Content @Nullable String title,
            @Content @Nullable String text,
            @Content @Nullable String link,
            @Content @Nullable Map<String, Object> values)
            implements Event {
        /** The same, so that no fault joins the ticket for it. */
        SignalsHeard ofNoMatter() {
            return new SignalsHeard(
                    source, turn, count, first, last, signal, worst, ci, because, null, title, text, link, values);
        }
    }

    /** It is a test from here on (I4). @param by who tries it @param until when it ends by itself */
    record MarkedAsTest(PersonId by, Instant until) implements Event {}

    /** What it is about has recovered and stayed so. @param restores whether it is set to restored by that, or that is proposed */
    record RecoveryHeard(Instant since, boolean restores) implements Event {}

    /**
     * What it depends on came to be in fault after it (I22).
     *
     * @param cause the incident about that
     * @param folds whether it stands folded under that one; where a person is at it already, it is only told
     */
    record CauseFound(TicketId cause, boolean folds) implements Event {}

    /** It stands by itself again. @param under the incident under which it was folded */
    record StandsByItself(TicketId under) implements Event {}

    // --- starting

    /** What set off the trigger by which this ticket was opened. */
    record Caused(Cause cause) implements Event {}

    /** Triggers were looked at for a change of this ticket (N33). */
    record TriggersLookedAt(
            int looked,
            List<TriggerId> started,
            @Content @Nullable List<Look> looks) implements Event {}

    /**
     * Why a trigger did or did not start its workflow.
     *
     * @param mode what it does instead of starting it by itself; null where it does not come to that
     * @param gaveWayTo the earlier trigger that has started something, to which it gives way; null where it does not come to that
     */
    record Look(
            TriggerId trigger,
            WorkflowKey workflow,
            String name,
            boolean started,
            Trigger.@Nullable Mode mode,
            String why,
            Clause.@Nullable Explained condition,
            @Nullable TriggerId gaveWayTo) {
        /** One that gives way to none. */
        public Look(
                TriggerId trigger,
                WorkflowKey workflow,
                String name,
                boolean started,
                Trigger.@Nullable Mode mode,
                String why,
                Clause.@Nullable Explained condition) {
            this(trigger, workflow, name, started, mode, why, condition, null);
        }

        /** One that would start its workflow, had an earlier trigger not started something. */
        public static Look givesWay(Trigger.Live live, Look to, Clause.@Nullable Explained condition) {
            return new Look(
                    live.trigger().id(),
                    live.workflow(),
                    live.name(),
                    false,
                    null,
                    "it gives way to earlier ones, and '" + to.name() + "' has started",
                    condition,
                    to.trigger());
        }

        /** Up to so many triggers each have a line; of more only those that came to something, and some that nearly did (I26). */
        public static final int ALL_TOLD = 50;

        private static final int NEARLY = 20;

        /** Whether all that the trigger asks for is so. */
        public boolean holds() {
            return started || mode != null;
        }

        /** What is told of many: all that hold, and the first of those that do not. @param of how many were looked at */
        public static List<Look> told(List<Look> looks, int of) {
            if (of <= ALL_TOLD) {
                return List.copyOf(looks);
            }
            List<Look> told = new ArrayList<>();
            int missed = 0;
            for (Look look : looks) {
                if (look.holds() || missed++ < NEARLY) {
                    told.add(look);
                }
            }
            return told;
        }
    }

    /**
     * A trigger proposes to start its workflow instead of starting it (N30).
     *
     * @param asked those on whose desk it stands; nobody where it is only offered on the ticket
     */
    record StartOffered(
            TriggerId trigger,
            WorkflowKey workflow,
            String name,
            Assigned asked,
            @Nullable Boolean heldBack) implements Event {
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

    // --- approvals

    // --- decisions on data, updates, waits, ends

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
    record BracketLeft(String exit, @Nullable StepId to, int done, int failed, String why) implements Event, Leaving {}

    // --- putting back

    /** A stage (the visit) or the run is put back, or only what was switched off for a time is. */
    record PutBackBegan(boolean all, String exit, boolean stopped, List<String> names) implements Event {}

    /** All was put back that could be. */
    record PutBackEnded(List<String> left) implements Event {}

    // --- other workflows

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

    /** The run on the other ticket is stopped, since the step that waits for it is over. */
    record SentRunRecalled(RunId run, String why) implements Sending {}

    // --- checks

    // --- call-in

    /** A visit was left by the clock, a rung, a delivery or an intervention. */
    record Left(String exit, @Nullable StepId to, String why) implements Event, Leaving {
        @Override
        public String endedBy() {
            return "took the exit “" + exit + "”: " + why;
        }
    }

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
            long limitSeconds,
            Action.@Nullable Pages pages) {
        /** One whose answer is one page. */
        public Call(
                String connection,
                String method,
                String path,
                Map<String, String> headers,
                @Nullable String body,
                Action.@Nullable Poll poll,
                List<Action.Output> outputs,
                List<Action.OwnResult> results,
                long limitSeconds) {
            this(connection, method, path, headers, body, poll, outputs, results, limitSeconds, null);
        }
    }

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

    /**
     * A message is to be sent; a notify step goes on at once unless it awaits delivery.
     *
     * @param about of what it tells, where nobody is to be told of that too often; null for none
     * @param meeting what it invites to, or calls off; null for nothing
     */
    record MessageQueued(
            String message,
            String purpose,
            List<PersonId> people,
            boolean awaited,
            @Nullable String exit,
            @Nullable StepId to,
            @Content @Nullable String subject,
            @Content @Nullable String text,
            @Nullable String about,
            @Content @Nullable Meeting meeting)
            implements Sending, Leaving {
        public MessageQueued(
                String message,
                String purpose,
                List<PersonId> people,
                boolean awaited,
                @Nullable String exit,
                @Nullable StepId to,
                @Nullable String subject,
                @Nullable String text) {
            this(message, purpose, people, awaited, exit, to, subject, text, null, null);
        }
    }

    /** Something is to be said in the ticket's room in chat, with these people invited. */
    record RoomTold(
            String message,
            boolean keepsAll,
            List<PersonId> invited,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String name,
            @Content @Nullable String text)
            implements Sending, Leaving {}

    /** The ticket's room is open. @param room what the chat server calls it */
    record RoomOpened(
            String room,
            boolean keepsAll,
            @Content @Nullable String name) implements Event {}

    /** It was said in the ticket's room. */
    record RoomTalked(
            String room, int lines, @Content @Nullable List<RoomLine> said) implements Event {
        @Override
        public Stream<?> words() {
            return said == null ? Stream.empty() : said.stream().map(RoomLine::text);
        }
    }

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

        @Override
        public @Nullable String endedBy() {
            return handedTo == null ? null : "handed it on, since the time was over";
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

        @Override
        public String endedBy() {
            return "intervened: " + kind.word();
        }
    }

    /** A visit was withdrawn because the run ended. */
    record Withdrawn(String why) implements Event {
        @Override
        public String endedBy() {
            return "withdrew it, because " + why;
        }

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
