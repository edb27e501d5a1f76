package dastur.server.api;

import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.WebServer;
import dastur.store.TicketFilter;
import dastur.store.Tickets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** A list of tickets to take along, just as it is narrowed down and ordered on the screen. Times are in UTC (ISO 8601). */
final class TicketCsv {
    /** More are not taken along in one file; what is cut short would be taken for the whole. */
    private static final int MOST = 10_000;

    private static final List<String> COLUMNS = List.of(
            "number",
            "kind",
            "title",
            "state",
            "priority",
            "requester",
            "service",
            "ci",
            "group",
            "assignee",
            "raised",
            "changed",
            "target",
            "due",
            "missed");

    private TicketCsv() {}

    static Object of(Tickets tickets, Request q) {
        TicketFilter filter = TicketFilters.of(q);
        List<Tickets.Row> rows = tickets.many(filter, MOST + 1);
        if (rows.size() > MOST) {
            throw Problem.invalid(null, "More than 10,000 tickets fit. Narrow the list down, then take it along.")
                    .end();
        }
        q.context().header("Content-Disposition", "attachment; filename=\"tickets.csv\"");
        return new WebServer.Raw(
                "text/csv; charset=utf-8",
                Csv.write(COLUMNS, rows.stream().map(TicketCsv::row).toList()));
    }

    private static Map<String, Object> row(Tickets.Row t) {
        Map<String, Object> row = new LinkedHashMap<>();
        List<@Nullable Object> cells = java.util.Arrays.asList(
                t.number(),
                t.kind(),
                t.title(),
                t.state(),
                t.priority(),
                t.requester(),
                t.service(),
                t.ci(),
                t.group(),
                t.assignee(),
                t.createdAt(),
                t.updatedAt(),
                t.target(),
                t.targetDue(),
                t.targetMissed() ? "yes" : "no");
        for (int i = 0; i < COLUMNS.size(); i++) {
            Object cell = cells.get(i);
            row.put(COLUMNS.get(i), cell == null ? "" : cell.toString());
        }
        return row;
    }
}
