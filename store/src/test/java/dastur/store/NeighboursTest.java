package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.run.RunId;
import dastur.core.ticket.CiId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.WorkflowKey;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What speaks for or against a decision, from rows as the projection writes them. */
class NeighboursTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final WorkflowKey GATE = new WorkflowKey("gate");

    private Database database;
    private Neighbours surroundings;

    @BeforeEach
    void open() {
        database = Stores.empty();
        surroundings = new Neighbours(database);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private void ticket(String number, String kind, String priority, String ci, boolean ended, Duration ago) {
        database.run(session -> {
            Rows.TicketRow row = new Rows.TicketRow();
            row.id = number;
            row.kind = kind;
            row.title = "Title of " + number;
            row.state = ended ? "closed" : "logged";
            row.ended = ended;
            row.priority = priority;
            row.ci = ci;
            row.createdAt = NOW.minus(ago);
            session.insert(row);
        });
    }

    private void run(String id, String status, String result, Duration ago) {
        database.run(session -> {
            Rows.RunRow row = new Rows.RunRow();
            row.id = id;
            row.ticket = "I-1";
            row.workflow = GATE.value();
            row.version = 1;
            row.name = "Gate";
            row.owner = "ines";
            row.status = status;
            row.result = result;
            row.startedAt = NOW.minus(ago);
            session.insert(row);
        });
    }

    private Neighbours.Neighbourhood around() {
        return surroundings.around(new CiId("ALD-G1"), new TicketId("I-1"), NOW.minus(Duration.ofDays(30)));
    }

    @Test
    void changesComeFirstThenWhatBurnsMostAndNeverTheTicketItself() {
        ticket("I-1", "incident", "P1", "ALD-G1", false, Duration.ofHours(1));
        ticket("I-2", "incident", "P3", "ALD-G1", false, Duration.ofHours(2));
        ticket("I-3", "incident", "P1", "ALD-G1", false, Duration.ofHours(3));
        ticket("C-4", "change", "P4", "ALD-G1", false, Duration.ofHours(4));
        ticket("I-5", "incident", "P1", "ALD-G1", true, Duration.ofHours(5));
        ticket("I-6", "incident", "P1", "ALD-G2", false, Duration.ofHours(6));
        ticket("I-7", "incident", "P1", "ALD-G1", true, Duration.ofDays(40));
        Neighbours.Neighbourhood around = around();
        assertThat(around.others()).extracting(Neighbours.Other::number).containsExactly("C-4", "I-3", "I-2");
        assertThat(around.openOnCi()).isEqualTo(3);
        assertThat(around.recentOnCi()).isEqualTo(4);
    }

    @Test
    void onlySomeAreNamedButAllAreCounted() {
        for (int i = 2; i < 10; i++) {
            ticket("I-" + i, "incident", "P3", "ALD-G1", false, Duration.ofHours(i));
        }
        assertThat(around().others()).hasSize(5);
        assertThat(around().openOnCi()).isEqualTo(8);
    }

    @Test
    void endingsAreCountedTheMostFrequentFirstWithoutTheRunItself() {
        ticket("I-1", "incident", "P1", "ALD-G1", false, Duration.ofHours(1));
        run("I-1.1", "under way", null, Duration.ZERO);
        run("I-1.2", "finished", "closed", Duration.ofHours(1));
        run("I-1.3", "finished", "cleared", Duration.ofHours(2));
        run("I-1.4", "finished", "cleared", Duration.ofHours(3));
        run("I-1.5", "stopped", null, Duration.ofHours(4));
        run("I-1.6", "finished", "closed", Duration.ofHours(5));
        run("I-1.7", "finished", "cleared", Duration.ofHours(6));
        List<Neighbours.Ending> endings = surroundings.endings(GATE, new RunId("I-1.6"));
        assertThat(endings)
                .containsExactly(
                        new Neighbours.Ending("cleared", 3),
                        new Neighbours.Ending("closed", 1),
                        new Neighbours.Ending("stopped", 1));
        assertThat(surroundings.endings(new WorkflowKey("other"), null)).isEmpty();
    }
}
