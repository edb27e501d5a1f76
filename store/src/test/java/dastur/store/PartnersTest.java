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

    @Test
    void itStandsWhereItWasPutAndCanBeLookedAtAtOnce() {
        Stand stand = new Stand(NOW, NOW, NOW.plusSeconds(600), 3, NOW, "x".repeat(2_000));
        partners.stand(SUPPLIER, stand);
        partners.lookNow(SUPPLIER, NOW.plusSeconds(1));
        Stand read = partners.stands().get(SUPPLIER);
        assertThat(read.next()).isEqualTo(NOW.plusSeconds(1));
        assertThat(read.problem()).hasSize(1_000).endsWith("…");
        assertThat(read.failures()).isEqualTo(3);
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
