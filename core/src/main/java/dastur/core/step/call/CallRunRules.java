package dastur.core.step.call;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Run;
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Waiting;
import dastur.core.step.call.CallEvents.CalledEnded;
import dastur.core.step.call.CallEvents.WorkflowCalled;
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
final class CallRunRules {
    private static final int MAX_DEPTH = 8;

    private final Here here;

    CallRunRules(Here here) {
        this.here = here;
    }

    void call(VisitId visit, Call step) {
        Optional<WorkflowVersion> version = here.lookups()
                .liveVersion(step.workflow())
                .flatMap(n -> here.lookups().version(step.workflow(), n));
        if (version.isEmpty()) {
            throw new CannotOpen(
                    "no workflow", "The workflow '" + step.workflow() + "' is not published. Publish it, then retry.");
        }
        if (step.on() != null ? here.run().depth() + 1 >= MAX_DEPTH : depth(here.run()) >= MAX_DEPTH) {
            throw new CannotOpen(
                    "too deep", "Workflows have called each other " + MAX_DEPTH + " deep. Look for a circle.");
        }
        Map<String, Object> inputs = new TreeMap<>();
        for (Field field : version.get().startForm()) {
            Object value = value(step, field);
            if (!Texts.blank(value)) {
                inputs.put(field.name(), value);
            }
            field.problemWith(value).ifPresent(problem -> {
                throw new CannotOpen("input missing", problem + " Mend it, then retry.");
            });
        }
        if (step.on() != null) {
            new SentCalls(here).send(visit, step, step.on(), version.get(), inputs);
            return;
        }
        RunId child = RunId.of(here.ticket().id(), here.ticket().runs().begun() + 1);
        here.emit(
                Actor.SYSTEM,
                step.id(),
                visit,
                new WorkflowCalled(step.workflow(), version.get().number(), child));
        here.startCalled(version.get(), visit, inputs);
    }

    private int depth(Run run) {
        int depth = 1;
        Run at = run;
        while (at != null && at.parent() != null) {
            depth++;
            at = here.ticket().open().get(at.parent().run());
        }
        return depth;
    }

    private Object value(Call step, Field field) {
        String expression = step.inputs().get(field.name());
        if (Texts.blank(expression)) {
            return "";
        }
        return switch (here.evaluate(expression)) {
            case Outcome.Value v -> v.value();
            case Outcome.Absent a -> "";
            case Outcome.Failed f ->
                throw new CannotOpen("cannot compute", "'" + field.label() + "' cannot be computed: " + f.why());
        };
    }

    /** Callers whose run has ended go on with its result. */
    void settle() {
        List<Visit> ended = here.waiting()
                .filter(v -> v.waiting() instanceof Waiting.Called c && c.ended())
                .toList();
        for (Visit visit : ended) {
            Waiting.Called called = (Waiting.Called) visit.waiting();
            String result = Optional.ofNullable(called.result()).orElse("");
            String exit = called.stopped() ? "stopped" : result;
            Step step = here.step(visit);
            StepId to = Here.way(step, exit);
            if (to == null && !(called.stopped() && here.at(visit).endsItem())) {
                here.emit(
                        Actor.SYSTEM,
                        visit,
                        new Event.Stalled(
                                "no way",
                                "'" + step.name() + "' ended with '" + exit + "', and no way leads on from there."));
                continue;
            }
            TicketId ticket = called.run().ticket();
            here.emit(
                    Actor.SYSTEM,
                    visit,
                    new CalledEnded(
                            exit, to, result, ticket.equals(here.ticket().id()) ? null : ticket, called.results()));
            if (to == null) {
                here.lineEnded(visit, exit);
            }
        }
    }
}
