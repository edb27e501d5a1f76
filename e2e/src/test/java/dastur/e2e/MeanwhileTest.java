package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Two browsers at once, keys in the same half second: nothing is decided that was not meant, and nothing typed is lost. */
class MeanwhileTest {
    private Stage stage;

    @BeforeEach
    void open() {
        stage = new Stage();
    }

    @AfterEach
    void close() {
        stage.close();
    }

    private static String gate(Page page, String title, String ci) {
        Browser.go(page, "Tickets");
        button(page, "Raise a ticket").click();
        page.getByLabel("What is the matter, in one line").fill(title);
        page.getByLabel("CI", new Page.GetByLabelOptions().setExact(true)).fill(ci);
        button(page, "Raise it").click();
        page.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        page.getByText("Look at the gate").first().waitFor();
        return page.url().replaceAll(".*/", "");
    }

    private static Locator row(Page desk, String ticket) {
        return desk.locator("li button").filter(new Locator.FilterOptions().setHasText(ticket));
    }

    private static Locator starting(Page page, String name) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile(name)))
                .first();
    }

    /** The buttons of the card say when digits press them. */
    private static Locator pressed(Page page, int digit) {
        return page.locator("button[aria-keyshortcuts='" + digit + "']");
    }

    private void toApproval(Page runa, String ticket) {
        runa.navigate(stage.address() + "/tickets/" + ticket);
        starting(runa, "Close the lane").click();
        assertThat(runa.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it")))
                .containsText("You gave “Close the lane”");
    }

    /** U1: Teo decides while Priya types her reason; her card, her words and the list stay, and her next keys do nothing. */
    @Test
    void whatSomebodyElseDecidedStaysWithTheTypedTextAndKeysPressNothingElse() {
        Page ada = stage.as("Ada Brandvold");
        String first = gate(ada, "Gate 1 stands open", "ALD-G1");
        String second = gate(ada, "Gate 2 stands open", "ALD-G2");
        Page runa = stage.as("Runa Feld");
        toApproval(runa, first);
        toApproval(runa, second);

        Page priya = stage.as("Priya Lund");
        Page teo = stage.as("Teo Marchetti");
        row(priya, first).click();
        pressed(priya, 2).waitFor();
        priya.keyboard().press("2");
        Locator why = priya.getByLabel(Pattern.compile("^Why"));
        why.waitFor();
        priya.keyboard().type("Lane ");
        row(teo, first).click();
        pressed(teo, 1).waitFor();
        teo.keyboard().press("1");

        Locator told = priya.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it"));
        assertThat(told).containsText("Teo Marchetti decided it: approved");
        // Priya has not looked up and types on, with digits and letters that are keys of the Desk elsewhere.
        priya.keyboard().type("2 is needed on 1 pier, just now");
        assertThat(why).hasValue("Lane 2 is needed on 1 pier, just now");
        assertThat(row(priya, first)).hasAttribute("aria-current", "true");
        priya.keyboard().press("Tab");
        priya.keyboard().press("2");
        priya.keyboard().press("1");
        assertThat(button(priya, "Decline")).isDisabled();

        button(priya, "Go on").click();
        assertThat(row(priya, first)).hasCount(0);
        row(priya, second).click();
        // Nobody has decided the other one.
        assertThat(starting(priya, "Approve and close the lane at ALD-G2")).isEnabled();
        assertThat(priya.getByText("nobody has decided since").first()).isVisible();
    }

    /** U1: the same digit twice in half a second gives one outcome, not two. */
    @Test
    void theSameDigitTwiceGivesOneOutcome() {
        Page ada = stage.as("Ada Brandvold");
        String first = gate(ada, "Gate 3 stands open", "ALD-G3");
        String second = gate(ada, "Gate 4 stands open", "ALD-G4");
        Page runa = stage.as("Runa Feld");
        row(runa, first).click();
        pressed(runa, 1).waitFor();
        runa.keyboard().press("1");
        runa.keyboard().press("1");
        runa.keyboard().press("1");
        assertThat(runa.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it")))
                .containsText("You gave “Close the lane”");
        runa.keyboard().press("1");
        row(runa, second).click();
        assertThat(starting(runa, "Close the lane")).isEnabled();
        ada.navigate(stage.address() + "/tickets/" + second);
        assertThat(ada.getByText("Look at the gate").first()).isVisible();
        assertThat(ada.getByText("Runa Feld: Close the lane")).hasCount(0);
    }

    /** U1: what has only just come up is not pressed by a key that was meant for what stood there before. */
    @Test
    void aKeyInTheMomentInWhichACardComesUpPressesNothing() {
        Page ada = stage.as("Ada Brandvold");
        Page runa = stage.as("Runa Feld");
        String ticket = gate(ada, "Gate 2 stands open", "ALD-G2");
        runa.navigate(stage.address() + "/tickets/" + ticket);
        // Pressed again and again from before the card is there until it may be pressed, and not once afterwards.
        runa.evaluate("() => { const t = setInterval(() => {"
                + " if (document.querySelector('[aria-keyshortcuts]')) clearInterval(t);"
                + " else dispatchEvent(new KeyboardEvent('keydown', { key: '1' })); }, 20); }");
        pressed(runa, 1).waitFor();
        assertThat(runa.getByText("What became of it")).hasCount(0);
        assertThat(starting(runa, "Close the lane")).isEnabled();
        runa.keyboard().press("1");
        assertThat(runa.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it")))
                .containsText("You gave “Close the lane”");
    }

    /** U13: without a connection page, dialog and text stay, and it is said until the note is sent, once. */
    @Test
    void aFailedSendKeepsEverythingAndIsSaidUntilItIsSent() {
        Page ada = stage.as("Ada Brandvold");
        String ticket = gate(ada, "Gate 1 creaks", "ALD-G1");
        button(ada, "Add a note").click();
        ada.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)).fill("The hinge is dry.");
        ada.context().setOffline(true);
        button(ada, "Add it to the record").click();
        Locator dialog = ada.getByRole(AriaRole.DIALOG);
        assertThat(dialog.getByRole(AriaRole.ALERT)).containsText("No connection");
        assertThat(ada.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)))
                .hasValue("The hinge is dry.");
        ada.keyboard().press("Escape");
        assertThat(ada.getByText("Gate 1 creaks").first()).isVisible();
        Locator unsent = ada.getByRole(AriaRole.ALERT).filter(new Locator.FilterOptions().setHasText("Not sent:"));
        assertThat(unsent).containsText("your note “The hinge is dry.” on " + ticket);
        ada.context().setOffline(false);
        ada.reload();
        assertThat(unsent).isVisible();
        button(ada, "Send it again").click();
        assertThat(unsent).hasCount(0);
        assertThat(ada.locator("li")
                        .filter(new Locator.FilterOptions().setHasText("The hinge is dry."))
                        .last())
                .isVisible();
    }
}
