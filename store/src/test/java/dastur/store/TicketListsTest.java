package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.TicketId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Objects;
import java.util.Random;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/** Lists of the database beside the same lists made plainly: every page, every filter, many tickets of one moment. */
class TicketListsTest {
    private static final int TICKETS = 400;
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");

    private static final List<Rows.TicketRow> ALL = new ArrayList<>();
    private static Database database;
    private static Tickets tickets;

    @BeforeAll
    static void fill() {
        database = Stores.empty();
        tickets = new Tickets(database);
        Random random = new Random(7);
        for (int i = 1; i <= TICKETS; i++) {
            Rows.TicketRow row = new Rows.TicketRow();
            row.kind = one(random, "incident", "change", "request");
            row.id = row.kind.substring(0, 1).toUpperCase(java.util.Locale.ROOT) + "-" + (1_000 + i);
            row.title = one(random, "Gate open", "Kiosk dark", "100 % of fares", "Under_score");
            row.ended = random.nextInt(3) == 0;
            row.state = row.ended ? "closed" : one(random, "logged", "in work");
            row.priority = one(random, "P1", "P2", "P3", "P4");
            row.requester = one(random, "mira", "jonas");
            row.service = random.nextInt(5) == 0 ? null : one(random, "gates", "kiosks");
            row.team = one(random, "technicians", "managers");
            row.ci = one(random, "ALD-G1", "ALD-G2", null);
            // Few moments for many tickets: a page often ends between tickets of the same one.
            row.createdAt = NOW.minusSeconds(60L * random.nextInt(40));
            ALL.add(row);
        }
        database.run(session -> ALL.forEach(session::insert));
    }

    @AfterAll
    static void close() {
        database.close();
    }

    private static String one(Random random, String... of) {
        return of[random.nextInt(of.length)];
    }

    /** A question to the database, and the same said in Java. */
    private record Case(Tickets.Filter filter, Predicate<Rows.TicketRow> plain) {
        @Override
        public String toString() {
            return filter.toString();
        }
    }

    private static Tickets.Filter filter(
            String text, Boolean open, String kind, String priority, String group, String requester, String state) {
        return new Tickets.Filter(text, open, kind, priority, null, group, null, requester, null, state);
    }

    static Stream<Case> cases() {
        return Stream.of(
                new Case(filter(null, null, null, null, null, null, null), t -> true),
                new Case(filter(null, true, null, null, null, null, null), t -> !t.ended),
                new Case(filter(null, false, null, null, null, null, null), t -> t.ended),
                new Case(
                        filter(null, true, "incident", "P1", null, null, null),
                        t -> !t.ended && t.kind.equals("incident") && t.priority.equals("P1")),
                new Case(
                        filter(null, null, null, null, "managers", null, "in work"),
                        t -> t.team.equals("managers") && t.state.equals("in work")),
                new Case(
                        new Tickets.Filter(null, true, null, null, "gates", null, "ALD-G2", null, null),
                        t -> !t.ended && "gates".equals(t.service) && "ALD-G2".equals(t.ci)),
                new Case(filter("c-1", null, null, null, null, null, null), t -> t.kind.equals("change")),
                new Case(filter("I-1001", null, null, null, null, null, null), t -> t.id.startsWith("I-1001")),
                // A requester's own list is searched by title: signs of patterns are letters like others.
                new Case(
                        filter("100 %", null, null, null, null, "mira", null),
                        t -> t.requester.equals("mira") && t.title.contains("100 %")),
                new Case(
                        filter("r_s", null, null, null, null, "jonas", null),
                        t -> t.requester.equals("jonas") && t.title.contains("r_s")),
                new Case(filter("nothing of the kind", null, null, null, null, "mira", null), t -> false));
    }

    private static Comparator<Rows.TicketRow> order(Boolean open) {
        Comparator<Rows.TicketRow> newest = Comparator.comparing((Rows.TicketRow t) -> t.createdAt)
                .reversed()
                .thenComparing(t -> t.id);
        return Boolean.TRUE.equals(open)
                ? Comparator.comparing((Rows.TicketRow t) -> t.priority).thenComparing(newest)
                : newest;
    }

    private static Tickets.Filter after(Tickets.Filter f, TicketId last) {
        return new Tickets.Filter(
                f.text(),
                f.open(),
                f.kind(),
                f.priority(),
                f.service(),
                f.group(),
                f.ci(),
                f.requester(),
                last,
                f.state());
    }

    @ParameterizedTest
    @MethodSource("cases")
    void allPagesTogetherAreTheWholeListInOrder(Case c) {
        List<String> found = new ArrayList<>();
        Page<Tickets.Row> page = tickets.list(c.filter());
        page.items().forEach(r -> found.add(r.number()));
        while (page.more()) {
            assertThat(page.items()).hasSize(Tickets.PAGE);
            page = tickets.list(after(c.filter(), new TicketId(found.getLast())));
            page.items().forEach(r -> found.add(r.number()));
        }
        assertThat(found)
                .containsExactlyElementsOf(ALL.stream()
                        .filter(c.plain())
                        .sorted(order(c.filter().open()))
                        .map(t -> t.id)
                        .toList());
    }

    @ParameterizedTest
    @MethodSource("cases")
    void facetsCountWhatTheListHolds(Case c) {
        List<Tickets.Facet> facets = tickets.facets(c.filter());
        assertThat(facets.stream().map(f -> f.field() + " " + f.value() + " " + f.count()))
                .containsExactlyInAnyOrderElementsOf(Stream.of(
                                counted("kind", c, t -> t.kind),
                                counted("priority", c, t -> t.priority),
                                counted("state", c, t -> t.state),
                                counted("service", c, t -> t.service),
                                counted("group", c, t -> t.team))
                        .flatMap(List::stream)
                        .toList());
    }

    private static List<String> counted(
            String field, Case c, java.util.function.Function<Rows.TicketRow, String> value) {
        return ALL.stream()
                .filter(c.plain())
                .map(value)
                .filter(Objects::nonNull)
                .collect(Collectors.groupingBy(v -> v, Collectors.counting()))
                .entrySet()
                .stream()
                .map(e -> field + " " + e.getKey() + " " + e.getValue())
                .toList();
    }

    @Test
    void aPageAfterATicketThatIsNotThereBeginsAtTheTop() {
        Tickets.Filter all = filter(null, null, null, null, null, null, null);
        assertThat(tickets.list(after(all, new TicketId("I-9"))).items())
                .isEqualTo(tickets.list(all).items());
    }
}
