package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.TicketId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Objects;
import java.util.Random;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.EnumSource;
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
            row.id = row.kind.substring(0, 1).toUpperCase(Locale.ROOT) + "-" + (1_000 + i);
            row.title = one(random, "Gate open", "Kiosk dark", "100 % of fares", "Under_score");
            row.ended = random.nextInt(3) == 0;
            row.state = row.ended ? "closed" : one(random, "logged", "in work");
            row.priority = one(random, "P1", "P2", "P3", "P4");
            row.requester = one(random, "mira", "jonas");
            row.service = random.nextInt(5) == 0 ? null : one(random, "gates", "kiosks");
            row.team = one(random, "technicians", "managers");
            row.ci = one(random, "ALD-G1", "ALD-G2", null);
            row.assignee = one(random, "ada", "runa", null);
            row.targetDue = random.nextInt(3) == 0 ? null : NOW.plusSeconds(600L * random.nextInt(9));
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
    private record Case(TicketFilter filter, Predicate<Rows.TicketRow> plain) {
        @Override
        public String toString() {
            return filter.toString();
        }
    }

    private static TicketFilter.Builder filter() {
        return TicketFilter.all();
    }

    static Stream<Case> cases() {
        return Stream.of(
                of(filter(), t -> true),
                of(filter().open(true), t -> !t.ended),
                of(filter().open(false), t -> t.ended),
                of(
                        filter().open(true).kind("incident").priority("P1"),
                        t -> !t.ended && t.kind.equals("incident") && t.priority.equals("P1")),
                of(
                        filter().group("managers").state("in work"),
                        t -> t.team.equals("managers") && t.state.equals("in work")),
                of(
                        filter().open(true).service("gates").ci("ALD-G2"),
                        t -> !t.ended && "gates".equals(t.service) && "ALD-G2".equals(t.ci)),
                of(
                        filter().assignee("ada").requester("mira"),
                        t -> "ada".equals(t.assignee) && t.requester.equals("mira")),
                of(
                        filter().raisedFrom(NOW.minusSeconds(1_200)).raisedBefore(NOW.minusSeconds(600)),
                        t -> !t.createdAt.isBefore(NOW.minusSeconds(1_200))
                                && t.createdAt.isBefore(NOW.minusSeconds(600))),
                of(filter().text("c-1"), t -> t.kind.equals("change")),
                of(filter().text("I-1001"), t -> t.id.startsWith("I-1001")),
                // A number as people say it: without the line, without the letter.
                of(filter().text("i1001"), t -> t.id.startsWith("I-1001")),
                of(filter().text("1214"), t -> t.id.endsWith("-1214")),
                of(filter().text("L-4711"), t -> false),
                // A requester's own list is searched by title: signs of patterns are letters like others.
                of(
                        filter().text("100 %").requester("mira").ownOnly(true),
                        t -> t.requester.equals("mira") && t.title.contains("100 %")),
                of(
                        filter().text("r_s").requester("jonas").ownOnly(true),
                        t -> t.requester.equals("jonas") && t.title.contains("r_s")),
                of(
                        filter().text("100").requester("mira").ownOnly(true),
                        t -> t.requester.equals("mira") && t.title.contains("100")),
                of(filter().text("nothing of the kind").requester("mira").ownOnly(true), t -> false));
    }

    private static Case of(TicketFilter.Builder filter, Predicate<Rows.TicketRow> plain) {
        return new Case(filter.build(), plain);
    }

    private static final Comparator<Rows.TicketRow> NEWEST =
            Comparator.comparing((Rows.TicketRow t) -> t.createdAt).reversed().thenComparing(t -> t.id);

    private static <T extends Comparable<T>> Comparator<Rows.TicketRow> up(Function<Rows.TicketRow, T> key) {
        return Comparator.comparing(key, Comparator.nullsLast(Comparator.naturalOrder()));
    }

    private static <T extends Comparable<T>> Comparator<Rows.TicketRow> down(Function<Rows.TicketRow, T> key) {
        return Comparator.comparing(key, Comparator.nullsLast(Comparator.reverseOrder()));
    }

    /** Every order said in Java; exhaustive, so that a new one is tested too. */
    private static Comparator<Rows.TicketRow> plainly(TicketFilter.Order order) {
        Comparator<Rows.TicketRow> first =
                switch (order) {
                    case BURNING -> up((Rows.TicketRow t) -> t.targetDue).thenComparing(t -> t.priority);
                    case NEWEST -> NEWEST;
                    case OLDEST -> up(t -> t.createdAt);
                    case PRIORITY -> up(t -> t.priority);
                    case PRIORITY_LAST -> down(t -> t.priority);
                    case NUMBER -> up(t -> t.id);
                    case NUMBER_LAST -> down(t -> t.id);
                    case TITLE -> up(t -> t.title.toLowerCase(Locale.ROOT));
                    case TITLE_LAST -> down(t -> t.title.toLowerCase(Locale.ROOT));
                    case STATE -> up(t -> t.state);
                    case STATE_LAST -> down(t -> t.state);
                    case WITH ->
                        up((Rows.TicketRow t) -> t.assignee).thenComparing(up(t -> t.assignee == null ? t.team : ""));
                    case WITH_LAST ->
                        down((Rows.TicketRow t) -> t.assignee)
                                .thenComparing(down(t -> t.assignee == null ? t.team : ""));
                    case SERVICE -> up(t -> t.service);
                    case SERVICE_LAST -> down(t -> t.service);
                    case CI -> up(t -> t.ci);
                    case CI_LAST -> down(t -> t.ci);
                };
        return first.thenComparing(NEWEST);
    }

    private static Comparator<Rows.TicketRow> order(TicketFilter filter) {
        return plainly(filter.orderOrUsual()).thenComparing(NEWEST);
    }

    private static List<String> wholeList(TicketFilter filter) {
        List<String> found = new ArrayList<>();
        Page<Tickets.Row> page = tickets.list(filter);
        page.items().forEach(r -> found.add(r.number()));
        while (page.more()) {
            assertThat(page.items()).hasSize(Tickets.PAGE);
            page = tickets.list(filter.after(new TicketId(found.getLast())));
            page.items().forEach(r -> found.add(r.number()));
        }
        return found;
    }

    @ParameterizedTest
    @EnumSource(TicketFilter.Order.class)
    void everyOrderHoldsOverAllPages(TicketFilter.Order order) {
        for (Boolean open : new Boolean[] {null, true, false}) {
            TicketFilter filter = filter().open(open).order(order).build();
            assertThat(wholeList(filter))
                    .as("%s, open %s", order, open)
                    .containsExactlyElementsOf(ALL.stream()
                            .filter(t -> open == null || t.ended != open)
                            .sorted(plainly(order))
                            .map(t -> t.id)
                            .toList());
        }
    }

    @ParameterizedTest
    @MethodSource("cases")
    void allPagesTogetherAreTheWholeListInOrder(Case c) {
        assertThat(wholeList(c.filter()))
                .containsExactlyElementsOf(ALL.stream()
                        .filter(c.plain())
                        .sorted(order(c.filter()))
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

    private static List<String> counted(String field, Case c, Function<Rows.TicketRow, String> value) {
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
        TicketFilter all = filter().build();
        assertThat(tickets.list(all.after(new TicketId("I-9"))).items())
                .isEqualTo(tickets.list(all).items());
    }
}
