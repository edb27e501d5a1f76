package dastur.core.step.check;

import dastur.core.people.Cover;
import dastur.core.run.Assigned;
import dastur.core.run.RuleSeen;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.run.Waiting.Asked;
import java.util.List;
import java.util.Optional;

/** Somebody who looks at a check that does not hold. @param verdicts what can be said: those that lead on */
public record Review(String name, Assigned to, List<RuleSeen> rules, List<String> verdicts) implements Waiting.InRoom {
    @Override
    public Optional<Asked> asks() {
        return Optional.of(new Asked("review", name, to, null, null, null, Cover.Scope.DECISIONS));
    }

    @Override
    public boolean alive(Visit visit) {
        return !to.nobody();
    }

    public Review {
        rules = List.copyOf(rules);
        verdicts = List.copyOf(verdicts);
    }
}
