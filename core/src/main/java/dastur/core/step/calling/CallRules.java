package dastur.core.step.calling;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event;
import dastur.core.run.Here;
import dastur.core.run.Lookups;
import dastur.core.run.Place;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallRepeated;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.ticket.Field;
import dastur.core.ticket.Service;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.StepId;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.UnaryOperator;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Starting calls of actions, and starting them again (N14, N47; D13, D19). */
public final class CallRules {
    /** What the clock leaves beyond a call's own limit, so that a worker's answer at the limit still counts (D15). */
    private static final long LIMIT_GRACE_SECONDS = 30;

    /** Characters that are told of what one input would be, and of all together. */
    private static final int MOST_OF_INPUT = 120;

    private static final int MOST_OF_INPUTS = 1_000;

    private final Here here;

    public CallRules(Here here) {
        this.here = here;
    }

    void request(VisitId visit, Acting step, boolean guarded) {
        Action action = forUse(step.action());
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
        request(step.id(), visit, action, inputs, 1, tries, limit(step, action), null);
    }

    /** Whether a call was made with inputs that are frozen since, other than those of a put-back (D16). */
    public static boolean takesAnew(Visit visit) {
        return visit.putsBack() == null && visit.waiting() instanceof CallUnderWay;
    }

    /**
     * Why inputs cannot be taken anew; empty where they can. An approval that bound the first attempt binds none after it, since that one
     * has begun: so where people decide anywhere in the run, or in one around it, nothing goes out that is otherwise than what went out
     * then (D19).
     */
    Optional<String> takesNothingAnew(Visit visit, Acting step) {
        if (!takesAnew(visit)) {
            return Optional.of("There are no frozen inputs to be taken anew.");
        }
        Action action = action(step.action());
        CallUnderWay before = (CallUnderWay) visit.waiting();
        Map<String, Object> inputs = new TreeMap<>();
        boolean whole = bind(step.inputs(), action, inputs).isEmpty();
        if (!whole || !action.changesWorld() || !decided(here)) {
            return Optional.empty();
        }
        Event.Call now = call(action, inputs, before.key(), limit(step, action));
        return now.equals(before.call())
                ? Optional.empty()
                : Optional.of(
                        "Its inputs are others now than those that were sent, and people have decided in this run:"
                                + " re-run from the step, so that what they saw is compared.");
    }

    /** What it would change elsewhere, with which values; empty where it only reads, and where it would not begin. */
    Optional<String> changes(Acting step) {
        Action action = forUse(step.action());
        Map<String, Object> inputs = new TreeMap<>();
        if (!action.changesWorld() || bind(step.inputs(), action, inputs).isPresent()) {
            return Optional.empty();
        }
        String with = inputs.entrySet().stream()
                .map(i -> i.getKey() + " " + Texts.clip(String.valueOf(i.getValue()), MOST_OF_INPUT))
                .collect(Collectors.joining(", "));
        return Optional.of("carry out '" + action.name() + "'"
                + (with.isEmpty() ? "" : " with " + Texts.clip(with, MOST_OF_INPUTS)));
    }

    private static boolean decided(Here here) {
        VisitId caller = here.run().parent();
        return here.version(here.run()).body().all().anyMatch(s -> Facts.of(s).decides())
                || caller != null
                        && here.visit(caller).filter(v -> decided(here.at(v))).isPresent();
    }

    /** Another attempt with inputs taken anew, under another key, since it is another call (M19). */
    void requestAnew(Visit visit, Acting step) {
        CallUnderWay before = (CallUnderWay) visit.waiting();
        Action action = forUse(step.action());
        Map<String, Object> inputs = new TreeMap<>();
        Optional<String> problem = bind(step.inputs(), action, inputs);
        if (problem.isPresent()) {
            throw new CannotOpen("input missing", problem.get() + " Fill it in, then retry.");
        }
        int attempt = before.attempt() + 1;
        int tries = step.tries() == null ? action.tries() : step.tries();
        request(step.id(), visit.id(), action, inputs, attempt, attempt + tries - 1, limit(step, action), null);
    }

    private static long limit(Acting step, Action action) {
        return (step.timeLimit() == null ? action.timeLimit() : step.timeLimit()).roughSeconds();
    }

    /** Something measures before it judges. An attempt is a judging: what fails is judged as not measured. */
    public void measure(VisitId visit, StepId step, ActionKey key, Map<String, String> expressions, int attempt) {
        Action action = forUse(key);
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
        Action action = inUse(back.action());
        long limit = action.timeLimit().roughSeconds();
        request(back.step(), visit, action, back.inputs(), 1, action.tries(), limit, back.of());
    }

    private Action action(ActionKey key) {
        return here.lookups()
                .action(key, here.version(here.run()))
                .orElseThrow(() -> new CannotOpen("no action", "The action '" + key + "' no longer exists."));
    }

    /** The action, by which something may begin (M1). */
    private Action inUse(ActionKey key) {
        Action action = action(key);
        if (action.withdrawn() != null) {
            throw new CannotOpen(
                    "action withdrawn",
                    "'" + action.name() + "' was withdrawn: " + action.withdrawn()
                            + " Once it is in use again, retry; or go on by hand.");
        }
        return action;
    }

    /** The action, which may be used by this workflow's owner on this ticket (M5). */
    private Action forUse(ActionKey key) {
        Action action = inUse(key);
        Lookups lookups = here.lookups();
        lookups.terms(key)
                .flatMap(t -> t.problemOf(
                                action.name(), here.version(here.run()).owner(), lookups::group, lookups::person)
                        .or(() -> t.problemOn(
                                action.name(),
                                here.ticket().text("service").orElse(null),
                                here.ci(),
                                s -> lookups.service(s).map(Service::name))))
                .ifPresent(why -> {
                    throw new CannotOpen("not to be used", why + " Once it may be, retry; or go on by hand.");
                });
        return action;
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
        Binding.outdated(here).ifPresent(o -> {
            throw new CannotOpen(
                    "approval outdated",
                    "Since '" + o.guard().name() + "' was approved, this has changed: " + String.join(", ", o.changed())
                            + ". Ask again, or go on with a reason.");
        });
    }

    /** Binds an action's inputs. Returns what is wrong with one of them. */
    private Optional<String> bind(Map<String, String> expressions, Action action, Map<String, Object> inputs) {
        for (Field input : action.inputs()) {
            Optional<String> problem = bind(expressions.get(input.name()), action, input, inputs);
            if (problem.isPresent()) {
                return problem;
            }
        }
        return Optional.empty();
    }

    private Optional<String> bind(@Nullable String expression, Action action, Field input, Map<String, Object> inputs) {
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
                yield action.problemWith(input, value, here.lookups()::ci);
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
    static void endItem(Here at, String result) {
        Place place = Objects.requireNonNull(at.place());
        Visit each = at.visit(place.bracket()).orElseThrow();
        at.emit(Actor.SYSTEM, each, new Event.LineEnded(place.index(), false, result));
    }

    private Event.Call call(Action action, Map<String, Object> inputs, String key, long limit) {
        return Composed.of(action, here.expressionsOf(action), inputs, key, limit, here.now());
    }

    /** The idempotency key of an attempt: unique over all tickets, and the same for the same attempt. */
    static String attemptKey(VisitId visit, int attempt) {
        return visit.value() + "." + attempt;
    }

    /** Starts the next attempt, under a key of its own or the kept one. */
    void repeatAnew(Visit visit, Actor by) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        repeat(visit, waiting, attemptKey(visit.id(), waiting.attempt() + 1), by);
    }

    void repeat(Visit visit, CallUnderWay waiting, String key, Actor by) {
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
                call.limitSeconds(),
                call.pages());
    }
}
