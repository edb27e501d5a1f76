package dastur.core.step.callin;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.CannotOpen;
import dastur.core.run.Climbs;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Wanted;
import dastur.core.step.callin.CallInEvents.CallInAnswered;
import dastur.core.step.callin.CallInEvents.CallInBegan;
import dastur.core.workflow.Rung;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Optional;

/** Calling people in, up a ladder, until somebody accepts (N20, N61). */
final class CallInRules {
    private final Here here;

    CallInRules(Here here) {
        this.here = here;
    }

    void begin(VisitId visit, Escalate step) {
        List<Event.PlannedRung> rungs = here.rungs(step.ladder());
        if (rungs.stream().noneMatch(r -> asks(r.deed()))) {
            throw new CannotOpen("nobody", "The ladder of '" + step.name() + "' asks nobody to come.");
        }
        here.emit(
                Actor.SYSTEM,
                step.id(),
                visit,
                new CallInBegan(step.name(), step.as(), rungs, here.after(step.within()), here.render(step.message())));
        here.fireWhatIsDue();
    }

    /** Whether a rung of a call-in asks somebody to come. */
    static boolean asks(Rung.Deed deed) {
        return deed instanceof Rung.Tell || deed instanceof Rung.Add || deed instanceof Rung.HandOver;
    }

    /** Asks a rung's people to come. */
    boolean rung(Visit visit, Rung.Deed deed, Climbs.Fired fired) {
        List<PersonId> more =
                switch (deed) {
                    case Rung.Tell t -> here.members(t.to());
                    case Rung.Add a -> here.members(a.to());
                    case Rung.HandOver h -> here.members(List.of(h.to()));
                    case Rung.Remind r -> null;
                    case Rung.RaisePriority r -> null;
                    case Rung.Decide d -> null;
                };
        if (more == null || !(visit.waiting() instanceof OpenCallIn callIn)) {
            return false;
        }
        fired.fired(more, null);
        Wanted wanted = here.wanted();
        here.tell(
                visit,
                Actor.CLOCK,
                "call-in",
                more,
                wanted.subject("You are called in: " + callIn.name()),
                wanted.of(visit));
        return true;
    }

    Optional<Refusal> answer(AnswerCallIn c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof OpenCallIn callIn)) {
            return Optional.of(here.tooLate(c.visit(), "call-in"));
        }
        Optional<PersonId> person = here.person();
        if (person.isEmpty() || !callIn.asked().contains(person.get())) {
            return Optional.of(Refusal.notYours("You were not called in for '" + callIn.name() + "'."));
        }
        StepId to = c.accepted() ? Here.way(here.step(visit.get()), "accepted") : null;
        here.emit(
                here.actor(),
                visit.get(),
                new CallInAnswered(
                        person.get(),
                        c.accepted(),
                        c.accepted() ? callIn.as() : null,
                        c.accepted() ? "accepted" : null,
                        to));
        if (!c.accepted()) {
            askNextAtOnce(c.visit());
        }
        return Optional.empty();
    }

    /** When all who were asked cannot come, the next rung need not wait for its time. */
    private void askNextAtOnce(VisitId id) {
        Visit visit = here.visit(id).orElseThrow();
        OpenCallIn callIn = (OpenCallIn) visit.waiting();
        if (callIn.cannot().containsAll(callIn.asked())) {
            here.fireNextRung(visit, CallInRules::asks);
        }
    }
}
