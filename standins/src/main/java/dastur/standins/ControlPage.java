package dastur.standins;

import io.javalin.config.JavalinConfig;
import io.javalin.http.Context;
import java.time.Duration;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Consumer;

/** Plain pages for people: read the mail, see lanes and kiosks, make things go wrong, let time pass. */
final class ControlPage {
    static final String STYLE = """
            body{font:15px/1.5 system-ui,sans-serif;max-width:52rem;margin:2rem auto;padding:0 1rem;background:#f5f2ea;color:#1d2522}
            h1{font-size:1.4rem}h2{font-size:1.05rem;margin-top:2rem;border-bottom:1px solid #ddd8cc}a{color:inherit}
            button{font:inherit;padding:.3rem .7rem;margin:.15rem .3rem .15rem 0;border:1px solid #1f4d42;border-radius:6px;background:#fdfcf9;cursor:pointer}
            button.on{background:#1f4d42;color:#fff}form{display:inline}pre{white-space:pre-wrap;background:#fdfcf9;padding:.8rem;border:1px solid #ddd8cc;border-radius:6px;font:inherit}
            article{margin:1rem 0}small{color:#5d6862}""";

    private static final String BOARD = "ALD-07";
    private static final String GATEWAY = "ALD-GW1";
    private static final String PIER = "GNQ";
    private static final int BOARDS_THERE = 12;
    private static final String GATE = "GNQ-G2";
    private static final String MACHINE = "book-web-1";

    private final LaneController lanes;
    private final KioskManager kiosks;
    private final PartsStore parts;
    private final SalesLedger ledger;
    private final MachineHost machines;
    private final GateController gates;
    private final PartnerDesk partner;
    private final Mailbox mailbox;
    private final PierDevices devices;
    private final BookingShop shop;
    private final CompanyDirectory directory;
    private final BoardMonitor monitor;
    private final GateLog gateLog;
    private final CopyVault copies;
    private final SiteMonitor site;
    private final HarbourOffice office;
    private final NameServer names;
    private final Faults faults;
    private final Consumer<Duration> advance;
    private volatile boolean gatewayFails;

    ControlPage(Standins all, Consumer<Duration> advance) {
        this.lanes = all.lanes();
        this.kiosks = all.kiosks();
        this.parts = all.parts();
        this.ledger = all.ledger();
        this.machines = all.machines();
        this.gates = all.gates();
        this.partner = all.partner();
        this.mailbox = all.mailbox();
        this.devices = all.devices();
        this.shop = all.shop();
        this.directory = all.directory();
        this.monitor = all.monitor();
        this.gateLog = all.gateLog();
        this.copies = all.copies();
        this.site = all.site();
        this.office = all.office();
        this.names = all.names();
        this.faults = all.faults();
        this.advance = advance;
    }

    void routes(JavalinConfig config) {
        config.routes.get("/", this::control);
        config.routes.get("/mailbox", this::mails);
        config.routes.post("/mailbox", ctx -> {
            String text = ctx.formParam("text");
            if (text != null && !text.isBlank()) {
                mailbox.answer(
                        String.valueOf(ctx.formParam("from")),
                        String.valueOf(ctx.formParam("id")),
                        String.valueOf(ctx.formParam("subject")),
                        text);
            }
            ctx.redirect("/mailbox");
        });
        config.routes.get("/mailbox.json", ctx -> ctx.json(mailbox.mails()));
        config.routes.post("/fault", ctx -> {
            faults.set(ctx.formParam("system"), Faults.Fault.valueOf(ctx.formParam("fault")));
            ctx.redirect("/");
        });
        config.routes.post("/power", ctx -> {
            String gate = String.valueOf(ctx.formParam("gate"));
            gates.power(gate, gates.dark().contains(gate));
            ctx.redirect("/");
        });
        config.routes.post("/gate-log", ctx -> {
            gateLog.turn(GATE);
            ctx.redirect("/");
        });
        config.routes.post("/side-effect", ctx -> {
            gates.sideEffect("ALD", !gates.hasSideEffect("ALD"));
            ctx.redirect("/");
        });
        config.routes.post("/partner", ctx -> {
            asPartner(String.valueOf(ctx.formParam("does")), String.valueOf(ctx.formParam("no")));
            ctx.redirect("/");
        });
        config.routes.post("/board", ctx -> {
            boolean frozen = devices.frozen().contains(BOARD);
            if ("all".equals(ctx.formParam("what"))) {
                devices.freezeAll(GATEWAY);
            } else if ("part".equals(ctx.formParam("what"))) {
                devices.needsPart(BOARD, !frozen);
            } else {
                devices.freeze(BOARD, !frozen);
            }
            ctx.redirect("/");
        });
        config.routes.post("/software", ctx -> {
            PierGateways.Trouble trouble = PierGateways.Trouble.valueOf(ctx.formParam("trouble"));
            boolean on = devices.gateways().willHave(GATEWAY, trouble);
            devices.gateways().trouble(GATEWAY, on ? Optional.empty() : Optional.of(trouble));
            ctx.redirect("/");
        });
        config.routes.post("/prices", ctx -> {
            shop.forgetPrices(!shop.forgetsPrices());
            ctx.redirect("/");
        });
        config.routes.post("/traces", ctx -> {
            devices.traces().fill();
            ctx.redirect("/");
        });
        config.routes.post("/night", ctx -> {
            String seconds = ctx.formParam("seconds");
            boolean told = seconds != null && seconds.matches("\\d{1,3}");
            monitor.badNight(told ? Duration.ofSeconds(Long.parseLong(seconds)) : Duration.ofMinutes(2));
            ctx.redirect("/");
        });
        config.routes.post("/gateway", ctx -> {
            gatewayFails = !gatewayFails;
            monitor.gateway(PIER, BOARDS_THERE, gatewayFails);
            ctx.redirect("/");
        });
        config.routes.post("/machines", ctx -> {
            if ("stop".equals(ctx.formParam("does"))) {
                machines.stop(MACHINE);
            } else {
                machines.stayDown(!machines.staysDown());
            }
            ctx.redirect("/");
        });
        config.routes.post("/copies", ctx -> {
            copies.failsOrNot();
            ctx.redirect("/");
        });
        config.routes.post("/paper", ctx -> {
            kiosks.useUpPaper(kiosks.isUsedUp() ? Set.of() : KioskManager.HUNGRY);
            ctx.redirect("/");
        });
        config.routes.post("/silent", ctx -> {
            kiosks.fallSilent(!kiosks.isSilent());
            ctx.redirect("/");
        });
        config.routes.post("/slow", ctx -> {
            site.slow("/book", Double.parseDouble(String.valueOf(ctx.formParam("seconds"))), "book-web-2");
            ctx.redirect("/");
        });
        config.routes.post("/kiosk-on", ctx -> {
            kiosks.switchOn();
            ctx.redirect("/");
        });
        config.routes.post("/mail", ctx -> {
            if (mailbox.running()) {
                mailbox.stop();
            } else {
                mailbox.start();
            }
            ctx.redirect("/");
        });
        config.routes.post("/pass", ctx -> {
            advance.accept(Duration.ofMinutes(
                    Math.clamp(Long.parseLong(String.valueOf(ctx.formParam("minutes"))), 1, 10_080)));
            ctx.redirect("/");
        });
    }

    private void control(Context ctx) {
        StringBuilder page = new StringBuilder(
                "<h1>Control page of the stand-ins</h1>"
                        + "<p>Kestrel Sound's outside systems, simulated on this machine. <a href='/mailbox'>Read the mail</a>, <a href='/chat'>read and answer chat</a>.</p>");
        page.append(
                "<h2>Let time pass</h2><p>Moves the demo's clock ahead, so that due times and ladders can be seen at work.</p>");
        for (Map.Entry<String, Integer> jump : java.util.List.of(
                Map.entry("5 minutes", 5),
                Map.entry("15 minutes", 15),
                Map.entry("1 hour", 60),
                Map.entry("8 hours", 480))) {
            page.append(button("/pass", Map.of("minutes", jump.getValue().toString()), jump.getKey(), false));
        }
        faultButtons(page, "lanes", "Lane controller");
        page.append(list("Closed lanes", lanes.closedLanes()));
        faultButtons(page, "kiosks", "Kiosk manager");
        page.append(list("Kiosks", kiosks.enrolled()))
                .append(button("/kiosk-on", Map.of(), "Switch kiosk-09 on", false))
                .append(button(
                        "/silent",
                        Map.of(),
                        kiosks.isSilent() ? "Let kiosk-05 be heard again" : "Let kiosk-05 fall silent",
                        kiosks.isSilent()))
                .append(button(
                        "/paper",
                        Map.of(),
                        kiosks.isUsedUp() ? "Fill in paper" : "Use up the paper of kiosk-02 and kiosk-08",
                        kiosks.isUsedUp()));
        faultButtons(page, "parts", "Parts store");
        page.append(list("Ordered parts", parts.ordered()));
        faultButtons(page, "ledger", "Sales ledger");
        page.append("<p><small>" + ledger.voided() + " sales are void.</small></p>");
        faultButtons(page, "chat", "Chat server");
        faultButtons(page, "time", "Time office: stamps of how far the log reaches");
        faultButtons(page, "gates", "Gates: certificates and fares");
        page.append(list("Sites", gates.sites()));
        page.append(button(
                        "/power",
                        Map.of("gate", "ALD-G5"),
                        gates.dark().contains("ALD-G5") ? "Give ALD-G5 power again" : "Cut the power of ALD-G5",
                        gates.dark().contains("ALD-G5")))
                .append(button(
                        "/gate-log",
                        Map.of(),
                        gateLog.isStuck(GATE)
                                ? GATE + " writes that it is well"
                                : GATE + " writes to its log (syslog) that it stands open",
                        gateLog.isStuck(GATE)))
                .append(button(
                        "/copies",
                        Map.of(),
                        copies.failed()
                                ? "The copy of GNQ-GW1 is made after all"
                                : "The nightly copy of GNQ-GW1 fails (by mail)",
                        copies.failed()))
                .append(button(
                        "/side-effect",
                        Map.of(),
                        "New fare rules at ALD change the child fare too",
                        gates.hasSideEffect("ALD")));
        faultButtons(page, "partner", "The supplier's ticket desk");
        page.append(partnerButton("less", "", "Take new ones less seriously", partner.takesLessSeriously()))
                .append(partnerButton("hold", "", "Hold to their grades", partner.holdsToGrade()))
                .append(partnerButton("own", "", "Raise a fault of their own", false))
                .append(partnerButton("machine", "", "Ask for a machine", false));
        partner.faults().forEach(f -> {
            page.append("<p>")
                    .append(escape(f.no() + ", grade " + f.grade() + ", " + f.stage() + ": " + f.head()))
                    .append(" ");
            if (!f.stage().equals("right") && !f.stage().equals("shut")) {
                page.append(partnerButton("look", f.no(), "Look at it", false))
                        .append(partnerButton("say", f.no(), "Say something", false))
                        .append(partnerButton("worse", f.no(), "Take it more seriously", false))
                        .append(partnerButton("right", f.no(), "Put it right", false))
                        .append(partnerButton("drop", f.no(), "Lose it", false));
            }
            page.append("</p>");
            f.words().forEach(w -> page.append("<p>")
                    .append(escape(w.who() + ": " + w.said()))
                    .append("</p>"));
        });
        faultButtons(page, "devices", "Departure boards, over SSH");
        boolean frozen = devices.frozen().contains(BOARD);
        page.append(button(
                "/board",
                Map.of("what", "freeze"),
                frozen ? "Let " + BOARD + " move again" : "Freeze " + BOARD,
                frozen));
        if (!frozen) {
            page.append(button("/board", Map.of("what", "part"), "Freeze " + BOARD + " for want of a part", false));
        }
        page.append(
                button("/board", Map.of("what", "all"), "Freeze all boards of Alder Pier at the same moment", false));
        page.append(button(
                "/night", Map.of("seconds", "120"), "A bad night: 5,000 signals of 40 matters in two minutes", false));
        page.append(button(
                "/gateway",
                Map.of(),
                gatewayFails
                        ? "Let the gateway of " + PIER + " come up again"
                        : "The gateway of " + PIER + " falls over, and its " + BOARDS_THERE + " boards with it",
                gatewayFails));
        page.append(list("Gateways", devices.gateways().all()));
        softwareButton(page, PierGateways.Trouble.UNTIL_STARTED, "it is started once more");
        softwareButton(page, PierGateways.Trouble.UNTIL_PUT_BACK, "the old one is put back");
        page.append("<h2>Trace files of the rostering server, over SFTP</h2>")
                .append("<p>")
                .append(escape(String.join(", ", devices.traces().names())))
                .append("</p>")
                .append(button("/traces", Map.of(), "Let its disk fill up again", false));
        page.append("<h2>The booking site's own monitoring</h2>")
                .append(button("/slow", Map.of("seconds", "6.5"), "It answers in 6.5 seconds", false))
                .append(button("/slow", Map.of("seconds", "14"), "It answers in 14 seconds", false))
                .append(list("What it was answered", site.answers()));
        boolean closed = faults.of("shop") == Faults.Fault.DOWN;
        page.append("<h2>The booking site's shop: <a href='/shop'>its pages</a></h2>")
                .append(button(
                        "/prices",
                        Map.of(),
                        shop.forgetsPrices() ? "Its receipts say the price again" : "Its receipts forget the price",
                        shop.forgetsPrices()))
                .append(button(
                        "/fault",
                        Map.of("system", "shop", "fault", closed ? "NONE" : "DOWN"),
                        closed ? "Open it again" : "Close it for a moment",
                        closed))
                .append(list("Trial tickets", trials()));
        faultButtons(page, "office", "Harbour office: is told what goes on");
        page.append(list("The last it was told", office.heard()));
        faultButtons(page, "machines", "Machine host in the Mooring Data Room: only the relay there reaches it");
        page.append(list("Machines", machines.launched()))
                .append("<p>")
                .append(escape(
                        machines.stopped().isEmpty()
                                ? "None has stopped."
                                : "Stopped: " + String.join(", ", machines.stopped())))
                .append("</p>")
                .append(button("/machines", Map.of("does", "stop"), "Stop " + MACHINE, false))
                .append(button("/machines", Map.of("does", "stay"), "They do not come up again", machines.staysDown()));
        faultButtons(page, "directory", "Company directory, over LDAP");
        page.append(list("Who may see the roster", directory.groups()));
        faultButtons(page, "dns", "Name server");
        page.append(list("Names", names.names()));
        page.append("<h2>Mail server</h2>")
                .append(button(
                        "/mail", Map.of(), mailbox.running() ? "Take it down" : "Start it again", !mailbox.running()));
        html(ctx, "Stand-ins", page);
    }

    private void softwareButton(StringBuilder page, PierGateways.Trouble trouble, String until) {
        page.append(button(
                "/software",
                Map.of("trouble", trouble.name()),
                "After new software on " + GATEWAY + " some boards stay away until " + until,
                devices.gateways().willHave(GATEWAY, trouble)));
    }

    private void faultButtons(StringBuilder page, String system, String name) {
        page.append("<h2>").append(name).append("</h2>");
        for (Faults.Fault fault : Faults.Fault.values()) {
            page.append(button(
                    "/fault",
                    Map.of("system", system, "fault", fault.name()),
                    fault.words,
                    faults.of(system) == fault));
        }
    }

    private Map<String, String> trials() {
        Map<String, String> trials = new TreeMap<>();
        shop.sold().forEach((number, t) -> trials.put(number, t.sailing() + ", " + t.fare() + " " + t.price()));
        return trials;
    }

    private static String list(String title, Map<String, String> values) {
        if (values.isEmpty()) {
            return "<p><small>" + title + ": none yet.</small></p>";
        }
        StringBuilder list = new StringBuilder("<p>" + title + ":</p><ul>");
        values.forEach((k, v) -> list.append("<li>")
                .append(escape(k))
                .append(" — ")
                .append(escape(v))
                .append("</li>"));
        return list.append("</ul>").toString();
    }

    private static String button(String action, Map<String, String> values, String label, boolean on) {
        StringBuilder form = new StringBuilder("<form method='post' action='" + action + "'>");
        values.forEach((k, v) -> form.append("<input type='hidden' name='")
                .append(k)
                .append("' value='")
                .append(v)
                .append("'>"));
        return form.append("<button")
                .append(on ? " class='on' aria-pressed='true'" : "")
                .append(">")
                .append(label)
                .append("</button></form>")
                .toString();
    }

    private void mails(Context ctx) {
        StringBuilder page = new StringBuilder("<h1>Mailbox</h1><p><a href='/'>Control page</a></p>");
        if (mailbox.mails().isEmpty()) {
            page.append("<p>No mail has come in yet.</p>");
        }
        mailbox.mails().forEach(m -> page.append("<article><h2>")
                .append(escape(m.subject()))
                .append("</h2><small>to ")
                .append(escape(m.to()))
                .append(" · ")
                .append(escape(m.date()))
                .append("</small><pre>")
                .append(escape(m.text()).replaceAll("(https?://[\\w./:-]+)", "<a href='$1'>$1</a>"))
                .append("</pre><form method='post' action='/mailbox'><input type='hidden' name='from' value='")
                .append(escape(m.to()))
                .append("'><input type='hidden' name='id' value='")
                .append(escape(String.valueOf(m.id())))
                .append("'><input type='hidden' name='subject' value='")
                .append(escape(m.subject()))
                .append("'><label>Answer as ")
                .append(escape(m.to()))
                .append(" <input name='text'></label> <button>Send</button></form></article>"));
        html(ctx, "Mailbox", page);
    }

    static void html(Context ctx, String title, StringBuilder body) {
        ctx.header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'");
        ctx.html(
                "<!doctype html><html lang='en'><meta charset='utf-8'><meta name='viewport' content='width=device-width'><title>"
                        + title + "</title><style>" + STYLE + "</style><main>" + body + "</main></html>");
    }

    static String escape(String text) {
        return text.replace("&", "&amp;")
                .replace("<", "&lt;")
                .replace(">", "&gt;")
                .replace("\"", "&quot;")
                .replace("'", "&#39;");
    }

    private static String partnerButton(String does, String no, String words, boolean on) {
        return button("/partner", Map.of("does", does, "no", no), words, on);
    }

    /** Does what the supplier's people do. */
    private void asPartner(String does, String no) {
        switch (does) {
            case "less" -> partner.takeLessSeriously(!partner.takesLessSeriously());
            case "hold" -> partner.holdToGrade(!partner.holdsToGrade());
            case "own" -> partner.raiseOwn("Lane software loses its settings", "Seen at two customers.", "C", "", "");
            case "machine" ->
                partner.raiseOwn(
                        "A machine to try the new lane software on", "For two weeks.", "D", "machine", "small");
            case "look" -> partner.reach(no, "looking");
            case "say" -> partner.say(no, "Tove at the supplier", "Which firmware is on it?", "");
            case "worse" -> partner.grade(no, "A");
            case "right" -> partner.solve(no, "A worn part was replaced.");
            case "drop" -> partner.drop(no);
            default -> throw new IllegalArgumentException("the partner does no '" + does + "'");
        }
    }
}
