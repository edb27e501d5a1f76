package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Download;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.FilePayload;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Proposals, cover, passing on and interventions between several people; files of open formats in the designer. */
class WorkTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator button(Page page, String name) {
        return page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    private static Locator onDesk(Page page, String words) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(words));
    }

    /** N30: the trigger asks first; one key starts the workflow, and the record says who did. */
    @Test
    void aProposalIsAnsweredFromTheDeskWithOneKey() {
        Page runa = stage.as("Runa Feld");
        onDesk(runa, "Start “Gate certificates near expiry”?").click();
        assertThat(runa.getByText("For Pier technicians to say")).isVisible();
        Browser.press(runa, 1);
        Browser.goOn(runa);
        assertThat(onDesk(runa, "Start “Gate certificates near expiry”?")).hasCount(0);

        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/I-1047");
        assertThat(ada.getByText("said to start Gate certificates near expiry")).isVisible();
    }

    /** I13: an action that only reads is let by its designer, and read by hand where somebody works; the record says what it said. */
    @Test
    void somethingIsReadByHandOnATicket() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/actions/board.log");
        Locator let = ines.getByRole(
                AriaRole.CHECKBOX, new Page.GetByRoleOptions().setName(Pattern.compile("^Those who work")));
        let.click();
        assertThat(let).isChecked();

        Page runa = stage.as("Runa Feld");
        runa.navigate(stage.address() + "/tickets/I-1046");
        button(runa, "Read…").click();
        Locator dialog = runa.getByRole(AriaRole.DIALOG);
        dialog.getByText("Read a board's log").click();
        dialog.getByText("See whether a board's picture moves").click();
        // The board is the ticket's own.
        button(runa, "Read “See whether a board's picture moves”").click();
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("Picture");
        button(runa, "Done").click();
        assertThat(dialog).hasCount(0);
        assertThat(runa.locator("main")).containsText("Runa Feld read: See whether a board's picture moves");
        assertThat(runa.locator("main")).containsText("Picture");
    }

    /** N42: what is asked of Teo stands on Runa's desk while he is away, and the record names both. */
    @Test
    void aCoverDecidesInTheNameOfWhoIsAway() {
        Page teo = stage.as("Teo Marchetti");
        teo.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Teo Marchetti"))
                .click();
        teo.getByText("When I am away…").click();
        Pick.choose(teo.getByLabel("Acts for me"), "runa");
        button(teo, "Set my cover").click();
        assertThat(teo.getByRole(AriaRole.DIALOG)).hasCount(0);

        Page runa = stage.as("Runa Feld");
        onDesk(runa, "Put the kiosk into use? for Teo Marchetti").click();
        assertThat(runa.getByText("You act for Teo Marchetti, who is away.")).isVisible();
        Browser.press(runa, 1);
        Browser.goOn(runa);
        assertThat(onDesk(runa, "Put the kiosk into use? for Teo Marchetti")).hasCount(0);

        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/C-309");
        assertThat(ada.getByText("Runa Feld for Teo Marchetti").first()).isVisible();
    }

    /** N41: from the mail, without signing in; opening the link decides nothing, and it works once. */
    @Test
    void aDecisionIsMadeFromTheMail() {
        Page mail = stage.newPage();
        mail.navigate(stage.app.standins().address() + "/mailbox");
        Locator letter = mail.locator("article")
                .filter(new Locator.FilterOptions().setHasText("Decide: Close the lane? (I-1045)"))
                .filter(new Locator.FilterOptions().setHasText("to priya@"));
        Browser.reloadUntil(mail, letter);
        String link = letter.locator("a[href*='/decide/']").getAttribute("href");
        mail.navigate(link);
        assertThat(mail.getByText("You decide as Priya Lund")).isVisible();
        button(mail, "Approve and close the lane at ALD-G3").click();
        assertThat(mail.getByText("Approved. Thank you.")).isVisible();
        mail.navigate(link);
        assertThat(mail.getByText("nothing is needed from you")).isVisible();
        mail.navigate(link + "x");
        assertThat(mail.getByText("This link is not valid")).isVisible();

        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/I-1045");
        assertThat(ada.getByText("Priya Lund approved")).isVisible();
    }

    /** N40: with a reason, to somebody else; it leaves the desk of those who had it. */
    @Test
    void aTaskIsPassedOnWithAReason() {
        Page runa = stage.as("Runa Feld");
        onDesk(runa, "Confirm at the kiosk").click();
        runa.getByText("pass on…").click();
        Pick.choose(runa.getByLabel("Pass it on to"), "p:ada");
        runa.getByLabel("Why").fill("I am on the ferry");
        button(runa, "Pass it on").click();
        onDesk(runa, "Look at the gate").first().click();
        assertThat(onDesk(runa, "Confirm at the kiosk")).hasCount(0);
        Page ada = stage.as("Ada Brandvold");
        assertThat(onDesk(ada, "Confirm at the kiosk")).isVisible();
    }

    /** N51: held, answers are refused and say so; resumed, it goes on. */
    @Test
    void aRunIsHeldAndResumedFromItsRoute() {
        Page ines = stage.as("Ines Okafor-Lind");
        Browser.go(ines, "Runs");
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Gate lane stuck open"))
                .first()
                .waitFor();
        ines.navigate(stage.address() + "/tickets/I-1044");
        ines.getByText("intervene…").click();
        ines.getByLabel("Why").fill("The pier is closed for the storm");
        button(ines, "Hold").click();
        assertThat(ines.getByText("intervened: hold")).isVisible();

        Page runa = stage.as("Runa Feld");
        runa.navigate(stage.address() + "/tickets/I-1044");
        assertThat(runa.getByText("On hold since")).isVisible();
        Locator card = runa.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Look at the gate"));
        assertThat(card.getByRole(AriaRole.BUTTON).first()).isDisabled();

        ines.navigate(stage.address() + "/runs?status=held");
        assertThat(ines.getByText("I-1044 ·")).isVisible();
        ines.navigate(stage.address() + "/tickets/I-1044");
        ines.getByText("intervene…").click();
        ines.getByLabel("Why").fill("The storm is over");
        button(ines, "Resume").click();
        assertThat(ines.getByText("intervened: resume")).isVisible();
    }

    /** N27: out as BPMN, changed elsewhere, in again with an account of what was made of it. */
    @Test
    void aWorkflowGoesOutAsBpmnAndComesBackChanged() throws IOException {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/new-fare-rules");
        ines.locator("[data-step]").first().waitFor();
        ines.keyboard().press("t");
        ines.getByLabel("Notation").waitFor();
        Download download = ines.waitForDownload(() -> Pick.choose(ines.getByLabel("Save as a file"), "bpmn"));
        String xml = Files.readString(download.path());
        assertThat(xml).contains("<userTask ", "<subProcess ", "bpmndi:BPMNShape");
        String name = xml.replaceAll("(?s).*?<userTask id=\"[^\"]*\" name=\"([^\"]*)\".*", "$1");
        ines.getByLabel("Workflow file")
                .setInputFiles(new FilePayload(
                        "changed.bpmn",
                        "application/xml",
                        xml.replace("name=\"" + name + "\"", "name=\"Said otherwise elsewhere\"")
                                .getBytes(StandardCharsets.UTF_8)));
        assertThat(ines.getByText("Adapted: look at these (1)")).isVisible();
        button(ines, "Take it over").click();
        assertThat(ines.getByText("Said otherwise elsewhere").first()).isVisible();
        ines.getByLabel("Undo").click();
        assertThat(ines.getByText("Said otherwise elsewhere")).hasCount(0);
    }

    /** A whole stage is used in another workflow; two editors: the second keeps theirs as a copy. */
    @Test
    void aStageIsUsedElsewhereAndASecondEditorLosesNothing() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/new-fare-rules");
        ines.locator("[data-step=hold]").click();
        ines.keyboard().press("Control+c");
        assertThat(ines.getByText("is copied:")).isVisible();
        ines.navigate(stage.address() + "/workflows/seasonal-ticket-kiosk");
        ines.locator("[data-step]").first().click();
        ines.keyboard().press("Control+v");
        assertThat(ines.locator("[data-step=hold]")).containsText("Only the adult fare has changed");
        assertThat(ines.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();

        Page other = stage.as("Ines Okafor-Lind");
        other.navigate(stage.address() + "/workflows/seasonal-ticket-kiosk");
        other.locator("[data-step=hold]").click();
        ines.keyboard().press("Delete");
        assertThat(ines.getByRole(AriaRole.STATUS).getByText("saved")).isVisible();
        other.keyboard().press("Delete");
        assertThat(other.getByText("Two are editing.")).isVisible();
        button(other, "Keep mine as a copy").click();
        assertThat(other.getByText("(my copy)").first()).isVisible();
    }

    /** N13: a condition by rows; a table with its gap found; the table as DMN and back. */
    @Test
    void aDecisionIsBuiltByRowsAndByATable() throws IOException {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/gate-certificates");
        ines.locator("[data-step=compare]").click();
        button(ines, "Add a case").click();
        Locator rows = ines.getByRole(
                        AriaRole.GROUP,
                        new Page.GetByRoleOptions().setName("if").setExact(true))
                .last();
        rows.getByText("Add a row").click();
        Pick.choose(rows.getByLabel("Field"), "ticket.impact");
        Pick.choose(rows.getByLabel("Operator"), "at most");
        rows.getByLabel("Value").fill("2");
        rows.getByText("as an expression").click();
        assertThat(ines.getByLabel("if", new Page.GetByLabelOptions().setExact(true))
                        .last())
                .hasValue("ticket.impact <= 2");

        button(ines, "Decide by a table").click();
        assertThat(ines.getByText("No row of").first()).isVisible();
        ines.getByLabel("Impact in row 1").fill("[1..2]");
        Download download =
                ines.waitForDownload(() -> button(ines, "Save as DMN").click());
        String dmn = Files.readString(download.path());
        assertThat(dmn).contains("hitPolicy=\"FIRST\"", "[1..2]");
        ines.getByLabel("DMN file")
                .setInputFiles(new FilePayload(
                        "table.dmn",
                        "application/xml",
                        dmn.replace("[1..2]", "[1..3]").getBytes(StandardCharsets.UTF_8)));
        assertThat(ines.getByLabel("Impact in row 1")).hasValue("[1..3]");
    }
}
