package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.core.workflow.ZoneKey;
import dastur.relay.Joining;
import dastur.relay.Relay;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.InstantSource;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.Assertions;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** A network that only a relay reaches: let in on screen, and used by a change that launches a machine there (M13 to M16). */
class RelaysTest {
    private static Stage stage;

    @TempDir
    static Path folder;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName(name));
    }

    private static Page zones(String person) {
        Page page = stage.as(person);
        Browser.go(page, "Automation");
        page.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Zones and relays"))
                .click();
        assertThat(page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1)))
                .hasText("Zones");
        return page;
    }

    @Test
    void aRelayIsLetInByComparingItsKeyAndLetGo() throws Exception {
        Page halvard = zones("Halvard Quist");
        button(halvard, "New zone").click();
        halvard.getByLabel("Name").fill("Upland Data Room");
        button(halvard, "Save").click();
        Locator upland = region(halvard, "Upland Data Room");
        assertThat(upland).containsText("No relay yet");

        button(halvard, "Add a relay to Upland Data Room").click();
        Locator told = halvard.getByRole(AriaRole.DIALOG);
        assertThat(told).containsText("The code works once");
        Matcher code =
                Pattern.compile("--code (\\S+)").matcher(told.locator("pre").textContent());
        Assertions.assertTrue(code.find(), "the code is told");
        furnish();
        String fingerprint = Joining.join(folder, stage.address(), code.group(1), "udr-1");
        button(halvard, "Close").click();
        assertThat(upland).containsText("asks to be let in");
        assertThat(upland).containsText(fingerprint);
        try (Relay relay = new Relay(folder, InstantSource.system())) {
            relay.start();
            button(halvard, "Let in udr-1").click();
            assertThat(upland).containsText("in sight");
            assertThat(upland).containsText("let in by Halvard Quist");
            assertThat(upland).containsText("racks: GET /racks/*, 60 a minute");

            button(halvard, "Let go of udr-1").click();
            button(halvard, "Let go").click();
            assertThat(upland).containsText("No relay yet");
            Assertions.assertTrue(relay.untilOver().contains("let go"), "it is told so");
        }
    }

    private static void furnish() throws IOException {
        Files.writeString(folder.resolve("allowed.json"), """
                {"zone": "%s", "connections": {"racks": {"address": "http://127.0.0.1:9",
                  "allow": [{"method": "GET", "path": "/racks/*"}]}}}
                """.formatted(new ZoneKey("upland-data-room")));
    }

    @Test
    void whoeverAdministersNothingSeesTheRelaysAndChangesNone() {
        Page runa = zones("Runa Feld");
        assertThat(region(runa, "Mooring Data Room")).containsText("mdr-relay-1");
        assertThat(runa.locator("main").getByRole(AriaRole.BUTTON)).hasCount(0);
    }

    /** Asked for, approved, launched where only the relay reaches, looked at by a person, and closed. */
    @Test
    void aMachineIsLaunchedThroughTheRelay() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        Pick.choose(ada.getByRole(AriaRole.DIALOG).getByLabel("Kind"), "change");
        ada.getByLabel("What is the matter, in one line").fill("A machine for the crew office");
        Pick.choose(ada.getByLabel("For whom"), "emil");
        button(ada, "Raise it").click();
        ada.waitForURL(Pattern.compile(".*/tickets/C-\\d+"));
        String number = ada.url().substring(ada.url().lastIndexOf('/') + 1);
        Browser.choose(ada, "new-machine-for-the-crew-office");
        ada.getByLabel("Name of the machine").fill("crew-9");
        Pick.choose(ada.getByLabel("Size"), "small");
        Browser.begin(ada);

        Page teo = stage.as("Teo Marchetti");
        teo.locator("li button")
                .filter(new Locator.FilterOptions().setHasText(number))
                .click();
        teo.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions()
                                .setName("Approve and launch crew-9 (small) in the Mooring Data Room"))
                .click();
        assertThat(ada.locator("main")).containsText("crew-9 is at 10.20.7.");
        button(ada, "It works").click();
        assertThat(ada.getByText("The run ended: launched")).isVisible();
        assertThat(ada.locator("header")).containsText("closed");
        Assertions.assertEquals(
                "small", stage.app.standins().machines().launched().get("crew-9"), "it was launched");
    }
}
