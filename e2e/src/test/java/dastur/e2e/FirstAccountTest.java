package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.server.Settings;
import dastur.server.Wiring;
import java.nio.file.Path;
import java.time.InstantSource;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A fresh installation without demo data: the first visit makes the first account, which can design at once. */
class FirstAccountTest {
    @TempDir
    Path data;

    @Test
    void theFirstVisitMakesTheFirstAccount() {
        try (Wiring app = new Wiring(new Settings(
                        data, "127.0.0.1", 0, InstantSource.system(), Settings.USUAL_LEASE, Settings.LOCAL_MAIL));
                Browser browser = new Browser()) {
            String address = "http://127.0.0.1:" + app.port();
            Page page = browser.window(1280, 800).newPage();
            page.navigate(address);
            page.getByLabel("Short name").fill("ines");
            page.getByLabel("Full name").fill("Ines Okafor-Lind");
            page.getByLabel("Password").fill("ferries at dawn");
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Make the account"))
                    .click();
            fromNothingToATicketThatWalkedThroughAWorkflow(page);
            // Working hours mean something from the first minute on.
            Browser.go(page, "Services");
            assertThat(page.getByText("the usual hours, where a service names none"))
                    .isVisible();
            Browser.go(page, "Workflows");
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("New workflow"))
                    .click();
            page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Lost property");
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Make it"))
                    .click();
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("About"))
                    .click();
            page.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Asked at the start"))
                    .click();
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Ask for a value"))
                    .click();
            page.getByLabel("Field").fill("Colour of the bag");
            page.getByLabel("Field").press("Tab");
            assertThat(page.getByText("input.colourOfThe")).isVisible();
            Page again = browser.signIn(address, "ines", "ferries at dawn");
            again.navigate(address + "/workflows/lost-property");
            again.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("About"))
                    .click();
            again.getByRole(AriaRole.TAB, new Page.GetByRoleOptions().setName("Asked at the start (1)"))
                    .click();
            assertThat(again.getByLabel("Field")).hasValue("Colour of the bag");
        }
    }

    /** O3: group, service, a workflow from the gallery, and a first ticket: led step by step, and done when it is there. */
    private static void fromNothingToATicketThatWalkedThroughAWorkflow(Page page) {
        assertThat(page.getByText("0 of 6 steps are behind you; each can be left for later"))
                .isVisible();
        step(page, "Who works here").getByText("leave it for later").click();
        step(page, "How people are told").getByText("leave it for later").click();
        step(page, "Which groups there are").getByText("New group").click();
        page.getByLabel("Name", new Page.GetByLabelOptions().setExact(true)).fill("Service desk");
        page.getByLabel("Ines Okafor-Lind").click();
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName("Save").setExact(true))
                .click();
        assertThat(step(page, "Which groups there are").getByText("there")).isVisible();
        step(page, "What is looked after").getByText("leave it for later").click();
        step(page, "A first workflow")
                .getByText("Something does not work")
                .first()
                .click();
        Pick.choose(page.getByLabel("Who does the work"), "service-desk");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Make it"))
                .click();
        page.getByText("No findings: it can be published").waitFor();
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Publish…"))
                .click();
        page.getByRole(AriaRole.DIALOG)
                .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("Publish"))
                .last()
                .click();
        page.getByText("version 1 is live").waitFor();
        Browser.go(page, "Begin");
        assertThat(step(page, "A first workflow").getByText("there").last()).isVisible();
        step(page, "A ticket that walks through it")
                .getByText("Raise a first ticket")
                .click();
        page.getByLabel("What is the matter, in one line").fill("The printer prints nothing");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Raise it"))
                .click();
        Browser.start(page, "something-does-not-work");
        page.getByLabel("What was the cause").fill("It was switched off");
        page.getByLabel("What was done").fill("Switched on");
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Not a fault"))
                .click();
        page.locator("strong")
                .getByText("closed", new Locator.GetByTextOptions().setExact(true))
                .first()
                .waitFor();
        Browser.go(page, "Begin");
        assertThat(page.getByText("All that is needed is there")).isVisible();
        Browser.go(page, "Desk");
        assertThat(page.getByText("Your desk is clear")).isVisible();
        assertThat(page.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                        .getByText("Begin"))
                .hasCount(0);
    }

    private static Locator step(Page page, String name) {
        return page.getByRole(
                AriaRole.LISTITEM, new Page.GetByRoleOptions().setName(name).setExact(true));
    }
}
