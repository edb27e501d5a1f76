package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import java.time.Duration;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** At 3 a.m. a pier of boards is one matter, and what the change crew does is none (I21, I22). */
class ExplainedTest {
    private static final int BOARDS = 12;
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator list(Page page, String name) {
        return page.getByRole(
                AriaRole.LIST, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    private static Locator matter(Page page, String title) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile(title)))
                .first();
    }

    private static void open(Page page, String title) {
        page.navigate(stage.address() + "/signals");
        matter(page, title).click();
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(
                AriaRole.REGION, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    @Test
    void aGatewayThatFallsOverIsOneTicketAndItsBoardsFollowFromIt() {
        Page ada = stage.as("Ada Brandvold");
        stage.app.standins().monitor().gateway("GNQ", BOARDS, true);
        ada.navigate(stage.address() + "/signals");
        Browser.reloadUntil(ada, matter(ada, "Board 12 at Gannet Quay stands still"));
        Locator explained = list(ada, "Matters that something else explains");
        assertThat(explained.getByRole(AriaRole.LISTITEM)).hasCount(BOARDS);
        assertThat(list(ada, "Matters")).containsText("Pier gateway at Gannet Quay stands still");
        assertThat(ada.getByText("None needs somebody.")).isVisible();

        matter(ada, "Board 2 at Gannet Quay stands still").click();
        assertThat(region(ada, "What Dastur made of it")).containsText("'Pier gateway at Gannet Quay' is, critical");
        ada.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("The matter"))
                .getByRole(AriaRole.LINK)
                .first()
                .click();
        ada.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        assertThat(region(ada, "Signals")).containsText("Follows from this: nothing is opened for it meanwhile");
        assertThat(ada.getByText("follows from this: it opens nothing meanwhile")
                        .first())
                .isVisible();
        button(ada, "7 more").click();
        assertThat(region(ada, "Signals")).containsText("Board 12 at Gannet Quay");

        stage.app.standins().monitor().gateway("GNQ", BOARDS, false);
        // What was shown keeps its place while one looks: it stands among the others when the page is opened anew.
        ada.navigate(stage.address() + "/signals");
        Browser.reloadUntil(
                ada, list(ada, "Matters that are well again").getByText("Board 2 at Gannet Quay stands still"));
    }

    @Test
    void whatAChangeInItsWindowExplainsWaitsAndIsTakenUpTenMinutesAfterIt() {
        Page priya = stage.as("Priya Lund");
        Browser.go(priya, "Tickets");
        button(priya, "Raise a ticket").click();
        priya.getByLabel("What is the matter, in one line").fill("New firmware for board 2 at North Slip");
        Pick.byWords(priya.getByLabel("Kind"), "change");
        priya.getByLabel("CI").fill("NSL-02");
        button(priya, "Raise it").click();
        priya.waitForURL(Pattern.compile(".*/tickets/C-\\d+"));
        String change = priya.url().replaceFirst(".*/", "");
        state(priya, "authorised");
        button(priya, "Change…").click();
        Locator dialog = priya.getByRole(AriaRole.DIALOG);
        dialog.getByLabel("Planned start").fill("2026-01-02 08:00");
        dialog.getByLabel("Planned end").fill("in 2 h");
        Pick.byWords(dialog.getByLabel("State"), "scheduled");
        button(priya, "Save").click();
        assertThat(dialog).hasCount(0);

        stage.app.standins().devices().freeze("NSL-02", true);
        priya.navigate(stage.address() + "/signals");
        Browser.reloadUntil(priya, matter(priya, "Board 2 at North Slip stands still"));
        matter(priya, "Board 2 at North Slip stands still").click();
        assertThat(matter(priya, "Board 2 at North Slip stands still"))
                .containsText(change + " explains it: planned work");
        assertThat(region(priya, "What Dastur made of it")).containsText(change + " is scheduled");
        priya.navigate(stage.address() + "/tickets/" + change);
        assertThat(priya.getByText("explained by this work: it opens nothing meanwhile")
                        .first())
                .isVisible();

        stage.clock.pass(Duration.ofMinutes(125));
        open(priya, "Board 2 at North Slip stands still");
        assertThat(matter(priya, "Board 2 at North Slip stands still"))
                .containsText("explained it until", new LocatorAssertions.ContainsTextOptions().setTimeout(30_000));
        stage.clock.pass(Duration.ofMinutes(11));
        // It is taken up as any other: the workflow for frozen boards restarts it.
        assertThat(matter(priya, "Board 2 at North Slip stands still"))
                .containsText(
                        Pattern.compile("I-\\d+"), new LocatorAssertions.ContainsTextOptions().setTimeout(30_000));
    }

    /** I22: a gate writes that it stands open; a moment later its gateway is heard of, and the gate stands under it. */
    @Test
    void aGateStandsUnderItsGatewayThatIsHeardOfLater() {
        Page ada = stage.as("Ada Brandvold");
        stage.app.standins().gateLog().turn("ALD-G4");
        ada.navigate(stage.address() + "/signals");
        Browser.reloadUntil(ada, matter(ada, "Gate ALD-G4 stands open"));
        stage.app.standins().monitor().gateway("ALD", 0, true);
        ada.navigate(stage.address() + "/tickets");
        Locator cause = ada.getByRole(
                AriaRole.ROW, new Page.GetByRoleOptions().setName(Pattern.compile("Pier gateway at Alder Pier")));
        Browser.reloadUntil(ada, cause.getByText("+1 follow"));
        assertThat(ada.getByText("Gate ALD-G4 stands open")).hasCount(0);
        cause.getByRole(AriaRole.LINK).first().click();
        region(ada, "Stand under this one").getByRole(AriaRole.LINK).click();
        Locator under = region(ada, "Stands under another");
        assertThat(under).containsText("Pier gateway at Alder Pier");
        assertThat(ada.getByText("What it depends on is in fault: it stands under"))
                .isVisible();
        // Somebody looks at it by itself, and it stands among the others again.
        button(ada, "Look at it by itself").click();
        assertThat(under).hasCount(0);
        assertThat(ada.getByText(Pattern.compile("took it out from under I-\\d+")))
                .isVisible();
        Browser.go(ada, "Tickets");
        assertThat(ada.getByText("Gate ALD-G4 stands open").first()).isVisible();
        stage.app.standins().monitor().gateway("ALD", 0, false);
    }

    private static void state(Page page, String state) {
        button(page, "Change…").click();
        Locator dialog = page.getByRole(AriaRole.DIALOG);
        Pick.byWords(dialog.getByLabel("State"), state);
        button(page, "Save").click();
        assertThat(dialog).hasCount(0);
    }
}
