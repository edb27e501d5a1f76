package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.APIResponse;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Route;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Several people at once, on several devices: one wins, nothing typed is lost, what stalled is repaired. */
class TogetherTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Page gate(Page page, String title, String ci) {
        Browser.go(page, "Tickets");
        button(page, "Raise a ticket").click();
        page.getByLabel("What is the matter, in one line").fill(title);
        page.getByLabel("CI", new Page.GetByLabelOptions().setExact(true)).fill(ci);
        Pick.choose(page.getByLabel("For whom"), "mira");
        button(page, "Raise it").click();
        page.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        page.getByText("Look at the gate").first().waitFor();
        return page;
    }

    private static String number(Page page) {
        return page.url().replaceAll(".*/", "");
    }

    private static Locator starting(Page page, String name) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile(name)))
                .first();
    }

    /** N40: two press on the same task; the second is told who was first and with what, and nothing happens twice. */
    @Test
    void twoPressAnOutcomeAndTheSecondIsToldWhoWasFirst() {
        Page ada = gate(stage.as("Ada Brandvold"), "The arm of gate 4 hangs", "ALD-G4");
        String address = stage.address() + "/tickets/" + number(ada);
        Page runa = stage.as("Runa Feld");
        Page teo = stage.newPage();
        // Teo's window does not hear of what happens meanwhile, as on a train.
        teo.route("**/api/live", route -> route.abort());
        teo.navigate(stage.address());
        button(teo, "Teo Marchetti").or(starting(teo, "Teo Marchetti")).first().click();
        teo.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .waitFor();
        teo.navigate(address);
        runa.navigate(address);
        // He oversees what is offered to the technicians, and steps in.
        starting(teo, "Step in as overseer").click();
        starting(teo, "Cleared on the spot").waitFor();
        starting(runa, "Close the lane").click();
        assertThat(ada.getByText("Runa Feld: Close the lane")
                        .or(ada.getByText("Close the lane?"))
                        .first())
                .isVisible();
        starting(teo, "Cleared on the spot").click();
        Locator told = teo.getByRole(AriaRole.ALERT).filter(new Locator.FilterOptions().setHasText("All right"));
        assertThat(told).containsText("Runa Feld");
        button(teo, "All right").click();
        assertThat(told).hasCount(0);
        assertThat(ada.getByText("answered too late").first()).isVisible();
    }

    /** O9: who else has the ticket before them, whether they write, and that they have turned to something else. */
    @Test
    void oneSeesWhoElseLooksAndWhoWrites() {
        Page ada = gate(stage.as("Ada Brandvold"), "Gate 3 squeals", "ALD-G3");
        Page teo = stage.as("Teo Marchetti");
        teo.navigate(stage.address() + "/tickets/" + number(ada));
        assertThat(teo.getByText("Ada Brandvold looks at this too")).isVisible();
        Locator his = ada.getByText("Teo Marchetti looks at this too");
        assertThat(his).isVisible(new LocatorAssertions.IsVisibleOptions().setTimeout(30_000));
        Locator beside = ada.getByRole(AriaRole.COMPLEMENTARY)
                .getByRole(AriaRole.HEADING)
                .first();
        double before = beside.boundingBox().y;
        button(teo, "Add a note").click();
        teo.getByRole(AriaRole.DIALOG).getByRole(AriaRole.TEXTBOX).first().fill("I have the key");
        assertThat(ada.getByText("Teo Marchetti writes here"))
                .isVisible(new LocatorAssertions.IsVisibleOptions().setTimeout(30_000));
        teo.keyboard().press("Escape");
        Browser.go(teo, "Tickets");
        assertThat(ada.getByText(Pattern.compile("looks at this too|writes here")))
                .hasCount(0, new LocatorAssertions.HasCountOptions().setTimeout(30_000));
        assertThat(beside.boundingBox().y)
                .as("nothing slides when somebody comes or goes")
                .isEqualTo(before);
    }

    /** What a page read before something happened does not stay on it because the answer was long on its way. */
    @Test
    void whatHappensWhileAPageOpensIsOnIt() {
        Page runa = stage.as("Runa Feld");
        runa.navigate(
                stage.address() + "/tickets/" + number(gate(stage.as("Ada Brandvold"), "Gate 1 is slow", "GNQ-G1")));
        starting(runa, "Close the lane").waitFor();
        Page late = stage.as("Ada Brandvold");
        Route[] held = new Route[1];
        APIResponse[] answer = new APIResponse[1];
        late.route(Pattern.compile(".*/api/tickets/" + number(runa)), route -> {
            if (held[0] == null) {
                held[0] = route;
                answer[0] = route.fetch();
            } else {
                route.resume();
            }
        });
        late.navigate(runa.url());
        late.waitForCondition(() -> answer[0] != null);
        starting(runa, "Close the lane").click();
        assertThat(runa.locator("aside")).containsText("deciding:");
        held[0].fulfill(new Route.FulfillOptions().setResponse(answer[0]));
        assertThat(late.locator("aside")).containsText("deciding:");
    }

    /** N40: what is filled in on one device is there on the other, before anybody gives an outcome. */
    @Test
    void aFormHalfFilledInIsThereOnThePhone() {
        Page ada = gate(stage.as("Ada Brandvold"), "Gate 2 creaks", "ALD-G2");
        String address = stage.address() + "/tickets/" + number(ada);
        Page desk = stage.as("Runa Feld");
        desk.navigate(address);
        desk.getByLabel("What you saw").fill("A stone under the arm");
        assertThat(desk.getByText("Kept for you, on every device").first()).isVisible();
        Page phone = stage.phone("Runa Feld");
        phone.navigate(address);
        assertThat(phone.getByLabel("What you saw")).hasValue("A stone under the arm");
        starting(phone, "Cleared on the spot").click();
        assertThat(ada.getByText("A stone under the arm").first()).isVisible();
    }

    /** N47, N51: the lane controller is down, the run stalls, its owner tries again when it is back, and it goes on. */
    @Test
    void aStalledCallIsRepairedAndGoesOn() {
        stage.publish("""
                workflow close-at-once "Close at once" for incident
                  owner ines
                close: run lane.close "Close the lane" at most 1 tries
                  with gate = 'GNQ-G2'
                  with why = ticket.title
                  already closed -> end
                end: done "closed at once"
                """);
        Page control = stage.newPage();
        fault(control, "DOWN");
        Page ada = stage.as("Ada Brandvold");
        Browser.raise(ada, "The lane at Gannet Quay must be shut");
        Browser.start(ada, "close-at-once");
        assertThat(ada.getByText("stalled").first()).isVisible();

        Page ines = stage.as("Ines Okafor-Lind");
        ines.locator("li button")
                .filter(new Locator.FilterOptions().setHasText("Close at once"))
                .click();
        fault(control, "NONE");
        starting(ines, "Try again").click();
        ines.getByLabel("Why: Try again").fill("The controller is back.");
        button(ines, "Do it").click();
        assertThat(ada.getByText("The run ended: closed at once")).isVisible();
        assertThat(ada.getByText("The controller is back.").first()).isVisible();
    }

    private static void fault(Page control, String fault) {
        control.navigate(stage.app.standins().address());
        control.locator("form:has(input[value=lanes]):has(input[value=" + fault + "]) button")
                .click();
    }

    /** N80: an administrator works as Mira once she has said so; both names go onto the record. */
    @Test
    void anAdministratorHelpsWhoSaidSo() {
        Page mira = stage.as("Mira Solheim");
        mira.getByText("Mira Solheim").last().click();
        mira.getByText("Let an administrator help…").click();
        Pick.choose(mira.getByLabel("Who may help"), "halvard");
        button(mira, "Let them help").click();
        assertThat(mira.getByRole(AriaRole.DIALOG)).hasCount(0);

        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "People");
        button(halvard, "Mira Solheim").click();
        button(halvard, "See Dastur as Mira Solheim").click();
        assertThat(halvard.getByText("You may work on tickets, because they said so"))
                .isVisible();
        Browser.go(halvard, "Tickets");
        button(halvard, "Ask for help").click();
        halvard.getByLabel("What is the matter, in one line").fill("My till prints nothing");
        button(halvard, "Send").click();
        halvard.waitForURL(Pattern.compile(".*/tickets/\\w-\\d+"));
        String number = number(halvard);

        Page ada = stage.as("Ada Brandvold");
        ada.navigate(stage.address() + "/tickets/" + number);
        assertThat(ada.getByText("Halvard Quist for Mira Solheim").first()).isVisible();
    }

    /** N87: raising, starting by hand and deciding on a phone; nothing is wider than the screen. */
    @Test
    void aTicketIsRaisedStartedAndDecidedOnAPhone() {
        stage.publish("""
                workflow by-phone "By phone" for incident
                  owner ines
                ok: approve "Send the spare crew?" by any one of group duty-managers within 1 h
                  shows ticket.title
                  sets off "send the spare crew"
                  declined -> no
                  lapsed -> no
                yes: done "sent"
                no: done "not sent"
                """);
        Page ada = stage.phone("Ada Brandvold");
        Browser.raise(ada, "The night crew is one short");
        fits(ada);
        Browser.start(ada, "by-phone");
        assertThat(ada.getByText("Send the spare crew?").first()).isVisible();
        fits(ada);
        Page teo = stage.phone("Teo Marchetti");
        teo.getByText("Send the spare crew?").first().click();
        fits(teo);
        starting(teo, "Approve and send the spare crew").click();
        assertThat(ada.getByText("The run ended: sent")).isVisible();
        fits(ada);
    }

    /** R9, R10: no word and no text, however long, pushes what is asked off the screen. */
    @Test
    void longWordsAndTextsLeaveThePageItsWidthAndTheButtonsInSight() {
        stage.publish("""
                workflow long-words "Long words" for incident
                  owner ines
                look: ask group pier-technicians "Look at the pier" within 1 h: "Looked"
                over: done "looked"
                """);
        Page ada = stage.phone("Ada Brandvold");
        Browser.go(ada, "Tickets");
        Browser.button(ada, "Raise a ticket").click();
        ada.getByLabel("What is the matter, in one line").fill("Pier" + "x".repeat(200));
        ada.getByLabel("More about it").fill("A long story. ".repeat(220));
        Browser.button(ada, "Raise it").click();
        ada.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        String number = ada.url().replaceAll(".*/", "");
        Browser.start(ada, "long-words");
        assertThat(ada.getByText("Look at the pier").first()).isVisible();
        fits(ada);
        assertThat(ada.getByText(Pattern.compile("show all [\\d,]+ characters")).first())
                .isVisible();
        Page runa = stage.phone("Runa Feld");
        runa.locator("li button")
                .filter(new Locator.FilterOptions().setHasText(number))
                .filter(new Locator.FilterOptions().setHasText("Look at the pier"))
                .click();
        assertThat(starting(runa, "Looked")).isInViewport();
        fits(runa);
    }

    private static void fits(Page page) {
        int width = (Integer) page.evaluate("document.documentElement.scrollWidth");
        assertThat(width).as("the width of " + page.url()).isLessThanOrEqualTo(390);
    }
}
