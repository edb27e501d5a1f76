package dastur.core.run;

import dastur.core.expression.Clause;
import dastur.core.expression.Outcome;
import dastur.core.expression.Verdict;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * Waits for conditions and signals; and is there still somebody whom an open task or approval waits for? People leave
 * groups after they were asked (D7, D12, D17).
 */
final class Waits {
    private final Deciding d;

    Waits(Deciding d) {
        this.d = d;
    }

    // --- conditions

    /** Each change of the ticket is offered to all waits of the case (D7). */
    void settle() {
        open().filter(v -> v.waiting() instanceof Waiting.ForCondition).forEach(visit -> {
            Site site = d.site(visit);
            String condition = ((Waiting.ForCondition) visit.waiting()).condition();
            Clause.Explained explained = d.expressions(site.run()).explain(condition, d.scope(site));
            if (explained.verdict() == Verdict.TRUE) {
                StepId to = Deciding.way(d.step(visit), "done");
                d.emit(Actor.SYSTEM, visit, new Event.ConditionMet("done", to, explained));
            }
        });
    }

    private Stream<Visit> open() {
        return d.now().open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null)
                .toList()
                .stream();
    }

    // --- signals

    /** Begins to wait for a signal; one that came since the run started and that nobody waited for is taken at once. */
    void signal(Site site, VisitId visit, Step.Wait step, @Nullable Instant limit) {
        String name = Optional.ofNullable(step.signal()).orElseThrow();
        String key = null;
        if (!Texts.blank(step.key())) {
            key = Opening.evaluate(d, site, step.key()) instanceof Outcome.Value v
                    ? Texts.clip(String.valueOf(v.value()), 200)
                    : null;
            if (key == null) {
                throw new CannotOpen("no key", "'" + step.key() + "' has no value to tell the signal by.");
            }
        }
        Optional<Lookups.KeptSignal> kept = kept(name, key, site.run());
        d.emit(Actor.SYSTEM, site.id(), step.id(), visit, new Event.WaitBegan(limit, null, name, key, null));
        kept.ifPresent(s -> came(d.now().visit(visit).orElseThrow(), name, s.id(), s.values()));
    }

    /** The oldest that nothing took, in this decision neither: one signal counts once. */
    private Optional<Lookups.KeptSignal> kept(String name, @Nullable String key, Run run) {
        return d.lookups().keptSignal(name, key, run.startedAt()).filter(s -> !d.signalsTaken()
                .contains(s.id()));
    }

    Optional<Refusal> signalCame(Command.SignalCame c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.ForSignal waiting)) {
            return Optional.of(d.tooLate(c.visit(), "signal"));
        }
        came(visit.get(), waiting.signal(), c.signalId(), c.values());
        return Optional.empty();
    }

    private void came(Visit visit, String signal, String id, Map<String, Object> values) {
        StepId to = Deciding.way(d.step(visit), "done");
        d.signalsTaken().add(id);
        d.emit(d.actor, visit, new Event.SignalCame(signal, id, "done", to, values));
    }

    // --- replies

    /** What somebody has written is the reply that open visits wait for from them. */
    void written(PersonId by, String text) {
        List<Visit> waiting = open().filter(
                        v -> v.waiting() instanceof Waiting.ForReply reply && isOf(reply.from(), by))
                .toList();
        waiting.forEach(
                v -> d.emit(d.actor, v, new Event.ReplyCame(by, "done", Deciding.way(d.step(v), "done"), text)));
    }

    private boolean isOf(Assigned from, PersonId by) {
        return from.people().contains(by) || new Parties(d).active(from).contains(by);
    }

    // --- recheck

    Optional<Refusal> recheck() {
        open().forEach(v -> d.now().visit(v.id()).ifPresent(this::recheck));
        return Optional.empty();
    }

    private void recheck(Visit visit) {
        switch (visit.waiting()) {
            case Waiting.Task task
            when nobodyLeft(task) ->
                stall(
                        visit,
                        "nobody",
                        "Nobody can do '" + task.name() + "' any more: those it was offered to have left. Fill the"
                                + " group or hand it to somebody, then retry.");
            case Waiting.Votes votes
            when cannotBeMet(votes) ->
                stall(
                        visit,
                        "cannot be met",
                        "'" + votes.name() + "' needs " + votes.needed() + " approving, and too few of those asked"
                                + " are still active. Retry to ask anew.");
            // A signal could be kept while the wait was being written: neither saw the other (D12a).
            case Waiting.ForSignal w ->
                kept(w.signal(), w.key(), d.now().open().get(visit.id().run()))
                        .ifPresent(s -> came(visit, w.signal(), s.id(), s.values()));
            default -> {}
        }
    }

    private boolean nobodyLeft(Waiting.Task task) {
        if (task.claimedBy() != null && active(task.claimedBy())) {
            return false;
        }
        Parties parties = new Parties(d);
        return parties.active(task.to()).isEmpty()
                && (task.overseers() == null || parties.active(task.overseers()).isEmpty());
    }

    private boolean cannotBeMet(Waiting.Votes votes) {
        List<PersonId> left = votes.electorate().stream()
                .filter(p -> !votes.cast().containsKey(p) && active(p))
                .toList();
        return left.isEmpty()
                || !votes.enough(
                        Stream.concat(votes.approving().stream(), left.stream()).toList());
    }

    private boolean active(PersonId id) {
        return d.lookups().person(id).filter(Person::active).isPresent();
    }

    private void stall(Visit visit, String code, String why) {
        d.emit(Actor.CLOCK, visit, new Event.Stalled(code, why));
    }
}
