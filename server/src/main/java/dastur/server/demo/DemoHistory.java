package dastur.server.demo;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Case;
import dastur.core.run.Command;
import dastur.core.run.Command.CallOutcome;
import dastur.core.run.Engine;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Outbox;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import java.util.concurrent.atomic.AtomicReference;

/**
 * Thirty days of history and a few live cases, made by running the workflows through the engine under a virtual clock with
 * a fixed seed: every record in the demo is a real one.
 */
final class DemoHistory {
    private static final int DAYS = 30;
    private static final int GATES = 30;
    private static final int KIOSKS = 8;
    private static final int OTHERS = 12;
    private static final List<String> REQUESTERS = List.of("mira", "greta", "emil", "saga");
    private static final List<String> GATE_IDS =
            List.of("ALD-G1", "ALD-G2", "ALD-G3", "ALD-G4", "GNQ-G1", "GNQ-G2", "GNQ-G3", "GNQ-G4", "NSL-G1", "NSL-G2");
    private static final List<String> SEEN = List.of(
            "Arm does not come down",
            "Sensor is dirty",
            "A suitcase was in the way",
            "Motor hums but nothing moves",
            "Arm is bent");
    private static final List<String> DESK_MATTERS = List.of(
            "Laptop does not start",
            "Board shows yesterday’s tide table",
            "Cannot print crew list",
            "Wi-Fi is slow in the lounge",
            "Booking page takes long to open",
            "Berth reading is missing");

    private final AtomicReference<Instant> now = new AtomicReference<>(Instant.EPOCH);
    private final CommandService commands;
    private final Tickets tickets;
    private final Outbox outbox;
    private final Random random = new Random(20261);
    private int calls;

    DemoHistory(Cases cases, Tickets tickets, Outbox outbox) {
        this.commands = new CommandService(cases, new Engine(), now::get, Instant.EPOCH, (ticket, events) -> {});
        this.tickets = tickets;
        this.outbox = outbox;
    }

    private record Planned(Instant at, Runnable story) {}

    void build(Instant today) {
        List<Planned> stories = new ArrayList<>();
        for (int i = 0; i < GATES; i++) {
            stories.add(planned(today, this::gateStory));
        }
        for (int i = 0; i < KIOSKS; i++) {
            String kiosk = "kiosk-%02d".formatted(i + 2);
            stories.add(planned(today, () -> kioskStory(kiosk)));
        }
        for (int i = 0; i < OTHERS; i++) {
            stories.add(planned(today, this::deskStory));
        }
        stories.sort(Comparator.comparing(Planned::at));
        stories.forEach(p -> {
            now.set(p.at());
            p.story().run();
        });
        live(today);
    }

    private Planned planned(Instant today, Runnable story) {
        return new Planned(today.minus(Duration.ofMinutes(24 * 60L + random.nextInt((DAYS - 1) * 24 * 60))), story);
    }

    // --- stories

    private void gateStory() {
        TicketId ticket = raiseGate(pick(GATE_IDS), 1 + random.nextInt(3));
        pass(3 + random.nextInt(35));
        String technician = pick(List.of("runa", "kofi", "marek"));
        act(technician, ticket, v -> new Command.ClaimTask(v.id()));
        pass(2 + random.nextInt(12));
        boolean cleared = random.nextInt(3) == 0;
        act(
                technician,
                ticket,
                v -> new Command.CompleteTask(
                        v.id(), cleared ? "Cleared on the spot" : "Close the lane", Map.of("seen", pick(SEEN)), null));
        if (!cleared) {
            pass(2 + random.nextInt(20));
            boolean approved = random.nextInt(6) > 0;
            vote(pick(List.of("teo", "priya")), ticket, approved, approved ? null : "Not while the 07:40 is boarding");
            if (approved) {
                pass(0);
                call(
                        ticket,
                        new CallOutcome.Done(
                                "ok",
                                Map.of("lock", "L-" + (3000 + ++calls)),
                                "lane-L-" + (3000 + calls),
                                null,
                                "POST /lanes → 200 in 34 ms",
                                34,
                                0));
            } else {
                pass(90 + random.nextInt(60));
                act(technician, ticket, v -> new Command.CompleteTask(v.id(), "It works again", Map.of(), null));
            }
        }
        pass(1);
        delivered(ticket);
    }

    private void kioskStory(String kiosk) {
        TicketId ticket = raiseKiosk(kiosk);
        pass(60 + random.nextInt(300));
        delivered(ticket);
        boolean approved = random.nextInt(5) > 0;
        vote(
                pick(List.of("teo", "priya")),
                ticket,
                approved,
                approved ? null : "Two kiosks are enough at this pier in winter");
        if (approved) {
            pass(4);
            int till = 10 + ++calls;
            call(
                    ticket,
                    new CallOutcome.Done(
                            "ok",
                            Map.of("till", "T-%04d".formatted(till), "receipt", "R-%04d-0001".formatted(till)),
                            "enrolment j" + till,
                            null,
                            "GET /kiosks/jobs → 200 in 12 ms",
                            221_000,
                            96));
            pass(30 + random.nextInt(200));
            act("kofi", ticket, v -> new Command.CompleteTask(v.id(), "Up and selling", Map.of(), null));
        }
        pass(1);
        delivered(ticket);
    }

    private void deskStory() {
        TicketId ticket = raise(
                TicketKind.INCIDENT,
                pick(REQUESTERS),
                Map.of(
                        "title",
                        pick(DESK_MATTERS),
                        "service",
                        pick(List.of(
                                "office-tools", "departure-boards", "booking-site", "passenger-wifi", "berth-sensors")),
                        "impact",
                        3L,
                        "urgency",
                        (long) (2 + random.nextInt(3)),
                        "group",
                        "service-desk"));
        pass(10 + random.nextInt(40));
        edit("ada", ticket, Map.of("state", "diagnosing", "assignee", "ada"));
        pass(20 + random.nextInt(100));
        handle("ada", ticket, new Command.AddNote("Called back, tried it together.", false));
        pass(5);
        edit(
                "ada",
                ticket,
                Map.of(
                        "state",
                        "closed",
                        "cause",
                        "A setting was lost",
                        "done",
                        "Set it again",
                        "answer",
                        "It works again. Call us if it comes back."));
    }

    // --- live cases

    private void live(Instant today) {
        now.set(today.minus(Duration.ofMinutes(24)));
        raiseGate("GNQ-G2", 2);
        now.set(today.minus(Duration.ofMinutes(47)));
        TicketId late = raiseGate("NSL-G1", 3);
        now.set(today.minus(Duration.ofMinutes(20)));
        tick(late);
        now.set(today.minus(Duration.ofMinutes(31)));
        TicketId toDecide = raiseGate("ALD-G3", 2);
        pass(9);
        act(
                "runa",
                toDecide,
                v -> new Command.CompleteTask(
                        v.id(), "Close the lane", Map.of("seen", "Arm is bent, it hangs over the lane"), null));
        now.set(today.minus(Duration.ofHours(5)));
        TicketId kiosk = raiseKiosk("kiosk-11");
        now.set(today.minus(Duration.ofHours(3)));
        TicketId confirm = raiseKiosk("kiosk-10");
        pass(25);
        vote("priya", confirm, true, null);
        call(
                confirm,
                new CallOutcome.Done(
                        "ok",
                        Map.of("till", "T-0040", "receipt", "R-0040-0001"),
                        "enrolment j40",
                        null,
                        "GET /kiosks/jobs → 200 in 15 ms",
                        198_000,
                        88));
        now.set(today.minus(Duration.ofMinutes(95)));
        TicketId stuck = raiseKiosk("kiosk-12");
        pass(15);
        vote("teo", stuck, true, null);
        for (int i = 0; i < 3; i++) {
            call(stuck, new CallOutcome.Failed("It answered 503: down for maintenance"));
            pass(2);
            tick(stuck);
        }
        now.set(today.minus(Duration.ofMinutes(12)));
        TicketId board = raise(
                TicketKind.INCIDENT,
                "greta",
                Map.of(
                        "title",
                        "Board at Gannet Quay is dark",
                        "ci",
                        "GNQ-03",
                        "impact",
                        3L,
                        "urgency",
                        2L,
                        "group",
                        "pier-technicians"));
        pass(4);
        edit("ada", board, Map.of("state", "diagnosing"));
        now.set(today.minus(Duration.ofMinutes(7)));
        raise(
                TicketKind.INCIDENT,
                "greta",
                Map.of(
                        "title",
                        "Certificates of the gates at North Slip run out soon",
                        "ci",
                        "NSL-G2",
                        "impact",
                        4L,
                        "urgency",
                        3L,
                        "group",
                        "pier-technicians"));
        for (TicketId ticket : List.of(late, toDecide, kiosk, confirm, stuck)) {
            delivered(ticket);
        }
    }

    // --- acting

    private TicketId raiseGate(String gate, long impact) {
        return raise(
                TicketKind.INCIDENT,
                pick(REQUESTERS),
                Map.of(
                        "title",
                        "Gate " + gate.charAt(gate.length() - 1) + " stands open",
                        "ci",
                        gate,
                        "impact",
                        impact,
                        "urgency",
                        2L,
                        "description",
                        "People walk through without a ticket.",
                        "group",
                        "pier-technicians"));
    }

    private TicketId raiseKiosk(String kiosk) {
        return raise(
                TicketKind.CHANGE,
                pick(REQUESTERS),
                Map.of(
                        "title",
                        "Open ticket kiosk " + Integer.parseInt(kiosk.substring(6)) + " for the season",
                        "ci",
                        kiosk,
                        "description",
                        "The line at the window is too long."));
    }

    private TicketId raise(TicketKind kind, String requester, Map<String, Object> fields) {
        Map<String, Object> all = new java.util.HashMap<>(fields);
        all.put("requester", requester);
        return new TicketId(done(commands.raise(
                        kind,
                        "demo-" + random.nextLong(),
                        Actor.of(new PersonId(requester)),
                        new Command.RaiseTicket(kind, all, null)))
                .ticket());
    }

    private void edit(String person, TicketId ticket, Map<String, Object> fields) {
        handle(person, ticket, new Command.EditTicket(fields, null));
    }

    private void vote(String person, TicketId ticket, boolean approve, String comment) {
        act(person, ticket, v -> {
            Waiting.Votes votes = (Waiting.Votes) v.waiting();
            return new Command.Vote(v.id(), votes.round(), votes.digest(), approve, comment);
        });
    }

    private void act(String person, TicketId ticket, java.util.function.Function<Visit, Command> command) {
        handle(person, ticket, command.apply(openVisit(ticket)));
    }

    private void call(TicketId ticket, CallOutcome outcome) {
        Visit visit = openVisit(ticket);
        Waiting.CallResult waiting = (Waiting.CallResult) visit.waiting();
        done(commands.handleRepeatable(
                ticket,
                "demo.call",
                new Actor.OfAction(waiting.action()),
                new Command.CallResult(visit.id(), waiting.attempt(), outcome)));
    }

    /** Everything queued for mail so far is taken as delivered. */
    private void delivered(TicketId ticket) {
        outbox.take("mail", 500, now.get(), Duration.ofSeconds(1), "demo").stream()
                .forEach(row -> done(commands.handleRepeatable(
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
    }

    private void tick(TicketId ticket) {
        done(commands.handleRepeatable(ticket, "demo.clock", Actor.CLOCK, new Command.Tick()));
    }

    private void handle(String person, TicketId ticket, Command command) {
        done(commands.handle(ticket, "demo-" + random.nextLong(), Actor.of(new PersonId(person)), command));
    }

    private static CommandService.Outcome.Done done(CommandService.Outcome outcome) {
        return switch (outcome) {
            case CommandService.Outcome.Done d -> d;
            case CommandService.Outcome.Refused r ->
                throw new IllegalStateException("the demo's history was refused: " + r.refusal());
        };
    }

    private Case current(TicketId ticket) {
        return tickets.find(ticket).orElseThrow();
    }

    private Visit openVisit(TicketId ticket) {
        Optional<Run> run = current(ticket).open().values().stream().findFirst();
        return run.orElseThrow(() -> new IllegalStateException("no run is open on " + ticket))
                .open()
                .firstEntry()
                .getValue();
    }

    private void pass(long minutes) {
        now.updateAndGet(t -> t.plus(Duration.ofMinutes(minutes)).plusSeconds(random.nextInt(50)));
    }

    private <T> T pick(List<T> list) {
        return list.get(random.nextInt(list.size()));
    }
}
