package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.run.Case;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Sort;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.TicketId;
import dastur.store.Incoming.Arrival;
import dastur.store.Incoming.Fate;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What comes is kept once, in its order; what becomes of it is written once, with its ticket or not at all (I1, I5, I19). */
class IncomingTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final SourceKey BOARDS = new SourceKey("board-monitor");

    private Database database;
    private Incoming incoming;
    private Matters matters;
    private int ids;

    @BeforeEach
    void open() {
        database = Stores.empty();
        incoming = new Incoming(database);
        matters = new Matters(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private Arrival arrival(@Nullable String delivery, String raw) {
        String id = Incoming.idOf(NOW) + String.format("%06x", ++ids);
        return new Arrival(id, BOARDS, NOW, delivery, Integer.toHexString(raw.hashCode()), "{}", raw);
    }

    private String kept(@Nullable String delivery) {
        return ((Fate.Kept) incoming.keep(List.of(arrival(delivery, "{}"))).getFirst()).id();
    }

    private static Signal signal(String id) {
        return new Signal(
                id,
                BOARDS,
                NOW,
                NOW,
                Sort.FAULT,
                Severity.MAJOR,
                "x",
                "m",
                null,
                null,
                null,
                "t",
                null,
                null,
                Map.of());
    }

    private static Settlement.Routed routed(String id, String state) {
        return new Settlement.Routed(id, state, Turn.BEGINS, "fault", "major", "t", null, "{}", "{}", null);
    }

    private Matter begun(Matters.Held held, String id) {
        return held.matter().after(signal(id)).matter();
    }

    @Test
    void theSameDeliveryIsKeptOnceAlsoWithinOneRequestAndAnotherBodyIsToldApart() {
        List<Fate> first = incoming.keep(
                List.of(arrival("d", "{}"), arrival("d", "{}"), arrival(null, "{}"), arrival(null, "{}")));
        assertThat(first.get(1)).isEqualTo(first.get(0));
        assertThat(first.get(2)).isNotEqualTo(first.get(3));
        assertThat(incoming.due(9)).hasSize(3);
        assertThat(incoming.keep(List.of(arrival("d", "{}")))).containsExactly(first.get(0));
        assertThat(incoming.keep(List.of(arrival("d", "{\"a\":1}"))))
                .containsExactly(new Fate.Another(((Fate.Kept) first.get(0)).id()));
        assertThat(incoming.due(9)).hasSize(3);
    }

    @Test
    void theSameDeliveryIdOfAnotherSourceIsAnother() {
        kept("d");
        Arrival gates = new Arrival("x", new SourceKey("gates"), NOW, "d", "h", "{}", "{}");
        assertThat(incoming.keep(List.of(gates))).containsExactly(new Fate.Kept("x"));
    }

    @Test
    void itIsLookedAtInTheOrderInWhichItCame() {
        List<String> ids = IntStream.range(0, 7).mapToObj(i -> kept(null)).toList();
        assertThat(incoming.due(5)).extracting(Incoming.Due::id).containsExactlyElementsOf(ids.subList(0, 5));
    }

    @Test
    void whatBecomesOfItIsWrittenOnce() {
        String id = kept(null);
        Matters.Held held = matters.hold(Matter.first(signal(id), "m"));
        Settlement settlement = new Settlement(List.of(routed(id, "kept")), held, begun(held, id), false, null);
        assertThat(matters.settle(settlement, null)).isTrue();
        assertThat(incoming.due(5)).isEmpty();
        assertThat(incoming.ofMatter("m", null, 5).items()).singleElement().satisfies(line -> assertThat(line.state())
                .isEqualTo("kept"));
        // Whoever read the matter before that has lost, and writes nothing.
        String next = kept(null);
        Settlement late = new Settlement(List.of(routed(next, "kept")), held, begun(held, next), false, null);
        assertThat(matters.settle(late, null)).isFalse();
        assertThat(incoming.due(5)).extracting(Incoming.Due::id).containsExactly(next);
        assertThat(matters.find("m").orElseThrow().matter().count()).isEqualTo(1);
    }

    @Test
    void oneOfNoMatterIsClaimedByItself() {
        String id = kept(null);
        Settlement settlement = new Settlement(List.of(routed(id, "kept")), null, null, false, null);
        assertThat(matters.settle(settlement, null)).isTrue();
        assertThat(matters.settle(settlement, null)).isFalse();
    }

    @Test
    void whatIsWrittenWithATicketIsWrittenWithItOrNotAtAll() {
        new Organisation(database)
                .putPerson(
                        new dastur.core.people.Person(
                                KillTarget.ADA,
                                "Ada",
                                "ada@kestrel.example",
                                java.util.Set.of(dastur.core.people.Role.AGENT),
                                true),
                        null);
        Cases cases = new Cases(database, () -> new byte[32]);
        TicketId ticket = new TicketId("I-1");
        KillTarget.write(cases, ticket);
        String id = kept(null);
        Matters.Held held = matters.hold(Matter.first(signal(id), "m"));
        Settlement settlement =
                new Settlement(List.of(routed(id, "opened")), held, begun(held, id), true, Matter.Recovery.USUAL);
        KillTarget.write(cases, ticket, work -> work.settles(settlement));
        assertThat(matters.of(ticket)).singleElement().satisfies(m -> assertThat(m.ticket())
                .isEqualTo(ticket));
        assertThat(incoming.due(5)).isEmpty();
        long seq = new Tickets(database).find(ticket).map(Case::seq).orElseThrow();
        assertThatThrownBy(() -> KillTarget.write(cases, ticket, work -> work.settles(settlement)))
                .isInstanceOf(Cases.Contended.class);
        assertThat(new Tickets(database).find(ticket).map(Case::seq)).contains(seq);
    }

    @Test
    void onlyWhatWasNotUnderstoodIsLookedAtAgain() {
        String id = kept(null);
        assertThat(incoming.again(id)).isFalse();
        matters.settle(new Settlement(List.of(routed(id, "not understood")), null, null, false, null), null);
        assertThat(incoming.again(id)).isTrue();
        assertThat(incoming.again(id)).isFalse();
        assertThat(incoming.due(5)).extracting(Incoming.Due::id).containsExactly(id);
    }

    @Test
    void listsGoOnWhereTheyEnded() {
        List<String> ids = IntStream.range(0, 5).mapToObj(i -> kept(null)).toList();
        Page<Incoming.Line> first = incoming.ofSource(BOARDS, null, 3);
        assertThat(first.more()).isTrue();
        assertThat(first.items()).extracting(Incoming.Line::id).containsExactly(ids.get(4), ids.get(3), ids.get(2));
        Page<Incoming.Line> second =
                incoming.ofSource(BOARDS, first.items().getLast().id(), 3);
        assertThat(second.more()).isFalse();
        assertThat(second.items()).hasSize(2);
    }

    @Test
    void whatIsOldAndSettledIsForgottenAndWhatWaitsIsNot() {
        String settled = kept(null);
        String waits = kept(null);
        matters.settle(new Settlement(List.of(routed(settled, "kept")), null, null, false, null), null);
        assertThat(incoming.forgetBefore(NOW.plus(Duration.ofDays(31)))).isEqualTo(1);
        assertThat(incoming.find(settled)).isEmpty();
        assertThat(incoming.find(waits)).isPresent();
    }

    /** By what senders call a CI it is found only where that is said of it and of no other, whatever signs it holds. */
    @Test
    void cisAreFoundByTheirValuesAsTheyAre() {
        Organisation organisation = new Organisation(database);
        organisation.putCi(ci("A", "10.1.1.1", "K_7%"));
        organisation.putCi(ci("B", "10.1.1.1", "KX7y"));
        assertThat(organisation.cisWith("id", "A")).hasSize(1);
        assertThat(organisation.cisWith("address", "10.1.1.1")).hasSize(2);
        assertThat(organisation.cisWith("serial", "K_7%"))
                .extracting(c -> c.id().value())
                .containsExactly("A");
        assertThat(organisation.cisWith("serial", "K")).isEmpty();
        assertThat(organisation.cisWith("serial", "\" or 1=1 --")).isEmpty();
        assertThat(organisation.cisWith("life or 1=1", "x")).isEmpty();
    }

    private static ConfigurationItem ci(String id, String address, String serial) {
        return new ConfigurationItem(
                new CiId(id), id, "board", null, null, address, null, "in use", Map.of("serial", serial));
    }

    @Test
    void refusalsOfAMinuteAreOneRow() {
        for (int i = 0; i < 3; i++) {
            incoming.refused(BOARDS, new Incoming.Refused(NOW, "wrong token", 5, "No. " + i));
        }
        assertThat(incoming.refusals(BOARDS, 9)).containsExactly(new Incoming.Refused(NOW, "wrong token", 15, "No. 2"));
    }

    @Test
    void aMatterNeedsSomebodyWhileItIsInFaultAndNoTicketIsAboutIt() {
        String id = kept(null);
        Matters.Held held = matters.hold(Matter.first(signal(id), "m"));
        assertThat(matters.needing()).isZero();
        matters.settle(new Settlement(List.of(routed(id, "kept")), held, begun(held, id), false, null), null);
        assertThat(matters.needing()).isEqualTo(1);
        Matters.Held now = matters.find("m").orElseThrow();
        Matter on = now.matter().on(new TicketId("I-1"), Matter.Recovery.USUAL);
        matters.settle(new Settlement(List.of(), now, on, false, null), null);
        assertThat(matters.needing()).isZero();
        assertThat(matters.latest(false, null, 5).items()).hasSize(1);
        assertThat(matters.latest(true, null, 5).items()).isEmpty();
    }
}
