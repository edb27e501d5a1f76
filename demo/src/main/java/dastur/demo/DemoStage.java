package dastur.demo;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Engine;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowKey;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Outbox;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.Set;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/** Where the demo's past is played: people and machines act through the engine under a clock that the stories move. */
final class DemoStage {
    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.EPOCH);
    private final CommandService commands;
    private final Tickets tickets;
    /** Those who only ask. */
    private static final Set<String> ASK = Set.of("pavel", "mira", "emil", "greta", "saga", "oskar");

    private final Outbox outbox;
    private final Random random = new Random(20261);

    DemoStage(Cases cases, Tickets tickets, Outbox outbox) {
        this.commands = new CommandService(cases, new Engine(), now::get, Instant.EPOCH, (before, events, after) -> {});
        this.tickets = tickets;
        this.outbox = outbox;
    }

    Instant now() {
        return now.get();
    }

    CommandService commands() {
        return commands;
    }

    void at(Instant moment) {
        now.set(moment);
    }

    int upTo(int most) {
        return random.nextInt(most);
    }

    /** Who only asks has called the service desk, which writes down more than they could. */
    TicketId raise(TicketKind kind, String requester, Map<String, Object> fields) {
        String by = ASK.contains(requester) ? "ada" : requester;
        Map<String, Object> all = new HashMap<>(fields);
        all.put("requester", requester);
        return new TicketId(done(commands.raise(
                        kind,
                        "demo-" + random.nextLong(),
                        Actor.of(new PersonId(by)),
                        new Command.RaiseTicket(kind, all, null)))
                .ticket());
    }

    void edit(String person, TicketId ticket, Map<String, Object> fields) {
        handle(person, ticket, new Command.EditTicket(fields, null));
    }

    void vote(String person, TicketId ticket, boolean approve, @Nullable String comment) {
        act(person, ticket, v -> {
            Votes votes = (Votes) v.waiting();
            return new Vote(v.id(), votes.round(), votes.digest(), approve, comment);
        });
    }

    void start(String person, TicketId ticket, String workflow, Map<String, Object> inputs) {
        handle(person, ticket, new Command.StartRun(new WorkflowKey(workflow), inputs));
    }

    void act(String person, TicketId ticket, Function<Visit, Command> command) {
        handle(person, ticket, command.apply(openVisit(ticket)));
    }

    void call(TicketId ticket, CallOutcome outcome) {
        call(ticket, openVisit(ticket), outcome);
    }

    void call(TicketId ticket, Visit visit, CallOutcome outcome) {
        CallUnderWay waiting = (CallUnderWay) visit.waiting();
        done(commands.handleRepeatable(
                ticket,
                "demo.call",
                new Actor.OfAction(waiting.action()),
                new CallResult(visit.id(), waiting.attempt(), outcome)));
    }

    /** What a party outside brings. */
    void outside(String party, TicketId ticket, Command command) {
        done(commands.handleRepeatable(ticket, "demo." + party, new Actor.Outside(party), command));
    }

    /** Everything queued for mail so far is taken as delivered; of those to one person, one after the other. */
    void delivered() {
        List<Outbox.Taken> taken = outbox.take("mail", 500, now.get(), Duration.ofSeconds(1), "demo");
        while (!taken.isEmpty()) {
            taken.forEach(row -> done(commands.handleRepeatable(
                    row.ticket(),
                    "demo.mail",
                    new Actor.Outside("mail"),
                    new Command.DeliveryResult(
                            row.visit(),
                            row.mail().message(),
                            row.mail().person(),
                            true,
                            1,
                            "<" + row.id() + "@kestrel.example>"))));
            taken = outbox.take("mail", 500, now.get(), Duration.ofSeconds(1), "demo");
        }
    }

    void tick(TicketId ticket) {
        done(commands.handleRepeatable(ticket, "demo.clock", Actor.CLOCK, new Command.Tick()));
    }

    void handle(String person, TicketId ticket, Command command) {
        done(commands.handle(ticket, "demo-" + random.nextLong(), Actor.of(new PersonId(person)), command));
    }

    private static CommandService.Outcome.Done done(CommandService.Outcome outcome) {
        return switch (outcome) {
            case CommandService.Outcome.Done d -> d;
            case CommandService.Outcome.Refused r ->
                throw new IllegalStateException("the demo's history was refused: " + r.refusal());
        };
    }

    Case current(TicketId ticket) {
        return tickets.find(ticket).orElseThrow();
    }

    private Visit openVisit(TicketId ticket) {
        Optional<Run> run = current(ticket).open().values().stream().findFirst();
        return run.orElseThrow(() -> new IllegalStateException("no run is open on " + ticket))
                .open()
                .firstEntry()
                .getValue();
    }

    void pass(long minutes) {
        now.updateAndGet(t -> t.plus(Duration.ofMinutes(minutes)).plusSeconds(random.nextInt(50)));
    }

    <T> T pick(List<T> list) {
        return list.get(random.nextInt(list.size()));
    }
}
