package dastur.demo;

import dastur.core.run.Command;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.store.Cases;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;

/**
 * Thirty days of history and a few live cases, made by running the workflows through the engine under a virtual clock with
 * a fixed seed: every record in the demo is a real one.
 */
final class DemoHistory {
    private static final int DAYS = 30;
    private static final int GATES = 40;
    private static final int KIOSKS = 8;
    private static final int OTHERS = 30;
    private static final long FIRST_INCIDENT = 1043;
    private static final long FIRST_CHANGE = 309;
    private static final long FIRST_REQUEST = 201;
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

    private final DemoStage stage;
    private final DemoPast past;
    private final Cases cases;
    private int calls;

    DemoHistory(DemoStage stage, DemoPast past, Cases cases) {
        this.stage = stage;
        this.past = past;
        this.cases = cases;
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
        past.stories().forEach(story -> stories.add(planned(today, story)));
        stories.sort(Comparator.comparing(Planned::at));
        // Live cases have the same numbers however long the past is: tests and documents speak of them.
        cases.startNumbersAt(TicketKind.INCIDENT, FIRST_INCIDENT - GATES - OTHERS - DemoPast.INCIDENTS);
        cases.startNumbersAt(TicketKind.CHANGE, FIRST_CHANGE - KIOSKS - DemoPast.CHANGES);
        cases.startNumbersAt(TicketKind.REQUEST, FIRST_REQUEST - DemoPast.REQUESTS);
        past.signals().copies(today, DAYS);
        stories.forEach(p -> {
            stage.at(p.at());
            p.story().run();
        });
        live(today);
    }

    private Planned planned(Instant today, Runnable story) {
        return new Planned(today.minus(Duration.ofMinutes(24 * 60L + stage.upTo((DAYS - 1) * 24 * 60))), story);
    }

    // --- stories

    private void gateStory() {
        TicketId ticket = raiseGate(stage.pick(GATE_IDS), 1 + stage.upTo(3));
        stage.pass(3 + stage.upTo(35));
        String technician = stage.pick(List.of("runa", "kofi", "marek"));
        stage.act(technician, ticket, v -> new ClaimTask(v.id()));
        stage.pass(2 + stage.upTo(12));
        boolean cleared = stage.upTo(3) == 0;
        stage.act(
                technician,
                ticket,
                v -> new CompleteTask(
                        v.id(),
                        cleared ? "Cleared on the spot" : "Close the lane",
                        Map.of("seen", stage.pick(SEEN)),
                        null));
        if (!cleared) {
            stage.pass(2 + stage.upTo(20));
            boolean approved = stage.upTo(6) > 0;
            stage.vote(
                    stage.pick(List.of("teo", "priya")),
                    ticket,
                    approved,
                    approved ? null : "Not while the 07:40 is boarding");
            if (approved) {
                stage.pass(0);
                stage.call(
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
                stage.pass(90 + stage.upTo(60));
                stage.act(technician, ticket, v -> new CompleteTask(v.id(), "It works again", Map.of(), null));
            }
        }
        stage.pass(1);
        stage.delivered();
    }

    private void kioskStory(String kiosk) {
        TicketId ticket = raiseKiosk(kiosk);
        stage.pass(60 + stage.upTo(300));
        stage.delivered();
        boolean approved = stage.upTo(5) > 0;
        stage.vote(
                stage.pick(List.of("teo", "priya")),
                ticket,
                approved,
                approved ? null : "Two kiosks are enough at this pier in winter");
        if (approved) {
            stage.pass(4);
            int till = 10 + ++calls;
            stage.call(
                    ticket,
                    new CallOutcome.Done(
                            "ok",
                            Map.of("till", "T-%04d".formatted(till), "receipt", "R-%04d-0001".formatted(till)),
                            "enrolment j" + till,
                            null,
                            "GET /kiosks/jobs → 200 in 12 ms",
                            221_000,
                            96));
            stage.pass(30 + stage.upTo(200));
            stage.act("kofi", ticket, v -> new CompleteTask(v.id(), "Up and selling", Map.of(), null));
        }
        stage.pass(1);
        stage.delivered();
    }

    private void deskStory() {
        TicketId ticket = stage.raise(
                TicketKind.INCIDENT,
                stage.pick(REQUESTERS),
                Map.of(
                        "title",
                        stage.pick(DESK_MATTERS),
                        "service",
                        stage.pick(List.of(
                                "office-tools", "departure-boards", "booking-site", "passenger-wifi", "berth-sensors")),
                        "impact",
                        3L,
                        "urgency",
                        (long) (2 + stage.upTo(3)),
                        "group",
                        "service-desk"));
        stage.pass(10 + stage.upTo(40));
        stage.edit("ada", ticket, Map.of("state", "diagnosing", "assignee", "ada"));
        stage.pass(20 + stage.upTo(100));
        stage.handle("ada", ticket, new Command.AddNote("Called back, tried it together.", false));
        stage.pass(5);
        stage.edit(
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

    /** What waits for the visitor; its messages go out for real when the demo starts. */
    private void live(Instant today) {
        stage.at(today.minus(Duration.ofMinutes(24)));
        raiseGate("GNQ-G2", 2);
        stage.at(today.minus(Duration.ofMinutes(47)));
        TicketId late = raiseGate("NSL-G1", 3);
        stage.at(today.minus(Duration.ofMinutes(20)));
        stage.tick(late);
        stage.at(today.minus(Duration.ofMinutes(31)));
        TicketId toDecide = raiseGate("ALD-G3", 2);
        stage.pass(9);
        stage.act(
                "runa",
                toDecide,
                v -> new CompleteTask(
                        v.id(), "Close the lane", Map.of("seen", "Arm is bent, it hangs over the lane"), null));
        stage.at(today.minus(Duration.ofHours(5)));
        raiseKiosk("kiosk-11");
        stage.at(today.minus(Duration.ofHours(3)));
        TicketId confirm = raiseKiosk("kiosk-10");
        stage.pass(25);
        stage.vote("priya", confirm, true, null);
        stage.call(
                confirm,
                new CallOutcome.Done(
                        "ok",
                        Map.of("till", "T-0040", "receipt", "R-0040-0001"),
                        "enrolment j40",
                        null,
                        "GET /kiosks/jobs → 200 in 15 ms",
                        198_000,
                        88));
        stage.at(today.minus(Duration.ofMinutes(95)));
        TicketId stuck = raiseKiosk("kiosk-12");
        stage.pass(15);
        stage.vote("teo", stuck, true, null);
        for (int i = 0; i < 3; i++) {
            stage.call(stuck, new CallOutcome.Failed("It answered 503: down for maintenance"));
            stage.pass(2);
            stage.tick(stuck);
        }
        stage.at(today.minus(Duration.ofMinutes(12)));
        TicketId board = stage.raise(
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
        stage.pass(4);
        stage.edit("ada", board, Map.of("state", "diagnosing"));
        stage.at(today.minus(Duration.ofMinutes(7)));
        stage.raise(
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
        asked(today);
    }

    /** What one of those who ask finds on her page: one thing under way, and one that she is to say is solved. */
    private void asked(Instant today) {
        stage.at(today.minus(Duration.ofHours(4)));
        TicketId receipts = stage.raise(
                TicketKind.INCIDENT,
                "mira",
                Map.of(
                        "title",
                        "Kiosk 4 prints no receipts",
                        "ci",
                        "kiosk-04",
                        "impact",
                        4L,
                        "urgency",
                        3L,
                        "group",
                        "pier-technicians"));
        stage.pass(6);
        stage.edit("ada", receipts, Map.of("state", "diagnosing"));
        stage.pass(41);
        stage.edit(
                "ada",
                receipts,
                Map.of("state", "restored", "answer", "The paper was changed. It prints again; please look."));
        stage.at(today.minus(Duration.ofMinutes(80)));
        stage.raise(
                TicketKind.REQUEST,
                "mira",
                Map.of(
                        "title",
                        "Drawings of berth 3 for the dredger",
                        "description",
                        "They want to know where the piles stand."));
    }

    private TicketId raiseGate(String gate, long impact) {
        return stage.raise(
                TicketKind.INCIDENT,
                stage.pick(REQUESTERS),
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
        return stage.raise(
                TicketKind.CHANGE,
                stage.pick(REQUESTERS),
                Map.of(
                        "title",
                        "Open ticket kiosk " + Integer.parseInt(kiosk.substring(6)) + " for the season",
                        "ci",
                        kiosk,
                        "description",
                        "The line at the window is too long."));
    }
}
