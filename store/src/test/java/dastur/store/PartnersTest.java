package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.partner.PartnerKey;
import dastur.core.partner.ThreeWay.Memory;
import dastur.core.ticket.TicketId;
import dastur.store.Partners.Came;
import dastur.store.Partners.Known;
import dastur.store.Partners.Line;
import dastur.store.Partners.Stand;
import dastur.store.Partners.State;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Where partners stand, their tickets and what came and went, on each database (I15, I16). */
class PartnersTest {
    private static final PartnerKey SUPPLIER = new PartnerKey("supplier");
    private static final Instant NOW = Instant.parse("2026-05-04T08:00:00Z");

    @TempDir
    Path folder;

    private Database database;
    private Partners partners;

    @BeforeEach
    void open() {
        database = Stores.in(folder);
        partners = new Partners(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private static Came came(String id, String hash) {
        return new Came(id, hash, "{\"no\":\"" + id + "\"}", "Hinge worn");
    }

    private List<String> due(Instant at) {
        return partners.due(SUPPLIER, at, 10).stream().map(Known::id).toList();
    }

    private Known known(String id) {
        return partners.known(SUPPLIER, id).orElseThrow();
    }

    private static Known with(
            Known k, State state, TicketId ticket, long ours, boolean due, Instant next, int failures) {
        return new Known(
                k.partner(),
                k.id(),
                k.hash(),
                k.body(),
                k.title(),
                k.seenAt(),
                state,
                ticket,
                k.memory().agreed("impact", "2"),
                ours,
                ours,
                due,
                next,
                failures,
                null);
    }

    /** A ticket's record goes on, and stands in the log. */
    private void changed(String ticket, long number) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "insert into log_leaf (number, ticket, seq, hash) values (?, ?, ?, ?)",
                number,
                ticket,
                number,
                "0".repeat(64))));
    }

    @Test
    void whatCameAsItStandsIsNothingNew() {
        assertThat(partners.came(SUPPLIER, List.of(came("F-1", "a"), came("F-2", "a")), NOW))
                .containsExactly("F-1", "F-2");
        assertThat(partners.came(SUPPLIER, List.of(came("F-1", "a"), came("F-2", "b")), NOW.plusSeconds(5)))
                .containsExactly("F-2");
        assertThat(known("F-2").seenAt()).isEqualTo(NOW.plusSeconds(5));
        assertThat(due(NOW.plusSeconds(9))).containsExactly("F-1", "F-2");
        assertThat(partners.due(new PartnerKey("other"), NOW.plusSeconds(9), 10))
                .isEmpty();
    }

    @Test
    void whatIsFollowedIsDueWhenEitherSideHasChanged() {
        partners.came(SUPPLIER, List.of(came("F-1", "a")), NOW);
        partners.heed(SUPPLIER, NOW);
        changed("I-1", 7);
        partners.compared(with(known("F-1"), State.FOLLOWED, new TicketId("I-1"), 7, false, NOW, 0));
        assertThat(due(NOW)).isEmpty();
        assertThat(known("F-1").memory()).isEqualTo(Memory.NONE.agreed("impact", "2"));
        partners.heed(SUPPLIER, NOW);
        assertThat(due(NOW)).containsExactly("F-1");
        partners.compared(with(known("F-1"), State.FOLLOWED, new TicketId("I-1"), 7, false, NOW, 0));
        changed("I-2", 8);
        partners.heed(SUPPLIER, NOW);
        assertThat(due(NOW)).as("another ticket is no matter of it").isEmpty();
        // While it fails only its time counts, whatever happens here; what comes from them does not wait.
        partners.compared(with(known("F-1"), State.FOLLOWED, new TicketId("I-1"), 7, true, NOW.plusSeconds(30), 1));
        changed("I-1", 9);
        partners.heed(SUPPLIER, NOW);
        assertThat(due(NOW.plusSeconds(29))).isEmpty();
        assertThat(due(NOW.plusSeconds(30))).containsExactly("F-1");
        partners.came(SUPPLIER, List.of(came("F-1", "b")), NOW.plusSeconds(5));
        assertThat(due(NOW.plusSeconds(5))).containsExactly("F-1");
    }

    @Test
    void whatCameWhileItWasComparedStaysDue() {
        partners.came(SUPPLIER, List.of(came("F-1", "a")), NOW);
        Known before = known("F-1");
        partners.came(SUPPLIER, List.of(came("F-1", "b")), NOW.plusSeconds(1));
        partners.compared(with(before, State.TOLD, null, 0, false, NOW, 0));
        assertThat(due(NOW.plusSeconds(1))).containsExactly("F-1");
        assertThat(known("F-1").hash()).isEqualTo("b");
        assertThat(known("F-1").state()).isEqualTo(State.TOLD);
    }

    @Test
    void oneThatIsFollowedNoLongerIsMetAnewWhenSomebodyAsks() {
        partners.came(SUPPLIER, List.of(came("F-1", "a")), NOW);
        partners.compared(with(known("F-1"), State.OVER, new TicketId("I-1"), 7, false, NOW, 0));
        assertThat(partners.again(SUPPLIER, "F-9", NOW)).isFalse();
        assertThat(partners.again(SUPPLIER, "F-1", NOW)).isTrue();
        assertThat(known("F-1").state()).isEqualTo(State.NEW);
        assertThat(due(NOW)).containsExactly("F-1");
    }

    private List<String> toAsk(Instant at) {
        return partners.toAsk(SUPPLIER, at, 10).stream()
                .map(a -> a.id() + " " + a.state().word() + (a.gone() == null ? "" : ", gone"))
                .toList();
    }

    private Partners.ToAsk next(Instant at) {
        return partners.toAsk(SUPPLIER, at, 10).getFirst();
    }

    /** What does not come by itself is asked for; what they say is gone comes back as soon as it stands in a list. */
    @Test
    void whatHasNotComeForLongIsAskedFor() {
        partners.came(SUPPLIER, List.of(came("F-1", "a"), came("F-2", "a")), NOW);
        partners.compared(with(known("F-1"), State.FOLLOWED, new TicketId("I-1"), 3, false, NOW, 0));
        partners.compared(with(known("F-2"), State.TOLD, null, 0, false, NOW, 0));
        Instant later = NOW.plus(Partners.ASKED_AFTER);
        assertThat(toAsk(later.minusSeconds(1))).isEmpty();
        assertThat(toAsk(later)).containsExactly("F-1 followed");
        partners.came(SUPPLIER, List.of(came("F-1", "b")), NOW.plusSeconds(60));
        assertThat(toAsk(later)).as("it has come by itself").isEmpty();
        partners.again(SUPPLIER, "F-1", NOW.plusSeconds(61));
        assertThat(toAsk(NOW.plusSeconds(61))).containsExactly("F-1 followed");

        partners.asked(next(NOW.plusSeconds(61)), later, NOW.plusSeconds(62));
        assertThat(toAsk(later)).containsExactly("F-1 followed, gone");
        partners.came(SUPPLIER, List.of(came("F-1", "b")), NOW.plusSeconds(63));
        partners.gone(SUPPLIER, "F-1", "too late: it has come");
        assertThat(known("F-1").state()).isEqualTo(State.FOLLOWED);

        Partners.ToAsk before = next(later.plusSeconds(999));
        partners.again(SUPPLIER, "F-1", NOW.plusSeconds(64));
        partners.asked(before, later, null);
        assertThat(toAsk(NOW.plusSeconds(64))).as("somebody wants it asked").hasSize(1);
        partners.asked(next(NOW.plusSeconds(64)), later, NOW.plusSeconds(64));
        partners.gone(SUPPLIER, "F-1", "it is gone there");
        assertThat(known("F-1").state()).isEqualTo(State.OVER);
        assertThat(known("F-1").problem()).isEqualTo("it is gone there");
        assertThat(toAsk(later.plusSeconds(9_999)))
                .as("it is not asked for by itself")
                .isEmpty();
        partners.again(SUPPLIER, "F-1", NOW.plusSeconds(65));
        assertThat(known("F-1").state()).as("nobody follows what is gone").isEqualTo(State.OVER);
        assertThat(toAsk(later)).containsExactly("F-1 over, gone");
        assertThat(partners.came(SUPPLIER, List.of(came("F-1", "b")), NOW.plusSeconds(66)))
                .as("as it was before, and yet it has come back")
                .containsExactly("F-1");
        assertThat(known("F-1").state()).isEqualTo(State.NEW);
        assertThat(partners.came(SUPPLIER, List.of(came("F-1", "b")), NOW.plusSeconds(67)))
                .isEmpty();
    }

    @Test
    void itStandsWhereItWasPutAndCanBeLookedAtAtOnce() {
        Stand stand = new Stand(NOW, NOW, NOW.plusSeconds(600), 3, NOW, "x".repeat(2_000), Duration.ofMillis(-1_500));
        partners.stand(SUPPLIER, stand);
        partners.lookNow(SUPPLIER, NOW.plusSeconds(1));
        Stand read = partners.stands().get(SUPPLIER);
        assertThat(read.next()).isEqualTo(NOW.plusSeconds(1));
        assertThat(read.problem()).hasSize(1_000).endsWith("…");
        assertThat(read.failures()).isEqualTo(3);
        assertThat(read.ahead()).isEqualTo(Duration.ofMillis(-1_500));
        partners.lookBy(SUPPLIER, NOW.plusSeconds(9));
        assertThat(partners.stands().get(SUPPLIER).next()).isEqualTo(NOW.plusSeconds(1));
        partners.lookBy(SUPPLIER, NOW);
        assertThat(partners.stands().get(SUPPLIER).next()).isEqualTo(NOW);
    }

    @Test
    void whatWasSaidIsKnownAndLinesComeTheLatestFirst() {
        partners.comments(SUPPLIER, "F-1", List.of("1", "2"));
        partners.comments(SUPPLIER, "F-1", List.of("2", "3"));
        assertThat(partners.hasComment(SUPPLIER, "F-1", "3")).isTrue();
        assertThat(partners.hasComment(SUPPLIER, "F-2", "3")).isFalse();
        for (int i = 0; i < 5; i++) {
            String verdict = i % 2 == 0 ? "taken" : "joined";
            partners.log(
                    SUPPLIER,
                    new Line("id" + i, NOW.plusSeconds(i), "in", "F-1", null, verdict, "y".repeat(30_000), null, null));
        }
        assertThat(partners.lines(SUPPLIER, null, 2).stream().map(Line::id)).containsExactly("id4", "id3");
        assertThat(partners.lines(SUPPLIER, "id3", 9).stream().map(Line::id)).containsExactly("id2", "id1", "id0");
        assertThat(partners.changes(SUPPLIER, "F-1", NOW.plusSeconds(1))).isEqualTo(2);
        partners.forgetBefore(NOW.plusSeconds(3));
        assertThat(partners.lines(SUPPLIER, null, 9)).hasSize(2);
    }
}
