package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** What is said before it is done: what a start will do, what ends with a ticket; and those who ask, on their own pages. */
class CarefulTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator row(Page desk, String ticket) {
        return desk.locator("li button").filter(new Locator.FilterOptions().setHasText(ticket));
    }

    /** E9: cancelling says what ends with the ticket, and then it does: nothing stays on a desk. */
    @Test
    void cancellingSaysWhatEndsWithTheTicket() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        ada.getByLabel("What is the matter, in one line").fill("Gate 2 stands open");
        ada.getByLabel("CI", new Page.GetByLabelOptions().setExact(true)).fill("ALD-G2");
        button(ada, "Raise it").click();
        ada.getByText("Look at the gate").first().waitFor();
        String number = ada.url().replaceAll(".*/", "");
        Page runa = stage.as("Runa Feld");
        assertThat(row(runa, number)).hasCount(1);

        button(ada, "Change…").click();
        Pick.choose(ada.getByLabel("State", new Page.GetByLabelOptions().setExact(true)), "cancelled");
        assertThat(ada.getByLabel("What ends with it"))
                .containsText("Cancelling ends its run: “Gate lane stuck open”. Taken off desks: “Look at the gate”.");
        button(ada, "Save, and cancel it").click();
        assertThat(ada.getByText("Withdrawn: the ticket was cancelled").first()).isVisible();
        assertThat(row(runa, number)).hasCount(0);
    }

    /** U12: nothing is chosen for the person who starts a workflow; what it will do is said before. */
    @Test
    void nothingIsStartedThatNobodyChose() {
        Page ada = stage.as("Ada Brandvold");
        Browser.raise(ada, "The office printer is slow");
        button(ada, "Start a workflow…").click();
        assertThat(button(ada, "Choose a workflow")).isDisabled();
        assertThat(ada.locator("[role=radio][aria-checked=true]")).hasCount(0);
        ada.locator("[role=radio][value=fares-on-kiosks]").click();
        assertThat(ada.getByLabel("What it will do")).containsText("Machines then change something outside");
        ada.keyboard().press("Escape");
        assertThat(ada.getByRole(AriaRole.DIALOG)).hasCount(0);
        assertThat(ada.getByText("Fares not on every kiosk")).hasCount(0);
    }

    /** U8: a requester asks for something, its workflow starts, and their page tells what became of it. */
    @Test
    void aRequesterAsksForSomethingAndSeesWhatBecameOfIt() {
        Page mira = stage.as("Mira Solheim");
        Browser.go(mira, "Tickets");
        button(mira, "Ask for help").click();
        mira.getByText("I need something").click();
        assertThat(mira.getByLabel("Impact")).hasCount(0);
        mira.getByLabel("What do you need, in one line").fill("A drawing of berth 3 for a contractor");
        button(mira, "Send").click();
        mira.waitForURL(Pattern.compile(".*/tickets/R-\\d+"));
        String number = mira.url().replaceAll(".*/", "");
        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/" + number);
        // The workflow of the demo that looks for such wishes has begun.
        assertThat(ada.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Berth drawings for a contractor"))
                        .first())
                .isVisible();
        button(ada, "Add a note").click();
        ada.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)).fill("We ask the harbour office.");
        ada.getByLabel("Meant for the requester").check();
        button(ada, "Add it to the record").click();
        assertThat(mira.getByLabel("What happened")).containsText("We ask the harbour office.");
    }
}
