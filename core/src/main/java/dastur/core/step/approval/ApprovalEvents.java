package dastur.core.step.approval;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Agreed;
import dastur.core.run.Assigned;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Change;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Event.PlannedRung;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What happens to decisions of people. */
public final class ApprovalEvents {
    private ApprovalEvents() {}

    /**
     * People were asked for a decision; a further round asks anew.
     *
     * @param sets from each of which one must say yes, another person each; null where only the number counts
     * @param allows what a yes lets machines do; entries of before did not say
     */
    public record ApprovalAsked(
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
            @Nullable List<Agreed> allows,
            @Content @Nullable String question,
            @Content @Nullable Map<String, Object> values)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Waiting votes = new Votes(
                    round,
                    name,
                    question,
                    setsOff,
                    electorate,
                    excluded,
                    rule,
                    needed,
                    shown,
                    values == null ? Map.of() : values,
                    digest,
                    commentOnDecline,
                    due,
                    sets,
                    Map.of(),
                    Map.of(),
                    terms,
                    Map.of(),
                    null,
                    allows);
            List<Visit.Alarm> alarms = new ArrayList<>(PlannedRung.alarms(rungs));
            if (due != null) {
                alarms.add(new Visit.Alarm(due, Visit.AlarmKind.LAPSE, 0, null));
            }
            return List.of(new Effect.Opens(votes, alarms));
        }

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
    public record ApprovalTurn(int round, List<PersonId> people) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of();
        }
    }

    /** Somebody who is asked for a decision asks back; the decision's clocks stand still until it is answered. */
    public record AskedBack(PersonId by, @Content @Nullable String text) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof Votes votes)) {
                return List.of();
            }
            return List.of(
                    new Effect.Becomes(before.waitingFor(votes.askingBack(new Votes.AskedBack(by, r.at(), text)))));
        }

        @Override
        public Stream<?> words() {
            return Stream.ofNullable(text);
        }
    }

    /** A question of an approver was answered. @param pausedSeconds how long the clocks stood still */
    public record AnsweredBack(
            PersonId by,
            long pausedSeconds,
            @Content @Nullable String text) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof Votes votes)) {
                return List.of();
            }
            return List.of(
                    new Effect.Becomes(before.waitingFor(votes.askingBack(null)).later(pausedSeconds)));
        }

        @Override
        public @Nullable String outcome() {
            return "answered";
        }

        @Override
        public Stream<?> words() {
            return Stream.ofNullable(text);
        }
    }

    /** Somebody took their vote back while the decision was open. */
    public record VoteWithdrawn(int round, PersonId by) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof Votes votes)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(before.waitingFor(votes.withdrawn(by))));
        }
    }

    public record VoteCast(
            int round,
            String digest,
            PersonId by,
            boolean yes,
            @Content @Nullable String comment,
            @Content @Nullable String condition)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof Votes votes)) {
                return List.of();
            }
            PersonId natural = r.actor() instanceof Actor.OfPerson p ? p.person() : by;
            return List.of(new Effect.Becomes(before.waitingFor(votes.cast(by, yes, natural, condition))));
        }

        @Override
        public Stream<?> words() {
            return Stream.of(comment, condition).filter(Objects::nonNull);
        }
    }

    /** What was shown has changed: votes so far are void (N43). */
    public record ApprovalVoided(
            int round,
            List<String> changed,
            @Content @Nullable Map<String, Change> values) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof Votes votes)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(before.waitingFor(votes.voided())));
        }
    }

    public record ApprovalClosed(
            String exit,
            @Nullable StepId to,
            int yes,
            int no,
            int electorate,
            @Nullable PersonId by,
            @Content @Nullable String comment,
            @Content @Nullable List<String> conditions)
            implements OfVisit, Leaving {
        @Override
        public String decided() {
            return exit;
        }

        @Override
        public String endedBy() {
            return "decided it: " + exit;
        }

        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> kept = r.outcome(exit);
            if (by != null) {
                kept.put("by", by.value());
            }
            if (comment != null) {
                kept.put("comment", comment);
            }
            if (conditions != null) {
                kept.put("conditions", conditions);
            }
            Effect leaves = new Effect.Leaves(to, kept);
            return exit.equals("approved") && before != null && before.waiting() instanceof Votes v
                    ? List.of(new Effect.Binds(v.name(), v.shown(), v.values(), v.allows()), leaves)
                    : List.of(leaves);
        }
    }
}
