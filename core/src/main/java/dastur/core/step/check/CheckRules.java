package dastur.core.step.check;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.RuleSeen;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallRules;
import dastur.core.step.check.CheckCommands.ReviewCheck;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.step.check.CheckEvents.CheckJudged;
import dastur.core.step.check.CheckEvents.Checked;
import dastur.core.step.check.CheckEvents.ReviewAsked;
import dastur.core.step.check.CheckEvents.Reviewed;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Judging checks, again and again while they settle, and their review by a person (N22). */
final class CheckRules {
    private static final dastur.core.time.Span USUAL_EVERY = dastur.core.time.Span.parse("30 s");

    private final Here here;

    CheckRules(Here here) {
        this.here = here;
    }

    void begin(VisitId visit, Check check) {
        if (check.measure() == null) {
            judge(visit, check, Map.of(), null);
        } else {
            new CallRules(here).measure(visit, check.id(), check.measure(), check.inputs(), tries(visit) + 1);
        }
    }

    /** What was measured has come in; @param trouble why nothing could be measured, null when it was */
    void measured(Visit visit, Check check, Map<String, Object> outputs, @Nullable String trouble) {
        try {
            judge(visit.id(), check, outputs, trouble);
        } catch (CannotOpen cannot) {
            here.stall(Actor.SYSTEM, visit, cannot.code(), cannot.getMessage());
        }
    }

    private int tries(VisitId visit) {
        return settling(visit).map(Visit.Settling::tries).orElse(0);
    }

    private Optional<Visit.Settling> settling(VisitId visit) {
        return here.visit(visit).map(Visit::settling);
    }

    private void judge(VisitId visit, Check check, Map<String, Object> measured, @Nullable String trouble) {
        List<RuleSeen> seen = check.rules().stream()
                .map(rule -> trouble != null
                        ? new RuleSeen(
                                rule.name(),
                                false,
                                rule.sense(),
                                null,
                                null,
                                null,
                                "Nothing could be measured: " + trouble)
                        : new Rules(here, measured).judge(rule))
                .toList();
        int tries = tries(visit) + 1;
        List<RuleSeen> first = settling(visit).map(Visit.Settling::first).orElse(seen);
        int held = (int) seen.stream().filter(RuleSeen::holds).count();
        Optional<Instant> next = held == seen.size() ? Optional.empty() : next(visit, check);
        if (next.isPresent()) {
            Instant until = until(visit, check);
            emit(visit, check, new CheckJudged(tries, held, seen.size(), next.get(), until, seen));
        } else if (held == seen.size() || check.review() == null) {
            String exit = held == seen.size() ? "pass" : "fail";
            StepId to = Here.way(check, exit);
            emit(visit, check, new Checked(exit, to, tries, held, seen.size(), first, seen));
        } else {
            Assigned reviewers = here.assigned(List.of(check.review()));
            if (here.active(reviewers).isEmpty()) {
                throw new CannotOpen("nobody", "Nobody can review '" + check.name() + "'.");
            }
            emit(
                    visit,
                    check,
                    new ReviewAsked(
                            check.name(),
                            reviewers,
                            tries,
                            held,
                            seen.size(),
                            check.ways().containsKey("measure again"),
                            verdicts(check),
                            first,
                            seen));
        }
    }

    /** Only what leads on can be said. */
    private static List<String> verdicts(Step check) {
        return Arrays.stream(ReviewVerdict.values())
                .filter(v -> check.ways().containsKey(exit(v)))
                .map(ReviewVerdict::word)
                .toList();
    }

    private static String exit(ReviewVerdict verdict) {
        return switch (verdict) {
            case ACCEPT -> "pass";
            case MEASURE_AGAIN -> "measure again";
            case PUT_BACK -> "put back";
            case REFUSE -> "fail";
        };
    }

    private void emit(VisitId visit, Check check, Event event) {
        here.emit(Actor.SYSTEM, check.id(), visit, event);
    }

    /** When it is judged again: while there is time to settle. */
    private Optional<Instant> next(VisitId visit, Check check) {
        if (check.settle() == null) {
            return Optional.empty();
        }
        Instant next = here.after(check.every() == null ? USUAL_EVERY : check.every());
        return next.isAfter(until(visit, check)) ? Optional.empty() : Optional.of(next);
    }

    /** Fixed at the first judging; kept by the visit from then on (D28). */
    private Instant until(VisitId visit, Check check) {
        return here.visit(visit)
                .filter(v -> v.settling() != null)
                .map(v -> v.settling().until())
                .orElseGet(() -> here.after(Optional.ofNullable(check.settle()).orElseThrow()));
    }

    // --- review

    Optional<Refusal> review(ReviewCheck c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Review review)) {
            return Optional.of(here.tooLate(c.visit(), "review"));
        }
        Optional<PersonId> person = here.person();
        if (person.isEmpty()
                || !here.isOneOf(person.get(), review.to())
                        && !here.isOneOf(here.principal().orElseThrow(), review.to())) {
            return Optional.of(Refusal.notYours("You were not asked to review '" + review.name() + "'."));
        }
        if (Texts.blank(c.reason()) && c.verdict() == ReviewVerdict.ACCEPT) {
            return Optional.of(Refusal.invalid("reason", "Say why it is acceptable: the reason goes onto the record."));
        }
        if (c.reason() != null && (c.reason().length() > Texts.MAX_TEXT || !Texts.keepable(c.reason()))) {
            return Optional.of(Refusal.invalid("reason", "A reason has at most " + Texts.MAX_TEXT + " characters."));
        }
        Step step = here.step(visit.get());
        String exit = exit(c.verdict());
        StepId to = Here.way(step, exit);
        if (to == null) {
            return Optional.of(Refusal.invalid(
                    "verdict",
                    "'" + review.name() + "' has no way for '" + c.verdict().word() + "'. It has: "
                            + String.join(", ", verdicts(step)) + "."));
        }
        here.emit(
                here.actor(),
                visit.get(),
                new Reviewed(person.get(), c.verdict().word(), exit, to, Texts.blank(c.reason()) ? null : c.reason()));
        return Optional.empty();
    }

    /** Judges single rules over what is seen there. */
    private record Rules(Here here, Map<String, Object> measured) {
        RuleSeen judge(Check.Rule rule) {
            Object value = value(rule.value());
            Object against = rule.against() == null ? null : value(rule.against());
            Optional<RuleSeen> stale = age(rule, value, against);
            if (stale.isPresent()) {
                return stale.get();
            }
            Long age = ageSeconds(rule);
            Optional<String> unknown = missing(rule, value, against);
            if (unknown.isPresent()) {
                return new RuleSeen(rule.name(), false, rule.sense(), value, against, age, unknown.get());
            }
            boolean holds = Comparison.holds(rule, value, against);
            return new RuleSeen(
                    rule.name(), holds, rule.sense(), value, against, age, Comparison.sentence(rule, value, against));
        }

        private @Nullable Object value(String expression) {
            return here.expressions().evaluate(expression, here.scope(measured)) instanceof Outcome.Value v
                    ? v.value()
                    : null;
        }

        private static Optional<String> missing(Check.Rule rule, @Nullable Object value, @Nullable Object against) {
            if (value == null) {
                return Optional.of(rule.value() + " has no value.");
            }
            return rule.compare().needsAgainst() && against == null
                    ? Optional.of(rule.against() + " has no value to compare with.")
                    : Optional.empty();
        }

        private Optional<Instant> takenAt(@Nullable StepId step) {
            return Optional.ofNullable(step)
                    .map(s -> here.run().seen(here.place()).get(s.value()))
                    .map(v -> v.get("at"))
                    .map(at -> Instant.parse((String) at));
        }

        private @Nullable Long ageSeconds(Check.Rule rule) {
            return takenAt(rule.capture())
                    .map(at -> java.time.Duration.between(at, here.now()).toSeconds())
                    .orElse(null);
        }

        private Optional<RuleSeen> age(Check.Rule rule, @Nullable Object value, @Nullable Object against) {
            if (rule.capture() == null) {
                return Optional.empty();
            }
            Optional<Instant> taken = takenAt(rule.capture());
            String why = null;
            if (taken.isEmpty()) {
                why = "It was not measured: '" + rule.capture() + "' has not run.";
            } else if (rule.after() != null
                    && takenAt(rule.after())
                            .filter(a -> !taken.get().isBefore(a))
                            .isEmpty()) {
                why = "It was measured before '" + rule.after() + "', and must be measured after it.";
            } else if (rule.maxAge() != null && ageSeconds(rule) > rule.maxAge().roughSeconds()) {
                why = "It was measured " + ageSeconds(rule) + " s ago; at most " + rule.maxAge() + " is allowed.";
            }
            return Optional.ofNullable(why)
                    .map(w -> new RuleSeen(rule.name(), false, rule.sense(), value, against, ageSeconds(rule), w));
        }
    }
}
