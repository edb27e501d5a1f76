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
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Records;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.List;
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
                        "The lists that a ticket's workflows are at",
                        ListLine.class,
                        r::lists),
                Route.get(
                        "/api/tickets/{number}/lists/{visit}",
                        Right.SEE,
                        "One of them, row by row",
                        ListView.class,
                        r::rows));
    }

    private Object lists(Request q) {
        return ListRows.underWay(on.found(q)).stream().map(this::line).toList();
    }

    private ListLine line(ListRows list) {
        return new ListLine(
                list.visit(),
                name(list.visit(), list.step()),
                list.left(),
                list.rows().size(),
                list.count(State.DONE),
                list.count(State.FAILED),
                list.count(State.UNDER_WAY) + list.count(State.STALLED));
    }

    private Object rows(Request q) {
        Case c = on.found(q);
        VisitId visit = q.path("visit", VisitId::new);
        List<Recorded> record = records.of(c.id()).stream().map(Seal::open).toList();
        ListRows list = ListRows.of(c, record, visit)
                .orElseThrow(() -> Problem.notFound("There is no such list on " + c.id() + ".")
                        .end());
        return new ListView(
                line(list),
                list.rows().stream()
                        .map(r -> new RowLine(
                                r.item(),
                                r.state(),
                                r.result(),
                                r.at().stream().map(id -> name(visit, id)).toList(),
                                r.since(),
                                r.why()))
                        .toList());
    }

    /** What a step is called in the version that its run has come to. */
    private String name(VisitId visit, StepId id) {
        return tickets.runsOf(visit.ticket()).stream()
                .filter(r -> r.id().equals(visit.run().value()))
                .findFirst()
                .flatMap(r -> workflows.version(new WorkflowKey(r.workflow()), r.version()))
                .flatMap(v -> v.find(id))
                .map(Step::name)
                .orElse(id.value());
    }
}
