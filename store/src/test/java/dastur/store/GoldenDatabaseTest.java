package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Context;
import dastur.core.run.Decision;
import dastur.core.run.Engine;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.run.VisitId;
import dastur.core.run.World;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.ActionKey;
import java.io.IOException;
import java.io.InputStream;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.zip.GZIPInputStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * A database as it was written before kinds of steps had rooms of their own (2026-11-28): four tickets, waiting for a person, for a vote
 * and for a machine, and one that is done. It opens, stands as it stood, and runs on to the same endings.
 */
class GoldenDatabaseTest {
    private static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    private static final TicketId AT_TASK = new TicketId("I-1001");
    private static final TicketId AT_VOTE = new TicketId("I-1002");
    private static final TicketId AT_CALL = new TicketId("I-1003");
    private static final TicketId DONE = new TicketId("I-1004");

    @TempDir
    Path folder;

    private Database database;
    private Cases cases;
    private final Engine engine = new Engine();
    private int commands;

    @BeforeEach
    void open() throws IOException {
        try (InputStream in =
                new GZIPInputStream(GoldenDatabaseTest.class.getResourceAsStream("/golden/database.mv.db.gz"))) {
            Files.copy(in, folder.resolve(Database.FILE));
        }
        database = Database.inFolder(folder);
        cases = new Cases(database, () -> new byte[32]);
    }

    @AfterEach
    void close() {
        database.close();
    }

    private Case ticket(TicketId id) {
        return new Tickets(database).find(id).orElseThrow();
    }

    private void accepted(TicketId ticket, Actor by, Command command) {
        String id = "again-" + ++commands;
        Decision decision = cases.onTicket(ticket, work -> {
            Map<LookupKey, Optional<?>> values = new HashMap<>(work.remembered());
            Decision made = new Decision.Needs(Set.of());
            while (made instanceof Decision.Needs needs) {
                values.putAll(work.look(needs.keys()));
                made = engine.decide(work.current(), id, by, command, new Context(NOW, NOW, new Lookups(values)));
            }
            if (made instanceof Decision.Accepted a) {
                work.save(a.events(), a.after(), NOW, id);
            }
            return made;
        });
        assertThat(decision).isInstanceOf(Decision.Accepted.class);
    }

    @Test
    void whatStoodThenStandsStill() {
        Records records = new Records(database, new RecordLog(database, Signers.fresh()));
        for (TicketId id : List.of(AT_TASK, AT_VOTE, AT_CALL, DONE)) {
            var entries = records.of(id);
            assertThat(Seal.check(entries)).isEmpty();
            assertThat(Engine.fold(id, entries.stream().map(Seal::open).toList()))
                    .isEqualTo(ticket(id));
        }
        assertThat(ticket(AT_TASK)
                        .visit(new VisitId(AT_TASK + ".1.1"))
                        .orElseThrow()
                        .waiting())
                .isInstanceOf(OpenTask.class);
        assertThat(ticket(AT_VOTE)
                        .visit(new VisitId(AT_VOTE + ".1.2"))
                        .orElseThrow()
                        .waiting())
                .isInstanceOf(Votes.class);
        assertThat(ticket(AT_CALL)
                        .visit(new VisitId(AT_CALL + ".1.3"))
                        .orElseThrow()
                        .waiting())
                .isInstanceOf(CallUnderWay.class);
        assertThat(ticket(DONE).open()).isEmpty();
    }

    @Test
    void whatWasUnderWayThenRunsOnToTheSameEnd() {
        complete(AT_TASK);
        vote(AT_TASK);
        answer(AT_TASK);
        vote(AT_VOTE);
        answer(AT_VOTE);
        answer(AT_CALL);
        for (TicketId id : List.of(AT_TASK, AT_VOTE, AT_CALL)) {
            assertThat(ticket(id).open()).as("%s", id).isEmpty();
            assertThat(ticket(id).state()).isEqualTo(ticket(DONE).state());
        }
    }

    private void complete(TicketId id) {
        Map<String, Object> form = Map.of("seen", "bent");
        accepted(id, Actor.of(World.RUNA), new CompleteTask(new VisitId(id + ".1.1"), "Close the lane", form, null));
    }

    private void vote(TicketId id) {
        VisitId visit = new VisitId(id + ".1.2");
        Votes votes = (Votes) ticket(id).visit(visit).orElseThrow().waiting();
        accepted(id, Actor.of(World.TEO), new Vote(visit, votes.round(), votes.digest(), true, null));
    }

    private void answer(TicketId id) {
        accepted(
                id,
                new Actor.OfAction(new ActionKey("close-lane")),
                new CallResult(
                        new VisitId(id + ".1.3"),
                        1,
                        new CallOutcome.Done("ok", Map.of("lock", "L-1"), null, null, "", 3, 0)));
    }
}
