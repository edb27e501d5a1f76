package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Optional;

/** Calling people in, up a ladder, until somebody accepts (N20, N61). */
final class CallIns {
    private final Deciding d;

    CallIns(Deciding d) {
        this.d = d;
    }

    void begin(Site site, VisitId visit, Step.Escalate step) {
        Opening opening = new Opening(d, site);
        List<Event.PlannedRung> rungs = opening.rungs(step.ladder());
        if (rungs.stream().noneMatch(r -> Alarms.asks(r.deed()))) {
            throw new CannotOpen("nobody", "The ladder of '" + step.name() + "' asks nobody to come.");
        }
        d.emit(
                Actor.SYSTEM,
                site.id(),
                step.id(),
                visit,
                new Event.CallInBegan(
                        step.name(),
                        step.as(),
                        rungs,
                        opening.after(step.within()),
                        new Parties(d).render(step.message(), site)));
        new Alarms(d).fire();
    }

    Optional<Refusal> answer(Command.AnswerCallIn c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.CallIn callIn)) {
            return Optional.of(d.tooLate(c.visit(), "call-in"));
        }
        Optional<PersonId> person = d.person();
        if (person.isEmpty() || !callIn.asked().contains(person.get())) {
            return Optional.of(Refusal.notYours("You were not called in for '" + callIn.name() + "'."));
        }
        StepId to = c.accepted() ? Deciding.way(d.step(visit.get()), "accepted") : null;
        d.emit(
                d.actor,
                visit.get(),
                new Event.CallInAnswered(
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
        Visit visit = d.now().visit(id).orElseThrow();
        Waiting.CallIn callIn = (Waiting.CallIn) visit.waiting();
        if (callIn.cannot().containsAll(callIn.asked())) {
            new Alarms(d).fireNextRung(visit);
        }
    }
}
