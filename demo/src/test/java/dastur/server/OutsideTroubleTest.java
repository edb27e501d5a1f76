package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService.Outcome;
import dastur.standins.Faults.Fault;
import dastur.standins.Standins;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The outside is down, refuses, loses its answers, or takes no mail: with the real workers and the stand-ins. */
class OutsideTroubleTest {
    private static final PersonId TEO = new PersonId("teo");

    @TempDir
    Path data;

    private final AtomicReference<Duration> ahead = new AtomicReference<>(Duration.ZERO);
    private DemoApp app;
    private Standins standins;

    @BeforeEach
    void start() {
        InstantSource clock = () -> Instant.now().plus(ahead.get());
        app = DemoData.start(data, clock, Duration.ofSeconds(10), Duration.ofSeconds(1));
        standins = app.standins();
    }

    @AfterEach
    void stop() {
        app.close();
    }

    private void pass(Duration time) {
        ahead.updateAndGet(a -> a.plus(time));
    }

    private Case current(TicketId ticket) {
        return app.app().work().tickets().find(ticket).orElseThrow();
    }

    private List<Event> events(TicketId ticket) {
        return app.app().work().records().of(ticket).stream()
                .map((Entry e) -> Seal.open(e))
                .map(Recorded::event)
                .toList();
    }

    /** Waits for a condition; time passes by steps meanwhile so that pauses come to their end. */
    private void until(BooleanSupplier condition, Duration step) throws InterruptedException {
        long end = System.nanoTime() + Duration.ofSeconds(30).toNanos();
        while (!condition.getAsBoolean()) {
            assertThat(System.nanoTime()).as("still waiting").isLessThan(end);
            pass(step);
            Thread.onSpinWait();
            java.util.concurrent.locks.LockSupport.parkNanos(
                    Duration.ofMillis(100).toNanos());
        }
    }

    private void send(TicketId ticket, PersonId person, Command command) {
        Outcome outcome =
                app.app().work().commands().handle(ticket, UUID.randomUUID().toString(), Actor.of(person), command);
        assertThat(outcome).isInstanceOf(Outcome.Done.class);
    }

    /** A gate's ticket, approved to be closed: the call follows at once. */
    private TicketId approved(String gate) {
        Outcome raised = app.app()
                .work()
                .commands()
                .raise(
                        TicketKind.INCIDENT,
                        UUID.randomUUID().toString(),
                        Actor.of(new PersonId("ada")),
                        new Command.RaiseTicket(
                                TicketKind.INCIDENT,
                                Map.of("title", "Gate open", "ci", gate, "impact", 2L, "requester", "mira"),
                                null));
        TicketId ticket = new TicketId(((Outcome.Done) raised).ticket());
        send(
                ticket,
                new PersonId("runa"),
                new CompleteTask(new VisitId(ticket + ".1.1"), "Close the lane", Map.of("seen", "bent"), null));
        Visit visit = current(ticket).visit(new VisitId(ticket + ".1.2")).orElseThrow();
        Votes votes = (Votes) visit.waiting();
        send(ticket, TEO, new Vote(visit.id(), votes.round(), votes.digest(), true, null));
        return ticket;
    }

    private boolean finished(TicketId ticket) {
        return current(ticket).open().isEmpty();
    }

    @Test
    void aSystemThatComesBackIsTriedAgainUnderANewKey() throws InterruptedException {
        standins.faults().set("lanes", Fault.DOWN);
        TicketId ticket = approved("ALD-G1");
        until(() -> events(ticket).stream().anyMatch(AttemptFailed.class::isInstance), Duration.ZERO);
        standins.faults().set("lanes", Fault.NONE);
        until(() -> finished(ticket), Duration.ofSeconds(2));
        CallDone done = events(ticket).stream()
                .filter(CallDone.class::isInstance)
                .map(CallDone.class::cast)
                .findFirst()
                .orElseThrow();
        assertThat(done.attempt()).isGreaterThan(1);
        assertThat(standins.lanes().closedLanes()).containsKey("ALD-G1");
    }

    /** The work is done, the answer is lost: repeated under the same key, so that it is done once. */
    @Test
    void aLostAnswerIsAskedForAgainUnderTheSameKey() throws InterruptedException {
        standins.faults().set("lanes", Fault.LOSES_ANSWERS);
        TicketId ticket = approved("ALD-G2");
        until(() -> events(ticket).stream().anyMatch(e -> e instanceof AttemptFailed f && f.unknown()), Duration.ZERO);
        standins.faults().set("lanes", Fault.NONE);
        until(() -> finished(ticket), Duration.ofSeconds(2));
        assertThat(standins.lanes().calls()).isGreaterThan(1);
        assertThat(standins.lanes().carriedOut()).isEqualTo(1);
        assertThat(current(ticket).fields())
                .containsEntry("lockNumber", standins.lanes().closedLanes().get("ALD-G2"));
    }

    @Test
    void aSystemThatRefusesTakesTheWayForFailureToAPerson() throws InterruptedException {
        standins.faults().set("lanes", Fault.REFUSES);
        TicketId ticket = approved("ALD-G4");
        until(() -> events(ticket).stream().anyMatch(CallFailed.class::isInstance), Duration.ofSeconds(2));
        Visit visit = current(ticket)
                .open()
                .firstEntry()
                .getValue()
                .open()
                .firstEntry()
                .getValue();
        assertThat(visit.waiting()).isInstanceOf(OpenTask.class);
        assertThat(((OpenTask) visit.waiting()).instructions()).contains("409");
    }

    @Test
    void mailWaitsForItsServerAndNeverHoldsUpTheRun() throws InterruptedException {
        standins.mailbox().stop();
        TicketId ticket = approved("GNQ-G1");
        until(() -> finished(ticket), Duration.ZERO);
        assertThat(events(ticket)).noneMatch(e -> e instanceof Event.MessageDelivered d && byMail(d));
        standins.mailbox().start();
        until(
                () -> standins.mailbox().mails().stream()
                        .anyMatch(m -> m.subject().contains(ticket.value())),
                Duration.ofSeconds(5));
        until(
                () -> events(ticket).stream().anyMatch(e -> e instanceof Event.MessageDelivered d && byMail(d)),
                Duration.ZERO);
    }

    /** Teo is asked in chat; the mail server has nothing to do with it. */
    private static boolean byMail(Event.MessageDelivered delivered) {
        return !delivered.reference().startsWith("chat ");
    }

    @Test
    void mailThatCannotBeDeliveredIsGivenUpAndSaidSo() throws InterruptedException {
        standins.mailbox().stop();
        TicketId ticket = approved("GNQ-G3");
        until(() -> finished(ticket), Duration.ZERO);
        until(() -> events(ticket).stream().anyMatch(Event.MessageFailed.class::isInstance), Duration.ofMinutes(2));
        Event.MessageFailed failed = events(ticket).stream()
                .filter(Event.MessageFailed.class::isInstance)
                .map(Event.MessageFailed.class::cast)
                .findFirst()
                .orElseThrow();
        assertThat(failed.person()).isEqualTo(new PersonId("mira"));
        assertThat(failed.tries()).isGreaterThan(1);
    }

    /** N60, N84: what was given up stands in a list, and one command sends it once more. */
    @Test
    void whatWasGivenUpIsSentAgainWhenTheServerIsBack() throws InterruptedException {
        standins.mailbox().stop();
        TicketId ticket = approved("GNQ-G2");
        // Time passes after the lane is closed: jumps of minutes are no time for a call to answer in.
        until(() -> finished(ticket), Duration.ZERO);
        until(() -> events(ticket).stream().anyMatch(Event.MessageFailed.class::isInstance), Duration.ofMinutes(2));
        var message = app.app().work().undelivered().all().stream()
                .filter(m -> m.ticket().equals(ticket))
                .findFirst()
                .orElseThrow();
        standins.mailbox().start();
        Command again = new Command.Resend(message.message(), message.person());
        send(ticket, TEO, again);
        assertThat(app.app().work().commands().handle(ticket, UUID.randomUUID().toString(), Actor.of(TEO), again))
                .as("two people press it at once")
                .isInstanceOf(Outcome.Refused.class);
        until(
                () -> events(ticket).stream()
                        .anyMatch(e -> e instanceof Event.MessageDelivered d
                                && d.message().equals(message.message())
                                && d.person().equals(message.person())),
                Duration.ZERO);
        assertThat(app.app().work().undelivered().find(message.id())).isEmpty();
    }

    /** N60: what is not urgent comes in one mail a day; a decision does not wait for it. */
    @Test
    void aDigestHoldsWhatIsNotUrgentAndComesAtItsTime() throws InterruptedException {
        PersonId mira = new PersonId("mira");
        java.time.LocalTime at = app.app()
                .clock()
                .instant()
                .atZone(java.time.ZoneOffset.UTC)
                .toLocalTime()
                .plusHours(3)
                .truncatedTo(java.time.temporal.ChronoUnit.MINUTES);
        app.app()
                .work()
                .chats()
                .putReach(
                        mira,
                        new dastur.store.Chats.Reach(
                                null,
                                dastur.store.Chats.Channel.MAIL,
                                dastur.store.Chats.Channel.MAIL,
                                null,
                                null,
                                java.time.ZoneOffset.UTC,
                                at));
        TicketId ticket = approved("GNQ-G3");
        send(ticket, TEO, new Command.AddNote("We are at it.", true));
        send(ticket, TEO, new Command.AddNote("It takes a while.", true));
        until(() -> finished(ticket), Duration.ZERO);
        dastur.store.Outbox outbox = new dastur.store.Outbox(app.database());
        until(
                () -> outbox.nextDue()
                        .filter(due -> due.isAfter(app.app().clock().instant().plus(Duration.ofHours(1))))
                        .isPresent(),
                Duration.ZERO);
        assertThat(mailsTo(mira)).isEmpty();
        until(() -> !mailsTo(mira).isEmpty(), Duration.ofMinutes(5));
        assertThat(mailsTo(mira)).singleElement().satisfies(m -> {
            assertThat(m.subject()).contains("messages since yesterday");
            assertThat(m.text()).contains("We are at it.").contains("It takes a while.");
        });
        until(
                () -> events(ticket).stream()
                                .filter(e -> e instanceof Event.MessageDelivered d
                                        && d.person().equals(mira))
                                .count()
                        >= 2,
                Duration.ZERO);
    }

    private java.util.List<dastur.standins.Mailbox.Mail> mailsTo(PersonId person) {
        return standins.mailbox().mails().stream()
                .filter(m -> m.to().equals(person + "@kestrel.example"))
                .toList();
    }
}
