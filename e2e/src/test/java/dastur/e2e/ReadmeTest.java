package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Download;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import dastur.core.record.Export;
import dastur.standins.Faults;
import java.io.IOException;
import java.io.StringReader;
import java.nio.file.Files;
import java.time.Duration;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;

/**
 * The README's tour, walked word by word: each sentence is said as it stands there, and then done or seen. Steps that let time pass
 * come last: others find the demo as it was.
 */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class ReadmeTest {
    private static Stage stage;
    private static Tour tour;

    @BeforeAll
    static void open() {
        stage = new Stage();
        tour = new Tour();
    }

    @AfterAll
    static void close() {
        stage.close();
        tour.over();
    }

    // --- what is done again and again

    private static Page at(String person, String place) {
        Page page = stage.throughTheDoor(person);
        page.navigate(stage.address() + place);
        page.getByRole(AriaRole.HEADING).first().waitFor();
        return page;
    }

    private static Page control(String... presses) {
        Page page = stage.newPage();
        page.navigate(stage.app.standins().address());
        for (String press : presses) {
            button(page, press).first().click();
        }
        return page;
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName(name));
    }

    private static Locator link(Page page, String name) {
        return page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName(name));
    }

    private static Locator onDesk(Page page, String ticket) {
        return page.locator("li button").filter(new Locator.FilterOptions().setHasText(ticket));
    }

    private static String number(Page page) {
        page.waitForURL(Pattern.compile(".*/tickets/[A-Z]-\\d+.*"));
        return page.url().replaceAll(".*/tickets/([A-Z]-\\d+).*", "$1");
    }

    /** Raises an incident, or a change, on a CI or none; the page is then on the ticket. */
    private static String raise(Page page, String kind, String title, String ci) {
        Browser.go(page, "Tickets");
        button(page, "Raise a ticket").click();
        if (!kind.equals("incident")) {
            Pick.choose(page.getByRole(AriaRole.DIALOG).getByLabel("Kind"), kind);
        }
        page.getByLabel("What is the matter, in one line").fill(title);
        if (!ci.isEmpty()) {
            page.getByLabel("CI", new Page.GetByLabelOptions().setExact(true)).fill(ci);
        }
        Pick.choose(page.getByLabel("For whom"), "emil");
        button(page, "Raise it").click();
        return number(page);
    }

    /** A gate that stands open and was looked at, so that somebody is asked whether its lane is closed. */
    private static String lookedAt(Page ada, Page runa, String gate) {
        String number = raise(ada, "incident", "Gate " + gate + " stands open", gate);
        onDesk(runa, number).first().click();
        Browser.press(runa, 1);
        Browser.goOn(runa);
        return number;
    }

    private static Locator letter(Page mail, String number) {
        mail.navigate(stage.app.standins().address() + "/mailbox");
        Locator letter = mail.locator("article")
                .filter(new Locator.FilterOptions().setHasText("Decide: Close the lane? (" + number + ")"))
                .filter(new Locator.FilterOptions().setHasText("to priya@"))
                .first();
        Browser.reloadUntil(mail, letter);
        return letter;
    }

    private static void sayInChat(String words, String number) {
        Page chat = stage.newPage();
        chat.navigate(stage.app.standins().address() + "/chat/@teo:kestrel.example");
        Browser.reloadUntil(
                chat,
                chat.locator("article")
                        .filter(new Locator.FilterOptions().setHasText("Close the lane? (" + number + ")")));
        chat.getByLabel("Say").first().fill(number + " " + words);
        button(chat, "Send").first().click();
    }

    // --- the steps

    @Test
    @Order(1)
    void one() {
        Tour.Step one = tour.step(1);
        one.says("Open the demo and be **Ines Okafor-Lind**, process owner.");
        Page ines = stage.as("Ines Okafor-Lind");
        one.says("One stalled run waits on her desk.");
        assertThat(region(ines, "Stalled").first().getByRole(AriaRole.LISTITEM)).hasCount(1);
        one.says("Under **Workflows** open *Gate lane stuck open*:");
        Browser.go(ines, "Workflows");
        link(ines, "Gate lane stuck open").first().click();
        Locator rows = ines.locator("[data-step]");
        rows.first().click();
        one.says("choose steps with the arrow keys;");
        Locator step = ines.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("Step"));
        ines.keyboard().press("ArrowDown");
        assertThat(step.getByLabel("Name", new Locator.GetByLabelOptions().setExact(true)))
                .hasValue("Close as cleared");
        ines.keyboard().press("ArrowUp");
        one.says("↵ adds a step,");
        int before = rows.count();
        ines.keyboard().press("Enter");
        add(ines, "set Look twice");
        assertThat(rows).hasCount(before + 1);
        one.says("⇧↵ a detour,");
        ines.locator("[data-step=close]").click();
        ines.locator("[data-step=close]").focus();
        ines.keyboard().press("Shift+Enter");
        add(ines, "set Told by a detour");
        assertThat(rows).hasCount(before + 2);
        one.says("Ctrl Z takes anything back.");
        while (rows.count() > before) {
            ines.keyboard().press("Control+z");
        }
        one.says("Let *ok* of *Close the lane* lead nowhere and see the finding at the bottom.");
        ines.locator("[data-step=close]").click();
        Pick.choose(ines.getByLabel("ok leads to"), "");
        assertThat(ines.locator("footer")).containsText("has no way on from 'ok'");
        one.says("Press the sentence behind \"Starts\" for its triggers.");
        ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("when an incident is raised"))
                .click();
        assertThat(ines.getByRole(AriaRole.DIALOG)).containsText("an incident is raised");
        ines.keyboard().press("Escape");
        ines.getByLabel("Undo").click();
        assertThat(ines.locator("footer")).containsText("No findings");
        one.over();
    }

    private static void add(Page page, String sentence) {
        page.getByLabel("What happens next").fill(sentence);
        page.getByLabel("What happens next").press("Enter");
        assertThat(page.getByLabel("What happens next")).hasCount(0);
    }

    @Test
    @Order(2)
    void twoToFive() throws IOException {
        Tour.Step two = tour.step(2);
        two.says("In another window be **Ada Brandvold**, service desk.");
        Page ada = stage.as("Ada Brandvold");
        two.says("Press `n` under **Tickets** and type *Gate 2 at Alder Pier stands open*;");
        Browser.go(ada, "Tickets");
        ada.keyboard().press("n");
        ada.getByLabel("What is the matter, in one line").fill("Gate 2 at Alder Pier stands open");
        two.says("take the proposed gate and raise it.");
        ada.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Gate 2 at Alder Pier"))
                .click();
        button(ada, "Raise it").click();
        String number = number(ada);
        two.says("The ticket says which triggers were looked at.");
        assertThat(ada.getByText(Pattern.compile("Looked at \\d+ triggers: 1 started a workflow")))
                .isVisible();
        two.over();

        Tour.Step three = tour.step(3);
        three.says("Be **Runa Feld**, technician: the task is on her desk already.");
        Page runa = stage.as("Runa Feld");
        three.says("Choose it and press `1`.");
        onDesk(runa, number).first().click();
        Browser.press(runa, 1);
        Browser.goOn(runa);
        three.over();

        Tour.Step four = tour.step(4);
        four.says(
                "Be **Teo Marchetti**, duty manager: choose *Close the lane?* and press *Approve and close the lane*.");
        Page teo = stage.as("Teo Marchetti");
        onDesk(teo, number)
                .filter(new Locator.FilterOptions().setHasText("Close the lane?"))
                .click();
        teo.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and close the lane"))
                .click();
        four.says("The lane controller, a stand-in, closes it at once;");
        four.says("lock number, mail and closing appear on Ada's screen by themselves.");
        assertThat(ada.getByText("The run ended: lane closed")).isVisible();
        assertThat(ada.locator("aside"))
                .containsText(stage.app.standins().lanes().closedLanes().get("ALD-G2"));
        assertThat(ada.getByText(Pattern.compile("Mail delivered to")).first()).isVisible();
        assertThat(ada.locator("header")).containsText("closed");
        decidedElsewhere(four, runa);
        four.over();
        provedAndKept(tour.step(5), ada, number);
    }

    private static void decidedElsewhere(Tour.Step four, Page runa) {
        Page ada = stage.as("Ada Brandvold");
        four.says("Or decide without signing in: by the link in Priya Lund's mail in the stand-in mailbox,");
        Page mail = stage.newPage();
        String linked = lookedAt(ada, runa, "GNQ-G1");
        mail.navigate(letter(mail, linked).locator("a[href*='/decide/']").getAttribute("href"));
        mail.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and close the lane"))
                .click();
        assertThat(mail.getByText("Approved. Thank you.")).isVisible();
        assertThat(ada.getByText("Priya Lund approved")).isVisible();

        four.says("by answering that mail with `yes`,");
        Locator letter = letter(mail, lookedAt(ada, runa, "GNQ-G2"));
        letter.getByLabel("Answer as priya@kestrel.example").fill("yes");
        letter.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Send"))
                .click();
        assertThat(ada.getByText("Priya Lund approved")).isVisible();

        four.says("or as Teo on the stand-in chat page by the ticket's number with `1`,");
        sayInChat("1", lookedAt(ada, runa, "GNQ-G3"));
        assertThat(ada.getByText("Teo Marchetti approved")).isVisible();
        four.says("with `2: why`, or with `? what you need to know`.");
        String asked = lookedAt(ada, runa, "GNQ-G4");
        sayInChat("? Is the next gate free", asked);
        assertThat(ada.getByText("Teo Marchetti asks before deciding").first()).isVisible();
        String declined = lookedAt(ada, runa, "NSL-G1");
        sayInChat("2: the pier is empty", declined);
        assertThat(ada.getByText("Teo Marchetti declined")).isVisible();
        assertThat(ada.getByText("the pier is empty").first()).isVisible();
    }

    private static void provedAndKept(Tour.Step five, Page ada, String number) throws IOException {
        five.says("On the ticket press **export**, then `./dastur verify I-….ndjson`.");
        ada.navigate(stage.address() + "/tickets/" + number);
        Download download = ada.waitForDownload(() -> button(ada, "export").click());
        String record = Files.readString(download.path());
        assertThat(Export.check(new StringReader(record), null).proved()).isTrue();
        five.says("Change one byte and verify again.");
        assertThat(Export.check(new StringReader(record.replaceFirst("ALD-G2", "ALD-G3")), null)
                        .proved())
                .isFalse();
        five.says("As **Halvard Quist** open **Keeping** and go through everything;");
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Keeping");
        button(halvard, "Go through everything").click();
        halvard.getByText("All as written.").waitFor();
        five.says("under **Mail and chat** press *Send a mail to me*, and find it in the stand-in mailbox.");
        Browser.go(halvard, "Mail and chat");
        button(halvard, "Send a mail to me").click();
        Page mail = stage.newPage();
        mail.navigate(stage.app.standins().address() + "/mailbox");
        Browser.reloadUntil(
                mail, mail.locator("article").filter(new Locator.FilterOptions().setHasText("to halvard@")));
        five.over();
    }

    @Test
    @Order(6)
    void six() {
        Tour.Step six = tour.step(6);
        six.says("As Ines open *New fare rules on the gates*:");
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Workflows");
        link(ines, "New fare rules on the gates").first().click();
        six.says("a stage with measurements before and after, a check that settles, and put-backs.");
        Locator route = ines.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("Route"));
        for (String seen :
                new String[] {"Change the rules", "measures with", "settles within", "puts back what was done"}) {
            assertThat(route).containsText(seen);
        }
        six.says("Press `r` to rehearse it,");
        ines.locator("[data-step]").first().click();
        ines.keyboard().press("r");
        assertThat(ines.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("Step")))
                .containsText("Rehearsal");
        six.says("`t` to have its text beside the route,");
        ines.keyboard().press("t");
        ines.getByLabel("Notation").waitFor();
        ines.keyboard().press("Escape");
        six.says("`d` for one line a step.");
        ines.navigate(stage.address() + "/workflows/new-fare-rules");
        Locator row = ines.locator("[data-step]").first();
        row.click();
        double high = row.boundingBox().height;
        ines.keyboard().press("d");
        assertThat(row.boundingBox().height).isLessThan(high);
        six.says("Be **Mira Solheim**, who asks: say of the kiosk's receipts that it is not solved,");
        Page mira = stage.as("Mira Solheim");
        Locator receipts =
                mira.getByRole(AriaRole.ARTICLE, new Page.GetByRoleOptions().setName("Kiosk 4 prints no receipts"));
        receipts.getByText("Not solved…").click();
        receipts.getByLabel("What still does not work?").fill("Half a line is missing.");
        receipts.getByText("It is not solved").click();
        six.says("and see it on the ticket as Ada;");
        Page ada = at("Ada Brandvold", "/tickets/I-1048");
        assertThat(ada.getByText("Half a line is missing.").first()).isVisible();
        six.says("there press *as it stood…* and drag.");
        button(ada, "as it stood…").click();
        Locator moment = ada.getByRole(AriaRole.SLIDER, new Page.GetByRoleOptions().setName("Moment"));
        moment.focus();
        ada.keyboard().press("Home");
        assertThat(region(ada, "As it stood")).containsText("after entry 1 of");
        six.over();
    }

    @Test
    @Order(7)
    void sevenAndEight() {
        Tour.Step seven = tour.step(7);
        seven.says("Cut the power of gate ALD-G5 on the control page,");
        control("Cut the power of ALD-G5");
        seven.says("raise an incident on a gate of Alder Pier as Ada,");
        Page ada = stage.as("Ada Brandvold");
        raise(ada, "incident", "A gate will not let anybody in", "ALD-G1");
        seven.says("and start *Gate certificates near expiry* by hand:");
        Browser.start(ada, "gate-certificates");
        seven.says("six of seven are renewed, the seventh becomes a technician's task.");
        assertThat(ada.getByText("Task for Pier technicians: Renew by hand").first())
                .isVisible();
        assertThat(ada.getByText("Not renewed by machine: ALD-G5").first()).isVisible();
        assertThat(ada.getByText("Renewed: 6 of 7").first()).isVisible();
        control("Give ALD-G5 power again");
        seven.over();

        Tour.Step eight = tour.step(8);
        eight.says("As Runa answer *Start “Gate certificates near expiry”?*: a trigger that asks first.");
        Page runa = stage.as("Runa Feld");
        runa.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Start “Gate certificates near expiry”?"))
                .first()
                .click();
        Browser.press(runa, 1);
        Browser.goOn(runa);
        eight.says("As Ines look at **Runs**, hold one on its ticket,");
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Runs");
        ines.getByRole(AriaRole.ROW, new Page.GetByRoleOptions().setName("I-1044"))
                .getByRole(AriaRole.LINK)
                .first()
                .click();
        ines.getByText("intervene…").click();
        ines.getByLabel("Why").fill("The pier is closed for the storm");
        button(ines, "Hold").click();
        eight.says("and see that Runa can answer nothing there until it is resumed.");
        runa.navigate(stage.address() + "/tickets/I-1044");
        Locator card = region(runa, "Look at the gate");
        assertThat(card.getByRole(AriaRole.BUTTON).first()).isDisabled();
        ines.getByText("intervene…").click();
        ines.getByLabel("Why").fill("The storm is over");
        button(ines, "Resume").click();
        assertThat(card.getByRole(AriaRole.BUTTON).first()).isEnabled();
        eight.over();
    }

    @Test
    @Order(23)
    void nine() {
        Tour.Step nine = tour.step(9);
        nine.says("As Ada mark an open incident of a passenger service as major:");
        Page ada = stage.as("Ada Brandvold");
        raise(ada, "incident", "All boards at North Slip are dark", "NSL-01");
        button(ada, "Mark as major").click();
        nine.says("people are called in, each as something,");
        for (String as : new String[] {"incident commander", "passenger information", "scribe"}) {
            assertThat(ada.getByText(Pattern.compile("Calls people in: .* as " + as))
                            .first())
                    .isVisible();
        }
        // Whoever does not answer within the limit is passed by; a room opens once each line has ended.
        stage.clock.pass(Duration.ofMinutes(50));
        nine.says("a room opens,");
        assertThat(ada.getByText(Pattern.compile("^The room .* is open")).first())
                .isVisible();
        nine.says("and an update is due every half hour.");
        stage.clock.pass(Duration.ofMinutes(26));
        assertThat(ada.getByText("Write the next update").first()).isVisible();
        nine.over();
    }

    @Test
    @Order(24)
    void ten() {
        Tour.Step ten = tour.step(10);
        ten.says("On the control page let 15 minutes pass while a task waits, and watch its ladder climb.");
        Page ada = stage.as("Ada Brandvold");
        raise(ada, "incident", "Gate 1 at North Slip stands open", "NSL-G1");
        ada.getByText("Task for Pier technicians").first().waitFor();
        control("15 minutes", "15 minutes");
        assertThat(ada.getByText(Pattern.compile("^Rung 1")).first()).isVisible();
        ten.says(
                "Take the lane controller down, let a lane be closed, and see it become a person's task after three tries.");
        stage.app.standins().faults().set("lanes", Faults.Fault.DOWN);
        Page runa = stage.as("Runa Feld");
        String number = lookedAt(ada, runa, "ALD-G4");
        Page teo = stage.as("Teo Marchetti");
        onDesk(teo, number).first().click();
        teo.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and close the lane"))
                .click();
        assertThat(ada.getByText("Try 1 failed").first()).isVisible();
        stage.clock.pass(Duration.ofMinutes(5));
        assertThat(ada.getByText("Try 2 failed").first()).isVisible();
        stage.clock.pass(Duration.ofMinutes(5));
        assertThat(region(ada, "Close the lane by hand").first()).isVisible();
        stage.app.standins().faults().set("lanes", Faults.Fault.NONE);
        ten.says("As Ines press *Try again* on the run that is stalled and say why: it goes on.");
        Page ines = stage.as("Ines Okafor-Lind");
        onDesk(ines, "C-311").first().click();
        button(ines, "Try again").click();
        ines.getByLabel("Why: Try again").fill("The kiosk manager is up again");
        button(ines, "Do it").click();
        assertThat(button(ines, "Do it")).hasCount(0);
        ines.navigate(stage.address() + "/tickets/C-311");
        assertThat(ines.getByText("intervened: retry").first()).isVisible();
        assertThat(ines.getByText(Pattern.compile("asked \\d+ times")).first()).isVisible();
        ten.over();
    }

    @Test
    @Order(11)
    void eleven() {
        Tour.Step eleven = tour.step(11);
        eleven.says("On the control page freeze board ALD-07: the board monitor says so, an incident opens,");
        control("Freeze ALD-07");
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Signals");
        Locator row = ada.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(Pattern.compile("Board 7 at Alder Pier stands still")))
                .first();
        row.or(ada.getByText(Pattern.compile("since you look.*: show"))).first().click();
        row.click();
        eleven.says("the board is read, restarted and looked at by machines, and the incident closes.");
        Locator pane = ada.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("The matter"));
        Page ticket = stage.as("Ada Brandvold");
        String number = pane.getByRole(
                        AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^I-\\d+$")))
                .first()
                .textContent();
        ticket.navigate(stage.address() + "/tickets/" + number);
        assertThat(ticket.getByText(Pattern.compile("^The run ended: ")).first())
                .isVisible();
        assertThat(ticket.locator("header")).containsText("closed");
        eleven.says("As Ada open **Signals** for what came and why.");
        assertThat(region(ada, "What Dastur made of it")).containsText("it begins: it was not in fault before");
        eleven.says("As Halvard open **Sources**, *Board monitor*, *What it means*:");
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Sources");
        link(halvard, "Board monitor").first().click();
        button(halvard, "What it means").click();
        eleven.says("the monitor's words on the left, what they mean on the right;");
        assertThat(region(halvard, "As Dastur understands it")).containsText("severity");
        eleven.says("*What would happen if it came now?* says so, and does nothing.");
        button(halvard, "What would happen if it came now?").click();
        assertThat(region(halvard, "What would happen")).containsText("It would be kept: ");
        eleven.says("Choose *A board stands still* and press *Open a test*:");
        Pick.byWords(halvard.getByLabel("Tried on"), "“A board stands still”");
        button(halvard, "Open a test").click();
        eleven.says("the board's log is read for real, and its restart is withheld until Halvard says so.");
        assertThat(region(halvard, "A test")).containsText("You stand for everybody who would be asked or told");
        assertThat(region(halvard, "Restart the board")).containsText("Withheld: Restart the board");
        assertThat(halvard.getByText(Pattern.compile("^board log ALD-07 → status 0"))
                        .first())
                .isVisible();
        eleven.says("On the control page let the gateway of GNQ fall over:");
        control("The gateway of GNQ falls over, and its 12 boards with it");
        eleven.says("one incident opens, and its twelve boards follow from it.");
        Page gateway = stage.as("Ada Brandvold");
        gateway.navigate(stage.address() + "/signals");
        Locator boards = gateway.getByRole(
                AriaRole.LIST, new Page.GetByRoleOptions().setName("Matters that something else explains"));
        Browser.reloadUntil(gateway, boards.getByText("Board 12 at Gannet Quay stands still"));
        assertThat(boards.getByRole(AriaRole.LISTITEM)).hasCount(12);
        eleven.says("Let it come up again.");
        control("Let the gateway of GNQ come up again");
        eleven.says("Then press *A bad night* on the control page and watch 5,000 signals become forty rows.");
        control("A bad night: 5,000 signals of 40 matters in two minutes");
        assertThat(ada.getByText(Pattern.compile("[34]\\d more matters since you look")))
                .isVisible(new com.microsoft.playwright.assertions.LocatorAssertions.IsVisibleOptions()
                        .setTimeout(120_000));
        eleven.over();
    }

    @Test
    @Order(22)
    void twelve() {
        Tour.Step twelve = tour.step(12);
        twelve.says("As Ines open **Starts**: what comes next, and what became of the last time.");
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Starts");
        Locator line = region(ines, "Schedules")
                .getByRole(AriaRole.LISTITEM)
                .filter(new Locator.FilterOptions().setHasText("Certificates of the gates at Gannet Quay"));
        assertThat(line).containsText("in ");
        twelve.says(
                "Start *Certificates of the gates at Gannet Quay* now: its routine says that there is nothing to do.");
        link(ines, "Certificates of the gates at Gannet Quay").first().click();
        ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Start now"))
                .click();
        ines.getByRole(AriaRole.DIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(Pattern.compile("^Start")))
                .click();
        assertThat(ines.getByText("The run ended: nothing to do")).isVisible();
        twelve.says("On the control page let the booking site answer slowly,");
        control("It answers in 6.5 seconds");
        twelve.says("and see the call on the hook's page and the incident that it opened.");
        ines.navigate(stage.address() + "/starts/booking-site-slow-hook");
        Locator opened = ines.locator("main")
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^I-\\d+")));
        Browser.reloadUntil(ines, opened);
        opened.first().click();
        assertThat(ines.getByText("A program called its address").first()).isVisible();
        twelve.says("Let kiosk-05 fall silent: within three minutes a watch sees it.");
        control("Let kiosk-05 fall silent");
        ines.navigate(stage.address() + "/watches/kiosks-heard");
        stage.clock.pass(Duration.ofMinutes(3));
        assertThat(ines.locator("header").first()).containsText("in fault");
        control("Let kiosk-05 be heard again");
        twelve.says("Use up the paper of two kiosks: within five minutes each has an incident.");
        control("Use up the paper of kiosk-02 and kiosk-08");
        ines.navigate(stage.address() + "/watches/kiosk-paper");
        stage.clock.pass(Duration.ofMinutes(5));
        assertThat(ines.locator("main")).containsText("Something is the matter with kiosk-02, kiosk-08.");
        ines.navigate(stage.address() + "/sources/kiosk-paper?tab=came");
        assertThat(ines.locator("main")).containsText("Nearly out of paper: kiosk-08");
        control("Fill in paper");
        twelve.says("Let the nightly copy of GNQ-GW1 fail: a mail says so, and opens one too.");
        control("The nightly copy of GNQ-GW1 fails (by mail)");
        Browser.go(ines, "Tickets");
        Browser.reloadUntil(ines, ines.getByText("has not been copied tonight"));
        twelve.over();
    }

    @Test
    @Order(13)
    void thirteen() {
        Tour.Step thirteen = tour.step(13);
        thirteen.says("As Ines open **Automation**.");
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Automation");
        thirteen.says("*Test…* beside *Sales ledger* says what its actions may do there, and does none of it.");
        button(ines, "Test… Sales ledger").click();
        assertThat(ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What was found out")))
                .containsText("Make a sale void: it may");
        button(ines, "Close").click();
        thirteen.says("Open *Close a lane*: who uses it and how its calls went.");
        link(ines, "Close a lane").first().click();
        assertThat(region(ines, "Who uses it")).containsText("Gate lane stuck open");
        thirteen.says("*Show what would be sent* sends nothing.");
        Locator tries = region(ines, "Try it");
        tries.getByLabel("Gate (needed)").click();
        ines.locator("[cmdk-input]").fill("NSL-G2");
        ines.locator("[role=option][data-choice=NSL-G2]").click();
        button(ines, "Show what would be sent").click();
        assertThat(tries).containsText("This would be sent. Nothing was.");
        thirteen.says("Say why and send it: the answer comes,");
        tries.getByLabel("Why it is tried in earnest, for the journal").fill("before the season");
        button(ines, "Send it: it changes the world").click();
        thirteen.says("and a click makes an output of its *status*;");
        button(ines, "Read /status as an output").click();
        thirteen.says("the bar above says that this is version 2, and that *Gate lane stuck open* goes on as it is.");
        assertThat(ines.locator("main")).containsText("This is version 2");
        assertThat(ines.locator("main")).containsText("Gate lane stuck open");
        thirteen.says("As Ada raise *The disk of the rostering server is full* on its CI:");
        Page ada = stage.as("Ada Brandvold");
        raise(ada, "incident", "The disk of the rostering server is full", "roster-1");
        thirteen.says("seven trace files are to go, six do, one is in use and becomes a task;");
        assertThat(ada.getByText("Removed: 6 of 7").first()).isVisible();
        assertThat(ada.getByText("Task for Crew systems").first()).isVisible();
        thirteen.says("*row by row* says which, and why.");
        button(ada, "row by row").click();
        assertThat(ada.getByRole(AriaRole.ROW).filter(new Locator.FilterOptions().setHasText("failed:")))
                .containsText("roster-sync.4.trace");
        thirteen.says("Back as Ines, *Buy a trial ticket* walks through the booking site as a passenger would,");
        thirteen.says("in steps that are sentences.");
        Browser.go(ines, "Automation");
        link(ines, "Buy a trial ticket").first().click();
        assertThat(ines.getByLabel("Step 1: in the field")).hasValue("From");
        thirteen.says("Send it for 14 December, 09:20 and 12.40 (where Chromium and chromedriver are installed):");
        tries.getByLabel("Day (needed)").fill("14 December");
        tries.getByLabel("Sailing (needed)").fill("09:20");
        tries.getByLabel("Price of an adult (needed)").fill("12.40");
        thirteen.says("five checks hold.");
        walked(ines, tries, "Checks that did not hold 0");
        thirteen.says("Let the receipts forget the price, and send it again: one does not.");
        control("Its receipts forget the price");
        walked(ines, tries, "Checks that did not hold 1");
        control("Its receipts say the price again");
        thirteen.over();
    }

    private static void walked(Page ines, Locator tries, String came) {
        tries.getByLabel("Why it is tried in earnest, for the journal").fill("before the season");
        button(ines, "Send it: it changes the world").click();
        assertThat(ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What came of it")))
                .containsText(came, new LocatorAssertions.ContainsTextOptions().setTimeout(60_000));
    }

    @Test
    @Order(14)
    void fourteen() {
        Tour.Step fourteen = tour.step(14);
        fourteen.says("As Halvard open **Automation**, *Zones and relays*:");
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Automation");
        link(halvard, "Zones and relays").click();
        fourteen.says("the relay of the Mooring Data Room, and what its own file allows.");
        assertThat(region(halvard, "Mooring Data Room")).containsText("mdr-relay-1");
        assertThat(region(halvard, "Mooring Data Room")).containsText("a minute");
        fourteen.says("As Ada raise a change and start *New machine for the crew office*;");
        Page ada = stage.as("Ada Brandvold");
        String number = raise(ada, "change", "A machine for the crew office", "");
        Browser.choose(ada, "new-machine-for-the-crew-office");
        ada.getByLabel("Name of the machine").fill("crew-9");
        Pick.choose(ada.getByLabel("Size"), "small");
        Browser.begin(ada);
        fourteen.says("as Teo approve it.");
        Page teo = stage.as("Teo Marchetti");
        onDesk(teo, number).click();
        teo.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and launch crew-9"))
                .click();
        fourteen.says("The relay, which alone reaches the machine host, launches it,");
        fourteen.says("and its address comes back on the ticket,");
        assertThat(ada.locator("main")).containsText("crew-9 is at 10.20.7.");
        fourteen.says("and on the CI that was planned for it.");
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/cis/crew-9");
        assertThat(ines.locator("main")).containsText("10.20.7.");
        assertThat(ines.locator("header")).containsText("crew-9 · machine · ordered");
        fourteen.says(
                "On the control page stop *book-web-1*, and as Ada raise *Booking web node 1 has stopped* on that CI:");
        control("Stop book-web-1");
        raise(ada, "incident", "Booking web node 1 has stopped", "book-web-1");
        fourteen.says("it is started.");
        assertThat(ada.getByText("The run ended: started")).isVisible();
        fourteen.says("Find *Software 7.3.0 for the gateway at NSL*, a change of the past:");
        Browser.find(ada, "Software 7.3.0 for the gateway at NSL");
        fourteen.says("*summary*, then *Compare measurements* says which devices did not answer.");
        link(ada, "summary").click();
        link(ada, "Compare measurements").click();
        assertThat(region(ada, "Devices")).containsText("NSL-08");
        fourteen.over();
    }

    @Test
    @Order(15)
    void fifteen() {
        Tour.Step fifteen = tour.step(15);
        fifteen.says("Let the supplier *Take new ones less seriously* on the control page.");
        control("Take new ones less seriously");
        fifteen.says("As Ada raise an incident and start *Handed to the supplier*:");
        Page ada = stage.as("Ada Brandvold");
        String number = raise(ada, "incident", "Hinge of lane 3 worn", "");
        Browser.start(ada, "handed-to-the-supplier");
        fifteen.says("it stands at the supplier's desk, and **At partners** on the ticket says as what;");
        assertThat(region(ada, "At partners")).containsText("Handed over, followed");
        fifteen.says("which impact counts is asked on Ada's Desk.");
        Page desk = stage.as("Ada Brandvold");
        Browser.go(desk, "Desk");
        onDesk(desk, number)
                .filter(new Locator.FilterOptions().setHasText("what counts"))
                .first()
                .click();
        assertThat(region(desk, "Impact: what counts?")).containsText("Lane supplier says");
        fifteen.says("On the control page say something as the supplier and put it right:");
        Page control = stage.newPage();
        control.navigate(stage.app.standins().address());
        // The newest stands first; others are there from before the desks were joined.
        button(control, "Say something").first().click();
        button(control, "Put it right").first().click();
        fifteen.says("both come back by themselves.");
        assertThat(ada.getByText("The run ended: put right by the supplier")).isVisible();
        assertThat(ada.getByText(Pattern.compile("said at Lane supplier")).first())
                .isVisible();
        control("Take new ones less seriously");
        fifteen.says("As Ines open **Partners**, *Lane supplier*: their words and ours, and what came and went.");
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Partners");
        link(ines, "Lane supplier").click();
        button(ines, "What came and went").click();
        assertThat(ines.locator("main")).containsText("taken over");
        fifteen.over();
    }
}
