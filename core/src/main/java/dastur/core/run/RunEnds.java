package dastur.core.run;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Ends runs: first puts back what was switched off for a time, then gives the results to the caller (N21, D11). */
final class RunEnds {
    private static final String CANCELLED = "cancelled";

    private final Deciding d;

    RunEnds(Deciding d) {
        this.d = d;
    }

    /** Ends a run in which nothing is open any more. */
    void end(RunId id, String result) {
        Run run = d.run(id);
        if (run.puttingBack().isEmpty() && run.putBacks().stream().anyMatch(Run.PutBack::waitsForSuccess)) {
            new PutBacks(d).begin(run, null, false, result, false);
        } else {
            finish(run, result, false);
        }
    }

    void finish(Run run, String result, boolean stopped) {
        Map<String, Object> results = stopped ? Map.of() : results(run);
        d.emit(
                Actor.SYSTEM,
                run.id(),
                null,
                null,
                new Event.RunEnded(
                        result,
                        stopped,
                        waitsElsewhere(run),
                        run.stillOff().isEmpty() ? null : run.stillOff(),
                        results.isEmpty() ? null : results));
    }

    /**
     * Nobody goes on working for a ticket that was cancelled, or a routine that was stopped: its runs end with it, but for the one that cancelled it, with those
     * that have called that one. What is started because of it goes on.
     */
    void endWithTicket() {
        String state = d.now().state();
        boolean takenAway = state.equals(CANCELLED) || state.equals(TicketKind.STOPPED);
        if (!takenAway || d.before.state().equals(state)) {
            return;
        }
        Set<RunId> going = withCallers(d.setterOf("state"));
        for (RunId id : d.before.open().keySet()) {
            Run run = d.now().open().get(id);
            if (run != null && !going.contains(id)) {
                stop(d.actor, run, "the ticket was " + state);
            }
        }
    }

    private Set<RunId> withCallers(Optional<RunId> run) {
        Set<RunId> all = new HashSet<>();
        Optional<RunId> next = run;
        while (next.isPresent() && all.add(next.get())) {
            next = Optional.ofNullable(d.now().open().get(next.get()))
                    .map(Run::parent)
                    .map(VisitId::run);
        }
        return all;
    }

    /** Stops a run: what is open is withdrawn, and what it has not put back is said. @param why completes "withdrawn because …" */
    void stop(Actor by, Run run, String why) {
        run.open().values().forEach(v -> d.withdraw(by, v, why));
        Run left = d.run(run.id());
        List<String> off = left.putBacks().stream().map(Run.PutBack::name).toList();
        stopped(by, left, off.isEmpty() ? null : off);
    }

    /** Ends a run that was withdrawn or stopped. */
    void stopped(Actor by, Run run, @Nullable List<String> off) {
        d.emit(by, run.id(), null, null, new Event.RunEnded("stopped", true, waitsElsewhere(run), off, null));
    }

    /** The visit of another ticket that waits for this run. */
    private static @Nullable VisitId waitsElsewhere(Run run) {
        VisitId parent = run.parent();
        return parent == null || parent.ticket().equals(run.id().ticket()) ? null : parent;
    }

    private Map<String, Object> results(Run run) {
        Map<String, Object> results = new TreeMap<>();
        for (WorkflowVersion.Result r : d.version(run).results()) {
            Outcome outcome = d.expressions(run).evaluate(r.value(), d.scope(new Position(run, null)));
            if (outcome instanceof Outcome.Value v && !Texts.blank(v.value())) {
                results.put(r.field().name(), v.value());
            }
        }
        return results;
    }
}
