package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.partner.PartnerKey;
import dastur.core.partner.ThreeWay;
import dastur.core.people.PersonId;
import dastur.core.ticket.TicketId;
import dastur.store.Partners.Came;
import dastur.store.Partners.Known;
import dastur.store.Takeovers.Counts;
import dastur.store.Takeovers.State;
import dastur.store.Takeovers.Takeover;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** What was open at a partner's desk before: what waits, what is done, what is let go (I15). */
class TakeoversTest {
    private static final PartnerKey SUPPLIER = new PartnerKey("supplier");
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final Journal.By INES = new Journal.By(new PersonId("ines"), NOW);

    @TempDir
    Path folder;

    private Database database;
    private Partners partners;
    private Takeovers takeovers;

    @BeforeEach
    void open() {
        database = Stores.in(folder);
        partners = new Partners(database);
        takeovers = new Takeovers(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private static Came came(String id, String body) {
        return new Came(id, body, "{\"no\":\"" + body + "\"}", "Worn");
    }

    private Takeover work() {
        return takeovers.find(SUPPLIER).orElseThrow();
    }

    private List<String> waiting() {
        return takeovers.next(SUPPLIER, 10).stream().map(Known::id).toList();
    }

    private Known next() {
        return takeovers.next(SUPPLIER, 1).getFirst();
    }

    private static Known followed(Known one) {
        return one.with(Partners.State.FOLLOWED, new TicketId("I-1"), ThreeWay.Memory.NONE, 3, 3, true, NOW, 0, null);
    }

    private void reading(String... ids) {
        assertThat(takeovers.begin(INES, SUPPLIER, NOW.minusSeconds(60))).isTrue();
        for (String id : ids) {
            takeovers.keep(SUPPLIER, List.of(came(id, "a")), NOW);
        }
    }

    @Test
    void whatWaitsIsComparedByNobodyUntilItIsTakenOver() {
        partners.came(SUPPLIER, List.of(came("F-1", "a")), NOW);
        assertThat(takeovers.known(SUPPLIER, List.of(came("F-1", "b"), came("F-2", "b"))))
                .containsExactly("F-1");
        reading("F-1", "F-2", "F-3");
        assertThat(waiting()).as("what came before is no part of it").containsExactly("F-2", "F-3");
        assertThat(work().state()).isEqualTo(State.READING);
        assertThat(work().left()).isEqualTo(2);
        takeovers.read(SUPPLIER, 7, "'F-9' has no title.");
        takeovers.end(SUPPLIER);
        assertThat(work().state()).as("two wait").isEqualTo(State.TAKING);

        // It changes there while it waits: what is taken over is what it is now.
        partners.came(SUPPLIER, List.of(came("F-2", "b")), NOW.plusSeconds(1));
        assertThat(partners.due(SUPPLIER, NOW.plusSeconds(2), 10))
                .extracting(Known::id)
                .containsExactly("F-1");
        assertThat(next().hash()).isEqualTo("b");

        takeovers.done(followed(next()), Counts.TAKEN);
        assertThat(partners.due(SUPPLIER, NOW.plusSeconds(2), 10))
                .extracting(Known::id)
                .contains("F-2");
        takeovers.leave(next());
        assertThat(partners.known(SUPPLIER, "F-3")).isEmpty();
        takeovers.end(SUPPLIER);
        Takeover done = work();
        assertThat(done.state()).isEqualTo(State.DONE);
        assertThat(done.taken()).isEqualTo(1);
        assertThat(done.ended()).isEqualTo(8);
        assertThat(done.problem()).isEqualTo("Not all could be read: 'F-9' has no title.");
        assertThat(done.by()).isEqualTo(new PersonId("ines"));
        assertThat(done.since()).isEqualTo(NOW.minusSeconds(60));
    }

    @Test
    void oneIsUnderWayAtATimeAndTheNextBeginsAnew() {
        reading("F-1");
        assertThat(takeovers.begin(INES, SUPPLIER, NOW)).isFalse();
        assertThat(work().since()).isEqualTo(NOW.minusSeconds(60));
        takeovers.problem(SUPPLIER, "They do not answer.");
        assertThat(work().problem()).isEqualTo("They do not answer.");
        takeovers.fail(SUPPLIER, "Too many.");
        assertThat(work().state()).isEqualTo(State.FAILED);
        assertThat(waiting()).isEmpty();
        takeovers.problem(SUPPLIER, "late");
        assertThat(work().problem()).isEqualTo("Too many.");
        assertThat(takeovers.begin(INES, SUPPLIER, NOW)).isTrue();
        assertThat(work().problem()).isNull();
    }

    @Test
    void whatIsStoppedLetsGoWhatWaitsAndKeepsWhatWasDone() {
        assertThat(takeovers.stop(INES, SUPPLIER)).isFalse();
        reading("F-1", "F-2", "F-3");
        takeovers.read(SUPPLIER, 0, null);
        takeovers.done(followed(next()), Counts.TAKEN);
        Known inHand = next();
        assertThat(takeovers.stop(INES, SUPPLIER)).isTrue();
        assertThat(takeovers.stop(INES, SUPPLIER)).isFalse();
        assertThat(waiting()).isEmpty();
        assertThat(partners.known(SUPPLIER, "F-1")).isPresent();
        assertThat(partners.known(SUPPLIER, "F-3")).isEmpty();

        // What was raised in that moment is followed: its row comes back.
        takeovers.done(followed(inHand), Counts.TAKEN);
        assertThat(partners.known(SUPPLIER, "F-2").orElseThrow().ticket()).isEqualTo(new TicketId("I-1"));
        assertThat(work().taken()).isEqualTo(2);
        assertThat(waiting()).isEmpty();
        takeovers.end(SUPPLIER);
        assertThat(work().state()).isEqualTo(State.STOPPED);
        // Whoever reads on meanwhile keeps nothing more.
        assertThat(takeovers.keep(SUPPLIER, List.of(came("F-9", "a")), NOW)).isEmpty();
        assertThat(partners.known(SUPPLIER, "F-9")).isEmpty();
    }

    @Test
    void whatCouldNotBeTakenOverSaysWhy() {
        reading("F-1");
        takeovers.read(SUPPLIER, 0, null);
        takeovers.done(
                next().with(Partners.State.TOLD, null, ThreeWay.Memory.NONE, 0, 0, false, NOW, 0, "It says why."),
                Counts.REFUSED);
        takeovers.end(SUPPLIER);
        assertThat(work().refused()).isEqualTo(1);
        assertThat(work().state()).isEqualTo(State.DONE);
        assertThat(partners.known(SUPPLIER, "F-1").orElseThrow().problem()).isEqualTo("It says why.");
    }
}
