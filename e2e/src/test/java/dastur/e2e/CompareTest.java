package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.standins.PierGateways;
import java.time.Duration;
import java.util.Optional;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** New software goes onto a gateway; what differs afterwards is seen side by side, before anybody decides on it. */
class CompareTest {
    private static Stage stage;

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

    private static Locator onDesk(Page page, String number) {
        return page.locator("li button").filter(new Locator.FilterOptions().setHasText(number));
    }

    private static Locator link(Page page, String name) {
        return page.getByRole(
                AriaRole.LINK, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    @Test
    void whoeverReviewsAnUpgradeSeesWhichDevicesDoNotAnswerAndHasThePartRunAgain() {
        stage.app.standins().devices().gateways().trouble("ALD-GW1", Optional.of(PierGateways.Trouble.UNTIL_STARTED));
        Page ada = stage.as("Ada Brandvold");
        String number = raised(ada);
        Page teo = stage.as("Teo Marchetti");
        onDesk(teo, number).click();
        teo.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName(Pattern.compile("^Approve and put 7\\.3\\.0 onto ALD-GW1")))
                .click();
        assertThat(ada.locator("main")).containsText("Judged once: 1 of 2 rules hold; judged again");

        stage.clock.pass(Duration.ofMinutes(3));
        Page priya = stage.as("Priya Lund");
        onDesk(priya, number).click();
        link(priya, "Compare with what was measured before").click();
        assertThat(region(priya, "Before")).containsText(number);
        Locator devices = region(priya, "Devices");
        assertThat(devices).containsText("14 rows before, 14 after");
        assertThat(devices.getByRole(AriaRole.ROW)).hasCount(4);
        assertThat(devices.getByRole(AriaRole.ROW, new Locator.GetByRoleOptions().setName(Pattern.compile("ALD-12"))))
                .containsText("yes → no");
        priya.getByLabel("Show what is the same, too").click();
        assertThat(devices.getByRole(AriaRole.ROW)).hasCount(15);
        Pick.choose(
                priya.getByLabel("After: what"),
                priya.getByLabel("Before: what").getAttribute("data-value"));
        assertThat(priya.getByRole(AriaRole.STATUS).first()).containsText("Nothing differs");

        priya.goBack();
        onDesk(priya, number).click();
        button(priya, "Measure again").click();
        Page runa = stage.as("Runa Feld");
        onDesk(runa, number).click();
        button(runa, "Leave it out…").click();
        runa.getByLabel("Why it is left out").fill("The pier is shut until five.");
        button(runa, "Leave it out").click();
        assertThat(ada.getByText("The run ended: upgraded")).isVisible();

        link(ada, "summary").click();
        assertThat(ada.locator("main")).containsText("left out");
        link(ada, "Compare measurements").click();
        assertThat(region(ada, "Before")).containsText(number);
        assertThat(region(ada, "Values")).containsText("7.3.0");
        assertThat(region(ada, "Devices")).hasCount(0);
    }

    private static String raised(Page ada) {
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        Locator dialog = ada.getByRole(AriaRole.DIALOG);
        Pick.choose(dialog.getByLabel("Kind"), "change");
        ada.getByLabel("What is the matter, in one line").fill("New software for the pier");
        Pick.choose(ada.getByLabel("For whom"), "greta");
        dialog.getByLabel("CI").first().fill("ALD-GW1");
        button(ada, "Raise it").click();
        ada.waitForURL(Pattern.compile(".*/tickets/C-\\d+"));
        Browser.choose(ada, "gateway-software-upgrade");
        ada.getByLabel("Version to install").fill("7.3.0");
        ada.getByLabel("Version to go back to").fill("7.2.1");
        ada.getByLabel("Devices that must answer afterwards, in percent").fill("90");
        ada.getByLabel("Not before").fill("2026-01-02 08:00");
        Pick.choose(ada.getByLabel("Who is at the pier meanwhile"), "runa");
        ada.getByLabel("Why").last().fill("Boards fall behind.");
        Browser.begin(ada);
        return ada.url().substring(ada.url().lastIndexOf('/') + 1);
    }

    @Test
    void twoCisStandSideBySideAndWhatIsNotThereIsSaid() {
        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/cis/ALD-G1");
        link(ada, "Compare").click();
        Locator other = ada.getByLabel("After: ticket or CI");
        other.fill("GNQ-G1");
        other.press("Enter");
        Pick.choose(ada.getByLabel("After: what"), "ci:GNQ-G1");
        assertThat(region(ada, "Values")).containsText("Site");
        assertThat(region(ada, "Values")).containsText("GNQ");
        other.fill("GNQ-G99");
        other.press("Enter");
        assertThat(ada.locator("main")).containsText("There is no CI GNQ-G99.");
        assertThat(region(ada, "Values")).containsText("GNQ");
    }
}
