package dastur.core.run;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;

/** Runs that other runs called (N19, D11). */
final class CalledRuns {
    private static final int MAX_DEPTH = 8;

    private final Deciding d;

    CalledRuns(Deciding d) {
        this.d = d;
    }

    void call(Site site, VisitId visit, Step.Call step) {
        Optional<WorkflowVersion> version = d.lookups()
                .liveVersion(step.workflow())
                .flatMap(n -> d.lookups().version(step.workflow(), n));
        if (version.isEmpty()) {
            throw new CannotOpen(
                    "no workflow", "The workflow '" + step.workflow() + "' is not published. Publish it, then retry.");
        }
        if (step.on() != null ? site.run().depth() + 1 >= MAX_DEPTH : depth(site.run()) >= MAX_DEPTH) {
            throw new CannotOpen(
                    "too deep", "Workflows have called each other " + MAX_DEPTH + " deep. Look for a circle.");
        }
        Map<String, Object> inputs = new TreeMap<>();
        for (Field field : version.get().startForm()) {
            Object value = value(site, step, field);
            if (!Texts.blank(value)) {
                inputs.put(field.name(), value);
            }
            field.problemWith(value).ifPresent(problem -> {
                throw new CannotOpen("input missing", problem + " Mend it, then retry.");
            });
        }
        if (step.on() != null) {
            new SentRuns(d).send(site, visit, step, step.on(), version.get(), inputs);
            return;
        }
        RunId child = RunId.of(d.now().id(), d.now().runs() + 1);
        d.emit(
                Actor.SYSTEM,
                site.id(),
                step.id(),
                visit,
                new Event.WorkflowCalled(step.workflow(), version.get().number(), child));
        new Starting(d).start(version.get(), null, site.run().depth() + 1, visit, inputs, Actor.SYSTEM);
    }

    private int depth(Run run) {
        int depth = 1;
        Run at = run;
        while (at != null && at.parent() != null) {
            depth++;
            at = d.now().open().get(at.parent().run());
        }
        return depth;
    }

    private Object value(Site site, Step.Call step, Field field) {
        String expression = step.inputs().get(field.name());
        if (Texts.blank(expression)) {
            return "";
        }
        return switch (Opening.evaluate(d, site, expression)) {
            case Outcome.Value v -> v.value();
            case Outcome.Absent a -> "";
            case Outcome.Failed f ->
                throw new CannotOpen("cannot compute", "'" + field.label() + "' cannot be computed: " + f.why());
        };
    }

    /** Callers whose run has ended go on with its result. */
    void settle() {
        List<Visit> ended = d.now().open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null && v.waiting() instanceof Waiting.Called c && c.ended())
                .toList();
        for (Visit visit : ended) {
            Waiting.Called called = (Waiting.Called) visit.waiting();
            String result = Optional.ofNullable(called.result()).orElse("");
            String exit = called.stopped() ? "stopped" : result;
            Step step = d.step(visit);
            StepId to = Deciding.way(step, exit);
            if (to == null && !(called.stopped() && new Brackets(d).endsItem(d.site(visit)))) {
                d.emit(
                        Actor.SYSTEM,
                        visit,
                        new Event.Stalled(
                                "no way",
                                "'" + step.name() + "' ended with '" + exit + "', and no way leads on from there."));
                continue;
            }
            TicketId ticket = called.run().ticket();
            d.emit(
                    Actor.SYSTEM,
                    visit,
                    new Event.CalledEnded(
                            exit, to, result, ticket.equals(d.now().id()) ? null : ticket, called.results()));
            if (to == null) {
                new Brackets(d).lineEnded(visit, exit);
            }
        }
    }
}
