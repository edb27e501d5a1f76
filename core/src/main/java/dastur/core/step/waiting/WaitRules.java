package dastur.core.step.waiting;

import dastur.core.expression.Clause;
import dastur.core.expression.Outcome;
import dastur.core.expression.Verdict;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Lookups;
import dastur.core.run.Refusal;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.waiting.WaitEvents.ConditionMet;
import dastur.core.step.waiting.WaitEvents.ReplyCame;
import dastur.core.step.waiting.WaitEvents.WaitBegan;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.time.format.DateTimeParseException;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * WaitRules for conditions and signals; and is there still somebody whom an open task or approval waits for? People leave
 * groups after they were asked (D7, D12, D17).
 */
final class WaitRules {
    private final Here here;

    WaitRules(Here here) {
        this.here = here;
    }

    // --- conditions

    /** Begins to wait for what the step says. */
    void begin(VisitId visit, Wait step) {
        Instant limit = step.within() == null ? null : here.after(step.within());
        if (step.condition() != null) {
            began(visit, step, new WaitBegan(limit, step.condition(), null, null, null));
        } else if (step.replyOf() != null) {
            Assigned from = here.assigned(List.of(step.replyOf()));
            if (from.nobody()) {
                throw new CannotOpen("nobody", "'" + step.name() + "' waits for a reply of nobody.");
            }
            began(visit, step, new WaitBegan(limit, null, null, null, from));
        } else if (step.signal() != null) {
            signal(visit, step, limit);
        } else {
            Instant until = step.span() != null ? here.after(step.span()) : moment(step);
            began(visit, step, new WaitBegan(until, null, null, null, null));
        }
    }

    private void began(VisitId visit, Wait step, Event event) {
        here.emit(Actor.SYSTEM, step.id(), visit, event);
    }

    private Instant moment(Wait step) {
        Outcome outcome = here.evaluate(Optional.ofNullable(step.until()).orElse(""));
        if (outcome instanceof Outcome.Value v && v.value() instanceof String text) {
            try {
                return Instant.parse(text);
            } catch (DateTimeParseException e) {
                throw new CannotOpen("no time", "'" + step.until() + "' gives no time to wait for.");
            }
        }
        throw new CannotOpen("no time", "'" + step.until() + "' has no value to wait for. Fill it in, then retry.");
    }

    /** Each change of the ticket is offered to all waits of the case (D7). */
    void settle() {
        here.waiting().forEach(visit -> {
            if (visit.waiting() instanceof ForCondition wait) {
                Here there = here.at(visit);
                Clause.Explained explained = there.expressions().explain(wait.condition(), there.scope());
                if (explained.verdict() == Verdict.TRUE) {
                    StepId to = Here.way(here.step(visit), "done");
                    here.emit(Actor.SYSTEM, visit, new ConditionMet("done", to, explained));
                }
            }
        });
    }

    // --- signals

    /** Begins to wait for a signal; one that came since the run started and that nobody waited for is taken at once. */
    private void signal(VisitId visit, Wait step, @Nullable Instant limit) {
        String name = Optional.ofNullable(step.signal()).orElseThrow();
        String key = null;
        if (!Texts.blank(step.key())) {
            key = here.evaluate(step.key()) instanceof Outcome.Value v
                    ? Texts.clip(String.valueOf(v.value()), 200)
                    : null;
            if (key == null) {
                throw new CannotOpen("no key", "'" + step.key() + "' has no value to tell the signal by.");
            }
        }
        Optional<Lookups.KeptSignal> kept = kept(name, key, here.run());
        began(visit, step, new WaitBegan(limit, null, name, key, null));
        kept.ifPresent(s -> came(here.visit(visit).orElseThrow(), name, s.id(), s.values()));
    }

    /** The oldest that nothing took, in this decision neither: one signal counts once. A test takes none from others. */
    private Optional<Lookups.KeptSignal> kept(String name, @Nullable String key, Run run) {
        if (here.ticket().test() != null) {
            return Optional.empty();
        }
        return here.lookups().keptSignal(name, key, run.startedAt()).filter(s -> !here.taken(s.id()));
    }

    Optional<Refusal> signalCame(WaitCommands.SignalCame c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof ForSignal waiting)) {
            return Optional.of(here.tooLate(c.visit(), "signal"));
        }
        came(visit.get(), waiting.signal(), c.signalId(), c.values());
        return Optional.empty();
    }

    private void came(Visit visit, String signal, String id, Map<String, Object> values) {
        StepId to = Here.way(here.step(visit), "done");
        here.take(id);
        here.emit(here.actor(), visit, new WaitEvents.SignalCame(signal, id, "done", to, values));
    }

    // --- replies

    /** What somebody has written is the reply that open visits wait for from them. */
    void written(PersonId by, String text) {
        here.waiting()
                .filter(v -> v.waiting() instanceof ForReply reply && isOf(reply.from(), by))
                .forEach(v ->
                        here.emit(here.actor(), v, new ReplyCame(by, "done", Here.way(here.step(v), "done"), text)));
    }

    private boolean isOf(Assigned from, PersonId by) {
        return from.people().contains(by) || here.active(from).contains(by);
    }

    /** A signal could be kept while the wait was being written: neither saw the other (D12a). */
    void recheck(Visit visit) {
        if (visit.waiting() instanceof ForSignal w) {
            kept(w.signal(), w.key(), here.run()).ifPresent(s -> came(visit, w.signal(), s.id(), s.values()));
        }
    }
}
