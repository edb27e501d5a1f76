package dastur.core.run;

import dastur.core.expression.Outcome;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Step;
import dastur.core.workflow.Trigger;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;

/** What a trigger starts on a ticket of its own, and how a routine ends with it (I6, I28). */
final class Routines {
    private static final String FAILED = "failed";

    private final Deciding d;

    Routines(Deciding d) {
        this.d = d;
    }

    /** What could not be started is refused before anything is written. */
    Optional<Refusal> raise(Command.RaiseByCause c) {
        if (!(c.live().trigger().when() instanceof Trigger.OfItself when)) {
            return Optional.of(Refusal.invalid("trigger", "This trigger listens to tickets or signals."));
        }
        Starting starting = new Starting(d);
        Map<String, Object> inputs = inputs(c, when);
        Optional<Refusal> refused = starting.refusedByCause(c.live(), when.kind(), inputs)
                .or(() -> new TicketRules(d)
                        .raise(new Command.RaiseTicket(when.kind(), Map.of("title", c.title()), null)));
        if (refused.isEmpty()) {
            d.emitTicket(new Event.Caused(c.cause()));
            starting.byCause(c.cause(), c.live(), inputs);
        }
        return refused;
    }

    /** What the caller gives, and what the trigger gives by itself. What it cannot say stays absent. */
    private Map<String, Object> inputs(Command.RaiseByCause c, Trigger.OfItself when) {
        Map<String, Object> inputs = new HashMap<>(Values.withoutBlank(c.inputs()));
        switch (when) {
            case Trigger.Called called -> {}
            case Trigger.TimeComes time ->
                time.inputs().forEach((name, value) -> {
                    Outcome outcome = d.engine
                            .ticketExpressions(d.lookups().fields())
                            .evaluate(value, d.scope(c.cause().moment()));
                    if (outcome instanceof Outcome.Value v) {
                        inputs.put(name, Values.normal(v.value()));
                    }
                });
        }
        return Values.withoutBlank(inputs);
    }

    /** A routine has ended when nothing runs on it any more, as its last run did. */
    void settle() {
        TicketKind kind = d.now().kind();
        boolean over = kind == TicketKind.ROUTINE
                && d.now().open().isEmpty()
                && d.now().runs().begun() > 0
                && !TicketKind.ended(d.now().state());
        if (over) {
            Event.Change change = new Event.Change(d.now().state(), how());
            d.emit(Actor.SYSTEM, null, null, null, new Event.TicketChanged(Map.of("state", change), null, null));
        }
    }

    /** As the last run that ended in this decision; nothing else ends one. */
    private String how() {
        for (Recorded r : d.events().reversed()) {
            if (r.event() instanceof Event.RunEnded e && r.run() != null) {
                return e.stopped()
                        ? TicketKind.STOPPED
                        : failed(r.run(), e.result()) ? FAILED : TicketKind.ROUTINE.solvedState();
            }
        }
        return TicketKind.STOPPED;
    }

    /** Whether a run's result is one of those that say that it failed. */
    private boolean failed(RunId id, String result) {
        Run run = d.before.open().get(id);
        Optional<Event.RunStarted> begun = d.events().stream()
                .filter(r -> id.equals(r.run()))
                .map(Recorded::event)
                .filter(Event.RunStarted.class::isInstance)
                .map(Event.RunStarted.class::cast)
                .findFirst();
        var version = run != null
                ? d.lookups().version(run.workflow(), run.version())
                : begun.flatMap(b -> d.lookups().version(b.workflow(), b.version()));
        return version.stream()
                .flatMap(v -> v.body().all())
                .anyMatch(s -> s instanceof Step.End end
                        && end.ending() == Step.Ending.FAILED
                        && end.result().equals(result));
    }
}
