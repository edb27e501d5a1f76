package dastur.core.run;

import dastur.core.run.Visit.Alarm;
import dastur.core.run.Visit.AlarmKind;
import java.util.List;
import java.util.Map;

/** Folds what happens to checks. */
final class FoldChecks {
    private FoldChecks() {}

    static Case judged(Case c, Recorded r, Event.CheckJudged e) {
        Case opened = Fold.opened(
                c,
                r,
                new Waiting.Judging(e.nextAt(), e.until()),
                List.of(new Alarm(e.nextAt(), AlarmKind.JUDGE, 0, null)));
        return Fold.onVisit(
                opened,
                r,
                v -> v.settling(new Visit.Settling(
                        e.tries(),
                        e.until(),
                        v.settling() == null ? seen(e.seen()) : v.settling().first())));
    }

    static Case reviewAsked(Case c, Recorded r, Event.ReviewAsked e) {
        return Fold.opened(c, r, new Waiting.Review(e.name(), e.to(), seen(e.last()), e.sayable()), List.of());
    }

    private static List<RuleSeen> seen(@org.jspecify.annotations.Nullable List<RuleSeen> rules) {
        return rules == null ? List.of() : rules;
    }

    static Map<String, Object> values(Recorded r, Event.Checked e) {
        Map<String, Object> values = Fold.outcome(r, e.exit());
        values.put("tries", (long) e.tries());
        values.put("held", (long) e.held());
        values.put("rules", (long) e.rules());
        values.put(
                "sideEffects",
                seen(e.last()).stream()
                        .filter(RuleSeen::sideEffect)
                        .map(s -> (Object) s.name())
                        .toList());
        return values;
    }

    static Map<String, Object> reviewValues(Recorded r, Event.Reviewed e) {
        Map<String, Object> values = Fold.outcome(r, e.exit());
        values.put("by", e.by().value());
        if (e.reason() != null) {
            values.put("comment", e.reason());
        }
        return values;
    }
}
