package dastur.demo;

import dastur.core.partner.PartnerKey;
import dastur.core.run.Command;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.TriggerId;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;

/** What else happened: stories of the workflows that ship beside those of the gates and kiosks. */
final class DemoPast {
    private static final int FROZEN = 18;
    private static final int FARES = 12;
    private static final int SUPPLIER = 5;
    private static final int CERTIFICATES = 3;
    private static final int DRAWINGS = 11;
    private static final int EMERGENCIES = 4;

    /** How many tickets of each kind the stories raise. */
    static final int INCIDENTS = FROZEN + FARES + SUPPLIER + CERTIFICATES + DemoSignals.incidentsOfCopies();

    static final int CHANGES = EMERGENCIES + 2 + 2 + 2;
    static final int REQUESTS = DRAWINGS;

    private static final List<String> BOARDS =
            List.of("ALD-01", "ALD-04", "ALD-07", "ALD-11", "GNQ-02", "GNQ-05", "GNQ-09", "NSL-01", "NSL-06");
    /** Others than those that visitors freeze: what the monitor says of these is new to them. */
    private static final List<String> OF_SIGNALS =
            List.of("ALD-02", "ALD-03", "ALD-10", "ALD-12", "GNQ-01", "GNQ-10", "GNQ-11", "NSL-05", "NSL-06");

    private static final List<String> ASKING = List.of("mira", "greta", "emil", "saga");

    private final DemoStage stage;
    private final DemoPlayer player;
    private final DemoSignals signals;

    DemoPast(DemoStage stage, DemoPlayer player, DemoSignals signals) {
        this.stage = stage;
        this.player = player;
        this.signals = signals;
    }

    DemoSignals signals() {
        return signals;
    }

    List<Runnable> stories() {
        List<Runnable> all = new ArrayList<>();
        add(all, FROZEN, this::frozenBoard);
        add(all, FARES, this::faresOnKiosks);
        add(all, SUPPLIER, this::supplier);
        add(all, CERTIFICATES, this::certificates);
        add(all, DRAWINGS, this::drawings);
        add(all, EMERGENCIES, this::emergency);
        all.add(() -> fareRules(true));
        all.add(() -> fareRules(false));
        all.add(() -> portal(true));
        all.add(() -> portal(false));
        all.add(() -> gateway("GNQ", 12, "7.1.9", "7.2.1", 12));
        all.add(() -> gateway("NSL", 8, "7.2.1", "7.3.0", 5));
        return all;
    }

    private static void add(List<Runnable> all, int times, Runnable story) {
        for (int i = 0; i < times; i++) {
            all.add(story);
        }
    }

    private void frozenBoard() {
        boolean seen = stage.upTo(3) == 0;
        String board = stage.pick(seen ? BOARDS : OF_SIGNALS);
        TicketId ticket = seen ? seenFrozen(board) : signals.frozen(board);
        DemoScript script = new DemoScript()
                .finds("log", Map.of("text", "06:12 picture ok\n06:40 no frame for 300 s"))
                .task(
                        "onSite",
                        "It moves again",
                        Map.of("found", stage.pick(List.of("A plug was loose", "The cable was pinched by the door"))));
        int kind = stage.upTo(6);
        if (kind < 4) {
            script.finds("moves", Map.of("picture", "moves"));
        } else if (kind == 4) {
            script.fails("restart", "It did not answer within 20 s").finds("moves", Map.of("picture", "moves"));
        } else {
            script.finds("moves", Map.of("picture", "stands still"))
                    .task("onSite", "It needs a part", Map.of("found", "The display unit is dead"))
                    .declines("part", "This pier gets new boards next month");
        }
        player.play(ticket, script);
        if (!seen) {
            stage.pass(1 + stage.upTo(9));
            signals.moves(board);
        }
    }

    /** Somebody sees it before the monitor does: it is raised by hand. */
    private TicketId seenFrozen(String board) {
        return stage.raise(
                TicketKind.INCIDENT,
                stage.pick(ASKING),
                Map.of(
                        "title",
                        "Board " + board + " is frozen",
                        "ci",
                        board,
                        "impact",
                        3L,
                        "urgency",
                        2L,
                        "description",
                        "It shows the departures of an hour ago.",
                        "group",
                        "pier-technicians"));
    }

    private void faresOnKiosks() {
        TicketId ticket = stage.raise(
                TicketKind.INCIDENT,
                "ines",
                Map.of("title", "Fares of the kiosks, compared", "impact", 4L, "urgency", 3L));
        boolean behind = stage.upTo(3) == 0;
        stage.start("ines", ticket, "fares-on-kiosks", Map.of());
        player.play(
                ticket,
                new DemoScript()
                        .finds(
                                "list",
                                Map.of(
                                        "inForce",
                                        "winter-1",
                                        "kiosks",
                                        List.of(
                                                Map.of("kiosk", "kiosk-01", "version", "winter-1"),
                                                Map.of(
                                                        "kiosk",
                                                        "kiosk-04",
                                                        "version",
                                                        behind ? "autumn-3" : "winter-1"),
                                                Map.of(
                                                        "kiosk",
                                                        "kiosk-07",
                                                        "version",
                                                        behind ? "autumn-3" : "winter-1")))));
    }

    private void supplier() {
        boolean lower = stage.upTo(3) == 0;
        TicketId ticket = stage.raise(
                TicketKind.INCIDENT,
                "emil",
                Map.of(
                        "title",
                        stage.pick(List.of("Roster does not take swaps", "Berth reading jumps", "Radio link drops")),
                        "service",
                        stage.pick(List.of("crew-rostering", "berth-sensors")),
                        "impact",
                        2L,
                        "urgency",
                        3L,
                        "group",
                        "service-desk"));
        stage.pass(12 + stage.upTo(30));
        String no = "F-" + (100 + stage.upTo(400));
        stage.start("ada", ticket, "handed-to-the-supplier", Map.of());
        player.play(
                ticket,
                new DemoScript()
                        .finds("send", Map.of("number", no, "grade", lower ? "C" : "B"))
                        .comes("follow", t -> atSupplier(t, no, lower)));
    }

    /** They look at it, ask something, and put it right; where they take it less seriously, that is settled first. */
    private void atSupplier(TicketId ticket, String no, boolean lower) {
        PartnerKey supplier = DemoPartner.SUPPLIER;
        String party = supplier.value();
        stage.pass(1);
        stage.outside(
                party, ticket, new Command.JoinPartner(supplier, no, "http://supplier.example/faults/" + no, false));
        if (lower) {
            String why = "Both have said something of it.";
            stage.outside(
                    party,
                    ticket,
                    new Command.HearPartner(
                            supplier, Map.of(), List.of(new Command.Disagreement("impact", "2", "C", 3L, why))));
            stage.pass(20 + stage.upTo(60));
            stage.handle(
                    "jonas",
                    ticket,
                    new Command.SettleDifference(supplier, "impact", true, "2", "C", "They see the log, we do not."));
        }
        stage.pass(30 + stage.upTo(90));
        stage.outside(
                party,
                ticket,
                new Command.HearFromPartner(supplier, "1", "Tove at the supplier", "Since when does it do that?"));
        stage.pass(5 + stage.upTo(30));
        stage.handle("jonas", ticket, new Command.SayToPartner(supplier, "Since the night before."));
        stage.outside(
                party,
                ticket,
                new Command.ToldPartner(supplier, stage.current(ticket).seq(), null, null));
        stage.pass(60 + stage.upTo(600));
        stage.outside(
                party,
                ticket,
                new Command.HearPartner(
                        supplier,
                        Map.of(
                                "answer",
                                        new Command.Taken(
                                                "A service of ours was restarted.", "A service of ours was restarted."),
                                "state", new Command.Taken("right", "restored")),
                        List.of()));
    }

    private void certificates() {
        String site = stage.pick(List.of("ALD", "GNQ", "NSL"));
        TicketId ticket = stage.raise(
                TicketKind.INCIDENT,
                "greta",
                Map.of(
                        "title",
                        "Certificates of the gates at " + site + " run out",
                        "ci",
                        site + "-G1",
                        "impact",
                        4L,
                        "urgency",
                        3L,
                        "group",
                        "pier-technicians"));
        stage.pass(20 + stage.upTo(60));
        stage.handle(
                "runa", ticket, new Command.AnswerOffer(new TriggerId("certificates-raised"), true, Map.of(), null));
        DemoScript script = new DemoScript()
                .finds(
                        "list",
                        Map.of(
                                "certificates",
                                List.of(
                                        certificate(site + "-G1", 9),
                                        certificate(site + "-G2", 200),
                                        certificate(site + "-G3", 14))))
                .finds(
                        "renew",
                        Map.of("expires", stage.now().plus(Duration.ofDays(365)).toString()));
        player.play(ticket, stage.upTo(2) == 0 ? script : script.fails("renew", "The gate has no power"));
    }

    private Map<String, Object> certificate(String gate, int days) {
        return Map.of(
                "gate", gate, "expires", stage.now().plus(Duration.ofDays(days)).toString());
    }

    private void drawings() {
        TicketId ticket = stage.raise(
                TicketKind.REQUEST,
                stage.pick(ASKING),
                Map.of(
                        "title",
                        "Drawings of berth " + (1 + stage.upTo(4)) + " for the dredger",
                        "description",
                        "They want to know where the piles stand."));
        int kind = stage.upTo(4);
        String link = "https://files.kestrel.example/berth/" + Integer.toHexString(4096 + stage.upTo(60000));
        DemoScript script = new DemoScript();
        if (kind == 0) {
            script.task(
                    "decide", "No", Map.of("advice", "Only the harbour office may give these. Ask them on the quay."));
        } else if (kind == 1) {
            script.task(
                    "decide",
                    "Part of it only",
                    Map.of("advice", "The plan of the piles, without the cables.", "link", link));
        } else {
            script.task(
                    "decide", "All of it", Map.of("advice", "All sheets; they are good for 14 days.", "link", link));
        }
        player.play(ticket, script);
    }

    private void emergency() {
        TicketId ticket = change("Take the booking site off the sick node", "oskar");
        stage.start(
                "ada",
                ticket,
                "emergency-change",
                Map.of("what", "Take book-web-3 out of the line.", "why", "Every tenth booking fails."));
        DemoScript script = new DemoScript()
                .task("act", null, Map.of("second", "noor", "seen", "Taken out at once; bookings go through again."))
                .task("review", null, Map.of("learned", "Watch the memory of the nodes."))
                .task("putRight", null, Map.of("how", "Put back into the line after it was mended."));
        player.play(ticket, stage.upTo(4) == 0 ? script.declines("after", "One of you was alone") : script);
    }

    private void fareRules(boolean holds) {
        String site = stage.pick(List.of("ALD", "GNQ"));
        TicketId ticket = stage.raise(
                TicketKind.CHANGE,
                "greta",
                Map.of(
                        "title",
                        "Fare rules for the weekend at " + site,
                        "ci",
                        site + "-G1",
                        "impact",
                        3L,
                        "urgency",
                        3L));
        stage.start("ines", ticket, "new-fare-rules", Map.of("rules", "weekend-2", "adult", 46.0));
        Map<String, Object> before = Map.of("adult", 42.0, "child", 21.0, "senior", 30.0);
        Map<String, Object> after = Map.of("adult", 46.0, "child", 21.0, "senior", 30.0);
        DemoScript script = new DemoScript()
                .finds("before", before)
                .finds("apply", Map.of("previous", "weekend-1"))
                .finds("after", after)
                .finds("hold", after);
        player.play(ticket, holds ? script : script.fails("apply", "A gate of the site did not answer"));
    }

    private void portal(boolean approved) {
        TicketId ticket = change("Move the Wi-Fi portal", "sem");
        stage.start("ines", ticket, "wifi-portal-move", Map.of("address", "10.30.9.2"));
        DemoScript script = new DemoScript()
                .finds("before", Map.of("address", "10.30.9.1"))
                .finds("point", Map.of("previous", "10.30.9.1"))
                .finds("seen", Map.of("address", "10.30.9.1"))
                .finds("seen", Map.of("address", "10.30.9.2"));
        player.play(ticket, approved ? script : script.declines("approve", "Not on a day of the regatta"));
    }

    /** New software on a pier's gateway; where too few of its devices come back, it is put back. */
    private void gateway(String site, int count, String older, String version, int back) {
        TicketId ticket = stage.raise(
                TicketKind.CHANGE,
                "greta",
                Map.of(
                        "title",
                        "Software " + version + " for the gateway at " + site,
                        "ci",
                        site + "-GW1",
                        "impact",
                        3L,
                        "urgency",
                        3L));
        Map<String, Object> inputs = new HashMap<>(Map.of(
                "version",
                version,
                "older",
                older,
                "atLeast",
                90L,
                "begins",
                stage.now().toString(),
                "pier",
                "runa"));
        inputs.put("reason", "The supplier mended what made boards stand still.");
        inputs.put("tellDesk", true);
        stage.start("ines", ticket, "gateway-software-upgrade", inputs);
        DemoScript script = new DemoScript()
                .finds("before", devices(site, count, count, older))
                .finds("install", Map.of("version", version))
                .finds("answers", devices(site, count, back, version))
                .finds("software", devices(site, count, back, version))
                .finds("after", devices(site, count, back, version));
        player.play(ticket, back == count ? script : script.reviews("answers", ReviewVerdict.PUT_BACK));
    }

    private static Map<String, Object> devices(String site, int count, int answering, String version) {
        List<Map<String, Object>> devices = new ArrayList<>();
        for (int i = 1; i <= count; i++) {
            devices.add(Map.of("device", "%s-%02d".formatted(site, i), "answers", i <= answering, "firmware", "4.11"));
        }
        return Map.of("devices", devices, "count", (long) count, "answering", (long) answering, "version", version);
    }

    private TicketId change(String title, String requester) {
        return stage.raise(TicketKind.CHANGE, requester, Map.of("title", title, "impact", 3L, "urgency", 2L));
    }
}
