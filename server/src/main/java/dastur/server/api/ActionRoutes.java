package dastur.server.api;

import dastur.connectors.walk.Walking;
import dastur.core.finding.ActionChecks;
import dastur.core.finding.Finding;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.start.Watch;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.server.App;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.machines.Trials;
import dastur.store.ActionTries.Try;
import dastur.store.Actions;
import dastur.store.CallsMade;
import dastur.store.Watches;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.UUID;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** An action's page: what it is, who uses it, how it went, what is wrong with it, and trying it (M1, M2, M3, M5). */
final class ActionRoutes {
    private static final int TRIES_SHOWN = 10;

    /**
     * @param number of what counts now
     * @param watches names of watches that read by it
     * @param figures of the last thirty days; null where it was not called
     */
    record ActionView(
            Action action,
            Actions.Number number,
            @Nullable Connection connection,
            List<Actions.Version> versions,
            List<Actions.User> users,
            List<String> watches,
            CallsMade.@Nullable Figures figures,
            List<Finding> findings,
            List<Try> tries) {}

    /** @param on the number the change was made on; null for a new action @param why what is said to a mend */
    record ActionBody(
            Action action,
            Actions.@Nullable Number on,
            @Nullable String why) {}

    /**
     * What would become of a save.
     *
     * @param becomes the number it would have; null where it is as it was
     * @param mends whether it mends the version that is used, and reaches those who use it
     * @param users live workflows that use the version that counts now
     */
    record Checked(List<Finding> findings, Actions.@Nullable Number becomes, boolean mends, List<Actions.User> users) {}

    record WithdrawalBody(@Nullable String why) {}

    /** @param action as it is typed now; null for what is saved */
    record TryBody(
            @Nullable Action action,
            Map<String, Object> inputs,
            @Nullable String why) {}

    /** What would be sent. */
    record Sent(String text) {}

    /** A try with what it said so far. */
    record Trying(Try tried, CallRoutes.SaidSoFar log) {}

    private final App.Design design;
    private final App.Machines machines;
    private final Watches watches;
    private final InstantSource clock;

    private ActionRoutes(App.Design design, App.Machines machines, Watches watches, InstantSource clock) {
        this.design = design;
        this.machines = machines;
        this.watches = watches;
        this.clock = clock;
    }

    static Stream<Route> of(App.Design design, App.Machines machines, Watches watches, InstantSource clock) {
        ActionRoutes r = new ActionRoutes(design, machines, watches, clock);
        return Stream.of(
                Route.get(
                        "/api/actions/{key}",
                        Right.SEE,
                        "An action, with all that is known of it",
                        ActionView.class,
                        r::one),
                Route.put(
                        "/api/actions/{key}",
                        Right.DESIGN,
                        "Set an action: as a mend of its version, or as its next",
                        ActionBody.class,
                        ActionView.class,
                        r::set),
                Route.put(
                        "/api/actions/{key}/versions/{version}/withdrawal",
                        Right.DESIGN,
                        "Withdraw a version of an action: nothing begins by it any more",
                        WithdrawalBody.class,
                        ActionView.class,
                        r::withdraw),
                Route.post(
                        "/api/actions/{key}/versions/{version}/use",
                        Right.DESIGN,
                        "Let a version of an action be used again",
                        null,
                        ActionView.class,
                        q -> r.withdrawn(q, null)),
                Route.post(
                        "/api/actions/{key}/checks",
                        Right.DESIGN,
                        "What is wrong with an action, and what would become of it",
                        Action.class,
                        Checked.class,
                        r::check),
                Route.post(
                        "/api/actions/{key}/dry",
                        Right.DESIGN,
                        "What an action would send; nothing is sent",
                        TryBody.class,
                        Sent.class,
                        r::dry),
                Route.put(
                        "/api/actions/{key}/tries/{id}",
                        Right.DESIGN,
                        "Try an action in earnest, once for an id that is a UUID",
                        TryBody.class,
                        Trying.class,
                        r::begin),
                Route.get(
                        "/api/actions/{key}/tries/{id}",
                        Right.DESIGN,
                        "A try, with what it said from a part on",
                        Trying.class,
                        r::tried,
                        "from"));
    }

    private static ActionKey key(Request q) {
        return q.path("key", ActionKey::new);
    }

    private Action action(ActionKey key) {
        return machines.actions().find(key).orElseThrow(() -> Problem.notFound("There is no action '" + key + "'.")
                .end());
    }

    private ActionView one(Request q) {
        return view(key(q), Right.DESIGN.of(q.person()));
    }

    /** @param designs whether tries are told too: they show what was answered */
    private ActionView view(ActionKey key, boolean designs) {
        Action action = action(key);
        Optional<Connection> over = design.workflows().connection(action.connection());
        Instant now = clock.instant();
        return new ActionView(
                action,
                machines.actions().number(key).orElse(new Actions.Number(1, 0)),
                over.orElse(null),
                machines.actions().versions(key),
                machines.actions().users(key),
                watches.all().stream()
                        .filter(w -> w.action().equals(key))
                        .map(Watch::name)
                        .toList(),
                machines.made().ofActions(now.minus(CallsMade.KEPT)).get(key),
                over.map(c -> found(action, c)).orElse(List.of()),
                designs
                        ? machines.tries().last(key, TRIES_SHOWN).stream()
                                .map(t -> Trials.asOf(t, now))
                                .toList()
                        : List.of());
    }

    private Connection over(Action action) {
        return design.workflows().connection(action.connection()).orElseThrow(() -> Problem.invalid(
                        "connection", "There is no connection '" + action.connection() + "'.")
                .end());
    }

    private static void ofKey(Action action, ActionKey key) {
        if (!key.equals(action.key())) {
            throw Problem.invalid("key", "An action has the key it is stored under.")
                    .end();
        }
        Request.needed(action.call(), "call");
    }

    private Object set(Request q) {
        ActionBody body = q.body(ActionBody.class);
        // What is saved may be used: a version that was withdrawn is in use again once it is mended.
        Action action = Request.needed(body.action(), "action").withdrawn(null);
        ofKey(action, key(q));
        SetUpRoutes.name(action.name());
        TermsRoutes.mayChange(q, action, design);
        found(action, over(action)).stream().filter(Finding::blocks).findFirst().ifPresent(f -> {
            throw Problem.invalid(f.field(), f.message()).end();
        });
        Optional<Action> before = machines.actions().find(action.key());
        boolean mends = before.isPresent()
                && !before.get().equals(action)
                && Actions.sameTerms(before.get(), action)
                && !ofNow(action.key()).isEmpty();
        if (mends && Texts.blank(body.why())) {
            throw Problem.invalid(
                            "why",
                            "This changes what workflows do that use it, from their next step on. Say why: it stands in the"
                                    + " journal.")
                    .end();
        }
        return switch (machines.actions().set(Answers.by(q, clock), action, body.on(), body.why())) {
            case Actions.Saved.Ok ok -> view(action.key(), true);
            case Actions.Saved.Stale stale ->
                throw Problem.conflict("Somebody saved '" + action.name() + "' meanwhile: it is " + stale.now()
                                + " now. Look at what is there, then make your change on it.")
                        .end();
        };
    }

    private Object withdraw(Request q) {
        String why = q.body(WithdrawalBody.class).why();
        if (Texts.blank(why) || why.length() > Actions.MAX_WHY || !Texts.keepable(why)) {
            throw Problem.invalid(
                            "why",
                            "Say why, in at most " + Actions.MAX_WHY
                                    + " characters: whoever looks after work that stalls reads it.")
                    .end();
        }
        return withdrawn(q, why.strip());
    }

    private Object withdrawn(Request q, @Nullable String why) {
        ActionKey key = key(q);
        TermsRoutes.mayChange(q, action(key), design);
        String version = q.context().pathParam("version");
        Optional<Actions.Number> number = version.matches("[1-9]\\d{0,5}")
                ? machines.actions().withdraw(Answers.by(q, clock), key, Integer.parseInt(version), why)
                : Optional.empty();
        if (number.isEmpty()) {
            throw Problem.notFound("'" + key + "' has no version '" + Texts.clip(version, 20) + "'.")
                    .end();
        }
        return view(key, true);
    }

    private Object check(Request q) {
        Action action = q.body(Action.class).withdrawn(null);
        ofKey(action, key(q));
        Optional<Action> before = machines.actions().find(action.key());
        Actions.Number now = machines.actions().number(action.key()).orElse(new Actions.Number(1, 0));
        boolean same = before.isPresent() && before.get().equals(action);
        return new Checked(
                found(action, over(action)),
                before.isEmpty() ? new Actions.Number(1, 0) : same ? null : now.after(before.get(), action),
                before.isPresent() && !same && Actions.sameTerms(before.get(), action),
                ofNow(action.key()));
    }

    /** What is wrong with it, also where this machine lacks what it takes. */
    private static List<Finding> found(Action action, Connection over) {
        List<Finding> found = new ArrayList<>(ActionChecks.of(action, over));
        if (over.protocol() == Protocol.WALK && Walking.program().isEmpty()) {
            found.add(new Finding(
                    "no browser",
                    Finding.Severity.WARNS,
                    null,
                    null,
                    "connection",
                    "There is no browser on this machine, so no walk can be made. Install Chromium and its driver, chromedriver.",
                    null,
                    null));
        }
        return found;
    }

    /** Those who use the version that counts now: a mend reaches them, and nobody else. */
    private List<Actions.User> ofNow(ActionKey key) {
        int now = machines.actions().number(key).map(Actions.Number::version).orElse(1);
        return machines.actions().users(key).stream()
                .filter(u -> u.version() == now)
                .toList();
    }

    /** The action to try, with inputs that fit it. */
    private Action tried(Request q, TryBody body) {
        Action action = body.action() == null ? action(key(q)) : body.action();
        ofKey(action, key(q));
        found(action, over(action)).stream().filter(Finding::blocks).findFirst().ifPresent(f -> {
            throw Problem.invalid(f.field(), f.message()).end();
        });
        ActionInputs.check(action, inputs(body), design.organisation()::ci);
        return action;
    }

    private static Map<String, Object> inputs(TryBody body) {
        Map<String, Object> inputs = new HashMap<>(Request.needed(body.inputs(), "inputs"));
        inputs.values().removeIf(Texts::blank);
        return inputs;
    }

    private Object dry(Request q) {
        TryBody body = q.body(TryBody.class);
        Action action = tried(q, body);
        return new Sent(machines.trials().dry(action, over(action), inputs(body)));
    }

    private static String id(Request q) {
        String id = q.context().pathParam("id");
        try {
            return UUID.fromString(id).toString();
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("id", "A try is named by a UUID (RFC 9562).").end();
        }
    }

    private Object begin(Request q) {
        TryBody body = q.body(TryBody.class);
        Action action = tried(q, body);
        TermsRoutes.mayUse(q, action, design);
        if (action.changesWorld() && Texts.blank(body.why())) {
            throw Problem.invalid(
                            "why",
                            "'" + action.name() + "' changes something outside. Say why it is tried: it stands in the"
                                    + " journal.")
                    .end();
        }
        return switch (machines.trials().begin(Answers.by(q, clock), id(q), action, inputs(body), body.why())) {
            case Trials.Begun.Ok ok -> trying(ok.kept(), 0);
            case Trials.Begun.TooMany many ->
                throw Problem.tooFast("As many tries are under way as may be.").end();
            case Trials.Begun.Cannot cannot ->
                throw Problem.invalid("connection", cannot.why()).end();
        };
    }

    private Object tried(Request q) {
        return trying(
                machines.tries().find(key(q), id(q)).orElseThrow(() -> Problem.notFound("There is no such try.")
                        .end()),
                CallRoutes.from(q));
    }

    private Trying trying(Try kept, int from) {
        return new Trying(
                Trials.asOf(kept, clock.instant()),
                CallRoutes.SaidSoFar.of(machines.made(), Trials.voice(kept.id()), from));
    }
}
