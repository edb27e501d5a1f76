package dastur.core.run;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.workflow.Check;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.Arrays;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Judging checks, again and again while they settle, and their review by a person (N22). */
final class Checks {
    private static final dastur.core.time.Span USUAL_EVERY = dastur.core.time.Span.parse("30 s");

    private final Deciding d;

    Checks(Deciding d) {
        this.d = d;
    }

    void begin(Site site, VisitId visit, Check check) {
        if (check.measure() == null) {
            judge(site, visit, check, Map.of(), null);
        } else {
            new CallRules(d).measure(site, visit, check, tries(visit) + 1);
        }
    }

    /** Its next judging has come due. */
    void again(Visit visit) {
        begin(d.site(visit), visit.id(), (Check) d.step(visit));
    }

    /** What was measured has come in; @param trouble why nothing could be measured, null when it was */
    void measured(Visit visit, Map<String, Object> outputs, @Nullable String trouble) {
        judge(d.site(visit), visit.id(), (Check) d.step(visit), outputs, trouble);
    }

    private int tries(VisitId visit) {
        return settling(visit).map(Visit.Settling::tries).orElse(0);
    }

    private Optional<Visit.Settling> settling(VisitId visit) {
        return d.now().visit(visit).map(Visit::settling);
    }

    private void judge(Site site, VisitId visit, Check check, Map<String, Object> measured, @Nullable String trouble) {
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
                        : new Rules(d, site, measured).judge(rule))
                .toList();
        int tries = tries(visit) + 1;
        List<RuleSeen> first = settling(visit).map(Visit.Settling::first).orElse(seen);
        int held = (int) seen.stream().filter(RuleSeen::holds).count();
        Optional<Instant> next = held == seen.size() ? Optional.empty() : next(site, visit, check);
        if (next.isPresent()) {
            Instant until = until(site, visit, check);
            emit(site, visit, check, new Event.CheckJudged(tries, held, seen.size(), next.get(), until, seen));
        } else if (held == seen.size() || check.review() == null) {
            String exit = held == seen.size() ? "pass" : "fail";
            StepId to = Deciding.way(check, exit);
            emit(site, visit, check, new Event.Checked(exit, to, tries, held, seen.size(), first, seen));
        } else {
            Assigned reviewers = new Parties(d).assigned(List.of(check.review()), site);
            if (new Parties(d).active(reviewers).isEmpty()) {
                throw new CannotOpen("nobody", "Nobody can review '" + check.name() + "'.");
            }
            emit(
                    site,
                    visit,
                    check,
                    new Event.ReviewAsked(
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
        return Arrays.stream(Command.ReviewVerdict.values())
                .filter(v -> check.ways().containsKey(exit(v)))
                .map(Command.ReviewVerdict::word)
                .toList();
    }

    private static String exit(Command.ReviewVerdict verdict) {
        return switch (verdict) {
            case ACCEPT -> "pass";
            case MEASURE_AGAIN -> "measure again";
            case PUT_BACK -> "put back";
            case REFUSE -> "fail";
        };
    }

    private void emit(Site site, VisitId visit, Check check, Event event) {
        d.emit(Actor.SYSTEM, site.id(), check.id(), visit, event);
    }

    /** When it is judged again: while there is time to settle. */
    private Optional<Instant> next(Site site, VisitId visit, Check check) {
        if (check.settle() == null) {
            return Optional.empty();
        }
        Instant next = new Opening(d, site).after(check.every() == null ? USUAL_EVERY : check.every());
        return next.isAfter(until(site, visit, check)) ? Optional.empty() : Optional.of(next);
    }

    /** Fixed at the first judging; kept by the visit from then on (D28). */
    private Instant until(Site site, VisitId visit, Check check) {
        return d.now()
                .visit(visit)
                .filter(v -> v.settling() != null)
                .map(v -> v.settling().until())
                .orElseGet(() -> new Opening(d, site)
                        .after(Optional.ofNullable(check.settle()).orElseThrow()));
    }

    // --- review

    Optional<Refusal> review(Command.ReviewCheck c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.Review review)) {
            return Optional.of(d.tooLate(c.visit(), "review"));
        }
        Optional<PersonId> person = d.person();
        Parties parties = new Parties(d);
        if (person.isEmpty()
                || !parties.isOneOf(person.get(), review.to())
                        && !parties.isOneOf(d.principal().orElseThrow(), review.to())) {
            return Optional.of(Refusal.notYours("You were not asked to review '" + review.name() + "'."));
        }
        if (Texts.blank(c.reason()) && c.verdict() == Command.ReviewVerdict.ACCEPT) {
            return Optional.of(Refusal.invalid("reason", "Say why it is acceptable: the reason goes onto the record."));
        }
        if (c.reason() != null && (c.reason().length() > Texts.MAX_TEXT || !Texts.keepable(c.reason()))) {
            return Optional.of(Refusal.invalid("reason", "A reason has at most " + Texts.MAX_TEXT + " characters."));
        }
        Step step = d.step(visit.get());
        String exit = exit(c.verdict());
        StepId to = Deciding.way(step, exit);
        if (to == null) {
            return Optional.of(Refusal.invalid(
                    "verdict",
                    "'" + review.name() + "' has no way for '" + c.verdict().word() + "'. It has: "
                            + String.join(", ", verdicts(step)) + "."));
        }
        d.emit(
                d.actor,
                visit.get(),
                new Event.Reviewed(
                        person.get(), c.verdict().word(), exit, to, Texts.blank(c.reason()) ? null : c.reason()));
        return Optional.empty();
    }

    /** Judges single rules over what a site sees. */
    private record Rules(Deciding d, Site site, Map<String, Object> measured) {
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
            return d.expressions(site.run()).evaluate(expression, d.scope(site, measured)) instanceof Outcome.Value v
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
                    .map(s -> site.run().seen(site.place()).get(s.value()))
                    .map(v -> v.get("at"))
                    .map(at -> Instant.parse((String) at));
        }

        private @Nullable Long ageSeconds(Check.Rule rule) {
            return takenAt(rule.capture())
                    .map(at -> java.time.Duration.between(at, d.at()).toSeconds())
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
