package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.workflow.Step;
import java.util.List;
import java.util.Optional;

/** Ends lines, and with the last of them the run (D8). */
final class Ends {
    private final Deciding d;

    Ends(Deciding d) {
        this.d = d;
    }

    void end(Position position, VisitId visit, Step.End step) {
        if (step.message() != null && !step.message().isBlank()) {
            Optional<PersonId> requester = d.now().text("requester").map(PersonId::new);
            if (requester.isPresent()) {
                String title = d.now().text("title").orElse("");
                new Deliveries(d)
                        .queue(
                                position.id(),
                                step.id(),
                                visit,
                                Actor.SYSTEM,
                                "answer",
                                List.of(requester.get()),
                                d.now().id() + ": " + title,
                                new Parties(d).render(step.message(), position));
            }
        }
        d.emit(
                Actor.SYSTEM,
                position.id(),
                step.id(),
                visit,
                new Event.Ended(step.result(), step.ending() == Step.Ending.RUN, step.ending()));
        switch (step.ending()) {
            case RUN -> {
                d.run(position.id())
                        .open()
                        .values()
                        .forEach(v -> d.withdraw(Actor.SYSTEM, v, "the run ended with '" + step.result() + "'"));
                new RunEnds(d).end(position.id(), step.result());
            }
            case PUT_BACK -> new PutBacks(d).begin(position, step.result());
            case LINE, FAILED, LEAVE -> {
                Run after = d.run(position.id());
                if (after.open().isEmpty() && after.ready().isEmpty()) {
                    new RunEnds(d).end(position.id(), step.result());
                }
            }
        }
    }
}
