package dastur.core.step.calling;

import dastur.core.expression.Expressions;
import dastur.core.expression.Outcome;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.TextTemplate.Target;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.CannotOpen;
import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Place;
import dastur.core.run.Refusal;
import dastur.core.run.Remedied;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallRepeated;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.core.step.calling.CallingEvents.PutBackPlan;
import dastur.core.step.calling.CallingEvents.ResultKept;
import dastur.core.step.check.CheckEvents.Measured;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;

/** Starting, repeating and finishing automated steps (N14, N44, N47; D13, D15, D19). */
public final class CallRules {
    /** What the clock leaves beyond a call's own limit, so that a worker's answer at the limit still counts (D15). */
    private static final long LIMIT_GRACE_SECONDS = 30;

    private static final int MAX_OUTPUT = 8_000;

    private final Here here;

    public CallRules(Here here) {
        this.here = here;
    }

    void request(VisitId visit, Acting step, boolean guarded) {
        Action action = action(step.action());
        if (guarded && action.changesWorld()) {
            checkGuards();
        }
        Map<String, Object> inputs = new TreeMap<>();
        Optional<String> problem = bind(step.inputs(), action, inputs);
        if (problem.isPresent()) {
            failToOpen(visit, step, problem.get());
            return;
        }
        int tries = step.tries() == null ? action.tries() : step.tries();
        long limit = (step.timeLimit() == null ? action.timeLimit() : step.timeLimit()).roughSeconds();
        request(step.id(), visit, action, inputs, 1, tries, limit, null);
    }

    /** Something measures before it judges. An attempt is a judging: what fails is judged as not measured. */
    public void measure(VisitId visit, StepId step, ActionKey key, Map<String, String> expressions, int attempt) {
        Action action = action(key);
        Map<String, Object> inputs = new TreeMap<>();
        Optional<String> problem = bind(expressions, action, inputs);
        if (problem.isPresent()) {
            throw new CannotOpen("input missing", problem.get() + " Fill it in, then retry.");
        }
        request(
                step,
                visit,
                action,
                inputs,
                attempt,
                attempt,
                action.timeLimit().roughSeconds(),
                null);
    }

    /** Undoes a completed visit with the values frozen then (D16). */
    void putBack(VisitId visit, Run.PutBack back) {
        Action action = action(back.action());
        long limit = action.timeLimit().roughSeconds();
        request(back.step(), visit, action, back.inputs(), 1, action.tries(), limit, back.of());
    }

    private Action action(ActionKey key) {
        return here.lookups()
                .action(key)
                .orElseThrow(() -> new CannotOpen("no action", "The action '" + key + "' no longer exists."));
    }

    private void request(
            StepId step,
            VisitId visit,
            Action action,
            Map<String, Object> inputs,
            int attempt,
            int tries,
            long limit,
            @Nullable VisitId putsBack) {
        String key = attemptKey(visit, attempt);
        here.emit(
                new Actor.OfAction(action.key()),
                step,
                visit,
                new CallRequested(
                        action.key(),
                        action.name(),
                        attempt,
                        key,
                        action.repeat(),
                        action.changesWorld() && putsBack == null,
                        tries,
                        action.pause().roughSeconds(),
                        here.now().plusSeconds(limit + LIMIT_GRACE_SECONDS),
                        putsBack,
                        inputs,
                        call(action, inputs, key, limit)));
    }

    /** An approval binds until here: what it showed must still be so (D19). */
    private void checkGuards() {
        outdated(here).ifPresent(o -> {
            throw new CannotOpen(
                    "approval outdated",
                    "Since '" + o.guard().name() + "' was approved, this has changed: " + String.join(", ", o.changed())
                            + ". Ask again, or go on with a reason.");
        });
    }

    /**
     * The approval that holds a call up, the last that was given; empty when all of them fit. What was approved before a run was
     * called binds what it does too.
     */
    static Optional<Remedied.Outdated> outdated(Here here) {
        for (Run.Guard guard : here.run().guards().reversed()) {
            Set<String> changed = here.binds(guard) ? changed(here, guard) : Set.of();
            if (!changed.isEmpty()) {
                return Optional.of(new Remedied.Outdated(here.run().id(), guard, changed));
            }
        }
        VisitId caller = here.run().parent();
        return caller == null ? Optional.empty() : here.visit(caller).flatMap(v -> outdated(here.at(v)));
    }

    /** The paths whose values are otherwise than those who approved have seen. */
    private static Set<String> changed(Here here, Run.Guard guard) {
        Scope asked = here.at(here.run(), guard.place()).scope();
        Map<String, Object> current = new TreeMap<>();
        guard.shown().forEach(p -> Expressions.read(p, asked).ifPresent(v -> current.put(p, v)));
        Set<String> paths = new TreeSet<>(guard.values().keySet());
        paths.addAll(current.keySet());
        paths.removeIf(p -> Objects.equals(guard.values().get(p), current.get(p)));
        return paths;
    }

    /** Binds an action's inputs. Returns what is wrong with one of them. */
    private Optional<String> bind(Map<String, String> expressions, Action action, Map<String, Object> inputs) {
        for (Field input : action.inputs()) {
            Optional<String> problem = bind(expressions.get(input.name()), input, inputs);
            if (problem.isPresent()) {
                return problem;
            }
        }
        return Optional.empty();
    }

    private Optional<String> bind(@Nullable String expression, Field input, Map<String, Object> inputs) {
        if (Texts.blank(expression)) {
            return input.required() ? Optional.of("'" + input.label() + "' has no value.") : Optional.empty();
        }
        Outcome outcome = here.evaluate(expression);
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

    private void failToOpen(VisitId visit, Acting step, String why) {
        StepId to = Here.way(step, "failed");
        if (to == null && !here.endsItem()) {
            throw new CannotOpen("input missing", why + " Fill it in, then retry.");
        }
        here.emit(Actor.SYSTEM, step.id(), visit, new CallFailed("failed", to, 0, why));
        if (to == null) {
            endItem(here, "failed");
        }
    }

    /** Ends the item of a for each around a place as failed (D10). */
    private static void endItem(Here at, String result) {
        Place place = Objects.requireNonNull(at.place());
        Visit each = at.visit(place.bracket()).orElseThrow();
        at.emit(Actor.SYSTEM, each, new Event.LineEnded(place.index(), false, result));
    }

    private Event.Call call(Action action, Map<String, Object> inputs, String key, long limit) {
        Expressions expressions = here.expressionsOf(action);
        Scope scope = Scope.of(Map.of("input", inputs, "call", Map.of("key", key)), here.now());
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

    Optional<Refusal> result(CallResult c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty()
                || !(visit.get().waiting() instanceof CallUnderWay waiting)
                || waiting.attempt() != c.attempt()
                || waiting.came() != null) {
            late(c);
            return Optional.empty();
        }
        switch (c.outcome()) {
            case CallingCommands.CallOutcome.Done done -> done(visit.get(), waiting, done);
            case CallingCommands.CallOutcome.Failed failed -> failed(visit.get(), waiting, failed.why(), here.actor());
            case CallingCommands.CallOutcome.Unknown unknown ->
                unknown(visit.get(), waiting, unknown.why(), here.actor());
            case CallingCommands.CallOutcome.Fault fault -> fault(visit.get(), waiting, fault);
        }
        return Optional.empty();
    }

    /** Enters a result that nobody waits for any more; where the world may have changed, the run's owner must look. */
    private void late(CallResult c) {
        boolean changed = !(c.outcome() instanceof CallingCommands.CallOutcome.Failed)
                && !(c.outcome() instanceof CallingCommands.CallOutcome.Fault fault && !fault.sent())
                && here.actor() instanceof Actor.OfAction a
                && here.lookups()
                        .action(a.action())
                        .filter(Action::changesWorld)
                        .isPresent();
        boolean repeated = here.visit(c.visit()).isPresent();
        Case.Began run = here.ticket().began().get(c.visit().run());
        PersonId owner = changed && !repeated && run != null ? run.owner() : null;
        here.emit(
                here.actor(),
                c.visit().run(),
                c.visit(),
                switch (c.outcome()) {
                    case CallingCommands.CallOutcome.Done done ->
                        new Event.LateResult(c.attempt(), done.exit(), owner, Texts.clip(done.log(), MAX_OUTPUT));
                    case CallingCommands.CallOutcome.Failed f ->
                        new Event.LateResult(c.attempt(), "failed", owner, Texts.clip(f.why(), 500));
                    case CallingCommands.CallOutcome.Unknown u ->
                        new Event.LateResult(c.attempt(), "unknown", owner, Texts.clip(u.why(), 500));
                    case CallingCommands.CallOutcome.Fault f ->
                        new Event.LateResult(
                                c.attempt(), f.sent() ? "unknown" : "failed", owner, Texts.clip(f.why(), 500));
                });
    }

    /** A person says that an unsure call happened. */
    void happened(Visit visit) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        done(
                visit,
                waiting,
                new CallingCommands.CallOutcome.Done(
                        "ok", Map.of(), null, null, "A person said that it happened.", 0, 0));
    }

    private void done(Visit visit, CallUnderWay waiting, CallingCommands.CallOutcome.Done done) {
        Step step = here.step(visit);
        if (visit.putsBack() != null) {
            here.emit(here.actor(), visit, callDone("ok", null, waiting, done, visit, null));
            return;
        }
        if (Kinds.plays(step, Measures.class)) {
            Map<String, Object> outputs = Values.withoutBlank(done.outputs());
            here.emit(
                    here.actor(),
                    visit,
                    new Measured(waiting.attempt(), done.tookMillis(), outputs, Texts.clip(done.log(), MAX_OUTPUT)));
            measured(step, visit, outputs, null);
            return;
        }
        boolean over = here.puttingBack(visit);
        StepId to = over ? null : Here.way(step, done.exit());
        if (to == null && !over) {
            here.emit(
                    here.actor(),
                    visit,
                    new ResultKept(
                            done.exit(),
                            waiting.attempt(),
                            done.tookMillis(),
                            done.polls(),
                            done.reference(),
                            done.link(),
                            Values.withoutBlank(done.outputs()),
                            Texts.clip(done.log(), MAX_OUTPUT)));
            here.emit(
                    here.actor(),
                    visit,
                    new Event.Stalled(
                            "no way",
                            "'" + step.name() + "' came to '" + done.exit() + "', and no way leads on from there."));
            return;
        }
        PutBack back = done.exit().equals("ok") && step instanceof Acting a ? a.putBack() : null;
        here.emit(here.actor(), visit, callDone(done.exit(), to, waiting, done, visit, back));
    }

    /** A person says which way the run goes on from a result that has none of its own; what came of the call goes along. */
    void leave(Visit visit, CallUnderWay waiting, Came came, String exit, StepId to) {
        Step step = here.step(visit);
        CallingCommands.CallOutcome.Done done = new CallingCommands.CallOutcome.Done(
                exit,
                came.outputs(),
                came.reference(),
                came.link(),
                "It came to '" + came.exit() + "'; a person said how the run goes on.",
                came.tookMillis(),
                came.polls());
        PutBack back = came.exit().equals("ok") && step instanceof Acting a ? a.putBack() : null;
        here.emit(here.actor(), visit, callDone(exit, to, waiting, done, visit, back));
    }

    private CallDone callDone(
            String exit,
            @Nullable StepId to,
            CallUnderWay waiting,
            CallingCommands.CallOutcome.Done done,
            Visit visit,
            @Nullable PutBack back) {
        Map<String, Object> outputs = Values.withoutBlank(done.outputs());
        Here there = here.at(visit);
        Map<String, Object> frozen = back == null ? null : frozen(there, visit, back, outputs);
        VisitId stage = back == null ? null : there.stage(visit.place()).orElse(null);
        return new CallDone(
                exit,
                to,
                waiting.attempt(),
                done.tookMillis(),
                done.polls(),
                done.reference(),
                done.link(),
                back == null ? null : new PutBackPlan(stage, here.step(visit).name(), back.action(), back.always()),
                frozen,
                outputs,
                Texts.clip(done.log(), MAX_OUTPUT));
    }

    /** The inputs of a put-back as they are when its step is completed, its own outputs among them (D16). */
    private static Map<String, Object> frozen(Here there, Visit visit, PutBack back, Map<String, Object> outputs) {
        Here completed = there.at(there.with(visit, outputs), visit.place());
        Map<String, Object> inputs = new TreeMap<>();
        back.inputs().forEach((name, expression) -> {
            if (!Texts.blank(expression)
                    && completed.evaluate(expression) instanceof Outcome.Value v
                    && !Texts.blank(v.value())) {
                inputs.put(name, Values.normal(v.value()));
            }
        });
        return inputs;
    }

    private void failed(Visit visit, CallUnderWay waiting, String why, Actor by) {
        failed(visit, waiting, why, by, waiting.attempt() < waiting.tries());
    }

    /** @param again whether it is tried once more */
    private void failed(Visit visit, CallUnderWay waiting, String why, Actor by, boolean again) {
        String error = Texts.clip(why, 500);
        Step step = here.step(visit);
        if (measures(visit)) {
            here.emit(by, visit, new AttemptFailed(waiting.attempt(), false, null, null, error));
            measured(step, visit, Map.of(), error);
            return;
        }
        if (again) {
            int next = waiting.attempt() + 1;
            here.emit(
                    by,
                    visit,
                    new AttemptFailed(
                            waiting.attempt(),
                            false,
                            nextAt(visit.id(), waiting),
                            attemptKey(visit.id(), next),
                            error));
            return;
        }
        StepId to = visit.putsBack() != null ? null : Here.way(step, "failed");
        boolean endsItem = visit.putsBack() == null && here.at(visit).endsItem();
        boolean over = visit.putsBack() == null && here.puttingBack(visit);
        if (to != null || endsItem || over) {
            Here there = here.at(visit);
            here.emit(by, visit, new CallFailed("failed", over ? null : to, waiting.attempt(), error));
            if (to == null && endsItem && !over) {
                endItem(there, "failed");
            }
        } else {
            here.emit(by, visit, new AttemptFailed(waiting.attempt(), false, null, null, error));
            String what = visit.putsBack() == null ? "'" + step.name() + "'" : "Putting back '" + step.name() + "'";
            here.emit(
                    by,
                    visit,
                    new Event.Stalled("failed", what + " failed after " + tries(waiting.attempt()) + ": " + error));
        }
    }

    /** Whether what comes of the call is judged, and nothing fails by it. */
    private boolean measures(Visit visit) {
        return visit.putsBack() == null && Kinds.plays(here.step(visit), Measures.class);
    }

    private void measured(Step step, Visit visit, Map<String, Object> outputs, @Nullable String trouble) {
        Measures<Step> kind = Kinds.of(step, Measures.class);
        kind.measured(step, here.visit(visit.id()).orElseThrow(), outputs, trouble, here.at(visit));
    }

    private static String tries(int count) {
        return count == 1 ? "1 try" : count + " tries";
    }

    /** Another try would meet the same fault; what may have gone out all the same is for a person to find out (D13). */
    private void fault(Visit visit, CallUnderWay waiting, CallingCommands.CallOutcome.Fault fault) {
        boolean unsure = fault.sent() && waiting.repeat() != Action.Repeat.FREE && !measures(visit);
        if (unsure) {
            here.emit(here.actor(), visit, new CallUnsure(waiting.attempt(), Texts.clip(fault.why(), 500)));
        } else {
            failed(visit, waiting, fault.why(), here.actor(), false);
        }
    }

    /** Free and keyed calls repeat under the same key; one that must never repeat waits for a person (D13). */
    private void unknown(Visit visit, CallUnderWay waiting, String why, Actor by) {
        if (measures(visit)) {
            failed(visit, waiting, why, by);
            return;
        }
        boolean mayRepeat = waiting.repeat() != Action.Repeat.NEVER && waiting.attempt() < waiting.tries();
        if (mayRepeat) {
            here.emit(
                    by,
                    visit,
                    new AttemptFailed(
                            waiting.attempt(), true, nextAt(visit.id(), waiting), waiting.key(), Texts.clip(why, 500)));
        } else if (waiting.repeat() == Action.Repeat.FREE) {
            failed(visit, waiting, why, by);
        } else {
            here.emit(by, visit, new CallUnsure(waiting.attempt(), Texts.clip(why, 500)));
        }
    }

    /** A growing pause, with jitter of up to a quarter from the attempt's id (D3). */
    private Instant nextAt(VisitId visit, CallUnderWay waiting) {
        long pause = waiting.pauseSeconds() * 1000L << Math.min(10, waiting.attempt() - 1);
        long jitter = Math.floorMod(attemptKey(visit, waiting.attempt()).hashCode(), Math.max(1, pause / 4));
        return here.now().plusMillis(pause + jitter);
    }

    // --- clock and people

    void rang(Visit visit, Visit.Alarm alarm) {
        if (alarm.kind() == Visit.AlarmKind.RETRY) {
            CallUnderWay waiting = (CallUnderWay) visit.waiting();
            repeat(visit, waiting, waiting.key(), Actor.CLOCK);
        } else {
            timeLimit(visit);
        }
    }

    /** A plain retry could do it twice, or do what was not approved. */
    Optional<String> retryDoesNotFit(Visit visit) {
        CallUnderWay call = visit.waiting() instanceof CallUnderWay c ? c : null;
        if (call != null && call.came() != null) {
            return Optional.of("It has happened and came to '" + call.came().exit() + "'; take an exit.");
        }
        boolean outdated = visit.stall() != null
                && visit.stall().code().equals("approval outdated")
                && outdated(here).isPresent();
        return call != null && call.unsure() || outdated
                ? Optional.of("Say whether it happened, or ask again; a plain retry could do it twice.")
                : Optional.empty();
    }

    /** A person says by which exit it goes on; what came of the call, if it has, goes along. */
    void takeExit(Visit visit, String exit, StepId to) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        if (waiting.came() == null) {
            here.emit(here.actor(), visit, new Event.Left(exit, to, "taken by hand"));
        } else {
            leave(visit, waiting, waiting.came(), exit, to);
        }
    }

    /** Starts the next attempt, under a key of its own or the kept one. */
    void repeatAnew(Visit visit, Actor by) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        repeat(visit, waiting, attemptKey(visit.id(), waiting.attempt() + 1), by);
    }

    private void repeat(Visit visit, CallUnderWay waiting, String key, Actor by) {
        Event.Call call = waiting.call();
        long limit = call == null ? 60 : call.limitSeconds();
        here.emit(
                by,
                visit,
                new CallRepeated(
                        waiting.action(),
                        waiting.repeat(),
                        waiting.attempt() + 1,
                        key,
                        here.now().plusSeconds(limit + LIMIT_GRACE_SECONDS),
                        rekeyed(call, visit.id(), key)));
    }

    /** Whatever carries the key of an earlier attempt, in path, headers or body, carries that of this one (D13). */
    private static Event.@Nullable Call rekeyed(Event.@Nullable Call call, VisitId visit, String key) {
        if (call == null) {
            return null;
        }
        Pattern earlier = Pattern.compile("(?<![\\w.-])" + Pattern.quote(visit.value()) + "\\.\\d+(?![\\w-]|\\.\\w)");
        UnaryOperator<String> anew = text -> earlier.matcher(text).replaceAll(Matcher.quoteReplacement(key));
        Map<String, String> headers = new TreeMap<>();
        call.headers().forEach((name, value) -> headers.put(name, anew.apply(value)));
        return new Event.Call(
                call.connection(),
                call.method(),
                anew.apply(call.path()),
                headers,
                call.body() == null ? null : anew.apply(call.body()),
                call.poll(),
                call.outputs(),
                call.results(),
                call.limitSeconds());
    }

    private void timeLimit(Visit visit) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        String why = "No answer within the time limit.";
        if (waiting.repeat() == Action.Repeat.FREE || measures(visit)) {
            failed(visit, waiting, why, Actor.CLOCK);
        } else {
            here.emit(Actor.CLOCK, visit, new CallUnsure(waiting.attempt(), why));
        }
    }
}
