package dastur.core.run;

import dastur.core.expression.Expressions;
import dastur.core.expression.Outcome;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.TextTemplate.Target;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Command.CallOutcome;
import dastur.core.run.Event.Change;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Check;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
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

    void request(Site site, VisitId visit, Step.Acting step, boolean guarded) {
        Action action = action(step.action());
        if (guarded && action.changesWorld()) {
            checkGuards(site);
        }
        Map<String, Object> inputs = new TreeMap<>();
        Optional<String> problem = bind(site, step.inputs(), action, inputs);
        if (problem.isPresent()) {
            failToOpen(site, visit, step, problem.get());
            return;
        }
        int tries = step.tries() == null ? action.tries() : step.tries();
        long limit = (step.timeLimit() == null ? action.timeLimit() : step.timeLimit()).roughSeconds();
        request(site.id(), step.id(), visit, action, inputs, 1, tries, limit, null);
    }

    /** A check measures before it judges. An attempt is a judging: what fails is judged as not measured. */
    void measure(Site site, VisitId visit, Check check, int attempt) {
        Action action = action(check.measure());
        Map<String, Object> inputs = new TreeMap<>();
        Optional<String> problem = bind(site, check.inputs(), action, inputs);
        if (problem.isPresent()) {
            throw new CannotOpen("input missing", problem.get() + " Fill it in, then retry.");
        }
        long limit = action.timeLimit().roughSeconds();
        request(site.id(), check.id(), visit, action, inputs, attempt, attempt, limit, null);
    }

    /** Undoes a completed visit with the values frozen then (D16). */
    void putBack(Run run, VisitId visit, Run.PutBack back) {
        Action action = action(back.action());
        long limit = action.timeLimit().roughSeconds();
        request(run.id(), back.step(), visit, action, back.inputs(), 1, action.tries(), limit, back.of());
    }

    private Action action(ActionKey key) {
        return d.lookups()
                .action(key)
                .orElseThrow(() -> new CannotOpen("no action", "The action '" + key + "' no longer exists."));
    }

    private void request(
            RunId run,
            StepId step,
            VisitId visit,
            Action action,
            Map<String, Object> inputs,
            int attempt,
            int tries,
            long limit,
            @Nullable VisitId putsBack) {
        String key = attemptKey(visit, attempt);
        d.emit(
                new Actor.OfAction(action.key()),
                run,
                step,
                visit,
                new Event.CallRequested(
                        action.key(),
                        action.name(),
                        attempt,
                        key,
                        action.repeat(),
                        action.changesWorld() && putsBack == null,
                        tries,
                        action.pause().roughSeconds(),
                        d.at().plusSeconds(limit + LIMIT_GRACE_SECONDS),
                        putsBack,
                        inputs,
                        call(action, inputs, key, limit)));
    }

    /** An approval binds until here: what it showed must still be so (D19). */
    private void checkGuards(Site site) {
        outdated(site).ifPresent(o -> {
            throw new CannotOpen(
                    "approval outdated",
                    "Since '" + o.guard().name() + "' was approved, this has changed: " + String.join(", ", o.changed())
                            + ". Ask again, or go on with a reason.");
        });
    }

    /** An approval that no longer is about what is so. @param run the one it was asked in */
    record Outdated(RunId run, Run.Guard guard, Set<String> changed) {}

    /**
     * The approval that holds a call up, the last that was given; empty when all of them fit. What was approved before a run was
     * called binds what it does too.
     */
    Optional<Outdated> outdated(Site site) {
        for (Run.Guard guard : site.run().guards().reversed()) {
            Set<String> changed = Guards.binds(site.run(), guard, site.place())
                    ? changed(site.run(), guard).keySet()
                    : Set.of();
            if (!changed.isEmpty()) {
                return Optional.of(new Outdated(site.id(), guard, changed));
            }
        }
        VisitId caller = site.run().parent();
        return caller == null ? Optional.empty() : d.now().visit(caller).flatMap(v -> outdated(d.site(v)));
    }

    private Map<String, Change> changed(Run run, Run.Guard guard) {
        Map<String, Object> current = new TreeMap<>();
        Site asked = new Site(run, guard.place());
        guard.shown().forEach(p -> Expressions.read(p, d.scope(asked)).ifPresent(v -> current.put(p, v)));
        return ApprovalRules.differences(guard.values(), current);
    }

    /** Binds an action's inputs. Returns what is wrong with one of them. */
    private Optional<String> bind(
            Site site, Map<String, String> expressions, Action action, Map<String, Object> inputs) {
        for (Field input : action.inputs()) {
            Optional<String> problem = bind(site, expressions.get(input.name()), input, inputs);
            if (problem.isPresent()) {
                return problem;
            }
        }
        return Optional.empty();
    }

    private Optional<String> bind(Site site, @Nullable String expression, Field input, Map<String, Object> inputs) {
        if (Texts.blank(expression)) {
            return input.required() ? Optional.of("'" + input.label() + "' has no value.") : Optional.empty();
        }
        Outcome outcome = Opening.evaluate(d, site, expression);
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

    private void failToOpen(Site site, VisitId visit, Step.Acting step, String why) {
        StepId to = Deciding.way(step, "failed");
        if (to == null && !new Brackets(d).endsItem(site)) {
            d.emit(
                    Actor.SYSTEM,
                    site.id(),
                    step.id(),
                    visit,
                    new Event.Stalled("input missing", why + " Fill it in, then retry."));
            return;
        }
        d.emit(Actor.SYSTEM, site.id(), step.id(), visit, new Event.CallFailed("failed", to, 0, why));
        if (to == null) {
            endItem(site, "failed");
        }
    }

    /** Ends the item of a for each around a site as failed (D10). */
    private void endItem(Site site, String result) {
        Place place = java.util.Objects.requireNonNull(site.place());
        Visit each = d.run(site.id()).open().get(place.bracket());
        d.emit(Actor.SYSTEM, each, new Event.LineEnded(place.index(), false, result));
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
                || waiting.attempt() != c.attempt()
                || waiting.came() != null) {
            late(c);
            return Optional.empty();
        }
        switch (c.outcome()) {
            case CallOutcome.Done done -> done(visit.get(), waiting, done);
            case CallOutcome.Failed failed -> failed(visit.get(), waiting, failed.why(), d.actor);
            case CallOutcome.Unknown unknown -> unknown(visit.get(), waiting, unknown.why(), d.actor);
            case CallOutcome.Fault fault -> fault(visit.get(), waiting, fault);
        }
        return Optional.empty();
    }

    /** Enters a result that nobody waits for any more; where the world may have changed, the run's owner must look. */
    private void late(Command.CallResult c) {
        boolean changed = !(c.outcome() instanceof CallOutcome.Failed)
                && !(c.outcome() instanceof CallOutcome.Fault fault && !fault.sent())
                && d.actor instanceof Actor.OfAction a
                && d.lookups().action(a.action()).filter(Action::changesWorld).isPresent();
        boolean repeated = d.now().visit(c.visit()).isPresent();
        Case.Began run = d.now().began().get(c.visit().run());
        PersonId owner = changed && !repeated && run != null ? run.owner() : null;
        d.emit(
                d.actor,
                c.visit().run(),
                null,
                c.visit(),
                switch (c.outcome()) {
                    case CallOutcome.Done done ->
                        new Event.LateResult(c.attempt(), done.exit(), owner, Texts.clip(done.log(), MAX_OUTPUT));
                    case CallOutcome.Failed f ->
                        new Event.LateResult(c.attempt(), "failed", owner, Texts.clip(f.why(), 500));
                    case CallOutcome.Unknown u ->
                        new Event.LateResult(c.attempt(), "unknown", owner, Texts.clip(u.why(), 500));
                    case CallOutcome.Fault f ->
                        new Event.LateResult(
                                c.attempt(), f.sent() ? "unknown" : "failed", owner, Texts.clip(f.why(), 500));
                });
    }

    /** Somebody has looked at what came too late. */
    Optional<Refusal> settleLate(Command.SettleLate c) {
        if (!d.now().late().containsKey(c.visit())) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "Somebody has looked at it already.", null));
        }
        Optional<PersonId> person = d.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can look at it."));
        }
        if (c.note() != null && (c.note().length() > Texts.MAX_TEXT || !Texts.keepable(c.note()))) {
            return Optional.of(Refusal.invalid("note", "A note has at most " + Texts.MAX_TEXT + " characters."));
        }
        d.emit(
                d.actor,
                c.visit().run(),
                null,
                c.visit(),
                new Event.LateSettled(person.get(), Texts.blank(c.note()) ? null : c.note()));
        return Optional.empty();
    }

    /** A person says that an unsure call happened. */
    void happened(Visit visit) {
        Waiting.CallResult waiting = (Waiting.CallResult) visit.waiting();
        done(visit, waiting, new CallOutcome.Done("ok", Map.of(), null, null, "A person said that it happened.", 0, 0));
    }

    private void done(Visit visit, Waiting.CallResult waiting, CallOutcome.Done done) {
        Step step = d.step(visit);
        if (visit.putsBack() != null) {
            d.emit(d.actor, visit, callDone("ok", null, waiting, done, visit, null));
            return;
        }
        if (step instanceof Check) {
            Map<String, Object> outputs = Values.withoutBlank(done.outputs());
            d.emit(
                    d.actor,
                    visit,
                    new Event.Measured(
                            waiting.attempt(), done.tookMillis(), outputs, Texts.clip(done.log(), MAX_OUTPUT)));
            new Checks(d).measured(d.now().visit(visit.id()).orElseThrow(), outputs, null);
            return;
        }
        boolean over = new PutBacks(d).puttingBack(visit);
        StepId to = over ? null : Deciding.way(step, done.exit());
        if (to == null && !over) {
            d.emit(
                    d.actor,
                    visit,
                    new Event.ResultKept(
                            done.exit(),
                            waiting.attempt(),
                            done.tookMillis(),
                            done.polls(),
                            done.reference(),
                            done.link(),
                            Values.withoutBlank(done.outputs()),
                            Texts.clip(done.log(), MAX_OUTPUT)));
            d.emit(
                    d.actor,
                    visit,
                    new Event.Stalled(
                            "no way",
                            "'" + step.name() + "' came to '" + done.exit() + "', and no way leads on from there."));
            return;
        }
        Step.PutBack back = done.exit().equals("ok") && step instanceof Step.Acting a ? a.putBack() : null;
        d.emit(d.actor, visit, callDone(done.exit(), to, waiting, done, visit, back));
    }

    /** A person says which way the run goes on from a result that has none of its own; what came of the call goes along. */
    void leave(Visit visit, Waiting.CallResult waiting, Waiting.Came came, String exit, StepId to) {
        Step step = d.step(visit);
        CallOutcome.Done done = new CallOutcome.Done(
                exit,
                came.outputs(),
                came.reference(),
                came.link(),
                "It came to '" + came.exit() + "'; a person said how the run goes on.",
                came.tookMillis(),
                came.polls());
        Step.PutBack back = came.exit().equals("ok") && step instanceof Step.Acting a ? a.putBack() : null;
        d.emit(d.actor, visit, callDone(exit, to, waiting, done, visit, back));
    }

    private Event.CallDone callDone(
            String exit,
            @Nullable StepId to,
            Waiting.CallResult waiting,
            CallOutcome.Done done,
            Visit visit,
            Step.@Nullable PutBack back) {
        Map<String, Object> outputs = Values.withoutBlank(done.outputs());
        Site site = d.site(visit);
        Map<String, Object> frozen = back == null ? null : frozen(site, visit, back, outputs);
        VisitId stage = back == null
                ? null
                : PutBacks.stageAround(site.run(), visit.place()).map(Visit::id).orElse(null);
        return new Event.CallDone(
                exit,
                to,
                waiting.attempt(),
                done.tookMillis(),
                done.polls(),
                done.reference(),
                done.link(),
                back == null ? null : new Event.PutBackPlan(stage, d.step(visit).name(), back.action(), back.always()),
                frozen,
                outputs,
                Texts.clip(done.log(), MAX_OUTPUT));
    }

    /** The inputs of a put-back as they are when its step is completed, its own outputs among them (D16). */
    private Map<String, Object> frozen(Site site, Visit visit, Step.PutBack back, Map<String, Object> outputs) {
        Run completed = site.run().withValues(visit.place(), visit.step(), outputs);
        Map<String, Object> inputs = new TreeMap<>();
        back.inputs().forEach((name, expression) -> {
            if (!Texts.blank(expression)
                    && Opening.evaluate(d, new Site(completed, visit.place()), expression) instanceof Outcome.Value v
                    && !Texts.blank(v.value())) {
                inputs.put(name, Values.normal(v.value()));
            }
        });
        return inputs;
    }

    private void failed(Visit visit, Waiting.CallResult waiting, String why, Actor by) {
        failed(visit, waiting, why, by, waiting.attempt() < waiting.tries());
    }

    /** @param again whether it is tried once more */
    private void failed(Visit visit, Waiting.CallResult waiting, String why, Actor by, boolean again) {
        String error = Texts.clip(why, 500);
        Step step = d.step(visit);
        if (step instanceof Check && visit.putsBack() == null) {
            d.emit(by, visit, new Event.AttemptFailed(waiting.attempt(), false, null, null, error));
            new Checks(d).measured(d.now().visit(visit.id()).orElseThrow(), Map.of(), error);
            return;
        }
        if (again) {
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
        StepId to = visit.putsBack() != null ? null : Deciding.way(step, "failed");
        boolean endsItem = visit.putsBack() == null && new Brackets(d).endsItem(d.site(visit));
        boolean over = visit.putsBack() == null && new PutBacks(d).puttingBack(visit);
        if (to != null || endsItem || over) {
            Site site = d.site(visit);
            d.emit(by, visit, new Event.CallFailed("failed", over ? null : to, waiting.attempt(), error));
            if (to == null && endsItem && !over) {
                endItem(site, "failed");
            }
        } else {
            d.emit(by, visit, new Event.AttemptFailed(waiting.attempt(), false, null, null, error));
            String what = visit.putsBack() == null ? "'" + step.name() + "'" : "Putting back '" + step.name() + "'";
            d.emit(
                    by,
                    visit,
                    new Event.Stalled("failed", what + " failed after " + tries(waiting.attempt()) + ": " + error));
        }
    }

    private static String tries(int count) {
        return count == 1 ? "1 try" : count + " tries";
    }

    /** Another try would meet the same fault; what may have gone out all the same is for a person to find out (D13). */
    private void fault(Visit visit, Waiting.CallResult waiting, CallOutcome.Fault fault) {
        boolean unsure = fault.sent()
                && waiting.repeat() != Action.Repeat.FREE
                && (visit.putsBack() != null || !(d.step(visit) instanceof Check));
        if (unsure) {
            d.emit(d.actor, visit, new Event.CallUnsure(waiting.attempt(), Texts.clip(fault.why(), 500)));
        } else {
            failed(visit, waiting, fault.why(), d.actor, false);
        }
    }

    /** Free and keyed calls repeat under the same key; one that must never repeat waits for a person (D13). */
    private void unknown(Visit visit, Waiting.CallResult waiting, String why, Actor by) {
        if (d.step(visit) instanceof Check && visit.putsBack() == null) {
            failed(visit, waiting, why, by);
            return;
        }
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

    void timeLimit(Visit visit) {
        Waiting.CallResult waiting = (Waiting.CallResult) visit.waiting();
        String why = "No answer within the time limit.";
        if (waiting.repeat() == Action.Repeat.FREE || d.step(visit) instanceof Check && visit.putsBack() == null) {
            failed(visit, waiting, why, Actor.CLOCK);
        } else {
            d.emit(Actor.CLOCK, visit, new Event.CallUnsure(waiting.attempt(), why));
        }
    }
}
