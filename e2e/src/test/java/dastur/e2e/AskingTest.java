package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** The page of those who ask, and going on where one was after being signed out. */
class AskingTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator line(Page page, String title) {
        return page.getByRole(AriaRole.ARTICLE, new Page.GetByRoleOptions().setName(title));
    }

    /** O4: where it stands in plain words; not solved goes back to those who have it, with what is not. */
    @Test
    void whoeverAsksSaysThatItIsNotSolvedAndThenThatItIs() {
        Page mira = stage.phone("Mira Solheim");
        assertThat(line(mira, "Drawings of berth 3 for the dredger")).containsText("With Pier technicians, until");
        Locator receipts = line(mira, "Kiosk 4 prints no receipts");
        assertThat(receipts.locator("[aria-current=step]")).hasText("works again");
        receipts.getByText("Not solved…").click();
        receipts.getByLabel("What still does not work?").fill("It prints, but half a line is missing.");
        receipts.getByText("It is not solved").click();
        assertThat(receipts.locator("[aria-current=step]")).hasText("being looked at");

        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets?q=open%3Dtrue%26text%3Dreceipts");
        ada.getByText("Kiosk 4 prints no receipts").first().click();
        assertThat(ada.getByText("It prints, but half a line is missing.").first())
                .isVisible();
        button(ada, "Change…").click();
        Pick.choose(ada.getByLabel("State", new Page.GetByLabelOptions().setExact(true)), "restored");
        button(ada, "Save").click();

        // Nothing is loaded anew by hand.
        receipts.getByText("It is solved").click();
        assertThat(receipts.getByText("It is solved")).isVisible();
        assertThat(ada.getByText("It is solved.").first()).isVisible();
    }

    /** What one types where one asks is not typed again in the dialog. */
    @Test
    void whatIsAskedBeginsWithTheWordsThatWereTyped() {
        Page mira = stage.as("Mira Solheim");
        mira.getByLabel("Say it in your own words").fill("A key to the crew room");
        button(mira, "I need something").click();
        assertThat(mira.getByLabel("What do you need, in one line")).hasValue("A key to the crew room");
        button(mira, "Send").click();
        mira.waitForURL("**/tickets/R-*");
        Browser.go(mira, "My page");
        assertThat(line(mira, "A key to the crew room")).isVisible();
    }

    /** B9: the server knows the session no more; one signs in again over the page, and what was typed is still there. */
    @Test
    void whoIsSignedOutGoesOnWhereTheyWere() {
        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/I-1044");
        button(ada, "Add a note").click();
        ada.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)).fill("The technician is on her way");
        Page other = ada.context().newPage();
        other.navigate(stage.address() + "/desk");
        other.evaluate("async () => { const s = (await (await fetch('/api/entrance')).json()).session;"
                + " await fetch('/api/session', { method: 'DELETE', headers: { 'X-CSRF-Token': s.csrf } }); }");
        other.close();
        // The page may have noticed by itself already: then its question stands over the button.
        ada.getByRole(AriaRole.DIALOG)
                .getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions().setName("Add").setIncludeHidden(true))
                .first()
                .dispatchEvent("click");
        ada.getByText("You were signed out").waitFor();
        ada.keyboard().press("Escape");
        assertThat(ada.getByText("You were signed out")).isVisible();
        button(ada, "Go on as Ada Brandvold").click();
        assertThat(ada.getByText("You were signed out")).hasCount(0);
        assertThat(ada.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)))
                .hasValue("The technician is on her way");
        ada.getByRole(AriaRole.DIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Add"))
                .first()
                .click();
        assertThat(ada.getByText("The technician is on her way").first()).isVisible();
        assertThat(ada.getByRole(AriaRole.DIALOG)).hasCount(0);
    }
}
