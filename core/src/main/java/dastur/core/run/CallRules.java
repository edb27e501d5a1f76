package dastur.core.run;

import dastur.core.expression.Expressions;
import dastur.core.expression.Outcome;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.TextTemplate.Target;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.run.Command.CallOutcome;
import dastur.core.run.Event.Change;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Starting, repeating and finishing automated steps (N14, N44, N47; D13, D15, D19). */
final class CallRules {
    /** What the clock leaves beyond a call's own limit, so that a worker's answer at the limit still counts (D15). */
    private static final long LIMIT_GRACE_SECONDS = 30;

    private static final int MAX_OUTPUT = 8_000;

    private final Deciding d;

    CallRules(Deciding d) {
        this.d = d;
    }

    void request(Run run, VisitId visit, Step.Automation step, boolean guarded) {
        Action action = d.lookups()
                .action(step.action())
                .orElseThrow(() -> new CannotOpen("no action", "The action '" + step.action() + "' no longer exists."));
        if (guarded && action.changesWorld()) {
            checkGuards(run);
        }
        Map<String, Object> inputs = new TreeMap<>();
        for (Field input : action.inputs()) {
            Optional<String> problem = bind(run, step, input, inputs);
            if (problem.isPresent()) {
                failToOpen(run, visit, step, problem.get());
                return;
            }
        }
        String key = attemptKey(visit, 1);
        long limit = (step.timeLimit() == null ? action.timeLimit() : step.timeLimit()).roughSeconds();
        d.emit(
                new Actor.OfAction(action.key()),
                run.id(),
                step.id(),
                visit,
                new Event.CallRequested(
                        action.key(),
                        action.name(),
                        1,
                        key,
                        action.repeat(),
                        action.changesWorld(),
                        step.tries() == null ? action.tries() : step.tries(),
                        action.pause().roughSeconds(),
                        d.at().plusSeconds(limit + LIMIT_GRACE_SECONDS),
                        inputs,
                        call(action, inputs, key, limit)));
    }

    /** An approval binds until here: what it showed must still be so (D19). */
    private void checkGuards(Run run) {
        for (Run.Guard guard : run.guards()) {
            Map<String, Object> current = new TreeMap<>();
            Step.Approval approval = (Step.Approval) d.version(run).step(guard.approval());
            approval.shown().forEach(p -> Expressions.read(p, d.scope(run)).ifPresent(v -> current.put(p, v)));
            Map<String, Change> changed = ApprovalRules.differences(guard.values(), current);
            if (!changed.isEmpty()) {
                throw new CannotOpen(
                        "approval outdated",
                        "Since '" + approval.name() + "' was approved, this has changed: "
                                + String.join(", ", changed.keySet()) + ". Ask again, or go on with a reason.");
            }
        }
    }

    private Optional<String> bind(Run run, Step.Automation step, Field input, Map<String, Object> inputs) {
        String expression = step.inputs().get(input.name());
        if (Texts.blank(expression)) {
            return input.required() ? Optional.of("'" + input.label() + "' has no value.") : Optional.empty();
        }
        Outcome outcome = Opening.evaluate(d, run, expression);
        return switch (outcome) {
            case Outcome.Value v -> {
                Object value = Values.normal(v.value());
                if (!Texts.blank(value)) {
                    inputs.put(input.name(), value);
                }
                yield input.problemWith(value);
            }
            case Outcome.Absent a ->
                input.required()
                        ? Optional.of("'" + input.label() + "' has no value: " + a.what() + " is absent.")
                        : Optional.empty();
            case Outcome.Failed f -> Optional.of("'" + input.label() + "': " + f.why());
        };
    }

    private void failToOpen(Run run, VisitId visit, Step.Automation step, String why) {
        StepId to = Deciding.way(step, "failed");
        d.emit(
                Actor.SYSTEM,
                run.id(),
                step.id(),
                visit,
                to == null
                        ? new Event.Stalled("input missing", why + " Fill it in, then retry.")
                        : new Event.CallFailed("failed", to, 0, why));
    }

    private Event.Call call(Action action, Map<String, Object> inputs, String key, long limit) {
        Expressions expressions = d.engine.actionExpressions(action);
        Scope scope = Scope.of(Map.of("input", inputs, "call", Map.of("key", key)), d.at());
        Map<String, String> headers = new LinkedHashMap<>();
        if (action.call().headers() != null) {
            new TreeMap<>(action.call().headers())
                    .forEach((name, text) -> headers.put(
                            name,
                            TextTemplate.parse(text)
                                    .render(expressions, scope, Target.PLAIN)
                                    .text()));
        }
        String body = action.call().body();
        return new Event.Call(
                action.connection(),
                action.call().method(),
                TextTemplate.parse(action.call().path())
                        .render(expressions, scope, Target.URL)
                        .text(),
                headers,
                body == null
                        ? null
                        : TextTemplate.parse(body)
                                .render(expressions, scope, Target.JSON)
                                .text(),
                action.call().poll(),
                action.outputs(),
                action.results(),
                limit);
    }

    /** The idempotency key of an attempt: unique over all tickets, and the same for the same attempt. */
    private static String attemptKey(VisitId visit, int attempt) {
        return visit.value() + "." + attempt;
    }

    // --- results

    Optional<Refusal> result(Command.CallResult c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty()
                || !(visit.get().waiting() instanceof Waiting.CallResult waiting)
                || waiting.attempt() != c.attempt()) {
            d.emit(d.actor, c.visit().run(), null, c.visit(), late(c));
            return Optional.empty();
        }
        switch (c.outcome()) {
            case CallOutcome.Done done -> done(visit.get(), waiting, done);
            case CallOutcome.Failed failed -> failed(visit.get(), waiting, failed.why(), d.actor);
            case CallOutcome.Unknown unknown -> unknown(visit.get(), waiting, unknown.why(), d.actor);
        }
        return Optional.empty();
    }

    private static Event late(Command.CallResult c) {
        return switch (c.outcome()) {
            case CallOutcome.Done done ->
                new Event.LateResult(c.attempt(), done.exit(), Texts.clip(done.log(), MAX_OUTPUT));
            case CallOutcome.Failed f -> new Event.LateResult(c.attempt(), "failed", Texts.clip(f.why(), 500));
            case CallOutcome.Unknown u -> new Event.LateResult(c.attempt(), "unknown", Texts.clip(u.why(), 500));
        };
    }

    private void done(Visit visit, Waiting.CallResult waiting, CallOutcome.Done done) {
        Step step = d.step(visit);
        StepId to = Deciding.way(step, done.exit());
        if (to == null) {
            d.emit(
                    d.actor,
                    visit,
                    new Event.Stalled(
                            "no way",
                            "'" + step.name() + "' came to '" + done.exit() + "', and no way leads on from there."));
            return;
        }
        d.emit(
                d.actor,
                visit,
                new Event.CallDone(
                        done.exit(),
                        to,
                        waiting.attempt(),
                        done.tookMillis(),
                        done.polls(),
                        done.reference(),
                        done.link(),
                        Values.withoutBlank(done.outputs()),
                        Texts.clip(done.log(), MAX_OUTPUT)));
    }

    private void failed(Visit visit, Waiting.CallResult waiting, String why, Actor by) {
        String error = Texts.clip(why, 500);
        if (waiting.attempt() < waiting.tries()) {
            int next = waiting.attempt() + 1;
            d.emit(
                    by,
                    visit,
                    new Event.AttemptFailed(
                            waiting.attempt(),
                            false,
                            nextAt(visit.id(), waiting),
                            attemptKey(visit.id(), next),
                            error));
            return;
        }
        Step step = d.step(visit);
        StepId to = Deciding.way(step, "failed");
        if (to != null) {
            d.emit(by, visit, new Event.CallFailed("failed", to, waiting.attempt(), error));
        } else {
            d.emit(by, visit, new Event.AttemptFailed(waiting.attempt(), false, null, null, error));
            d.emit(
                    by,
                    visit,
                    new Event.Stalled(
                            "failed", "'" + step.name() + "' failed after " + tries(waiting.attempt()) + ": " + error));
        }
    }

    private static String tries(int count) {
        return count == 1 ? "1 try" : count + " tries";
    }

    /** Free and keyed calls repeat under the same key; one that must never repeat waits for a person (D13). */
    private void unknown(Visit visit, Waiting.CallResult waiting, String why, Actor by) {
        boolean mayRepeat = waiting.repeat() != Action.Repeat.NEVER && waiting.attempt() < waiting.tries();
        if (mayRepeat) {
            d.emit(
                    by,
                    visit,
                    new Event.AttemptFailed(
                            waiting.attempt(), true, nextAt(visit.id(), waiting), waiting.key(), Texts.clip(why, 500)));
        } else if (waiting.repeat() == Action.Repeat.FREE) {
            failed(visit, waiting, why, by);
        } else {
            d.emit(by, visit, new Event.CallUnsure(waiting.attempt(), Texts.clip(why, 500)));
        }
    }

    /** A growing pause, with jitter of up to a quarter from the attempt's id (D3). */
    private Instant nextAt(VisitId visit, Waiting.CallResult waiting) {
        long pause = waiting.pauseSeconds() * 1000L << Math.min(10, waiting.attempt() - 1);
        long jitter = Math.floorMod(attemptKey(visit, waiting.attempt()).hashCode(), Math.max(1, pause / 4));
        return d.at().plusMillis(pause + jitter);
    }

    // --- clock

    void repeat(Visit visit) {
        Waiting.CallResult waiting = (Waiting.CallResult) visit.waiting();
        repeat(visit, waiting, waiting.key(), Actor.CLOCK);
    }

    /** Starts the next attempt, under a key of its own or the kept one. */
    void repeatAnew(Visit visit, Actor by) {
        Waiting.CallResult waiting = (Waiting.CallResult) visit.waiting();
        repeat(visit, waiting, attemptKey(visit.id(), waiting.attempt() + 1), by);
    }

    private void repeat(Visit visit, Waiting.CallResult waiting, String key, Actor by) {
        Event.Call call = waiting.call();
        long limit = call == null ? 60 : call.limitSeconds();
        d.emit(
                by,
                visit,
                new Event.CallRepeated(
                        waiting.action(),
                        waiting.repeat(),
                        waiting.attempt() + 1,
                        key,
                        d.at().plusSeconds(limit + LIMIT_GRACE_SECONDS),
                        rekeyed(call, visit.id(), key)));
    }

    /** A header that carries the key of an earlier attempt carries that of this one. */
    private static Event.@Nullable Call rekeyed(Event.@Nullable Call call, VisitId visit, String key) {
        if (call == null) {
            return null;
        }
        String earlier = java.util.regex.Pattern.quote(visit.value()) + "\\.\\d+";
        Map<String, String> headers = new TreeMap<>();
        call.headers().forEach((name, value) -> headers.put(name, value.matches(earlier) ? key : value));
        return new Event.Call(
                call.connection(),
                call.method(),
                call.path(),
                headers,
                call.body(),
                call.poll(),
                call.outputs(),
                call.results(),
                call.limitSeconds());
    }

    void timeLimit(Visit visit) {
        Waiting.CallResult waiting = (Waiting.CallResult) visit.waiting();
        String why = "No answer within the time limit.";
        if (waiting.repeat() == Action.Repeat.FREE) {
            failed(visit, waiting, why, Actor.CLOCK);
        } else {
            d.emit(Actor.CLOCK, visit, new Event.CallUnsure(waiting.attempt(), why));
        }
    }
}
