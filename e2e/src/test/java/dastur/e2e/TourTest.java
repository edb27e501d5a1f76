package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Download;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.core.record.Export;
import java.io.IOException;
import java.io.StringReader;
import java.nio.file.Files;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.IntStream;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A visitor's tour: from a designed workflow to a sealed record, by several people at once. */
class TourTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    @Test
    void fromADesignedWorkflowToASealedRecord() throws IOException {
        Page ines = stage.as("Ines Okafor-Lind");
        switchOffTheShippedTrigger(ines);
        design(ines);
        Page runa = stage.as("Runa Feld");
        Page teo = stage.as("Teo Marchetti");
        Page ada = stage.as("Ada Brandvold");
        String number = raise(ada);
        assertThat(ada.getByText(Pattern.compile("Looked at \\d+ triggers: 1 started a workflow")))
                .isVisible();

        // Nobody reloads: the task appears on the technicians' desk by itself.
        Locator task = runa.locator("li button").filter(new Locator.FilterOptions().setHasText(number));
        task.click();
        runa.getByRole(AriaRole.BUTTON, button("claim")).click();
        assertThat(runa.getByText("claimed by Runa Feld")).isVisible();
        runa.getByRole(AriaRole.BUTTON, button("Close the lane")).click();
        Browser.goOn(runa);
        assertThat(runa.locator("li button").filter(new Locator.FilterOptions().setHasText(number)))
                .hasCount(0);

        teo.locator("li button")
                .filter(new Locator.FilterOptions().setHasText(number))
                .click();
        teo.getByRole(AriaRole.BUTTON, button("Approve and close the lane at ALD-G2"))
                .click();

        // The machine acts at once, its result comes back, the ticket is handed on, told and closed.
        assertThat(ada.getByText("The run ended: lane closed")).isVisible();
        assertThat(ada.locator("header")).containsText("closed");
        assertThat(ada.locator("header")).containsText("Suppliers liaison");
        String lock = stage.app.standins().lanes().closedLanes().get("ALD-G2");
        assertThat(ada.locator("aside")).containsText(lock);
        assertThat(ada.getByText("Mail delivered to Mira Solheim").first()).isVisible();
        assertThat(stage.app.standins().mailbox().mails())
                .anySatisfy(m -> assertThat(m.to() + m.text()).contains("mira@kestrel.example", "Lock " + lock));
        ada.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Gate 2 at Alder Pier"))
                .click();
        assertThat(ada.getByText("closed, " + lock).first()).isVisible();

        sealIsProvedAndTamperingIsFound(ada, number);
        triggerCounts(ines);
    }

    private static void switchOffTheShippedTrigger(Page ines) {
        ines.navigate(stage.address() + "/workflows/gate-lane-stuck-open");
        ines.getByRole(AriaRole.BUTTON, button("when an incident is raised"))
                .first()
                .click();
        ines.getByLabel("on", new Page.GetByLabelOptions().setExact(true))
                .first()
                .uncheck();
        ines.getByRole(AriaRole.BUTTON, button("Save")).click();
        assertThat(ines.getByRole(AriaRole.DIALOG)).hasCount(0);
    }

    /** Designs on the route, mostly from the keyboard. */
    private static void design(Page page) {
        page.navigate(stage.address() + "/workflows");
        page.getByRole(AriaRole.BUTTON, button("New workflow")).click();
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Gate arm will not close");
        page.getByRole(AriaRole.BUTTON, button("Make it")).click();

        page.getByRole(AriaRole.BUTTON, button("Add the first step")).click();
        add(page, "ask Look at the gate");
        Pick.byWords(page.getByLabel("Who", exact()), "Pier technicians");
        page.getByLabel("Until").fill("30 min");
        page.getByLabel("Until").press("Tab");
        makeLadder(page);
        page.getByLabel("Outcome 1").fill("Close the lane");
        page.getByRole(AriaRole.BUTTON, button("Add an outcome")).click();
        page.getByLabel("Outcome 2", exact()).fill("Cleared on the spot");
        Pick.choose(page.getByLabel("Cleared on the spot leads to"), "+end");

        onRoute(page, "lookAtThe").press("Enter");
        add(page, "approve Close the lane?");
        Pick.byWords(page.getByLabel("Who decides"), "Duty managers");
        page.getByLabel("A yes sets off").fill("close the lane at {{ ci.id }}");
        Pick.choose(page.getByLabel("declined leads to"), "+end");

        onRoute(page, "closeTheLane").press("Enter");
        add(page, "run Close it");
        Pick.choose(page.getByLabel("Action"), "lane.close");
        Pick.choose(page.getByLabel("Gate (needed)"), "expression");
        page.getByLabel("Gate: value", exact()).fill("ticket.cii");
        assertThat(page.getByText("There is no field 'cii'.").first()).isVisible();
        Pick.choose(page.getByLabel("Gate (needed)"), "known");
        Pick.choose(page.getByLabel("Gate: which", exact()), "ticket.ci");

        onRoute(page, "closeIt").press("Enter");
        add(page, "set Note the lock and close");
        // Field, where its value comes from, the value: nobody types a quote.
        List<String[]> values = List.of(
                new String[] {"ticket.lockNumber", "known", "steps.closeIt.lock"},
                new String[] {"ci.lane", "words", "closed, {{ steps.closeIt.lock }}"},
                new String[] {"ticket.group", "choice", "suppliers-liaison"},
                new String[] {"ticket.cause", "here", "Gate arm stuck"},
                new String[] {"ticket.done", "here", "Lane closed"},
                new String[] {"ticket.answer", "here", "Please use the next gate."},
                new String[] {"ticket.state", "choice", "closed"});
        for (int i = 0; i < values.size(); i++) {
            if (i > 0) {
                page.getByRole(AriaRole.BUTTON, button("Set one more")).click();
            }
            Pick.choose(page.getByLabel("Set", exact()).nth(i), values.get(i)[0]);
            String value = values.get(i)[2];
            switch (values.get(i)[1]) {
                case "known" -> {
                    Pick.choose(page.getByLabel("to", exact()).nth(i), "known");
                    Pick.choose(page.getByLabel("Which", exact()), value);
                }
                case "words" -> {
                    Pick.choose(page.getByLabel("to", exact()).nth(i), "words");
                    page.getByLabel("Text", exact()).fill(value);
                }
                case "choice" -> Pick.choose(page.getByLabel("Value", exact()).last(), value);
                default -> page.getByLabel("Value", exact()).last().fill(value);
            }
        }
        onRoute(page, "noteTheLock").press("Enter");
        add(page, "tell Tell the requester");
        page.getByLabel("Text", exact()).fill("The lane is closed. Lock {{ ticket.lockNumber }}.");

        // It cannot be published while something is missing, and says what.
        page.getByRole(AriaRole.BUTTON, button("Publish…")).click();
        assertThat(page.getByRole(AriaRole.DIALOG)).containsText("has no way on from 'sent'");
        assertThat(page.getByRole(AriaRole.BUTTON, button("Publish").setExact(true)))
                .isDisabled();
        page.keyboard().press("Escape");

        onRoute(page, "tellTheRequester").press("Enter");
        add(page, "end Lane closed");
        onRoute(page, "closeIt").click();
        Pick.byWords(page.getByLabel("already closed leads to"), "Note the lock and close");

        // A step deleted by mistake comes back.
        onRoute(page, "noteTheLock").press("Delete");
        assertThat(page.locator("[data-step=noteTheLock]")).hasCount(0);
        page.keyboard().press("Control+z");
        assertThat(page.locator("[data-step=noteTheLock]")).isVisible();

        page.getByRole(AriaRole.BUTTON, button("by nothing yet")).click();
        page.getByRole(AriaRole.BUTTON, button("Add a trigger")).click();
        Pick.byWords(page.getByLabel("For the service"), "Ticket gates");
        page.getByText("as an expression").last().click();
        page.getByLabel("If", exact()).fill("ci.kind == 'gate' && ticket.impact == 1");
        page.getByRole(AriaRole.BUTTON, button("Save")).click();
        assertThat(page.getByRole(AriaRole.DIALOG)).hasCount(0);

        assertThat(page.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();
        page.getByRole(AriaRole.BUTTON, button("Publish…")).click();
        page.getByRole(AriaRole.BUTTON, button("Publish").setExact(true)).click();
        assertThat(page.getByText("version 1 is live")).isVisible();
    }

    private static void makeLadder(Page page) {
        Pick.choose(page.getByLabel("If nobody acts"), "+");
        Locator dialog = page.getByRole(AriaRole.DIALOG);
        dialog.getByLabel("Name", new Locator.GetByLabelOptions().setExact(true))
                .fill("Two rungs");
        dialog.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Add a rung"))
                .click();
        Pick.byWords(dialog.getByLabel("whom"), "Duty managers");
        dialog.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Make it"))
                .click();
        assertThat(page.getByText("15 min: reminds those who are asked · 30 min: tells Duty managers"))
                .isVisible();
    }

    private static String raise(Page ada) {
        Browser.go(ada, "Tickets");
        ada.getByRole(AriaRole.BUTTON, button("Raise a ticket")).click();
        ada.getByLabel("What is the matter, in one line").fill("Gate 2 at Alder Pier stands open, for Mira");
        ada.getByRole(AriaRole.BUTTON, button("Gate 2 at Alder Pier")).click();
        ada.getByRole(AriaRole.BUTTON, button("for Mira Solheim")).click();
        assertThat(ada.getByLabel("Service")).hasAttribute("data-value", "ticket-gates");
        Pick.choose(ada.getByLabel("Impact"), "1");
        Pick.choose(ada.getByLabel("Urgency"), "2");
        assertThat(ada.getByRole(AriaRole.DIALOG)).containsText("Priority P1");
        ada.getByRole(AriaRole.BUTTON, button("Raise it")).click();
        ada.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        return ada.url().substring(ada.url().lastIndexOf('/') + 1);
    }

    private static void sealIsProvedAndTamperingIsFound(Page page, String number) throws IOException {
        page.navigate(stage.address() + "/tickets/" + number);
        assertThat(page.getByText(Pattern.compile("sealed, (\\d+) of \\1 ✓"))).isVisible();
        page.getByRole(AriaRole.BUTTON, button("Automation")).click();
        assertThat(page.getByText("raised the ticket")).hasCount(0);
        Download download = page.waitForDownload(
                () -> page.getByRole(AriaRole.BUTTON, button("export")).click());
        List<String> lines = Files.readAllLines(download.path());
        assertThat(check(lines).proved()).isTrue();

        List<String> altered = new ArrayList<>(lines);
        int claimed = IntStream.range(0, lines.size())
                .filter(i -> lines.get(i).contains("taskClaimed"))
                .findFirst()
                .orElseThrow();
        altered.set(claimed, altered.get(claimed).replaceFirst("runa", "rune"));
        assertThat(check(altered).problems().getFirst().line()).isEqualTo(claimed + 1);
        List<String> cut = new ArrayList<>(lines);
        cut.remove(lines.size() - 2);
        assertThat(check(cut).problems().getFirst().message()).contains("missing at the end");
        List<String> swapped = new ArrayList<>(lines);
        Collections.swap(swapped, 2, 3);
        assertThat(check(swapped).problems().getFirst().line()).isEqualTo(3);
    }

    private static Export.Report check(List<String> lines) throws IOException {
        return Export.check(new StringReader(String.join("\n", lines)), null);
    }

    private static void triggerCounts(Page ines) {
        ines.navigate(stage.address() + "/workflows/gate-arm-will-not-close");
        assertThat(ines.getByText("fired once")).isVisible();
        ines.getByRole(AriaRole.BUTTON, button("when an incident is raised")).click();
        assertThat(ines.getByRole(AriaRole.DIALOG)).containsText("fired once");
    }

    @Test
    void aTicketThatStartedNothingSaysWhyNot() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        ada.keyboard().press("n");
        ada.getByLabel("What is the matter, in one line").fill("Kiosk wish");
        Pick.choose(ada.getByLabel("Kind").last(), "change");
        ada.getByLabel("CI").fill("kiosk-01");
        ada.getByRole(AriaRole.BUTTON, button("Raise it")).click();
        assertThat(ada.getByText("none started a workflow")).isVisible();
        assertThat(ada.getByText("did not start: its condition does not hold")).isVisible();
        assertThat(ada.getByText("the CI’s kind was kiosk")).isVisible();
        assertThat(ada.getByText("the CI’s life was in use")).isVisible();
    }

    /** What must not stay is taken away by an administrator alone, with a reason, and the seal still holds (D22). */
    @Test
    void onlyAnAdministratorRedactsAnEntry() {
        String secret = "Card number 4000 1234 5678, typed by mistake";
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        ada.keyboard().press("n");
        ada.getByLabel("What is the matter, in one line").fill("Printer at the desk is out of ink");
        ada.getByRole(AriaRole.BUTTON, button("Raise it")).click();
        ada.getByRole(AriaRole.BUTTON, button("Add a note")).click();
        ada.getByLabel("Note", exact()).fill(secret);
        ada.getByRole(AriaRole.BUTTON, button("Add it to the record")).click();
        assertThat(ada.getByText(secret)).isVisible();
        assertThat(ada.getByRole(AriaRole.BUTTON, button("redact entry"))).hasCount(0);

        Page halvard = stage.as("Halvard Quist");
        halvard.navigate(ada.url());
        Locator entry =
                halvard.locator("section[aria-label=Record] li").filter(new Locator.FilterOptions().setHasText(secret));
        entry.hover();
        entry.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("redact entry"))
                .click();
        halvard.getByLabel("Why").fill("Payment data of a traveller");
        halvard.getByRole(AriaRole.BUTTON, button("Redact it for good")).click();
        assertThat(halvard.getByRole(AriaRole.DIALOG)).hasCount(0);
        assertThat(halvard.getByText("its seal still holds")).isVisible();
        assertThat(halvard.getByText("Payment data of a traveller")).isVisible();
        assertThat(halvard.getByText(secret)).hasCount(0);
        assertThat(halvard.getByText(Pattern.compile("sealed, (\\d+) of \\1 ✓")))
                .isVisible();
    }

    /** The four kinds of rungs fire in order, each on the record, while nobody acts. */
    @Test
    void aLadderClimbsWhileNobodyActs() {
        LadderCase.publish(stage);
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        ada.getByText("Board at Gannet Quay is dark").click();
        Browser.start(ada, "ladder-at-work");
        assertThat(ada.getByText("Task for Pier technicians")).isVisible();
        for (String rung : List.of(
                "reminds those who are asked",
                "hands over to Duty managers",
                "raises the priority",
                "takes “Give up”")) {
            stage.clock.pass(Duration.ofMinutes(5));
            assertThat(ada.getByText(rung).last()).isVisible();
        }
        assertThat(ada.getByText("The run ended: given up")).isVisible();
        assertThat(ada.locator("header")).containsText("P2");
        assertThat(ada.getByText(Pattern.compile("^Rung [1-4]"))).hasCount(4);
    }

    /** Enrolment takes a while; it is asked after inside the step, one folded entry, and the result reaches ticket and CI. */
    @Test
    void theSeasonalKioskIsEnrolledAndConfirmed() {
        Page teo = stage.as("Teo Marchetti");
        teo.locator("li button")
                .filter(new Locator.FilterOptions().setHasText("Open ticket kiosk 11"))
                .click();
        assertThat(teo.getByRole(AriaRole.BUTTON, button("Approve and enrol kiosk-11")))
                .isEnabled();
        Browser.press(teo, 1);
        Page runa = stage.as("Runa Feld");
        runa.locator("li button")
                .filter(new Locator.FilterOptions().setHasText("Open ticket kiosk 11"))
                .click();
        assertThat(runa.getByText(Pattern.compile("^Buy a test ticket at .*Till T-\\d+, first receipt R-")))
                .isVisible();
        runa.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("C-309"))
                .click();
        runa.getByRole(AriaRole.BUTTON, button("Automation")).click();
        assertThat(runa.getByText(Pattern.compile("asked \\d+ times"))).hasCount(1);
        assertThat(runa.getByRole(AriaRole.BUTTON, button("Up and selling"))).isEnabled();
        Browser.press(runa, 1);
        assertThat(runa.locator("header")).containsText("closed");
    }

    private static Page.GetByRoleOptions button(String name) {
        return new Page.GetByRoleOptions().setName(name);
    }

    private static Page.GetByLabelOptions exact() {
        return new Page.GetByLabelOptions().setExact(true);
    }

    private static Locator onRoute(Page page, String step) {
        Locator row = page.locator("[data-step=" + step + "]");
        row.click();
        row.focus();
        return row;
    }

    private static void add(Page page, String sentence) {
        page.getByLabel("What happens next").fill(sentence);
        page.getByLabel("What happens next").press("Enter");
        assertThat(page.getByLabel("What happens next")).hasCount(0);
    }
}
