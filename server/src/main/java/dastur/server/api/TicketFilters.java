package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.store.TicketFilter;
import java.util.List;
import java.util.stream.Collectors;
import java.util.stream.Stream;

/** What an address says of which tickets to list; what it cannot mean is refused, since a list that leaves a filter out misleads. */
final class TicketFilters {
    /** The query parameters of a list of tickets. */
    static final String[] NAMES = {
        "text",
        "open",
        "kind",
        "priority",
        "state",
        "service",
        "group",
        "assignee",
        "ci",
        "requester",
        "raisedFrom",
        "raisedBefore",
        "tests",
        "order",
        "after"
    };

    private static final List<String> PRIORITIES = List.of("P1", "P2", "P3", "P4");

    private TicketFilters() {}

    /** Who does not see all tickets gets their own, whatever they ask for. */
    static TicketFilter of(Request q) {
        boolean seesAll = Right.SEE.of(q.person());
        return TicketFilter.all()
                .text(q.query("text").orElse(null))
                .open(q.query("open")
                        .map(v -> oneOf("open", v, List.of("true", "false")))
                        .map(Boolean::valueOf)
                        .orElse(null))
                .kind(q.query("kind")
                        .map(v -> oneOf(
                                "kind",
                                v,
                                Stream.of(TicketKind.values())
                                        .map(TicketKind::word)
                                        .toList()))
                        .orElse(null))
                .priority(q.query("priority")
                        .map(v -> oneOf("priority", v, PRIORITIES))
                        .orElse(null))
                .state(q.query("state").orElse(null))
                .service(q.query("service").orElse(null))
                .group(q.query("group").orElse(null))
                .assignee(q.query("assignee").orElse(null))
                .ci(q.query("ci").orElse(null))
                .requester(
                        seesAll
                                ? q.query("requester").orElse(null)
                                : q.person().id().value())
                .ownOnly(!seesAll)
                .raisedFrom(q.moment("raisedFrom").orElse(null))
                .raisedBefore(q.moment("raisedBefore").orElse(null))
                .tests(q.query("tests")
                        .map(v -> oneOf("tests", v, List.of("true", "false")))
                        .filter("true"::equals)
                        .isPresent())
                .order(q.query("order").map(TicketFilters::order).orElse(null))
                .after(q.query("after").map(TicketFilters::number).orElse(null))
                .build();
    }

    private static String oneOf(String name, String value, List<String> known) {
        if (!known.contains(value)) {
            throw Problem.malformed(name, "'" + name + "' is one of: " + String.join(", ", known) + ".")
                    .end();
        }
        return value;
    }

    private static TicketFilter.Order order(String word) {
        return TicketFilter.Order.of(word).orElseThrow(() -> Problem.malformed(
                        "order",
                        "'order' is one of: "
                                + Stream.of(TicketFilter.Order.values())
                                        .map(o -> o.word)
                                        .collect(Collectors.joining(", "))
                                + ".")
                .end());
    }

    private static TicketId number(String given) {
        try {
            return new TicketId(given);
        } catch (IllegalArgumentException e) {
            throw Problem.malformed("after", "'after' is the number of a ticket, such as I-1042.")
                    .end();
        }
    }
}
