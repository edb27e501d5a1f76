package dastur.server.api;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Intervention;
import dastur.core.run.Moves;
import dastur.core.run.Run;
import dastur.core.run.RunId;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.TicketId;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.server.work.CommandService;
import dastur.store.Organisation;
import dastur.store.Page;
import dastur.store.Records;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.ZoneOffset;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Runs over all tickets: where each stands, since when and for whom; and what a new version means for them (N50, N26). */
final class RunRoutes {
    /** More runs than anybody moves at once; the rest is moved one by one. */
    private static final int MOST_MOVED = 200;

    private static final List<String> STATUSES = List.of("under way", "stalled", "held", "finished", "stopped");

    /**
     * Where a run stands.
     *
     * @param whom for whom it waits; null where no person is asked
     * @param stalled why it goes no further; null where it does
     */
    record Standing(
            String visit,
            String step,
            Instant since,
            @Nullable Assigned whom,
            @Nullable String stalled) {}

    /** A run in the list. @param standing empty for ended ones */
    record RunLine(Tickets.RunRow run, String ticketTitle, List<Standing> standing) {}

    record RunPage(List<RunLine> items, boolean more) {}

    /** @param problems why it cannot be moved; empty when it can */
    record MovableView(String run, String ticket, int version, List<String> problems) {}

    /** @param more whether there are further runs that are not listed */
    record MovesView(List<MovableView> items, boolean more) {}

    private final CommandService commands;
    private final Organisation organisation;
    private final Records records;
    private final Tickets tickets;
    private final Workflows workflows;

    private RunRoutes(
            CommandService commands, Organisation organisation, Records records, Tickets tickets, Workflows workflows) {
        this.commands = commands;
        this.organisation = organisation;
        this.records = records;
        this.tickets = tickets;
        this.workflows = workflows;
    }

    static Stream<Route> of(
            CommandService commands, Organisation organisation, Records records, Tickets tickets, Workflows workflows) {
        RunRoutes r = new RunRoutes(commands, organisation, records, tickets, workflows);
        return Stream.of(
                Route.get(
                        "/api/tickets/{number}/runs/{run}/summary",
                        Right.SEE,
                        "A run in one document; as Markdown when asked by Accept",
                        RunSummary.Summary.class,
                        r::summary),
                Route.get("/api/runs", Right.SEE, "Runs", RunPage.class, r::list, "status", "workflow", "after"),
                Route.get(
                        "/api/workflows/{key}/under-way",
                        Right.DESIGN,
                        "Runs that stand on earlier versions, and whether the draft could take them over",
                        MovesView.class,
                        r::underWay));
    }

    private Object summary(Request q) {
        TicketId ticket = q.path("number", TicketId::new);
        RunId run = q.path("run", RunId::new);
        Tickets.RunRow row = tickets.runsOf(ticket).stream()
                .filter(x -> x.id().equals(run.value()))
                .findFirst()
                .orElseThrow(
                        () -> Problem.notFound("There is no run " + run + ".").end());
        String title = tickets.row(ticket).map(Tickets.Row::title).orElse("");
        RunSummary.Summary summary = RunSummary.of(
                ticket.value(),
                title,
                run,
                records.of(ticket).stream().map(Seal::open).toList(),
                person -> organisation.person(person).map(Person::name).orElse(person.value()),
                number -> workflows
                        .version(new WorkflowKey(row.workflow()), number)
                        .orElseThrow(),
                new ValueLabels(workflows::action));
        String accept = q.context().header("Accept");
        return accept != null && accept.contains("markdown")
                ? new WebServer.Raw(
                        "text/markdown; charset=utf-8",
                        RunSummary.markdown(
                                summary,
                                organisation
                                        .defaultCalendar()
                                        .flatMap(key -> organisation.calendars().stream()
                                                .filter(c -> c.key().equals(key))
                                                .findFirst())
                                        .map(WorkingCalendar::zone)
                                        .orElse(ZoneOffset.UTC)))
                : summary;
    }

    private Object list(Request q) {
        Optional<String> status = q.query("status");
        status.filter(s -> !STATUSES.contains(s)).ifPresent(s -> {
            throw Problem.invalid("status", "A run is " + String.join(", ", STATUSES) + ".")
                    .end();
        });
        Page<Tickets.RunRow> page = tickets.runs(
                status.map(List::of).orElse(List.of()),
                q.query("workflow").orElse(null),
                q.query("after").orElse(null));
        return new RunPage(page.items().stream().map(this::line).toList(), page.more());
    }

    private RunLine line(Tickets.RunRow row) {
        Optional<Case> c = tickets.find(new TicketId(row.ticket()));
        Optional<Run> run = c.map(x -> x.open().get(new RunId(row.id())));
        return new RunLine(
                row,
                c.flatMap(x -> x.text("title")).orElse(""),
                run.map(this::standing).orElse(List.of()));
    }

    private List<Standing> standing(Run run) {
        Optional<WorkflowVersion> version = workflows.version(run.workflow(), run.version());
        List<Standing> all = new ArrayList<>();
        for (Visit visit : run.open().values()) {
            if (visit.waiting() instanceof Waiting.Lines && visit.stall() == null) {
                continue;
            }
            all.add(new Standing(
                    visit.id().value(),
                    version.flatMap(v -> v.find(visit.step()))
                            .map(Step::name)
                            .orElse(visit.step().value()),
                    visit.openedAt(),
                    whom(visit.waiting()),
                    visit.stall() == null ? null : visit.stall().why()));
        }
        return all;
    }

    private static @Nullable Assigned whom(Waiting waiting) {
        return waiting.asks()
                .map(a -> a.claimedBy() == null ? a.to() : new Assigned(List.of(), List.of(a.claimedBy())))
                .orElse(null);
    }

    // --- other versions

    private Object underWay(Request q) {
        WorkflowKey key = q.path("key", WorkflowKey::new);
        WorkflowVersion to = workflows
                .draft(key)
                .map(d -> d.version())
                .or(() -> workflows.liveVersion(key).flatMap(n -> workflows.version(key, n)))
                .orElseThrow(() ->
                        Problem.notFound("There is no workflow '" + key + "'.").end());
        List<Tickets.RunRow> rows = tickets.openOnOther(key, to.number(), MOST_MOVED + 1);
        return new MovesView(
                rows.stream()
                        .limit(MOST_MOVED)
                        .map(row -> new MovableView(row.id(), row.ticket(), row.version(), problems(row, to)))
                        .toList(),
                rows.size() > MOST_MOVED);
    }

    private List<String> problems(Tickets.RunRow row, WorkflowVersion to) {
        Optional<Run> run =
                tickets.find(new TicketId(row.ticket())).map(c -> c.open().get(new RunId(row.id())));
        Optional<WorkflowVersion> from = workflows.version(new WorkflowKey(row.workflow()), row.version());
        if (run.isEmpty() || from.isEmpty()) {
            return List.of("It has just ended.");
        }
        return Moves.problems(run.get(), from.get(), to);
    }

    /** Moves the runs that can be; each in a transaction of its own, so that one that cannot keeps no other back. */
    static int move(
            CommandService commands, Tickets tickets, WorkflowKey key, int version, String commandId, Actor by) {
        int moved = 0;
        for (Tickets.RunRow row : tickets.openOnOther(key, version, MOST_MOVED)) {
            CommandService.Outcome outcome = commands.handle(
                    new TicketId(row.ticket()),
                    commandId + "." + row.id(),
                    by,
                    new Command.Intervene(
                            new RunId(row.id()),
                            null,
                            Intervention.MOVE,
                            null,
                            "moved when version " + version + " was published",
                            null,
                            version));
            if (outcome instanceof CommandService.Outcome.Done) {
                moved++;
            }
        }
        return moved;
    }
}
