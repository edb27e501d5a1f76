package dastur.server.api;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.comparison.Captured;
import dastur.core.comparison.SideBySide;
import dastur.core.comparison.Table;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Recorded;
import dastur.core.run.RuleSeen;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Step;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Records;
import dastur.store.TicketFilter;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What was measured, side by side: two passages of one run or of two, or two CIs (N52, M18). */
final class ComparisonRoutes {
    /** Of how many of a CI's latest tickets the measurements are offered. */
    private static final int TICKETS = 20;

    private static final String OF_CI = "ci:";

    /**
     * What can stand on one side.
     *
     * @param ref under which it is asked for: a ticket and the number of an entry, or a CI
     * @param ticket null for a CI as it is now
     * @param name the step's, or the CI's
     * @param at when it was entered; null for a CI as it is now
     * @param names what it has, by name
     * @param labels how people call what it has; what has no other name than its own is left out
     * @param held how many rules held; null for what is not a check
     */
    record Side(
            String ref,
            @Nullable String ticket,
            @Nullable String run,
            @Nullable Long seq,
            String name,
            @Nullable Instant at,
            List<String> names,
            Map<String, String> labels,
            @Nullable Integer held,
            @Nullable Integer rules) {}

    /**
     * @param differing how many of the things in it are known to differ
     * @param unknown of how many only one side says anything
     */
    record ComparisonView(Side before, Side after, int differing, int unknown, SideBySide sides) {}

    private record Found(Side side, Map<String, Object> values, List<RuleSeen> rules) {}

    /** What a record has to compare. @param good the entries before this one are as they were written */
    private record OfTicket(List<Found> found, long good) {}

    private final Records records;
    private final Tickets tickets;
    private final Organisation organisation;
    private final Workflows workflows;
    private final OnTickets on;
    private final Sight sight;

    private ComparisonRoutes(
            Records records,
            Tickets tickets,
            Organisation organisation,
            Workflows workflows,
            OnTickets on,
            Sight sight) {
        this.records = records;
        this.tickets = tickets;
        this.organisation = organisation;
        this.workflows = workflows;
        this.on = on;
        this.sight = sight;
    }

    static Stream<Route> of(
            Records records,
            Tickets tickets,
            Organisation organisation,
            Workflows workflows,
            OnTickets on,
            Sight sight) {
        ComparisonRoutes r = new ComparisonRoutes(records, tickets, organisation, workflows, on, sight);
        return Stream.of(
                Route.list(
                        "/api/tickets/{number}/captures",
                        Right.SEE,
                        "What was measured, checked and filled in on a ticket, for comparison",
                        Side.class,
                        q -> r.ofTicket(on.visible(q), r.labels())),
                Route.list(
                        "/api/cis/{id}/captures",
                        Right.SEE,
                        "What was measured lately on the tickets of a CI, the newest first",
                        Side.class,
                        r::ofCi),
                Route.get(
                        "/api/comparisons",
                        Right.SEE,
                        "Two measurements, or two CIs, side by side",
                        ComparisonView.class,
                        r::compare,
                        "before",
                        "after",
                        "keys"));
    }

    private ValueLabels labels() {
        return new ValueLabels(workflows::action);
    }

    private List<Side> ofTicket(TicketId ticket, ValueLabels labels) {
        return read(ticket, labels).found().stream().map(Found::side).toList();
    }

    private Object ofCi(Request q) {
        CiId ci = q.path("id", CiId::new);
        existing(ci);
        ValueLabels labels = labels();
        return tickets.list(TicketFilter.all().ci(ci.value()).build()).items().stream()
                .limit(TICKETS)
                .flatMap(row -> ofTicket(new TicketId(row.number()), labels).stream())
                .sorted(Comparator.comparing((Side s) -> s.at() == null ? Instant.MAX : s.at())
                        .reversed())
                .toList();
    }

    private Object compare(Request q) {
        // Often both are of one ticket, whose record is read once.
        Map<TicketId, OfTicket> tickets = new HashMap<>();
        ValueLabels labels = labels();
        Function<TicketId, OfTicket> of = ticket -> tickets.computeIfAbsent(ticket, t -> read(t, labels));
        Found before = side(q, "before", of);
        Found after = side(q, "after", of);
        try {
            SideBySide sides = SideBySide.of(before.values(), before.rules(), after.values(), after.rules(), keys(q));
            return new ComparisonView(before.side(), after.side(), sides.differing(), sides.unknown(), sides);
        } catch (Table.NoKey wrong) {
            throw Problem.malformed("keys", wrong.getMessage()).end();
        }
    }

    private Found side(Request q, String name, Function<TicketId, OfTicket> of) {
        String ref = q.query(name).orElseThrow(() -> Problem.malformed(
                        name, "'" + name + "' names a ticket and an entry, such as C-1018:57, or ci: and a CI.")
                .end());
        if (ref.startsWith(OF_CI)) {
            return ofCiNow(id(name, ref.substring(OF_CI.length())));
        }
        int colon = ref.lastIndexOf(':');
        if (!ref.substring(colon + 1).matches("\\d{1,9}") || colon < 1) {
            throw Problem.malformed(name, "'" + name + "' names a ticket and an entry, such as C-1018:57.")
                    .end();
        }
        TicketId ticket = ticket(name, ref.substring(0, colon));
        sight.mustSee(q.person(), ticket);
        OfTicket there = of.apply(ticket);
        if (Long.parseLong(ref.substring(colon + 1)) >= there.good()) {
            throw Problem.conflict("The record of " + ticket + " is broken at entry " + there.good()
                            + "; what stands in it from there on is not compared.")
                    .end();
        }
        return there.found().stream()
                .filter(f -> f.side().ref().equals(ref))
                .findFirst()
                .orElseThrow(() -> Problem.notFound("Entry " + ref.substring(colon + 1) + " of " + ticket
                                + " has nothing that was measured, or it was redacted.")
                        .end());
    }

    private static TicketId ticket(String where, String text) {
        try {
            return new TicketId(text);
        } catch (IllegalArgumentException e) {
            throw Problem.malformed(where, "'" + Texts.clip(text, 60) + "' is no ticket.")
                    .end();
        }
    }

    private static CiId id(String where, String text) {
        try {
            return new CiId(text);
        } catch (IllegalArgumentException e) {
            throw Problem.malformed(where, "'" + Texts.clip(text, 60) + "' is no CI.")
                    .end();
        }
    }

    private ConfigurationItem existing(CiId id) {
        return organisation.ci(id).orElseThrow(() -> Problem.notFound("There is no CI " + id + ".")
                .end());
    }

    private Found ofCiNow(CiId id) {
        ConfigurationItem ci = existing(id);
        Map<String, Object> values = new LinkedHashMap<>(ci.values());
        // They are two; that their ids and names differ is no finding.
        values.keySet().removeAll(Set.of("id", "name"));
        if (ci.service() != null) {
            values.put("service", ci.service().value());
        }
        Side side = new Side(
                OF_CI + id, null, null, null, ci.name(), null, List.copyOf(values.keySet()), Map.of(), null, null);
        return new Found(side, values, List.of());
    }

    /** What a ticket's record has to compare. A record that is not what was written is not compared from there on. */
    private OfTicket read(TicketId ticket, ValueLabels labels) {
        Records.Checked checked = records.checked(ticket);
        long good = checked.problem().map(Seal.Break::seq).orElse(Long.MAX_VALUE);
        DesignThen design = new DesignThen(checked.entries(), workflows::version);
        Map<Long, Step> steps = new HashMap<>();
        List<Recorded> record = checked.entries().stream()
                .filter(e -> e.seq() < good)
                .map(e -> {
                    design.step(e.seq(), RecordViews.readable(e.sealed())).ifPresent(step -> steps.put(e.seq(), step));
                    return Seal.open(e);
                })
                .toList();
        List<Found> found = Captured.of(record).stream()
                .map(c -> new Found(
                        side(ticket, c, Optional.ofNullable(steps.get(c.seq())), labels), c.values(), c.rules()))
                .toList();
        return new OfTicket(found, good);
    }

    private static Side side(TicketId ticket, Captured c, Optional<Step> step, ValueLabels labels) {
        List<String> names = Stream.concat(
                        c.values().keySet().stream(), c.rules().stream().map(RuleSeen::name))
                .toList();
        boolean check = !c.rules().isEmpty();
        return new Side(
                ticket + ":" + c.seq(),
                ticket.value(),
                c.run().value(),
                c.seq(),
                step.map(Step::name).orElse(c.step().value()),
                c.at(),
                names,
                step.map(labels::of).orElse(Map.of()),
                check ? (int) c.rules().stream().filter(RuleSeen::holds).count() : null,
                check ? c.rules().size() : null);
    }

    /** By table, the column that names its rows. */
    private static Map<String, String> keys(Request q) {
        Map<String, String> keys = new HashMap<>();
        try {
            JsonNode given = Json.parse(q.query("keys").orElse("{}"));
            if (given.isObject() && given.valueStream().allMatch(JsonNode::isTextual)) {
                given.properties()
                        .forEach(f -> keys.put(f.getKey(), f.getValue().textValue()));
                return keys;
            }
        } catch (JsonProcessingException e) {
            // It is told below, as what is JSON and something else.
        }
        throw Problem.malformed("keys", "'keys' is a JSON object: by table, the column that names its rows.")
                .end();
    }
}
