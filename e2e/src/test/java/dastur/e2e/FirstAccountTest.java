package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

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
            assertThat(page.getByText("Your desk is clear")).isVisible();
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
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Ask for a value"))
                    .click();
            page.getByLabel("Field").fill("Colour of the bag");
            page.getByLabel("Field").press("Tab");
            assertThat(page.getByText("input.colourOfThe")).isVisible();
            Page again = browser.signIn(address, "ines", "ferries at dawn");
            again.navigate(address + "/workflows/lost-property");
            again.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("About"))
                    .click();
            assertThat(again.getByLabel("Field")).hasValue("Colour of the bag");
        }
    }
}
