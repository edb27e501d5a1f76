package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Run;
import dastur.core.run.RunId;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.App;
import dastur.server.api.Views.CiView;
import dastur.server.api.Views.RunView;
import dastur.server.api.Views.TicketView;
import dastur.server.api.Views.VisitView;
import dastur.store.Neighbours;
import dastur.store.Records;
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

    private final App app;
    private final AskViews asks;

    TicketViews(App app) {
        this.app = app;
        this.asks = new AskViews(app);
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
                asks.of(c, person),
                seesAll ? ci(c).orElse(null) : null,
                Right.WORK.of(person) && !TicketKind.ended(c.state()) ? new Startables(app).of(kind) : List.of(),
                Right.WORK.of(person) ? offers(c) : List.of(),
                questions(c, person),
                seesAll ? late(c) : List.of(),
                files(c, person),
                seesAll ? links(c) : List.of(),
                seesAll ? c.targets() : Map.of(),
                seesAll ? c.parts() : Map.of(),
                seesAll ? room(c) : null,
                seesAll || !isRequester(c, person) ? List.of() : new RequesterStory(app, person).of(c.id()),
                Engine.mayTakeBack(c, person.id(), app.clock().instant()),
                Right.WORK.of(person),
                Right.DESIGN.of(person),
                seesAll);
    }

    private static boolean isRequester(Case c, Person person) {
        return c.text("requester").filter(person.id().value()::equals).isPresent();
    }

    /** A requester, and whoever is asked, sees the matter and its answer, not the inner workings. */
    private static Map<String, Object> forRequester(Case c) {
        Map<String, Object> fields = new LinkedHashMap<>();
        List.of("title", "description", "requester", "service", "ci", "answer", "priority")
                .forEach(f -> Optional.ofNullable(c.fields().get(f)).ifPresent(v -> fields.put(f, v)));
        return fields;
    }

    /** Open questions, for those who may answer: the requester and whoever works here. */
    private static List<Views.QuestionView> questions(Case c, Person person) {
        boolean mayAnswer = Right.WORK.of(person) || isRequester(c, person);
        if (!mayAnswer) {
            return List.of();
        }
        List<Views.QuestionView> questions = new ArrayList<>();
        c.open().values().stream().flatMap(run -> run.open().values().stream()).forEach(visit -> {
            if (visit.waiting() instanceof Votes v && v.askedBack() != null) {
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
        return c.late().entrySet().stream()
                .map(e -> new Views.LateView(
                        e.getKey() + "?late",
                        e.getKey().value(),
                        c.began().containsKey(e.getKey().run())
                                ? c.began().get(e.getKey().run()).name()
                                : "",
                        e.getValue().owner().value()))
                .toList();
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
            case CallUnsure e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, "unsure");
            case Event.Intervened e -> new VisitView(v.id(), v.step(), v.openedAt(), null, null, null);
            default -> v;
        };
    }

    // --- surroundings

    private Optional<CiView> ci(Case c) {
        return c.text("ci")
                .map(CiId::new)
                .flatMap(id -> app.organisation().ci(id).map(item -> {
                    Neighbours.Neighbourhood around = app.neighbours()
                            .around(id, c.id(), app.clock().instant().minus(AskViews.RECENT));
                    return new CiView(
                            item,
                            app.organisation().relationsOf(id),
                            around.openOnCi(),
                            around.recentOnCi(),
                            around.others());
                }));
    }

    // --- record

    /** The entries after one, at most {@value #ENTRIES}; the seal is checked over all of them. */
    Views.RecordView record(Case c, long after) {
        Records.Checked checked = app.records().checked(c.id());
        List<Entry> entries = checked.entries();
        Optional<Seal.Break> broken = checked.problem();
        List<Entry> part =
                entries.stream().filter(e -> e.seq() > after).limit(ENTRIES).toList();
        long last = entries.isEmpty() ? 0 : entries.getLast().seq();
        StepNames steps = new StepNames(entries, app.workflows()::version);
        return new Views.RecordView(
                part.stream().map(e -> entry(e, steps)).toList(),
                !part.isEmpty() && part.getLast().seq() < last,
                entries.size(),
                broken.isEmpty(),
                broken.map(Seal.Break::seq).orElse(null),
                broken.map(Seal.Break::message).orElse(null),
                checked.signed());
    }

    static Views.EntryView entry(Entry e, StepNames steps) {
        var line = readable(e.sealed());
        return new Views.EntryView(
                e.seq(),
                e.at(),
                line.path("actor"),
                e.kind(),
                line.path("run").textValue(),
                line.path("step").textValue(),
                steps.of(e.seq(), line),
                line.path("visit").textValue(),
                line.path("body"),
                e.content() == null ? null : readable(e.content()),
                e.content() == null && line.has("contentHash"),
                e.hash());
    }

    static com.fasterxml.jackson.databind.JsonNode readable(String text) {
        try {
            return dastur.core.json.Json.parse(text);
        } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
            return dastur.core.json.Json.mapper().createObjectNode();
        }
    }
}
