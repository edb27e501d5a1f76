package dastur.core.step.tally;

import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import java.util.Optional;

/** Somebody says how many they have counted. */
public record Count(VisitId visit, int some, String where) implements Command.Answering {
    @Override
    public Optional<Refusal> treat(Here here) {
        Optional<Visit> open = here.visit(visit);
        if (open.isEmpty() || !(open.get().waiting() instanceof Counting counting)) {
            return Optional.of(here.tooLate(visit, "tally"));
        }
        Optional<PersonId> person = here.person().filter(p -> here.isOneOf(p, counting.counters()));
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("You were not asked to count."));
        }
        if (some < 1) {
            return Optional.of(Refusal.invalid("some", "Count at least one."));
        }
        here.emit(here.actor(), open.get(), new TallyEvents.Counted(person.get(), some, where));
        int total = counting.soFar() + some;
        if (total >= counting.target()) {
            here.emit(
                    here.actor(),
                    open.get(),
                    new TallyEvents.TallyFull("full", Here.way(here.step(open.get()), "full"), total));
        }
        return Optional.empty();
    }
}
