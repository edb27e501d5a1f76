package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Designing with confidence: sentences, text, findings, rehearsal, documents, and the runs that come of it. */
class DesignTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Page.GetByRoleOptions button(String name) {
        return new Page.GetByRoleOptions().setName(name);
    }

    private static String shipped(String key) {
        try (InputStream in = DesignTest.class.getResourceAsStream("/demo/" + key + ".dastur")) {
            return new String(in.readAllBytes(), StandardCharsets.UTF_8);
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    private static void text(Page page, String text) {
        page.keyboard().press("t");
        Locator area = page.getByLabel("Notation");
        assertThat(area).isVisible();
        area.press("Control+a");
        page.keyboard().insertText(text);
        area.press("Control+Enter");
    }

    private static void say(Page page, String sentence) {
        page.getByLabel("What happens next").waitFor();
        page.keyboard().insertText(sentence);
        assertThat(page.getByText("Enter adds “")).isVisible();
        page.keyboard().press("Enter");
        assertThat(page.getByLabel("What happens next")).hasCount(0);
    }

    @Test
    void aWorkflowIsBuiltBrokenRehearsedAndPublishedFromTheKeyboard() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows");
        ines.getByRole(AriaRole.BUTTON, button("New workflow")).press("Enter");
        ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).waitFor();
        ines.keyboard().insertText("Certificates of the gates");
        ines.keyboard().press("Enter");
        ines.getByRole(AriaRole.BUTTON, button("Add the first step")).press("Enter");

        say(ines, "run gate.certificates \"List them\" site=ci.site");
        ines.locator("[data-step=listThem]").press("Enter");
        say(ines, "for each c in steps.listThem.certificates");
        ines.locator("[data-step=eachC]").press("i");
        say(ines, "run gate.renew \"Renew it\" gate=c.gate");
        assertThat(ines.locator("[data-step=renewIt]")).isVisible();
        ines.locator("[data-step=eachC]").press("Enter");
        say(ines, "done \"renewed\"");
        ines.locator("[data-step=renewIt]").focus();
        ines.keyboard().press("Control+z");
        assertThat(ines.locator("[data-step=renewed]")).hasCount(0);
        ines.keyboard().press("Control+Shift+z");
        assertThat(ines.locator("[data-step=renewed]")).isVisible();

        String whole = shipped("gate-certificates")
                .replace(
                        "gate-certificates \"Gate certificates near expiry\"",
                        "certificates-of-the-gates \"Certificates of the gates\"");
        text(ines, whole);
        assertThat(ines.locator("[data-step=compare]")).isVisible();
        assertThat(ines.getByText("Nothing starts this workflow")).isVisible();

        breakIt(ines, whole);
        rehearse(ines);

        assertThat(ines.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();
        ines.getByRole(AriaRole.BUTTON, button("Publish…")).click();
        ines.getByRole(AriaRole.BUTTON, button("Publish").setExact(true)).click();
        assertThat(ines.getByText("version 1 is live")).isVisible();
    }

    /** Each fault is told where it is; undo brings back what was. */
    private static void breakIt(Page page, String whole) {
        Map<String, List<String>> faults = Map.of(
                "has no way on from 'none'", List.of("  none -> nothing\n", ""),
                "There is no action", List.of("run gate.renew \"Renew", "run gate.renwe \"Renew"),
                "There is no field 'sight'", List.of("with site = ci.site", "with site = ci.sight"));
        faults.forEach((finding, change) -> {
            text(page, whole.replace(change.getFirst(), change.getLast()));
            assertThat(page.locator("footer")).containsText(finding);
            page.locator("[data-step=list]").focus();
            page.keyboard().press("Control+z");
            assertThat(page.locator("footer")).not().containsText(finding);
        });
        // A variable read before it is set, and a value of an item read outside.
        text(page, whole.replace("  set vars.due =", "  set vars.other ="));
        assertThat(page.locator("footer")).containsText("finding");
        // The way that shows the fault is drawn on the route.
        page.locator("[data-step=each]").click();
        page.getByRole(AriaRole.BUTTON, button("draw this way").setExact(true)).click();
        assertThat(page.getByRole(
                        AriaRole.BUTTON, button("draw the whole route").setExact(true)))
                .isVisible();
        page.locator("[data-step=list]").focus();
        page.keyboard().press("Control+z");
        text(page, whole.replace("{{ steps.each.succeeded }} of", "{{ steps.renew.expires }} of"));
        assertThat(page.locator("footer")).containsText("different for each item");
        page.locator("[data-step=list]").focus();
        page.keyboard().press("Control+z");
        assertThat(page.locator("footer")).not().containsText("different for each item");
        // What cannot be read is told with its line, and nothing is taken over.
        text(page, whole.replace("each: for each", "each: fro each"));
        assertThat(page.getByText(Pattern.compile("Line \\d+, column \\d+.*for each.*")))
                .isVisible();
        page.keyboard().press("Escape");
        assertThat(page.getByText("Nothing starts this workflow")).isVisible();
    }

    private static void rehearse(Page page) {
        page.locator("[data-step=list]").focus();
        page.keyboard().press("r");
        page.getByRole(AriaRole.BUTTON, button("Begin")).click();
        Locator list = page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Answer List the site's"));
        list.getByText("with values…").click();
        list.getByRole(AriaRole.TEXTBOX).fill("[{\"gate\": \"ALD-G1\", \"expires\": \"2020-01-01T00:00:00Z\"}]");
        list.getByRole(AriaRole.BUTTON).first().click();
        Locator renew =
                page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Answer Renew the certificate"));
        renew.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("ok"))
                .click();
        assertThat(page.getByText("Ends with “all renewed”")).isVisible();
        page.getByRole(AriaRole.BUTTON, button("Back one answer")).click();
        renew.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("it fails"))
                .click();
        assertThat(page.getByText("Not renewed by machine: ALD-G1")).isVisible();
        page.getByRole(AriaRole.BUTTON, button("To the end, as expected")).click();
        assertThat(page.getByText("Ends with “renewed by hand”")).isVisible();
        page.getByRole(AriaRole.BUTTON, button("Explore all ways")).click();
        assertThat(page.getByText(Pattern.compile("\\d different endings"))).isVisible();
        page.getByRole(AriaRole.BUTTON, button("Back to the step")).click();
    }

    /** A workflow that signals start is rehearsed by one that came, and by its time; what would not start says why. */
    @Test
    void aRehearsalBeginsByWhatStartsTheWorkflow() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/frozen-departure-board");
        ines.getByRole(AriaRole.BUTTON, button("Rehearse")).click();
        Pick.byWords(ines.getByLabel("It begins"), "when Board monitor reports a fault");
        Pick.byWords(ines.getByLabel("The signal that comes"), "recovered");
        ines.getByRole(AriaRole.BUTTON, button("Begin").setExact(true)).click();
        Locator recorded = ines.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("What would be recorded"));
        assertThat(ines.getByText("It does not start:")).isVisible();
        assertThat(recorded.getByRole(AriaRole.LISTITEM)).hasCount(0);
        ines.getByRole(AriaRole.BUTTON, button("Start anew")).click();
        Pick.byWords(ines.getByLabel("The signal that comes"), "fault");
        ines.getByRole(AriaRole.BUTTON, button("Begin").setExact(true)).click();
        assertThat(recorded).containsText("Board monitor says");
        ines.getByRole(AriaRole.BUTTON, button("Start anew")).click();
        Pick.byWords(ines.getByLabel("It begins"), "when an incident is raised");
        ines.getByLabel("CI").fill("ALD-07");
        ines.getByLabel("Title").fill("Board 7 is frozen");
        ines.getByRole(AriaRole.BUTTON, button("Begin").setExact(true)).click();
        assertThat(recorded).containsText("1 started a workflow");
        ines.getByRole(AriaRole.BUTTON, button("To the end, as expected")).click();
        assertThat(ines.getByText("Ends with “moves again”")).isVisible();
    }

    /** Counts what a person does: a press, a choice, a sentence typed. */
    private static final class Hands {
        private int count;

        void does(Runnable one) {
            one.run();
            count++;
        }

        /** Opened, and chosen from. */
        void chooses(Locator field, String value) {
            Pick.choose(field, value);
            count += 2;
        }
    }

    /** A task with two outcomes in the middle of a live workflow, and that version published: in at most fifteen actions. */
    @Test
    void aTaskComesIntoTheMiddleOfALiveWorkflowInFewActions() {
        Page ines = stage.as("Ines Okafor-Lind");
        Hands hands = new Hands();
        hands.does(() -> Browser.go(ines, "Workflows"));
        hands.does(() -> ines.getByRole(
                        AriaRole.LINK, new Page.GetByRoleOptions().setName("Berth drawings for a contractor"))
                .click());
        hands.does(() -> ines.locator("[data-step=hand]").click());
        hands.does(() -> ines.keyboard().press("Enter"));
        ines.getByLabel("What happens next").waitFor();
        hands.does(() -> {
            ines.keyboard()
                    .insertText(
                            "ask group pier-technicians \"Are they the newest?\" within 1 h: \"They are\", \"Older ones\"");
            assertThat(ines.getByText("Enter adds “")).isVisible();
        });
        hands.does(() -> ines.keyboard().press("Enter"));
        assertThat(ines.getByLabel("They are leads to").first()).hasAttribute("data-value", "decide");
        hands.chooses(ines.getByLabel("Older ones leads to"), "decide");
        assertThat(ines.getByText("No findings: it can be published")).isVisible();
        assertThat(ines.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();
        hands.does(() -> ines.getByRole(AriaRole.BUTTON, button("Publish…")).click());
        hands.does(() -> ines.getByRole(AriaRole.BUTTON, button("Publish").setExact(true))
                .click());
        assertThat(ines.getByText("version 2 is live")).isVisible();
        assertThat(hands.count).as("actions").isLessThanOrEqualTo(15);
        System.out.println("actions for a task with two outcomes in a live workflow: " + hands.count);
    }

    /** Four fields set by an update, each by choosing: what is typed is words for people, never code. */
    @Test
    void fourFieldsAreSetWithoutTypingCode() {
        Page ines = stage.as("Ines Okafor-Lind");
        Hands hands = new Hands();
        ines.navigate(stage.address() + "/workflows/berth-drawings");
        hands.does(() -> ines.locator("[data-step=hand]").click());
        Locator panel = ines.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("Step"));
        Map<String, String> more = Map.of("ticket.impact", "3", "ticket.urgency", "3");
        more.forEach((field, value) -> {
            hands.does(() -> panel.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Set one more"))
                    .click());
            hands.chooses(
                    panel.getByLabel("Set", new Locator.GetByLabelOptions().setExact(true))
                            .last(),
                    field);
            hands.does(() -> panel.getByLabel("Value").last().fill(value));
        });
        assertThat(ines.locator("[data-step=hand]")).containsText("Impact: 3");
        assertThat(ines.locator("[data-step=hand]")).containsText("Urgency: 3");
        assertThat(ines.getByText("No findings: it can be published")).isVisible();
        System.out.println("actions for two fields more, four in all: " + hands.count);
        ines.getByRole(AriaRole.BUTTON, button("Undo")).first().click();
    }

    // --- running what ships

    static String raise(Page ada, String kind, String title) {
        Browser.go(ada, "Tickets");
        ada.getByRole(AriaRole.BUTTON, button("Raise a ticket")).click();
        if (!kind.equals("incident")) {
            Pick.choose(ada.getByRole(AriaRole.DIALOG).getByLabel("Kind"), kind);
        }
        ada.getByLabel("What is the matter, in one line").fill(title);
        ada.getByRole(AriaRole.BUTTON, button("Gate 1 at Alder Pier")).first().click();
        ada.getByRole(AriaRole.BUTTON, button("Raise it")).click();
        ada.waitForURL(Pattern.compile(".*/tickets/[IC]-\\d+"));
        return ada.url().substring(ada.url().lastIndexOf('/') + 1);
    }

    static void startFares(Page page) {
        Browser.choose(page, "new-fare-rules");
        page.getByRole(AriaRole.DIALOG).getByLabel("Name of the rules").fill("winter-2");
        page.getByRole(AriaRole.DIALOG).getByLabel("Adult fare it must become").fill("45");
        Browser.begin(page);
    }

    @Test
    void oneGateOfSevenHasNoPowerAndTheOtherWayIsTaken() {
        stage.app.standins().gates().power("ALD-G5", false);
        Page ada = stage.as("Ada Brandvold");
        String number = raise(ada, "incident", "Certificates run out, Gate 1 at Alder Pier");
        Browser.start(ada, "gate-certificates");
        assertThat(ada.getByText("6 done, 1 failed")).isVisible();
        assertThat(ada.getByText("Number 5 has failed")).isVisible();

        Page runa = stage.as("Runa Feld");
        runa.locator("li button")
                .filter(new Locator.FilterOptions().setHasText(number))
                .filter(new Locator.FilterOptions().setHasText("Renew by hand"))
                .click();
        // The record may tell it again beside the task.
        assertThat(runa.getByText("Not renewed by machine: ALD-G5").first()).isVisible();
        assertThat(runa.getByText("Renewed: 6 of 7").first()).isVisible();
        runa.getByRole(AriaRole.BUTTON, button("Renewed by hand")).click();
        assertThat(ada.getByText("The run ended: renewed by hand")).isVisible();
        assertThat(ada.locator("header")).containsText("closed");
    }

    @Test
    void fareRulesThatHaveASideEffectArePutBackInReverseOrder() {
        var gates = stage.app.standins().gates();
        gates.sideEffect("ALD", true);
        Page ada = stage.as("Ada Brandvold");
        String number = raise(ada, "change", "Winter fares, Gate 1 at Alder Pier");
        startFares(ada);

        Page teo = stage.as("Teo Marchetti");
        Locator mine = teo.locator("li button").filter(new Locator.FilterOptions().setHasText(number));
        mine.click();
        teo.getByRole(AriaRole.BUTTON, button("Approve and put winter-2 onto the gates of ALD"))
                .click();

        // The check settles: it is judged again until its time is up, then asks a person.
        assertThat(ada.getByText("Judged once:")).isVisible();
        assertThat(gates.rulesOf("ALD")).isEqualTo("winter-2");
        stage.clock.pass(Duration.ofSeconds(30));
        assertThat(ada.getByText("Judged twice:")).isVisible();
        stage.clock.pass(Duration.ofMinutes(2));
        teo.locator("li button")
                .filter(new Locator.FilterOptions().setHasText(number))
                .filter(new Locator.FilterOptions().setHasText("Only the adult fare"))
                .click();
        assertThat(teo.getByText("turned bad").first()).isVisible();
        assertThat(teo.getByText("22.5, needs 21")).isVisible();
        teo.getByRole(AriaRole.BUTTON, button("Put back")).click();

        assertThat(ada.getByText("The run ended: put back")).isVisible();
        assertThat(ada.getByText("Put the new rules onto the gates, then Let the gates stand open meanwhile"))
                .isVisible();
        assertThat(gates.rulesOf("ALD")).isEqualTo("autumn-1");
        assertThat(gates.isFree("ALD")).isFalse();
        gates.sideEffect("ALD", false);
    }

    // --- a document

    @Test
    void aPastedProcedureOfFortyLinesBecomesAWorkflow() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows");
        ines.getByRole(AriaRole.BUTTON, button("New workflow")).click();
        ines.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Winter timetable on paper");
        ines.getByRole(AriaRole.BUTTON, button("Make it")).click();
        ines.getByRole(AriaRole.BUTTON, button("Begin with a document…")).click();
        StringBuilder list = new StringBuilder("# Switch to the winter timetable\n\n");
        for (int i = 1; i <= 40; i++) {
            list.append(i).append(". Do thing number ").append(i).append(" of the switch\n");
        }
        ines.getByLabel("Paste the list").fill(list.toString());
        ines.getByRole(AriaRole.BUTTON, button("Make tasks")).click();
        Locator rows = ines.locator("[data-step]");
        assertThat(rows).hasCount(40);
        assertThat(ines.locator("aside blockquote")).hasText("1. Do thing number 1 of the switch");

        ines.keyboard().press("Escape");
        ines.getByRole(AriaRole.BUTTON, button("one line a step")).click();
        for (int i : new int[] {4, 20}) {
            rows.nth(i).click();
            Pick.choose(ines.getByLabel("This is"), "approval");
            Pick.byWords(ines.getByLabel("Who decides"), "Duty managers");
        }
        for (int i : new int[] {9, 15, 30}) {
            rows.nth(i).click();
            Pick.choose(ines.getByLabel("This is"), "check");
            ines.getByRole(AriaRole.BUTTON, button("Add a rule")).click();
            Pick.choose(ines.getByLabel("What is judged"), "known");
            // Among all that forty steps give it is found by some letters.
            ines.getByLabel("Rule 1: which").click();
            ines.getByPlaceholder("Some letters of it").fill("impact");
            ines.locator("[role=option][data-choice='ticket.impact']").click();
            ines.getByLabel("Rule 1 against: value").fill("2");
        }
        assertThat(ines.locator("aside blockquote")).hasText("31. Do thing number 31 of the switch");
        assertThat(rows).hasCount(40);
        ines.keyboard().press("Escape");
        rows.nth(0).focus();
        ines.keyboard().press("t");
        // The text goes where the route is.
        rows.nth(30).click();
        assertThat(ines.getByLabel("Notation")).containsText("check \"Do thing number 31");
        rows.nth(4).click();
        assertThat(ines.getByLabel("Notation")).containsText("approve \"Do thing number 5");
    }
}
