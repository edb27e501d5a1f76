package dastur.e2e;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.nio.file.Path;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** Makes the pictures in docs/screenshots from demo data; run by {@code ./dastur screenshots}. */
class Screenshots {
    private static final Path TO = Path.of("..", "docs", "screenshots");

    @Test
    void take() {
        try (Stage stage = new Stage()) {
            Page teo = stage.as("Teo Marchetti");
            row(teo, "Close the lane?").click();
            teo.getByText("What you approve").waitFor();
            teo.getByText("Where it stands").waitFor();
            shoot(teo, "desk-approval");

            Page runa = stage.as("Runa Feld");
            row(runa, "Look at the gate").click();
            runa.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Cleared on the spot"))
                    .waitFor();
            runa.setViewportSize(390, 844);
            shoot(runa, "phone-desk");

            Page ada = stage.as("Ada Brandvold");
            Browser.go(ada, "Tickets");
            ada.getByText("Board at Gannet Quay is dark").waitFor();
            shoot(ada, "tickets");
            ada.getByText("Gate 3 stands open").click();
            ada.getByText("sealed,").waitFor();
            shoot(ada, "ticket");
            signals(stage, ada);
            Browser.find(ada, "Software 7.3.0 for the gateway at NSL");
            ada.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("summary"))
                    .click();
            ada.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Compare measurements"))
                    .click();
            ada.getByText("NSL-08").waitFor();
            shoot(ada, "compare");

            Page ines = stage.as("Ines Okafor-Lind");
            Browser.go(ines, "Runs");
            ines.getByText("Enrol the kiosk").first().waitFor();
            shoot(ines, "runs");
            Browser.go(ines, "On call");
            ines.getByText("Platform on call").waitFor();
            shoot(ines, "on-call");
            Browser.go(ines, "Workflows");
            ines.getByText("in the library").waitFor();
            shoot(ines, "workflows");
            ines.getByText("Gate lane stuck open").click();
            ines.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("Route"))
                    .waitFor();
            ines.locator("[data-step=approve]").click();
            shoot(ines, "workflow");
            ines.navigate(stage.address() + "/workflows/gate-certificates");
            ines.locator("[data-step=each]").click();
            ines.keyboard().press("t");
            ines.getByLabel("Notation").waitFor();
            shoot(ines, "workflow-text");
            ines.keyboard().press("Escape");
            ines.locator("[data-step=list]").focus();
            ines.keyboard().press("r");
            ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Begin"))
                    .click();
            Locator list = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Answer List"));
            list.getByText("with values…").click();
            list.getByRole(AriaRole.TEXTBOX).fill("[{\"gate\": \"ALD-G1\", \"expires\": \"2020-01-01T00:00:00Z\"}]");
            list.getByRole(AriaRole.BUTTON).first().click();
            ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Answer Renew the certificate"))
                    .getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName("it fails"))
                    .click();
            ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Answer Renew by hand"))
                    .waitFor();
            shoot(ines, "workflow-rehearsal");
            meanwhile(stage, teo);
            partner(stage, ines);
            starts(stage, ines);
            action(ines);

            Page halvard = stage.as("Halvard Quist");
            Browser.go(halvard, "Keeping");
            Browser.button(halvard, "Go through everything").click();
            halvard.getByText("All as written.").waitFor();
            Browser.button(halvard, "Take a copy").click();
            halvard.getByText(Pattern.compile("\\d MB")).first().waitFor();
            shoot(halvard, "keeping");

            Page mira = stage.as("Mira Solheim");
            mira.getByLabel("Say it in your own words").fill("The drawings of berth 3, for a contractor");
            mira.getByText("This may answer it already").waitFor();
            shoot(mira, "requester");
        }
    }

    /** An action that was tried, and what saving it would do. */
    private static void action(Page ines) {
        Browser.go(ines, "Automation");
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Close a lane"))
                .click();
        ines.getByLabel("Gate (needed)").click();
        ines.locator("[cmdk-input]").fill("GNQ-G4");
        ines.locator("[role=option][data-choice=GNQ-G4]").click();
        ines.getByLabel("Why it is tried").fill("before the season");
        Browser.button(ines, "Send it: it changes the world").click();
        Browser.button(ines, "Read /status as an output").click();
        ines.getByText("This is version 2").waitFor();
        ines.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What came of it"))
                .scrollIntoViewIfNeeded();
        shoot(ines, "action");
    }

    /** What starts by itself; a watch has looked. */
    private static void starts(Stage stage, Page ines) {
        stage.clock.pass(java.time.Duration.ofMinutes(6));
        ines.navigate(stage.address() + "/starts");
        ines.getByText("nothing to do since").nth(1).waitFor(new Locator.WaitForOptions().setTimeout(60_000));
        shoot(ines, "starts");
    }

    /** Boards freeze: one is set right by machines, one needs a part. */
    private static void signals(Stage stage, Page ada) {
        stage.app.standins().devices().freeze("GNQ-03", true);
        ada.navigate(stage.address() + "/signals");
        Locator over = ada.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("Matters that are well again"));
        Browser.reloadUntil(ada, over.getByText("Board 3 at Gannet Quay stands still"));
        stage.app.standins().devices().needsPart("ALD-07", true);
        ada.getByText("One more matter").waitFor();
        ada.getByText("One more matter").click();
        ada.getByText("Board 7 at Alder Pier stands still").first().click();
        ada.getByText("begins, major").first().waitFor();
        shoot(ada, "signals");
        Page halvard = stage.as("Halvard Quist");
        halvard.navigate(stage.address() + "/sources/board-monitor?tab=means");
        halvard.getByText("is a major fault of the matter").waitFor();
        shoot(halvard, "source");
    }

    /** By night: Priya types her reason while Teo decides; her card and her words stay. */
    private static void meanwhile(Stage stage, Page teo) {
        Page priya = stage.as("Priya Lund");
        priya.evaluate("localStorage.setItem('dastur-theme', 'dark')");
        priya.reload();
        row(priya, "Close the lane?").click();
        priya.locator("button[aria-keyshortcuts='2']").click();
        priya.getByLabel(java.util.regex.Pattern.compile("^Why"))
                .fill("Lane 2 is needed for the 14:05 departure; close it after that.");
        teo.locator("button[aria-keyshortcuts='1']").click();
        priya.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it"))
                .getByText("decided it")
                .waitFor();
        shoot(priya, "desk-meanwhile");
    }

    /** A desk of others: theirs as they come, beside what their words mean here. */
    private static void partner(Stage stage, Page ines) {
        stage.app.standins().partner().raiseOwn("Lane software loses its settings", "At two customers.", "B", "", "");
        ines.navigate(stage.address() + "/partners/lane-supplier?tab=joined");
        Browser.button(ines, "Look once, without any effect").click();
        ines.getByText("It answers").waitFor();
        shoot(ines, "partner");
    }

    private static Locator row(Page page, String name) {
        return page.locator("li button", new Page.LocatorOptions().setHasText(name))
                .first();
    }

    private static void shoot(Page page, String name) {
        page.evaluate("document.fonts.ready");
        com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat(page.getByText("Loading "))
                .hasCount(0);
        page.screenshot(new Page.ScreenshotOptions().setPath(TO.resolve(name + ".png")));
    }
}
