package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What an open visit waits for. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "for")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Waiting.Task.class, name = "task"),
    @JsonSubTypes.Type(value = Waiting.Votes.class, name = "votes"),
    @JsonSubTypes.Type(value = Waiting.CallResult.class, name = "call"),
    @JsonSubTypes.Type(value = Waiting.Delivery.class, name = "delivery"),
    @JsonSubTypes.Type(value = Waiting.Moment.class, name = "moment"),
    @JsonSubTypes.Type(value = Waiting.Lines.class, name = "lines"),
    @JsonSubTypes.Type(value = Waiting.ForCondition.class, name = "condition"),
    @JsonSubTypes.Type(value = Waiting.ForSignal.class, name = "signal"),
    @JsonSubTypes.Type(value = Waiting.ForReply.class, name = "reply"),
    @JsonSubTypes.Type(value = Waiting.Sent.class, name = "sent"),
    @JsonSubTypes.Type(value = Waiting.Called.class, name = "called"),
    @JsonSubTypes.Type(value = Waiting.Review.class, name = "review"),
    @JsonSubTypes.Type(value = Waiting.CallIn.class, name = "call-in"),
    @JsonSubTypes.Type(value = Waiting.Judging.class, name = "judging"),
    @JsonSubTypes.Type(value = Waiting.Help.class, name = "help")
})
public sealed interface Waiting {
    /** The same with every moment that people are shown later. */
    Waiting later(long seconds);

    /** Whether nobody has answered it and nothing has gone out for it: then what led to it may be taken back (D29). */
    boolean untouched();

    /** What is asked, in the words of its designer; null where nobody is asked anything. */
    @Nullable String words();

    /** A person's outcome. */
    record Task(
            String name,
            @Nullable String instructions,
            Assigned to,
            @Nullable Assigned overseers,
            @Nullable PersonId claimedBy,
            List<String> outcomes,
            List<Field> form,
            @Nullable Instant due,
            boolean mayLeaveOut)
            implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return due == null ? this : dueAt(due.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return claimedBy == null;
        }

        @Override
        public @Nullable String words() {
            return instructions;
        }

        private Task dueAt(Instant other) {
            return new Task(name, instructions, to, overseers, claimedBy, outcomes, form, other, mayLeaveOut);
        }

        Task claimed(@Nullable PersonId by) {
            return new Task(name, instructions, to, overseers, by, outcomes, form, due, mayLeaveOut);
        }

        /** Others are asked for help, beside those who have it. */
        Task helpedBy(Assigned others) {
            List<GroupId> groups = Stream.concat(to.groups().stream(), others.groups().stream())
                    .toList();
            List<PersonId> people = Stream.concat(to.people().stream(), others.people().stream())
                    .toList();
            return new Task(
                    name,
                    instructions,
                    new Assigned(groups, people),
                    overseers,
                    claimedBy,
                    outcomes,
                    form,
                    due,
                    mayLeaveOut);
        }

        Task handedTo(Assigned others) {
            return new Task(name, instructions, others, overseers, null, outcomes, form, due, mayLeaveOut);
        }

        /** Offered to these as well; whoever has claimed it keeps it. */
        Task joinedBy(List<PersonId> more) {
            List<PersonId> people = java.util.stream.Stream.concat(to.people().stream(), more.stream())
                    .distinct()
                    .toList();
            return new Task(
                    name,
                    instructions,
                    new Assigned(to.groups(), people),
                    overseers,
                    claimedBy,
                    outcomes,
                    form,
                    due,
                    mayLeaveOut);
        }
    }

    /** Votes of one round. */
    record Votes(
            int round,
            String name,
            @Nullable String question,
            @Nullable String setsOff,
            List<PersonId> electorate,
            List<PersonId> excluded,
            String rule,
            int needed,
            List<String> shown,
            Map<String, Object> values,
            String digest,
            boolean commentOnDecline,
            @Nullable Instant due,
            @Nullable List<List<PersonId>> sets,
            Map<PersonId, Boolean> cast,
            Map<PersonId, PersonId> through,
            VoteTerms terms,
            Map<PersonId, String> conditions,
            @Nullable AskedBack askedBack)
            implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return due == null ? this : dueAt(due.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return cast.isEmpty() && round == 1 && askedBack == null;
        }

        @Override
        public @Nullable String words() {
            return question;
        }

        /** The digest of nothing: of what was shown before it changed. */
        private static final String VOID = "";

        /** An open question of somebody who is asked. @param text null when it was redacted */
        public record AskedBack(
                PersonId by, Instant at, @Nullable String text) {}

        public Votes {
            through = through == null ? Map.of() : through;
            terms = terms == null ? VoteTerms.PLAIN : terms;
            conditions = conditions == null ? Map.of() : conditions;
        }

        /** Votes cast so far, and who cast those of others. */
        Votes with(Map<PersonId, Boolean> votes, Map<PersonId, PersonId> by, Map<PersonId, String> named) {
            return changed(electorate, sets, due, votes, by, named, askedBack);
        }

        Votes askingBack(@Nullable AskedBack question) {
            return changed(electorate, sets, due, cast, through, conditions, question);
        }

        /** Those who may vote now: all, or the ones whose turn it is. */
        public List<PersonId> turn() {
            if (!terms.inOrder() || sets == null) {
                return electorate;
            }
            for (int i = 0; i < sets.size(); i++) {
                if (!Matching.covers(sets.subList(0, i + 1), approving())) {
                    return sets.get(i);
                }
            }
            // Everybody asked in order has said yes: what is still open are those whose no would end it.
            return terms.veto().stream().filter(p -> !cast.containsKey(p)).toList();
        }

        /** Those who said yes, or still may. */
        List<PersonId> hopeful() {
            return electorate.stream().filter(p -> cast.getOrDefault(p, true)).toList();
        }

        /** Whether enough of these people, saying yes, make it approved. */
        boolean enough(List<PersonId> saying) {
            return sets == null ? saying.size() >= needed : Matching.covers(sets, saying);
        }

        @JsonIgnore
        List<PersonId> approving() {
            return cast.entrySet().stream()
                    .filter(Map.Entry::getValue)
                    .map(Map.Entry::getKey)
                    .toList();
        }

        @JsonIgnore
        int yes() {
            return (int) cast.values().stream().filter(v -> v).count();
        }

        @JsonIgnore
        int no() {
            return cast.size() - yes();
        }

        Votes dueAt(Instant other) {
            return changed(electorate, sets, other, cast, through, conditions, askedBack);
        }

        /**
         * Others may vote as well.
         *
         * @param nowNeeded how many must say yes then; null where that stays
         */
        Votes joinedBy(List<PersonId> more, @Nullable Integer nowNeeded) {
            List<List<PersonId>> wider = sets == null
                    ? null
                    : sets.stream().map(set -> joined(set, more)).toList();
            Votes joined = changed(joined(electorate, more), wider, due, cast, through, conditions, askedBack);
            return nowNeeded == null ? joined : joined.needing(nowNeeded);
        }

        private Votes needing(int count) {
            return new Votes(
                    round,
                    name,
                    question,
                    setsOff,
                    electorate,
                    excluded,
                    rule,
                    count,
                    shown,
                    values,
                    digest,
                    commentOnDecline,
                    due,
                    sets,
                    cast,
                    through,
                    terms,
                    conditions,
                    askedBack);
        }

        /** What was shown has changed: no vote on it counts, and none can be cast until it is asked again. */
        Votes voided() {
            return new Votes(
                    round,
                    name,
                    question,
                    setsOff,
                    electorate,
                    excluded,
                    rule,
                    needed,
                    shown,
                    values,
                    VOID,
                    commentOnDecline,
                    due,
                    sets,
                    Map.of(),
                    Map.of(),
                    terms,
                    Map.of(),
                    askedBack);
        }

        @JsonIgnore
        boolean isVoid() {
            return digest.equals(VOID);
        }

        private static List<PersonId> joined(List<PersonId> some, List<PersonId> more) {
            return Stream.concat(some.stream(), more.stream())
                    .distinct()
                    .sorted()
                    .toList();
        }

        private Votes changed(
                List<PersonId> people,
                @Nullable List<List<PersonId>> eachOf,
                @Nullable Instant newDue,
                Map<PersonId, Boolean> votes,
                Map<PersonId, PersonId> by,
                Map<PersonId, String> named,
                @Nullable AskedBack question) {
            return new Votes(
                    round,
                    name,
                    this.question,
                    setsOff,
                    people,
                    excluded,
                    rule,
                    needed,
                    shown,
                    values,
                    digest,
                    commentOnDecline,
                    newDue,
                    eachOf,
                    votes,
                    by,
                    terms,
                    named,
                    question);
        }
    }

    /**
     * The result of a call.
     *
     * @param came what it came to where no way leads on from there; null while it is under way
     */
    record CallResult(
            ActionKey action,
            int attempt,
            String key,
            Action.Repeat repeat,
            int tries,
            long pauseSeconds,
            Instant startedAt,
            boolean betweenAttempts,
            boolean unsure,
            Event.@Nullable Call call,
            @Nullable Came came)
            implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** What a call came to. */
    record Came(
            String exit,
            int polls,
            long tookMillis,
            @Nullable String reference,
            @Nullable String link,
            Map<String, Object> outputs) {}

    /** The delivery of a message to all its people. */
    record Delivery(String message, List<PersonId> left, boolean someFailed) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** How a line of a bracket ended. */
    record LineEnd(boolean done, String result) {}

    /** A line that can be begun: its name and first step. */
    record Begin(String name, StepId to) {}

    /**
     * The lines inside a bracket.
     *
     * @param bracket stage, fork, for each or repeat
     * @param needed how many must be done
     * @param atOnce how many may be under way
     * @param begins the lines of a fork that were opened; else the one body
     * @param items the frozen list of a for each
     * @param begun how many were begun so far
     * @param ended how lines ended, by index
     * @param judged whether a repeat's last round was judged and the next waits for its pause
     */
    record Lines(
            String bracket,
            int count,
            int needed,
            int atOnce,
            boolean stopAtFirst,
            @Nullable String item,
            List<Begin> begins,
            List<Object> items,
            int begun,
            java.util.TreeMap<Integer, LineEnd> ended,
            @Nullable String leaveBy,
            boolean judged)
            implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }

        public Lines {
            begins = List.copyOf(begins);
            items = List.copyOf(items);
        }

        Lines begunUpTo(int number) {
            return new Lines(
                    bracket,
                    count,
                    needed,
                    atOnce,
                    stopAtFirst,
                    item,
                    begins,
                    items,
                    Math.max(begun, number),
                    ended,
                    leaveBy,
                    false);
        }

        Lines ended(int index, LineEnd how) {
            java.util.TreeMap<Integer, LineEnd> all = new java.util.TreeMap<>(ended);
            all.put(index, how);
            return new Lines(
                    bracket, count, needed, atOnce, stopAtFirst, item, begins, items, begun, all, leaveBy, judged);
        }

        Lines leftBy(String exit) {
            return new Lines(
                    bracket, count, needed, atOnce, stopAtFirst, item, begins, items, begun, ended, exit, judged);
        }

        Lines paused() {
            return new Lines(
                    bracket, count, needed, atOnce, stopAtFirst, item, begins, items, begun, ended, leaveBy, true);
        }

        int done() {
            return (int) ended.values().stream().filter(LineEnd::done).count();
        }

        int failed() {
            return ended.size() - done();
        }

        int underWay() {
            return begun - ended.size();
        }
    }

    /** A condition on the ticket. */
    record ForCondition(String condition, @Nullable Instant until) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return until == null ? this : new ForCondition(condition, until.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return true;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** A signal from outside. @param key only a signal with this key counts; null for any */
    record ForSignal(
            String signal, @Nullable String key, @Nullable Instant until) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return until == null ? this : new ForSignal(signal, key, until.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** What one of these people writes on the ticket next. */
    record ForReply(Assigned from, @Nullable Instant until) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return until == null ? this : new ForReply(from, until.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return true;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** A workflow that is to begin on another ticket; it is not known yet as which run. */
    record Sent(WorkflowKey workflow, String name) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /**
     * A run that this visit called, on this ticket or another.
     *
     * @param ended whether it has ended
     */
    record Called(RunId run, boolean ended, @Nullable String result, boolean stopped, Map<String, Object> results)
            implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** Somebody who looks at a check that does not hold. @param verdicts what can be said: those that lead on */
    record Review(String name, Assigned to, List<RuleSeen> rules, List<String> verdicts) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }

        public Review {
            rules = List.copyOf(rules);
            verdicts = List.copyOf(verdicts);
        }
    }

    /**
     * Somebody who accepts a call-in.
     *
     * @param asked everybody who was asked so far
     * @param cannot those who said that they cannot
     */
    record CallIn(
            String name,
            @Nullable String as,
            String message,
            List<PersonId> asked,
            List<PersonId> cannot,
            Instant until)
            implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return new CallIn(name, as, message, asked, cannot, until.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return message;
        }

        CallIn asking(List<PersonId> more) {
            return new CallIn(
                    name,
                    as,
                    message,
                    java.util.stream.Stream.concat(asked.stream(), more.stream())
                            .distinct()
                            .toList(),
                    cannot,
                    until);
        }

        CallIn without(PersonId person) {
            return new CallIn(
                    name,
                    as,
                    message,
                    asked,
                    java.util.stream.Stream.concat(cannot.stream(), java.util.stream.Stream.of(person))
                            .distinct()
                            .toList(),
                    until);
        }
    }

    /** The next judging of a check that settles. */
    record Judging(Instant next, Instant until) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return new Judging(next.plusSeconds(seconds), until.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return false;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** A moment. */
    record Moment(Instant until) implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return new Moment(until.plusSeconds(seconds));
        }

        @Override
        public boolean untouched() {
            return true;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }

    /** Somebody who helps: the visit could not even begin. */
    record Help() implements Waiting {
        @Override
        public Waiting later(long seconds) {
            return this;
        }

        @Override
        public boolean untouched() {
            return true;
        }

        @Override
        public @Nullable String words() {
            return null;
        }
    }
}
