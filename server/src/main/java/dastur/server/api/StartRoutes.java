package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.run.Cause;
import dastur.core.run.Command;
import dastur.core.ticket.Field;
import dastur.core.time.Rhythm;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.App.Design;
import dastur.server.App.Starts;
import dastur.server.auth.Secrets;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.starts.HookDoor;
import dastur.server.starts.Timekeeper;
import dastur.server.work.CommandService;
import dastur.store.Hooks;
import dastur.store.Incoming;
import dastur.store.Schedules;
import dastur.store.StoredSecrets;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What starts by itself: schedules with their times, hooks with their calls (I9, I10). */
final class StartRoutes {
    private static final int TIMES_SHOWN = 5;
    private static final int TURNS_SHOWN = 50;
    private static final int CALLS_SHOWN = 30;
    private static final int REFUSALS_SHOWN = 20;
    private static final int COUNTED = 2_000;

    /**
     * A schedule in a list.
     *
     * @param next the next times; empty when it is off, or no time comes any more
     * @param waits whether its time has come, and waits for what was started before
     * @param last what became of its last time; null when none has come
     */
    record ScheduleLine(Trigger.Live live, List<Instant> next, boolean waits, Schedules.@Nullable Turn last) {}

    /** A hook in a list. @param last the last call; null when there was none */
    record HookLine(Trigger.Live live, String path, boolean hasToken, Hooks.@Nullable Call last) {}

    record TokenLine(int which, Instant at) {}

    /** One whole. @param parameters what its callers give */
    record HookView(
            HookLine line,
            List<Field> parameters,
            List<TokenLine> tokens,
            List<Hooks.Call> calls,
            List<Incoming.Refused> refused) {}

    record WhichBody(Integer which) {}

    /** A token that was just made. It is shown this once. */
    record NewTokenView(String token) {
        @Override
        public String toString() {
            return "NewTokenView";
        }
    }

    record TimesBody(Rhythm rhythm) {}

    /** @param aYear how many there are within a year; of more than 2,000, 2,000 */
    record TimesView(List<Instant> times, int aYear) {}

    private final Design design;
    private final Starts starts;
    private final CommandService commands;
    private final InstantSource clock;

    private StartRoutes(Design design, Starts starts, CommandService commands, InstantSource clock) {
        this.design = design;
        this.starts = starts;
        this.commands = commands;
        this.clock = clock;
    }

    static Stream<Route> of(Design design, Starts starts, CommandService commands, InstantSource clock) {
        StartRoutes r = new StartRoutes(design, starts, commands, clock);
        return Stream.of(
                Route.list(
                        "/api/schedules",
                        Right.SEE,
                        "The schedules of all live workflows, what comes next first",
                        ScheduleLine.class,
                        q -> r.schedules()),
                Route.post(
                        "/api/schedules/times",
                        Right.SEE,
                        "The next times of a rhythm, without setting it",
                        TimesBody.class,
                        TimesView.class,
                        r::times),
                Route.list(
                        "/api/schedules/{trigger}/turns",
                        Right.SEE,
                        "What became of a schedule's times",
                        Schedules.Turn.class,
                        r::turns,
                        "before"),
                Route.list("/api/hooks", Right.SEE, "The hooks of all live workflows", HookLine.class, q -> r.hooks()),
                Route.get("/api/hooks/{trigger}", Right.SEE, "A hook", HookView.class, r::hook),
                Route.post(
                        "/api/hooks/{trigger}/tokens",
                        Right.DESIGN,
                        "Make a token for a hook; it is shown once",
                        WhichBody.class,
                        NewTokenView.class,
                        r::newToken),
                Route.delete(
                        "/api/hooks/{trigger}/tokens/{which}",
                        Right.DESIGN,
                        "Take a token of a hook away",
                        r::removeToken),
                Route.post(
                                "/api/triggers/{id}/starts",
                                Right.WORK,
                                "Start now what a schedule or a hook starts",
                                StartBody.class,
                                Answers.Accepted.class,
                                r::start)
                        .created());
    }

    /** @param inputs values of the start form that the trigger does not give by itself */
    record StartBody(Map<String, Object> inputs) {}

    // --- schedules

    private List<ScheduleLine> schedules() {
        Instant now = clock.instant();
        Map<TriggerId, Schedules.Stand> stand = starts.schedules().stand();
        List<ScheduleLine> lines = new ArrayList<>();
        for (Trigger.Live live : design.workflows().liveTriggers()) {
            if (live.trigger().when() instanceof Trigger.TimeComes when) {
                TriggerId id = live.trigger().id();
                boolean waits = Optional.ofNullable(stand.get(id))
                        .map(Schedules.Stand::mark)
                        .filter(m -> m.waits())
                        .isPresent();
                List<Instant> next = live.trigger().on() ? when.rhythm().next(now, 3, days(when.rhythm())) : List.of();
                lines.add(new ScheduleLine(
                        live, next, waits, starts.schedules().latest(id).orElse(null)));
            }
        }
        lines.sort(java.util.Comparator.comparing(
                l -> l.next().isEmpty() ? Instant.MAX : l.next().getFirst()));
        return lines;
    }

    private @Nullable WorkingCalendar days(Rhythm rhythm) {
        return Timekeeper.days(design.organisation(), rhythm.openDaysOf());
    }

    private Object times(Request q) {
        Rhythm rhythm = Request.needed(q.body(TimesBody.class).rhythm(), "rhythm");
        WorkingCalendar days = days(rhythm);
        if (rhythm.openDaysOf() != null && days == null) {
            throw Problem.invalid("rhythm.openDaysOf", "There is no such calendar.")
                    .end();
        }
        Instant now = clock.instant();
        List<Instant> times = rhythm.next(now, COUNTED, days);
        Instant year = now.plus(365, ChronoUnit.DAYS);
        return new TimesView(times.stream().limit(TIMES_SHOWN).toList(), (int)
                times.stream().filter(t -> !t.isAfter(year)).count());
    }

    private List<Schedules.Turn> turns(Request q) {
        return starts.schedules()
                .turns(q.path("trigger", TriggerId::new), q.moment("before").orElse(null), TURNS_SHOWN);
    }

    // --- hooks

    private List<HookLine> hooks() {
        return design.workflows().liveTriggers().stream()
                .filter(t -> t.trigger().when() instanceof Trigger.Called)
                .map(t -> line(t, tokens(t.trigger().id())))
                .toList();
    }

    private HookLine line(Trigger.Live live, List<TokenLine> tokens) {
        TriggerId id = live.trigger().id();
        return new HookLine(
                live,
                HookDoor.AT + id,
                !tokens.isEmpty(),
                starts.hooks().latest(id, 1).stream().findFirst().orElse(null));
    }

    private List<TokenLine> tokens(TriggerId id) {
        List<TokenLine> there = new ArrayList<>();
        for (StoredSecrets.Known known : design.secrets().all()) {
            for (int which = 1; which <= HookDoor.LIVE; which++) {
                if (known.name().equals(HookDoor.secretName(id, which))) {
                    there.add(new TokenLine(which, known.at()));
                }
            }
        }
        return there;
    }

    private Trigger.Live found(Request q) {
        TriggerId id = q.path("trigger", TriggerId::new);
        return design.workflows().liveTriggers().stream()
                .filter(t -> t.trigger().id().equals(id) && t.trigger().when() instanceof Trigger.Called)
                .findFirst()
                .orElseThrow(() -> Problem.notFound("There is no hook of this name; its workflow must be published.")
                        .end());
    }

    private Object hook(Request q) {
        Trigger.Live live = found(q);
        TriggerId id = live.trigger().id();
        List<TokenLine> tokens = tokens(id);
        List<Field> parameters = design.workflows()
                .version(live.workflow(), live.version())
                .map(WorkflowVersion::startForm)
                .orElse(List.of());
        return new HookView(
                line(live, tokens),
                parameters,
                tokens,
                starts.hooks().latest(id, CALLS_SHOWN),
                starts.refused().apply(HookDoor.refusedAt(id), REFUSALS_SHOWN));
    }

    private Object newToken(Request q) {
        Trigger.Live live = found(q);
        int which = which(String.valueOf(q.body(WhichBody.class).which()));
        String token = Secrets.newToken();
        design.secrets()
                .set(Answers.by(q, clock), HookDoor.secretName(live.trigger().id(), which), token);
        return new NewTokenView(token);
    }

    private Object removeToken(Request q) {
        Trigger.Live live = found(q);
        int which = which(q.context().pathParam("which"));
        if (!design.secrets()
                .remove(Answers.by(q, clock), HookDoor.secretName(live.trigger().id(), which))) {
            throw Problem.notFound("It has no such token.").end();
        }
        return null;
    }

    private static int which(String text) {
        return switch (text) {
            case "1" -> 1;
            case "2" -> 2;
            default ->
                throw Problem.invalid("which", "A hook has a first and a second token: 1 or 2.")
                        .end();
        };
    }

    // --- by hand

    private Object start(Request q) {
        TriggerId id = q.path("id", TriggerId::new);
        Trigger.Live live = design.workflows().liveTriggers().stream()
                .filter(t -> t.trigger().id().equals(id))
                .findFirst()
                .orElseThrow(() -> Problem.notFound("There is no trigger '" + id + "' of a live workflow.")
                        .end());
        if (!(live.trigger().when() instanceof Trigger.OfItself when)) {
            throw Problem.invalid(
                            "id", "This trigger listens to tickets or signals: there is nothing to start by hand.")
                    .end();
        }
        Map<String, Object> inputs = Request.needed(q.body(StartBody.class).inputs(), "inputs");
        return Answers.of(commands.raise(
                when.kind(),
                q.commandId(),
                q.actor(),
                new Command.RaiseByCause(new Cause.Hand(id), live, Timekeeper.title(live), inputs)));
    }
}
