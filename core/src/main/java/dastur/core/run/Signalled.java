package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Turn;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import java.time.Instant;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/** What signals do to a ticket: open it, join it, take it up again, restore it (I5, I7, I20, I24, I25). */
final class Signalled {
    private final Deciding d;

    Signalled(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> raise(Command.RaiseBySignal c) {
        Optional<Refusal> refused = new TicketRules(d).raise(new Command.RaiseTicket(c.kind(), c.fields(), null));
        if (refused.isEmpty()) {
            d.emitTicket(c.heard());
            new Starting(d).bySignal(c.looks(), c.starts());
        }
        return refused;
    }

    /** Raises it as a test of whoever acts. */
    Optional<Refusal> test(Command.RaiseTest c) {
        Command.RaiseBySignal what = c.what();
        Optional<Refusal> refused = new TicketRules(d).raise(new Command.RaiseTicket(what.kind(), what.fields(), null));
        if (refused.isEmpty()) {
            new Tests(d).mark();
            d.emitTicket(what.heard().ofNoMatter());
            new Starting(d).bySignal(what.looks(), what.starts());
        }
        return refused;
    }

    /** A ticket that has ended meanwhile takes nothing more: whoever routes looks again. */
    Optional<Refusal> hear(Command.HearSignals c) {
        if (TicketKind.ended(d.now().state())) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "The ticket has ended.", null));
        }
        d.emitTicket(c.heard());
        if (c.heard().because() != null) {
            // The ticket is not about it: what explains a fault is neither taken up again nor weighed by it.
            return Optional.empty();
        }
        if (c.heard().turn() == Turn.BEGINS) {
            takeUpAgain(c.heard().last());
        }
        if (c.heard().turn() == Turn.BEGINS || c.heard().turn() == Turn.WORSE) {
            raisePriority(c.heard().worst());
        }
        new Starting(d).bySignal(c.looks(), c.starts());
        return Optional.empty();
    }

    private void takeUpAgain(Instant back) {
        TicketKind kind = d.now().kind();
        if (kind == null || !d.now().state().equals(kind.solvedState())) {
            return;
        }
        kind.workedState().ifPresent(state -> new TicketRules(d)
                .edit(new Command.EditTicket(Map.of("state", state), "It came back at " + back + ".")));
    }

    /** Never lower than somebody has set it, and never where a person has chosen another priority. */
    private void raisePriority(@org.jspecify.annotations.Nullable Severity severity) {
        if (severity == null || somebodyChoseThePriority()) {
            return;
        }
        Map<String, Object> higher = new HashMap<>();
        higher(higher, "impact", severity.impact());
        higher(higher, "urgency", severity.urgency());
        if (!higher.isEmpty()) {
            new TicketRules(d).edit(new Command.EditTicket(higher, null));
        }
    }

    private boolean somebodyChoseThePriority() {
        boolean weighed = d.now().fields().get("impact") instanceof Long impact
                && d.now().fields().get("urgency") instanceof Long urgency
                && d.now()
                        .text("priority")
                        .filter(d.lookups().priorities().priority(impact, urgency)::equals)
                        .isPresent();
        return !weighed;
    }

    private void higher(Map<String, Object> higher, String field, long level) {
        if (d.now().fields().get(field) instanceof Long now && level < now) {
            higher.put(field, level);
        }
    }

    /** Restores it, or says that it could be. What a person is looking into is theirs: then it is only said. */
    Optional<Refusal> recover(Command.Recover c) {
        TicketKind kind = d.now().kind();
        if (kind == null || TicketKind.ended(d.now().state()) || d.now().state().equals(kind.solvedState())) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "Nothing is to be restored here any more.", null));
        }
        boolean aPersonHasIt = d.now().text("assignee").isPresent();
        boolean restores = c.as().restores() && !aPersonHasIt;
        d.emitTicket(new Event.RecoveryHeard(c.since(), restores));
        if (restores) {
            if (c.as().stopsRuns()) {
                stopRuns(c.as());
            }
            return new TicketRules(d)
                    .edit(new Command.EditTicket(
                            Map.of("state", kind.solvedState()), "It has been well since " + c.since() + "."));
        }
        return Optional.empty();
    }

    private void stopRuns(Matter.Recovery as) {
        Set<TriggerId> bySignals = new HashSet<>();
        for (Trigger.Live live : d.lookups().liveTriggers()) {
            if (live.trigger().when() instanceof Trigger.SignalComes) {
                bySignals.add(live.trigger().id());
            }
        }
        List<Run> stopped = d.now().open().values().stream()
                .filter(run -> run.trigger() != null && bySignals.contains(run.trigger()))
                .toList();
        stopped.forEach(run -> new RunEnds(d).stop(Actor.SYSTEM, run, "what it was started for has recovered"));
    }
}
