package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.ListRows;
import dastur.core.run.ListRows.State;
import dastur.core.run.Recorded;
import dastur.core.run.VisitId;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Records;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** How far each item of a list has come that a workflow goes through (M11). */
final class ListRoutes {
    /**
     * A for each of a ticket.
     *
     * @param left by which exit it was left; null while it goes on
     */
    record ListLine(
            VisitId visit, String name, @Nullable String left, int count, long done, long failed, long underWay) {}

    /** @param at names of the steps that it is at */
    record RowLine(
            @Nullable Object item,
            State state,
            @Nullable String result,
            List<String> at,
            @Nullable Instant since,
            @Nullable String why) {}

    record ListView(ListLine list, List<RowLine> rows) {}

    private final OnTickets on;
    private final Records records;
    private final Tickets tickets;
    private final Workflows workflows;

    private ListRoutes(OnTickets on, Records records, Tickets tickets, Workflows workflows) {
        this.on = on;
        this.records = records;
        this.tickets = tickets;
        this.workflows = workflows;
    }

    static Stream<Route> of(OnTickets on, Records records, Tickets tickets, Workflows workflows) {
        ListRoutes r = new ListRoutes(on, records, tickets, workflows);
        return Stream.of(
                Route.list(
                        "/api/tickets/{number}/lists",
                        Right.SEE,
                        "The lists that a ticket's workflows go through",
                        ListLine.class,
                        r::lists),
                Route.get(
                        "/api/tickets/{number}/lists/{visit}",
                        Right.SEE,
                        "One of them, row by row",
                        ListView.class,
                        r::rows));
    }

    private List<ListRows> read(Case c) {
        List<Recorded> record = records.of(c.id()).stream().map(Seal::open).toList();
        return ListRows.of(c.id(), record);
    }

    private Object lists(Request q) {
        return read(on.found(q)).stream().map(ListRoutes::line).toList();
    }

    private static ListLine line(ListRows list) {
        return new ListLine(
                list.visit(),
                list.name(),
                list.left(),
                list.rows().size(),
                list.count(State.DONE),
                list.count(State.FAILED),
                list.count(State.UNDER_WAY) + list.count(State.STALLED));
    }

    private Object rows(Request q) {
        Case c = on.found(q);
        VisitId visit = q.path("visit", VisitId::new);
        ListRows list = read(c).stream()
                .filter(l -> l.visit().equals(visit))
                .findFirst()
                .orElseThrow(() -> Problem.notFound("There is no such list on " + c.id() + ".")
                        .end());
        Optional<WorkflowVersion> version = tickets.runsOf(c.id()).stream()
                .filter(r -> r.id().equals(visit.run().value()))
                .findFirst()
                .flatMap(r -> workflows.version(new WorkflowKey(r.workflow()), r.version()));
        return new ListView(
                line(list),
                list.rows().stream()
                        .map(r -> new RowLine(
                                r.item(),
                                r.state(),
                                r.result(),
                                r.at().stream().map(id -> name(version, id)).toList(),
                                r.since(),
                                r.why()))
                        .toList());
    }

    private static String name(Optional<WorkflowVersion> version, StepId id) {
        return version.flatMap(v -> v.find(id)).map(Step::name).orElse(id.value());
    }
}
