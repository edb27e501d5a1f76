package dastur.core.step.callin;

import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.VisitId;
import java.util.Optional;

/** Somebody who was called in says whether they come. */
public record AnswerCallIn(VisitId visit, boolean accepted) implements Command.Answering {
    @Override
    public Optional<Refusal> treat(Here here) {
        return new CallInRules(here).answer(this);
    }
}
