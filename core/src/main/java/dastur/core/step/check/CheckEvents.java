package dastur.core.step.check;

import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Recorded;
import dastur.core.run.RuleSeen;
import dastur.core.run.Visit;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What happens to checks. */
public final class CheckEvents {
    private CheckEvents() {}

    /** A check has measured what its rules judge. */
    public record Measured(
            int attempt,
            long tookMillis,
            @Content @Nullable Map<String, Object> outputs,
            @Content @Nullable String log) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of();
        }

        @Override
        public @Nullable Map<String, Object> brings() {
            return outputs;
        }
    }

    /** A check was judged and does not hold yet; it is judged again. */
    public record CheckJudged(
            int tries,
            int held,
            int rules,
            Instant nextAt,
            Instant until,
            @Content @Nullable List<RuleSeen> seen) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            List<RuleSeen> judged = seen == null ? List.of() : seen;
            List<RuleSeen> first = before == null || before.settling() == null
                    ? judged
                    : before.settling().first();
            return List.of(
                    new Effect.Opens(
                            new Judging(nextAt, until),
                            List.of(new Visit.Alarm(nextAt, Visit.AlarmKind.JUDGE, 0, null))),
                    new Effect.Settling(new Visit.Settling(tries, until, first)));
        }

        @Override
        public @Nullable List<RuleSeen> saw() {
            return seen;
        }
    }

    /** A check came to its verdict. */
    public record Checked(
            String exit,
            @Nullable StepId to,
            int tries,
            int held,
            int rules,
            @Content @Nullable List<RuleSeen> first,
            @Content @Nullable List<RuleSeen> last)
            implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            values.put("tries", (long) tries);
            values.put("held", (long) held);
            values.put("rules", (long) rules);
            List<RuleSeen> seen = last == null ? List.of() : last;
            values.put(
                    "sideEffects",
                    seen.stream()
                            .filter(RuleSeen::sideEffect)
                            .map(s -> (Object) s.name())
                            .toList());
            return List.of(new Effect.Leaves(to, values));
        }

        @Override
        public @Nullable List<RuleSeen> saw() {
            return last;
        }
    }

    /** A check does not hold, and a person is asked to look at it. */
    public record ReviewAsked(
            String name,
            Assigned to,
            int tries,
            int held,
            int rules,
            boolean mayMeasureAgain,
            @Nullable List<String> verdicts,
            @Content @Nullable List<RuleSeen> first,
            @Content @Nullable List<RuleSeen> last)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of(
                    new Effect.Opens(new Review(name, this.to, last == null ? List.of() : last, sayable()), List.of()));
        }

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

        @Override
        public @Nullable List<RuleSeen> saw() {
            return last;
        }
    }

    /** A person has looked at a check. */
    public record Reviewed(
            PersonId by,
            String verdict,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String reason) implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            values.put("by", by.value());
            if (reason != null) {
                values.put("comment", reason);
            }
            return List.of(new Effect.Leaves(to, values));
        }

        @Override
        public Stream<?> words() {
            return Stream.ofNullable(reason);
        }

        @Override
        public String endedBy() {
            return "has looked at it: " + verdict;
        }

        @Override
        public @Nullable String outcome() {
            return verdict;
        }
    }
}
