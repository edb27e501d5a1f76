package dastur.server.api;

import dastur.core.people.Actor;
import dastur.core.people.Cover;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.run.Intervention;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.CiId;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.App;
import dastur.server.api.Views.ApprovalAsk;
import dastur.server.api.Views.Ask;
import dastur.server.api.Views.CiView;
import dastur.server.api.Views.Next;
import dastur.server.api.Views.RunView;
import dastur.server.api.Views.StallView;
import dastur.server.api.Views.Startable;
import dastur.server.api.Views.TaskAsk;
import dastur.server.api.Views.TicketView;
import dastur.server.api.Views.VisitView;
import dastur.server.auth.Right;
import dastur.store.Surroundings;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Puts together what a person sees of a ticket. Reads only. */
final class TicketViews {
    /** Entries in one answer. */
    private static final int ENTRIES = 500;

    /** What somebody who covers another can answer for them. */
    private static final Duration RECENT = Duration.ofDays(30);

    private final App app;

    TicketViews(App app) {
        this.app = app;
    }

    TicketView of(Case c, Person person) {
        TicketKind kind = c.kind();
        boolean seesAll = Right.SEE.of(person);
        List<Recorded> record =
                seesAll ? app.records().of(c.id()).stream().map(Seal::open).toList() : List.of();
        return new TicketView(
                c.id().value(),
                kind.word(),
                c.text("title").orElse(""),
                c.state(),
                kind.movesFrom(c.state()).stream()
                        .sorted(Comparator.comparing(kind.states()::indexOf))
                        .toList(),
                TicketKind.ended(c.state()),
                new TreeMap<>(seesAll ? c.fields() : forRequester(c)),
                c.createdAt(),
                c.lastAt(),
                c.seq(),
                seesAll ? runs(c, record) : List.of(),
                asks(c, person),
                seesAll ? ci(c).orElse(null) : null,
                Right.WORK.of(person) && !TicketKind.ended(c.state()) ? startable(kind) : List.of(),
                Right.WORK.of(person) ? offers(c) : List.of(),
                questions(c, person),
                seesAll ? late(c) : List.of(),
                files(c, person),
                seesAll ? links(c) : List.of(),
                seesAll ? c.targets() : Map.of(),
                seesAll ? c.parts() : Map.of(),
                seesAll ? room(c) : null,
                seesAll ? List.of() : talk(c, person),
                Right.WORK.of(person),
                Right.DESIGN.of(person),
                seesAll);
    }

    /** A requester sees their matter and its answer, not the inner workings. */
    private static Map<String, Object> forRequester(Case c) {
        Map<String, Object> fields = new LinkedHashMap<>();
        List.of("title", "description", "requester", "service", "ci", "answer", "priority")
                .forEach(f -> Optional.ofNullable(c.fields().get(f)).ifPresent(v -> fields.put(f, v)));
        return fields;
    }

    /** Open questions, for those who may answer: the requester and whoever works here. */
    private static List<Views.QuestionView> questions(Case c, Person person) {
        boolean mayAnswer = Right.WORK.of(person)
                || c.text("requester").filter(person.id().value()::equals).isPresent();
        if (!mayAnswer) {
            return List.of();
        }
        List<Views.QuestionView> questions = new ArrayList<>();
        c.open().values().stream().flatMap(run -> run.open().values().stream()).forEach(visit -> {
            if (visit.waiting() instanceof Waiting.Votes v && v.askedBack() != null) {
                questions.add(new Views.QuestionView(
                        visit.id() + "?question",
                        visit.id().value(),
                        v.name(),
                        v.askedBack().by().value(),
                        v.askedBack().at(),
                        v.askedBack().text()));
            }
        });
        return questions;
    }

    private List<Views.LinkView> links(Case c) {
        return c.links().stream()
                .flatMap(link -> app.tickets().row(link.other()).stream()
                        .map(row -> new Views.LinkView(
                                link.kind(),
                                link.kind().byHand(),
                                row.number(),
                                row.title(),
                                row.state(),
                                row.ended())))
                .toList();
    }

    private Views.@Nullable RoomView room(Case c) {
        Case.Room room = c.room();
        if (room == null) {
            return null;
        }
        // A Matrix URI (of the open standard) opens the room in whatever program people use for it.
        String link = app.demo() == null
                ? "matrix:roomid/" + room.id().replaceFirst("^!", "")
                : app.demo().standins() + "/chat";
        return new Views.RoomView(room.name() == null ? c.id().value() : room.name(), room.keepsAll(), link);
    }

    private List<Views.LateView> late(Case c) {
        Map<String, String> names = new TreeMap<>();
        app.tickets().runsOf(c.id()).forEach(r -> names.put(r.id(), r.name()));
        return c.late().entrySet().stream()
                .map(e -> new Views.LateView(
                        e.getKey() + "?late",
                        e.getKey().value(),
                        names.getOrDefault(e.getKey().run().value(), ""),
                        e.getValue().value()))
                .toList();
    }

    private List<Views.TalkView> talk(Case c, Person viewer) {
        List<Views.TalkView> talk = new ArrayList<>();
        app.records().of(c.id()).stream()
                .filter(e -> e.kind().equals("noteAdded"))
                .map(Seal::open)
                .forEach(r -> {
                    if (r.event() instanceof Event.NoteAdded note
                            && note.toRequester()
                            && r.actor() instanceof Actor.OfPerson by) {
                        talk.add(new Views.TalkView(
                                r.seq(),
                                app.organisation()
                                        .person(by.person())
                                        .map(Person::name)
                                        .orElse(by.person().value()),
                                by.person().equals(viewer.id()),
                                r.at(),
                                note.text()));
                    }
                });
        return talk;
    }

    /** A requester sees what they attached and what was meant for them. */
    private static List<Views.FileView> files(Case c, Person person) {
        return c.files().stream()
                .filter(f -> maySee(f, person))
                .map(f -> new Views.FileView(
                        f.seq(), f.hash(), f.name(), f.type(), f.size(), f.by().value(), f.at(), f.toRequester()))
                .toList();
    }

    static boolean maySee(Case.FileRef file, Person person) {
        return Right.SEE.of(person) || file.toRequester() || file.by().equals(person.id());
    }

    private List<Views.OfferView> offers(Case c) {
        return c.offers().values().stream()
                .map(o -> new Views.OfferView(
                        c.id() + "/" + o.trigger(),
                        o.trigger().value(),
                        o.workflow().value(),
                        o.name(),
                        o.asked(),
                        o.at(),
                        app.workflows()
                                .liveVersion(o.workflow())
                                .flatMap(n -> app.workflows().version(o.workflow(), n))
                                .map(WorkflowVersion::startForm)
                                .orElse(List.of())))
                .toList();
    }

    // --- runs

    private List<RunView> runs(Case c, List<Recorded> record) {
        Map<String, Map<String, VisitView>> visits = visits(record);
        return app.tickets().runsOf(c.id()).stream()
                .map(r -> new RunView(
                        r.id(),
                        r.workflow(),
                        r.version(),
                        r.name(),
                        r.status(),
                        r.trigger(),
                        r.startedAt(),
                        r.endedAt(),
                        r.result(),
                        List.copyOf(visits.getOrDefault(r.id(), Map.of()).values()),
                        Optional.ofNullable(c.open().get(new RunId(r.id())))
                                .map(Run::offForNow)
                                .orElse(List.of())))
                .toList();
    }

    private static Map<String, Map<String, VisitView>> visits(List<Recorded> record) {
        Map<String, Map<String, VisitView>> runs = new LinkedHashMap<>();
        for (Recorded r : record) {
            if (r.run() == null || r.visit() == null || r.step() == null) {
                continue;
            }
            Map<String, VisitView> visits = runs.computeIfAbsent(r.run().value(), k -> new LinkedHashMap<>());
            VisitView before = visits.getOrDefault(
                    r.visit().value(), new VisitView(r.visit().value(), r.step().value(), r.at(), null, null, null));
            visits.put(r.visit().value(), after(before, r));
        }
        return runs;
    }

    private static VisitView after(VisitView v, Recorded r) {
        return switch (r.event()) {
            case Event.Leaving e
            when e.exit() != null -> new VisitView(v.id(), v.step(), v.openedAt(), r.at(), e.exit(), null);
            case Event.Ended e -> new VisitView(v.id(), v.step(), v.openedAt(), r.at(), e.result(), null);
            case Event.Withdrawn e -> new VisitView(v.id(), v.step(), v.openedAt(), r.at(), "withdrawn", null);
            case Event.Stalled e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, e.code());
            case Event.CallUnsure e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, "unsure");
            case Event.Intervened e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, null);
            default -> v;
        };
    }

    // --- what waits

    private List<Ask> asks(Case c, Person person) {
        List<Ask> asks = new ArrayList<>();
        List<Cover> covers =
                app.organisation().coveredBy(person.id(), app.clock().instant());
        for (Run run : c.open().values()) {
            for (Visit visit : run.open().values()) {
                covered(c, run, visit, covers)
                        .filter(x ->
                                ask(c, run, visit, person).filter(Ask::mine).isEmpty())
                        .or(() -> ask(c, run, visit, person))
                        .ifPresent(asks::add);
            }
        }
        return asks;
    }

    /** What is asked of one of those for whom the viewer acts. */
    private Optional<Ask> covered(Case c, Run run, Visit visit, List<Cover> covers) {
        return covers.stream()
                .flatMap(cover -> app.organisation().person(cover.person()).stream()
                        .flatMap(p -> ask(c, run, visit, p).stream())
                        .filter(a -> a.mine() && Covering.takesOver(cover, a.kind()))
                        .map(a -> a.coveredFor(cover.person().value())))
                .findFirst();
    }

    private Optional<Ask> ask(Case c, Run run, Visit visit, Person person) {
        boolean seesAll = Right.SEE.of(person);
        String name = stepName(run, visit);
        if (visit.stall() != null) {
            boolean may = Right.DESIGN.of(person) || run.owner().equals(person.id());
            Asked stalled = Asked.of("stalled", name, may).because(stall(run, visit));
            return seesAll ? Optional.of(ask(run, visit, stalled)) : Optional.empty();
        }
        Optional<Asked> asked =
                switch (visit.waiting()) {
                    case Waiting.Task t -> Optional.of(task(visit, t, person));
                    case Waiting.Votes v ->
                        Optional.of(Asked.of(
                                        "approval",
                                        v.name(),
                                        v.turn().contains(person.id())
                                                && !v.cast().containsKey(person.id()))
                                .due(v.due())
                                .saying(v.question())
                                .approval(approval(c, run, v)));
                    case Waiting.Review r ->
                        Optional.of(Asked.of("review", r.name(), isOneOf(person.id(), r.to()))
                                .review(new Views.ReviewAsk(r.to(), r.rules(), r.mayMeasureAgain())));
                    case Waiting.CallIn in ->
                        Optional.of(Asked.of(
                                        "call-in",
                                        in.name(),
                                        in.asked().contains(person.id())
                                                && !in.cannot().contains(person.id()))
                                .due(in.until())
                                .saying(in.message())
                                .callIn(new Views.CallInAsk(
                                        in.asked().stream().map(PersonId::value).toList(),
                                        in.cannot().stream()
                                                .map(PersonId::value)
                                                .toList())));
                    case Waiting.CallResult w -> Optional.of(Asked.of("machine", name, false));
                    case Waiting.Judging j ->
                        Optional.of(Asked.of("wait", name, false).due(j.next()).saying("It is judged again."));
                    case Waiting.Moment m ->
                        Optional.of(Asked.of("wait", name, false).due(m.until()));
                    case Waiting.ForCondition f ->
                        Optional.of(Asked.of("wait", name, false).due(f.until()).saying("Until " + f.condition()));
                    case Waiting.ForSignal f ->
                        Optional.of(Asked.of("wait", name, false)
                                .due(f.until())
                                .saying("For the signal " + f.signal() + (f.key() == null ? "" : " of " + f.key())));
                    case Waiting.ForReply f ->
                        Optional.of(Asked.of("wait", name, false).due(f.until()).saying("For a reply"));
                    case Waiting.Sent s ->
                        Optional.of(Asked.of("wait", name, false)
                                .saying("For '" + s.name() + "' to begin on another ticket"));
                    case Waiting.Called called
                    when !called.run().ticket().equals(c.id()) ->
                        Optional.of(Asked.of("wait", name, false)
                                .saying("For " + called.run().ticket() + ", where another workflow is at it"));
                    case Waiting.Called called -> Optional.empty();
                    case Waiting.Lines lines -> Optional.empty();
                    case Waiting.Delivery w -> Optional.empty();
                    case Waiting.Help h -> Optional.empty();
                };
        return asked.filter(a -> seesAll || a.mine()).map(a -> ask(run, visit, a));
    }

    private Asked task(Visit visit, Waiting.Task t, Person person) {
        boolean mine = isOneOf(person.id(), t.to()) || t.overseers() != null && isOneOf(person.id(), t.overseers());
        return Asked.of("task", t.name(), mine)
                .due(t.due())
                .saying(t.instructions())
                .task(new TaskAsk(
                        t.to(),
                        t.overseers(),
                        t.claimedBy() == null ? null : t.claimedBy().value(),
                        t.outcomes(),
                        t.form(),
                        t.mayLeaveOut(),
                        t.form().isEmpty()
                                ? Map.of()
                                : app.drafts().of(visit.id(), person.id()).orElse(Map.of())));
    }

    /** What is asked, put together part by part. */
    private record Asked(
            String kind,
            String name,
            boolean mine,
            @Nullable Instant dueAt,
            @Nullable String text,
            @Nullable TaskAsk taskAsk,
            @Nullable ApprovalAsk approvalAsk,
            Views.@Nullable ReviewAsk reviewAsk,
            Views.@Nullable CallInAsk callInAsk,
            @Nullable StallView stall) {
        static Asked of(String kind, String name, boolean mine) {
            return new Asked(kind, name, mine, null, null, null, null, null, null, null);
        }

        Asked due(@Nullable Instant at) {
            return new Asked(kind, name, mine, at, text, taskAsk, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked saying(@Nullable String words) {
            return new Asked(kind, name, mine, dueAt, words, taskAsk, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked task(TaskAsk ask) {
            return new Asked(kind, name, mine, dueAt, text, ask, approvalAsk, reviewAsk, callInAsk, stall);
        }

        Asked approval(ApprovalAsk ask) {
            return new Asked(kind, name, mine, dueAt, text, taskAsk, ask, reviewAsk, callInAsk, stall);
        }

        Asked review(Views.ReviewAsk ask) {
            return new Asked(kind, name, mine, dueAt, text, taskAsk, approvalAsk, ask, callInAsk, stall);
        }

        Asked callIn(Views.CallInAsk ask) {
            return new Asked(kind, name, mine, dueAt, text, taskAsk, approvalAsk, reviewAsk, ask, stall);
        }

        Asked because(StallView why) {
            return new Asked(kind, name, mine, dueAt, text, taskAsk, approvalAsk, reviewAsk, callInAsk, why);
        }
    }

    private Ask ask(Run run, Visit visit, Asked asked) {
        boolean quiet = asked.kind().equals("machine") || asked.kind().equals("wait");
        List<Next> next = quiet
                ? List.of()
                : Engine.alarms(visit, app.commands().upSince()).stream()
                        .map(a -> new Next(a.due(), a.kind().word(), a.deed()))
                        .toList();
        return new Ask(
                visit.id().value(),
                run.id().value(),
                run.name(),
                visit.step().value(),
                asked.kind(),
                asked.name(),
                run.itemAround(visit).map(TicketViews::itemWord).orElse(null),
                asked.mine(),
                null,
                visit.openedAt(),
                asked.dueAt(),
                asked.text(),
                asked.taskAsk(),
                asked.approvalAsk(),
                asked.reviewAsk(),
                asked.callInAsk(),
                asked.stall(),
                next);
    }

    /** An item in a word or two: a text itself, or the first text in it. */
    private static String itemWord(Object item) {
        Object word = item instanceof Map<?, ?> map
                ? map.values().stream()
                        .filter(String.class::isInstance)
                        .findFirst()
                        .map(Object.class::cast)
                        .orElse(item)
                : item;
        return dastur.core.json.Texts.clip(String.valueOf(word), 60);
    }

    private String stepName(Run run, Visit visit) {
        return app.workflows()
                .version(run.workflow(), run.version())
                .flatMap(v -> v.find(visit.step()))
                .map(s -> s.name())
                .orElse(visit.step().value());
    }

    private boolean isOneOf(PersonId person, Assigned assigned) {
        return Covering.isOneOf(app, person, assigned);
    }

    /** What a decision is about, as it was when people were asked. */
    List<Views.Shown> shown(Waiting.Votes v) {
        FieldCatalogue fields = app.organisation().fields();
        return v.shown().stream()
                .map(path ->
                        new Views.Shown(path, label(path, fields), v.values().get(path)))
                .toList();
    }

    private ApprovalAsk approval(Case c, Run run, Waiting.Votes v) {
        Surroundings.Neighbourhood around = c.text("ci")
                .map(ci -> app.surroundings()
                        .around(new CiId(ci), c.id(), app.clock().instant().minus(RECENT)))
                .orElse(Surroundings.Neighbourhood.NONE);
        List<Views.Shown> shown = shown(v);
        Map<String, Boolean> cast = new TreeMap<>();
        v.cast().forEach((who, yes) -> cast.put(who.value(), yes));
        return new ApprovalAsk(
                v.round(),
                v.digest(),
                v.setsOff(),
                v.rule(),
                v.needed(),
                v.electorate().stream().map(PersonId::value).toList(),
                v.excluded().stream().map(PersonId::value).toList(),
                cast,
                shown,
                v.commentOnDecline(),
                v.terms().commentAlways(),
                v.terms().mayAddConditions(),
                v.turn().stream().map(PersonId::value).toList(),
                v.terms().veto().stream().map(PersonId::value).toList(),
                conditions(v),
                v.askedBack() != null,
                around.openOnCi(),
                around.recentOnCi(),
                around.others(),
                app.surroundings().endings(run.workflow(), run.id()));
    }

    private static Map<String, String> conditions(Waiting.Votes v) {
        Map<String, String> conditions = new TreeMap<>();
        v.conditions().forEach((who, condition) -> conditions.put(who.value(), condition));
        return conditions;
    }

    private static String label(String path, FieldCatalogue fields) {
        String name = path.substring(path.lastIndexOf('.') + 1);
        if (path.startsWith("ticket.")) {
            return fields.ticketField(name).map(f -> f.label()).orElse(name);
        }
        return path.startsWith("ci.")
                ? "CI: " + fields.ciField(name).map(f -> f.label()).orElse(name)
                : name;
    }

    private StallView stall(Run run, Visit visit) {
        Visit.Stall stall = visit.stall();
        boolean unsure = visit.waiting() instanceof Waiting.CallResult w && w.unsure();
        List<Intervention> remedies = unsure
                ? List.of(
                        Intervention.HAPPENED,
                        Intervention.DID_NOT_HAPPEN,
                        Intervention.TAKE_EXIT,
                        Intervention.STOP_RUN)
                : stall.code().equals("approval outdated")
                        ? List.of(Intervention.ASK_AGAIN, Intervention.GO_ON, Intervention.STOP_RUN)
                        : List.of(
                                Intervention.RETRY,
                                Intervention.TAKE_EXIT,
                                Intervention.STOP_RUN,
                                Intervention.STOP_AND_PUT_BACK);
        List<String> exits = app.workflows()
                .version(run.workflow(), run.version())
                .flatMap(v -> v.find(visit.step()))
                .map(s -> visit.putsBack() == null ? List.copyOf(s.ways().keySet()) : List.of("left as it is"))
                .orElse(List.of());
        return new StallView(stall.code(), stall.why(), remedies, exits);
    }

    // --- surroundings

    private Optional<CiView> ci(Case c) {
        return c.text("ci")
                .map(CiId::new)
                .flatMap(id -> app.organisation().ci(id).map(item -> {
                    Surroundings.Neighbourhood around = app.surroundings()
                            .around(id, c.id(), app.clock().instant().minus(RECENT));
                    return new CiView(
                            item,
                            app.organisation().relationsOf(id),
                            around.openOnCi(),
                            around.recentOnCi(),
                            around.others());
                }));
    }

    private List<Startable> startable(TicketKind kind) {
        return app.workflows().liveTriggers().stream()
                .filter(live -> live.trigger().on() && live.trigger().when() instanceof Trigger.ByHand)
                .map(live -> new LookupKey.OfVersion(live.workflow(), live.version()))
                .distinct()
                .map(app.look())
                .flatMap(Optional::stream)
                .map(WorkflowVersion.class::cast)
                .filter(v -> v.kind() == null || v.kind() == kind)
                .sorted(Comparator.comparing(WorkflowVersion::name))
                .map((WorkflowVersion v) -> new Startable(v.key().value(), v.name(), v.startForm()))
                .toList();
    }

    // --- record

    /** The entries after one, at most {@value #ENTRIES}; the seal is checked over all of them. */
    Views.RecordView record(Case c, long after) {
        List<Entry> entries = app.records().of(c.id());
        Optional<Seal.Break> broken = Seal.check(entries);
        List<Entry> part =
                entries.stream().filter(e -> e.seq() > after).limit(ENTRIES).toList();
        long last = entries.isEmpty() ? 0 : entries.getLast().seq();
        return new Views.RecordView(
                part.stream().map(TicketViews::entry).toList(),
                !part.isEmpty() && part.getLast().seq() < last,
                entries.size(),
                broken.isEmpty(),
                broken.map(Seal.Break::seq).orElse(null),
                broken.map(Seal.Break::message).orElse(null),
                app.records().anchoredSeq(c.id()));
    }

    static Views.EntryView entry(Entry e) {
        var line = readable(e.sealed());
        return new Views.EntryView(
                e.seq(),
                e.at(),
                line.path("actor"),
                e.kind(),
                line.path("run").textValue(),
                line.path("step").textValue(),
                line.path("visit").textValue(),
                line.path("body"),
                e.content() == null ? null : readable(e.content()),
                e.content() == null && line.has("contentHash"),
                e.hash());
    }

    private static com.fasterxml.jackson.databind.JsonNode readable(String text) {
        try {
            return dastur.core.json.Json.parse(text);
        } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
            return dastur.core.json.Json.mapper().createObjectNode();
        }
    }
}
