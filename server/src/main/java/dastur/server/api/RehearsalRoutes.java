package dastur.server.api;

import dastur.core.finding.Snapshot;
import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.rehearsal.Answer;
import dastur.core.rehearsal.Begins;
import dastur.core.rehearsal.Exploration;
import dastur.core.rehearsal.KeptCase;
import dastur.core.rehearsal.Played;
import dastur.core.rehearsal.Rehearsal;
import dastur.core.rehearsal.Replay;
import dastur.core.rehearsal.Setting;
import dastur.core.run.Case;
import dastur.core.run.Cause;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.signal.Reading;
import dastur.core.signal.Signal;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.StepId;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.App.Signalling;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Records;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Trying workflows without harm (N25): nothing is written, nothing outside is called. */
final class RehearsalRoutes {
    private static final int MOST_ANSWERS = 500;
    private static final int MOST_REPLAYED = 20;

    /**
     * @param ticket a real ticket whose values are copied; null for a made-up one
     * @param failing checks that do not hold, whatever is measured; null for none
     * @param begins what sets it off; null where somebody starts it
     * @param toTheEnd whether it goes on after the answers as everybody is expected to answer
     */
    record RehearsalBody(
            WorkflowVersion version,
            @Nullable String ticket,
            @Nullable String kind,
            @Nullable Map<String, Object> fields,
            @Nullable Map<String, Object> inputs,
            @Nullable Instant start,
            @Nullable List<Answer> answers,
            @Nullable Boolean toTheEnd,
            @Nullable List<StepId> failing,
            @Nullable BeginsBody begins) {}

    /**
     * What sets a rehearsed run off.
     *
     * @param trigger one of the workflow's
     * @param source whose signal comes; null where the trigger listens to no signals
     * @param signal one that came from it; null for a sample
     * @param sample one that is kept of it, by its name; null for one that came
     */
    record BeginsBody(
            TriggerId trigger,
            @Nullable SourceKey source,
            @Nullable String signal,
            @Nullable String sample) {}

    /** What waits for an answer, with every answer it can get, the expected one first. */
    record Asked(
            String visit,
            String step,
            String name,
            @Nullable String item,
            List<Answer> options) {}

    record RehearsalView(
            List<Views.EntryView> record,
            List<Asked> asked,
            List<String> path,
            @Nullable String ended,
            @Nullable String stalled,
            @Nullable String refused,
            long tookSeconds,
            Instant now,
            Map<String, Object> fields) {}

    record EndingView(
            String result,
            boolean stalls,
            long shortestSeconds,
            long longestSeconds,
            int ways,
            List<Answer> answers,
            @Nullable StepId failing,
            @Nullable StepId at,
            List<Exploration.Way> path) {}

    record ExploredView(List<EndingView> endings, List<String> neverReached, int stages, boolean bounded) {}

    record ReplayBody(WorkflowVersion version, @Nullable Integer most) {}

    record ReplayView(List<Replay.Replayed> runs) {}

    record CasesBody(List<KeptCase> cases) {}

    record CasesView(List<KeptCase> cases, List<KeptCase.Verdict> verdicts) {}

    private final InstantSource clock;
    private final Function<LookupKey, Optional<?>> look;
    private final Organisation organisation;
    private final Records records;
    private final Tickets tickets;
    private final Workflows workflows;
    private final Sight sight;
    private final Signalling signalling;

    private RehearsalRoutes(
            InstantSource clock,
            Function<LookupKey, Optional<?>> look,
            Organisation organisation,
            Records records,
            Tickets tickets,
            Workflows workflows,
            Sight sight,
            Signalling signalling) {
        this.signalling = signalling;
        this.clock = clock;
        this.look = look;
        this.organisation = organisation;
        this.records = records;
        this.tickets = tickets;
        this.workflows = workflows;
        this.sight = sight;
    }

    static Stream<Route> of(
            InstantSource clock,
            Function<LookupKey, Optional<?>> look,
            Organisation organisation,
            Records records,
            Tickets tickets,
            Workflows workflows,
            Sight sight,
            Signalling signalling) {
        RehearsalRoutes r =
                new RehearsalRoutes(clock, look, organisation, records, tickets, workflows, sight, signalling);
        return Stream.of(
                Route.post(
                        "/api/rehearsals",
                        Right.DESIGN,
                        "Rehearse a version; nothing is written",
                        RehearsalBody.class,
                        RehearsalView.class,
                        r::rehearse),
                Route.post(
                        "/api/rehearsals/explore",
                        Right.DESIGN,
                        "All distinct endings of a version",
                        RehearsalBody.class,
                        ExploredView.class,
                        r::explore),
                Route.post(
                        "/api/rehearsals/replay",
                        Right.DESIGN,
                        "What a version would have done differently in the last runs",
                        ReplayBody.class,
                        ReplayView.class,
                        r::replay),
                Route.get("/api/workflows/{key}/cases", Right.SEE, "Kept rehearsals", CasesView.class, r::cases),
                Route.put(
                        "/api/workflows/{key}/cases",
                        Right.DESIGN,
                        "Set the kept rehearsals",
                        CasesBody.class,
                        CasesView.class,
                        r::putCases),
                Route.get(
                        "/api/snapshot",
                        Right.DESIGN,
                        "The organisation as a file, for checking workflows elsewhere",
                        Snapshot.class,
                        r::snapshot));
    }

    private Setting setting(Request q, RehearsalBody body) {
        WorkflowVersion version = Request.needed(body.version(), "version");
        if (version.body().steps().isEmpty()) {
            throw Problem.invalid("version", "There is nothing to rehearse yet: the workflow has no steps.")
                    .end();
        }
        Map<String, Object> fields = new TreeMap<>();
        TicketKind kind = version.kind() == null ? TicketKind.INCIDENT : version.kind();
        if (body.ticket() != null) {
            TicketId number = ticket(body.ticket());
            sight.mustSee(q.person(), number);
            Case real = tickets.find(number).orElseThrow(() -> Problem.notFound("There is no ticket " + number + ".")
                    .end());
            fields.putAll(real.fields());
            fields.remove("state");
            kind = real.kind() == null ? kind : real.kind();
        }
        if (body.kind() != null) {
            kind = TicketKind.of(body.kind())
                    .orElseThrow(() -> Problem.invalid("kind", "A ticket is an incident, a change or a request.")
                            .end());
        }
        if (body.fields() != null) {
            body.fields().forEach((name, value) -> {
                if (value != null) {
                    fields.put(name, value instanceof Integer i ? (Object) i.longValue() : value);
                }
            });
        }
        Map<String, Object> inputs = new TreeMap<>(body.inputs() == null ? Map.of() : body.inputs());
        inputs.replaceAll((k, v) -> v instanceof Integer i ? (Object) i.longValue() : v);
        return new Setting(
                version,
                kind,
                fields,
                inputs,
                q.person().id(),
                body.start() == null ? clock.instant() : body.start(),
                look,
                body.failing() == null
                        ? Set.of()
                        : body.failing().stream().filter(Objects::nonNull).collect(Collectors.toSet()),
                body.begins() == null ? new Begins.ByHand() : begins(version, body, body.begins()));
    }

    private Begins begins(WorkflowVersion version, RehearsalBody body, BeginsBody by) {
        TriggerId id = Request.needed(by.trigger(), "begins.trigger");
        Trigger trigger = workflows.triggers(version.key()).stream()
                .filter(t -> t.id().equals(id))
                .findFirst()
                .orElseThrow(() -> Problem.invalid(
                                "begins.trigger",
                                "The workflow has no trigger '" + id + "'. Save what starts it first.")
                        .end());
        return switch (trigger.when()) {
            case Trigger.TimeComes w ->
                new Begins.ByCause(
                        new Cause.TimeCame(id, body.start() == null ? clock.instant() : body.start(), null),
                        trigger,
                        w.title() == null ? version.name() : w.title());
            case Trigger.Called w ->
                new Begins.ByCause(
                        new Cause.Call(id, "rehearsed"), trigger, w.title() == null ? version.name() : w.title());
            case Trigger.SignalComes w -> bySignal(version, trigger, by);
            case Trigger.SignalEntered w ->
                new Begins.OnTicket(trigger, bySignal(version, trigger, by).heard());
            case Trigger.Created w -> new Begins.OnTicket(trigger, null);
            case Trigger.FieldReaches w -> new Begins.OnTicket(trigger, null);
            case Trigger.ApprovalEnds w -> new Begins.OnTicket(trigger, null);
            case Trigger.ClockReaches w -> new Begins.OnTicket(trigger, null);
            case Trigger.ByHand w -> new Begins.ByHand();
        };
    }

    /** By a signal that came, or one that is kept, as if it came now. */
    private Begins.BySignal bySignal(WorkflowVersion version, Trigger trigger, BeginsBody by) {
        Source source = signalling
                .sources()
                .find(Request.needed(by.source(), "begins.source"))
                .orElseThrow(() -> Problem.invalid("begins.source", "There is no source of this name.")
                        .end());
        Given given = by.sample() != null
                ? Given.kept(signalling, source, by.sample())
                : Given.came(signalling, source, Request.needed(by.signal(), "begins.signal"));
        Reading reading = given.readAt(signalling, source, clock.instant());
        Signal signal = reading.signal();
        if (signal == null) {
            throw Problem.invalid("begins.signal", "It is not understood: " + reading.problem())
                    .end();
        }
        return signalling
                .foreseeing()
                .begins(
                        source,
                        signal,
                        new Trigger.Live(version.key(), version.number(), version.name(), trigger.switchedOn()));
    }

    private static TicketId ticket(String number) {
        try {
            return new TicketId(number);
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("ticket", e.getMessage()).end();
        }
    }

    private Object rehearse(Request q) {
        RehearsalBody body = q.body(RehearsalBody.class);
        List<Answer> answers = body.answers() == null ? List.of() : body.answers();
        if (answers.size() > MOST_ANSWERS) {
            throw Problem.invalid("answers", "A rehearsal takes at most " + MOST_ANSWERS + " answers.")
                    .end();
        }
        Rehearsal rehearsal = new Rehearsal(setting(q, body));
        Played stage = rehearsal.play(answers);
        if (Boolean.TRUE.equals(body.toTheEnd()) && stage.refused() == null) {
            stage = rehearsal.toTheEnd(stage);
        }
        return view(rehearsal, stage, body.version());
    }

    private RehearsalView view(Rehearsal rehearsal, Played stage, WorkflowVersion version) {
        List<Asked> asked = rehearsal
                .waiting(stage)
                .map(v -> new Asked(
                        v.id().value(),
                        v.step().value(),
                        version.find(v.step())
                                .map(s -> s.name())
                                .orElse(v.step().value()),
                        stage.ticket()
                                .open()
                                .get(v.id().run())
                                .itemAround(v)
                                .map(String::valueOf)
                                .orElse(null),
                        rehearsal.options(stage, v)))
                .toList();
        List<Entry> entries = new ArrayList<>();
        String previous = Seal.START;
        for (Recorded r : stage.record()) {
            entries.add(Seal.seal(stage.ticket().id(), r, previous, () -> new byte[32]));
            previous = entries.getLast().hash();
        }
        ValueLabels labels = new ValueLabels(workflows::action);
        DesignThen design = new DesignThen(
                entries,
                (key, number) -> key.equals(version.key()) && number == version.number()
                        ? Optional.of(version)
                        : workflows.version(key, number));
        return new RehearsalView(
                entries.stream().map(e -> RecordViews.entry(e, design, labels)).toList(),
                asked,
                stage.path().stream().map(s -> s.value()).toList(),
                stage.ended().orElse(null),
                stage.stalled().orElse(null),
                stage.refused(),
                stage.took().toSeconds(),
                stage.now(),
                new TreeMap<>(stage.ticket().fields()));
    }

    private Object explore(Request q) {
        Exploration.Explored explored = Exploration.of(setting(q, q.body(RehearsalBody.class)));
        return new ExploredView(
                explored.endings().stream()
                        .map(e -> new EndingView(
                                e.result(),
                                e.stalls(),
                                e.shortest().toSeconds(),
                                e.longest().toSeconds(),
                                e.ways(),
                                e.answers(),
                                e.failing(),
                                e.at(),
                                e.path()))
                        .toList(),
                explored.neverReached().stream().map(s -> s.value()).toList(),
                explored.stages(),
                explored.bounded());
    }

    private Object replay(Request q) {
        ReplayBody body = q.body(ReplayBody.class);
        WorkflowVersion version = Request.needed(body.version(), "version");
        int most = Math.clamp(body.most() == null ? 10 : body.most(), 1, MOST_REPLAYED);
        List<Replay.Replayed> runs = workflows.finishedRuns(version.key(), most).stream()
                .map(run -> replay(version, run))
                .filter(Objects::nonNull)
                .toList();
        return new ReplayView(runs);
    }

    private Replay.@Nullable Replayed replay(WorkflowVersion version, RunId run) {
        List<Recorded> record =
                records.of(run.ticket()).stream().map(Seal::open).toList();
        return record.isEmpty() ? null : Replay.of(version, record, run, look);
    }

    // --- kept rehearsals

    private Object cases(Request q) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        return view(key);
    }

    private CasesView view(WorkflowKey key) {
        List<KeptCase> cases = workflows.cases(key);
        Optional<WorkflowVersion> version = workflows
                .draft(key)
                .map(d -> d.version())
                .or(() -> workflows.liveVersion(key).flatMap(n -> workflows.version(key, n)));
        return new CasesView(
                cases,
                version.map(v -> cases.stream().map(c -> c.play(v, look)).toList())
                        .orElse(List.of()));
    }

    private Object putCases(Request q) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        List<KeptCase> cases = Request.needed(q.body(CasesBody.class).cases(), "cases");
        if (!workflows.exists(key)) {
            throw Problem.notFound("There is no workflow '" + key + "'.").end();
        }
        if (cases.size() > 100) {
            throw Problem.invalid("cases", "A workflow keeps at most 100 rehearsals.")
                    .end();
        }
        workflows.putCases(key, cases);
        return view(key);
    }

    /** Everything that checking and rehearsing need, without mail addresses. */
    private Object snapshot(Request q) {
        return new Snapshot(
                organisation.fields(),
                organisation.groups(),
                organisation.people().stream()
                        .map(p -> new Person(p.id(), p.name(), "", p.roles(), p.active(), p.manager()))
                        .toList(),
                workflows.actions(),
                workflows.ladders(),
                organisation.services(),
                List.of(),
                workflows.all().stream()
                        .filter(w -> w.liveVersion() != null && !w.retired())
                        .map(w -> workflows.version(new WorkflowKey(w.key()), w.liveVersion()))
                        .flatMap(Optional::stream)
                        .toList(),
                organisation.rotas(),
                workflows.terms());
    }
}
