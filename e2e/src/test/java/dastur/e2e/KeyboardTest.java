package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.server.Settings;
import dastur.server.Wiring;
import java.nio.file.Path;
import java.time.InstantSource;
import java.util.regex.Pattern;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** An installation is set up, and its first ticket done, by somebody who has no pointer (B11). */
class KeyboardTest {
    /** Whoever needs more presses than this to a place gives up. */
    private static final int MOST = 80;

    @TempDir
    Path data;

    private Page page;

    @Test
    void fromNothingToATicketThatIsDoneByTheKeyboardAlone() {
        try (Wiring app = new Wiring(new Settings(
                        data, "127.0.0.1", 0, InstantSource.system(), Settings.USUAL_LEASE, Settings.LOCAL_MAIL));
                Browser browser = new Browser()) {
            page = browser.window(1280, 800).newPage();
            page.navigate("http://127.0.0.1:" + app.port());
            write("Short name", "ines");
            write("Full name", "Ines Okafor-Lind");
            write("Password", "ferries at dawn");
            page.keyboard().press("Enter");
            aGroup();
            aWorkflow();
            aTicket();
        }
    }

    private void aGroup() {
        leave("Who works here");
        leave("How people are told");
        Locator opener = buttonOf("Which groups there are", "New group");
        press(opener, "Enter");
        page.getByRole(AriaRole.DIALOG).waitFor();
        page.keyboard().press("Escape");
        // Closed, a dialog gives the keyboard back to what opened it, not to the top of the page.
        assertThat(opener).isFocused();
        press(opener, "Enter");
        write("Name", "Service desk");
        press(page.getByLabel("Ines Okafor-Lind"), "Space");
        press(inDialog("Save"), "Enter");
        assertThat(step("Which groups there are").getByText("there")).isVisible();
    }

    private void aWorkflow() {
        leave("What is looked after");
        press(buttonOf("A first workflow", "Something does not work"), "Enter");
        press(page.getByLabel("Who does the work"), "Enter");
        page.locator("[role=option]").first().waitFor();
        page.keyboard().type("serv");
        page.keyboard().press("Enter");
        press(button(page, "Make it"), "Enter");
        page.getByText("No findings: it can be published").waitFor();
        press(button(page, "Publish…"), "Enter");
        press(inDialog("Publish"), "Enter");
        page.getByText("version 1 is live").waitFor();
    }

    private void leave(String step) {
        press(buttonOf(step, "leave it for later"), "Enter");
    }

    private void aTicket() {
        // A place is found by its name; whoever thinks better of it is where they were.
        Locator desk = page.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName("Desk"));
        press(desk, null);
        page.keyboard().press("Control+k");
        page.getByPlaceholder("A ticket, workflow, person, CI, place…").waitFor();
        page.keyboard().press("Escape");
        assertThat(desk).isFocused();
        page.keyboard().press("Control+k");
        page.getByPlaceholder("A ticket, workflow, person, CI, place…").waitFor();
        page.keyboard().type("raise a ticket");
        page.getByRole(AriaRole.OPTION).first().waitFor();
        page.keyboard().press("Enter");
        write("What is the matter, in one line", "The printer prints nothing");
        press(button(page, "Raise it"), "Enter");
        page.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        press(button(page, "Start a workflow…"), "Enter");
        press(page.locator("[role=radio][value=something-does-not-work]"), "Space");
        press(
                page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("^Start “"))),
                "Enter");
        press(desk, "Enter");
        write("What was the cause", "It was switched off");
        write("What was done", "Switched on");
        press(page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Not a fault")), "Enter");
        assertThat(page.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it")))
                .isVisible();
    }

    // --- a person without a pointer

    private void write(String label, String text) {
        press(page.getByLabel(Pattern.compile("^" + label + "($|\\W)")), null);
        page.keyboard().type(text);
    }

    /** Goes on to something by Tab, as far as the page leads, and presses a key there. */
    private void press(Locator there, @Nullable String key) {
        there.waitFor();
        for (int presses = 0; !Boolean.TRUE.equals(there.evaluate("e => e === document.activeElement")); presses++) {
            if (presses == MOST) {
                throw new AssertionError("The keyboard never came to " + there);
            }
            page.keyboard().press("Tab");
        }
        assertThat(there).isVisible();
        if (key != null) {
            page.keyboard().press(key);
        }
    }

    private Locator inDialog(String name) {
        return page.getByRole(AriaRole.DIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(name))
                .last();
    }

    private Locator buttonOf(String step, String words) {
        return step(step)
                .getByRole(AriaRole.BUTTON)
                .filter(new Locator.FilterOptions().setHasText(words))
                .first();
    }

    private Locator step(String name) {
        return page.getByRole(
                AriaRole.LISTITEM, new Page.GetByRoleOptions().setName(name).setExact(true));
    }
}
