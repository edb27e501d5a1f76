package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** From a monitor's word to a ticket that closes itself, and how a source is set up, on the real screens. */
class SignalsTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator matter(Page page, String title) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile(title)))
                .first();
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(
                AriaRole.REGION, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    private static void showWhatIsNew(Page page, String title) {
        Locator more = page.getByText(Pattern.compile("since you look.*: show"));
        Locator row = matter(page, title);
        more.or(row).first().waitFor();
        if (row.count() == 0) {
            more.click();
        }
    }

    /** The whole way (I1, I5, I7): the monitor says it, a trigger takes it up, machines do it, and the page tells why. */
    @Test
    void aFrozenBoardComesInIsSetRightAndIsTold() {
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Signals");
        stage.app.standins().devices().freeze("ALD-05", true);
        showWhatIsNew(ada, "Board 5 at Alder Pier stands still");
        matter(ada, "Board 5 at Alder Pier stands still").click();
        Locator made = region(ada, "What Dastur made of it");
        assertThat(made).containsText("it begins: it was not in fault before");
        assertThat(made).containsText("the CI’s kind is board");
        assertThat(made).containsText("the signal’s picture age is at least 60");
        Locator pane = ada.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("The matter"));
        String number = pane.getByRole(
                        AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^I-\\d+$")))
                .first()
                .textContent();
        ada.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("begins, major")))
                .click();
        assertThat(region(ada, "What came")).containsText("stands still");
        button(ada, "Every trigger, as it stands now…").click();
        assertThat(region(ada, "Every trigger")).containsText("Frozen departure board would start, because");
        assertThat(region(ada, "Every trigger")).containsText("would not start: it listens to another source");
        // It recovers, and the page says so by itself; it stays under the hand until one asks for the new order.
        assertThat(matter(ada, "Board 5 at Alder Pier stands still")).containsText("well again");
        ada.getByText(Pattern.compile("turned.*: show")).click();
        assertThat(ada.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("Matters that are well again")))
                .containsText("Board 5 at Alder Pier stands still");
        pane.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(number))
                .first()
                .click();
        assertThat(ada.getByText("Board monitor raised the ticket")).isVisible();
        assertThat(ada.getByText("Board monitor says that it has recovered")).isVisible();
        assertThat(region(ada, "Signals")).containsText("well again");
        assertThat(ada.getByRole(AriaRole.BANNER).or(ada.locator("header")).first())
                .containsText("closed");
    }

    /** A source from nothing, by somebody who has never seen one (I2–I4); then a trigger on it, in the designer. */
    @Test
    void aSourceIsSetUpItsWordsAreTaughtAndAWorkflowStartsByIt() {
        Page halvard = stage.as("Halvard Quist");
        Browser.go(halvard, "Sources");
        button(halvard, "New source").click();
        halvard.getByLabel("Name").fill("Berth sensors");
        button(halvard, "Make it").click();
        halvard.waitForURL("**/sources/berth-sensors");
        button(halvard, "How to send").click();
        button(halvard, "Make the first secret").click();
        String secret = halvard.locator("code.select-all").textContent();
        assertThat(halvard.locator("pre")).containsText(secret);

        String high = "{\"unit\":\"berth-gw-1\",\"state\":\"HIGH\",\"level\":\"2\",\"cm\":212}";
        assertEquals(401, post("not-the-secret", high));
        assertEquals(202, post(secret, high));
        button(halvard, "What came").click();
        assertThat(halvard.getByText("Signal of Berth sensors").first()).isVisible();
        assertThat(region(halvard, "Refused")).containsText("wrong token");

        button(halvard, "What it means").click();
        Locator meant = region(halvard, "As Dastur understands it");
        row(meant, "CI").click();
        button(halvard, "berth-gw-1").click();
        row(meant, "what is the matter").click();
        Pick.byWords(meant.getByLabel("It comes from"), "a text of ours, with values in {{ }}");
        meant.getByLabel("The text").fill("water is high");
        row(meant, "severity").click();
        button(halvard, "2").click();
        meant.getByText("Add a word").click();
        meant.getByLabel("Word 1 as it comes").fill("2");
        Pick.byWords(meant.getByLabel("What word 1 means"), "major");
        row(meant, "severity").click();
        button(halvard, "212").click();
        assertThat(meant).containsText("is a major fault of the matter berth-gw-1/water is high");
        button(halvard, "Use from now on").click();
        assertThat(button(halvard, "Use from now on")).hasCount(0);
        button(halvard, "What would happen if it came now?").click();
        assertThat(region(halvard, "What would happen")).containsText("It would be kept: nothing takes it up.");

        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/handed-to-the-supplier");
        ines.getByText(Pattern.compile("by hand from an incident")).first().click();
        button(ines, "Add a trigger").click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        Pick.byWords(dialog.getByLabel("When", new Locator.GetByLabelOptions().setExact(true)), "a signal comes");
        Pick.byWords(dialog.getByLabel("From the source"), "Berth sensors");
        Pick.byWords(dialog.getByLabel("At least"), "minor");
        dialog.getByText("as an expression").click();
        dialog.getByLabel("If").fill("signal.cm > 200");
        dialog.getByText("try it on the last 200 signals").count();
        button(ines, "Save").click();
        assertThat(dialog).hasCount(0);

        assertEquals(202, post(secret, high));
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Signals");
        showWhatIsNew(ada, "water is high");
        matter(ada, "water is high").click();
        assertThat(region(ada, "What Dastur made of it")).containsText("Handed to the supplier started");
        assertThat(region(ada, "What Dastur made of it")).containsText("the signal’s cm was 212");
    }

    /** I2: a gate writes to its log; nobody can show that it was the gate, so a person is asked before anything starts. */
    @Test
    void aLineOfSyslogOpensAnIncidentAndASourceOfItIsSetUp() {
        Page halvard = stage.as("Halvard Quist");
        halvard.navigate(stage.address() + "/sources/gate-log?tab=send");
        assertThat(region(halvard, "How to send")).containsText("logger --server 127.0.0.1 --tcp --port");
        Locator from = halvard.getByLabel("They send from");
        from.fill("127.0.0.1, gates.example");
        button(halvard, "Set").click();
        assertThat(halvard.getByText("'gates.example' is neither an address nor a network"))
                .isVisible();
        from.fill("127.0.0.1, 10.30.0.0/16");
        button(halvard, "Set").click();
        assertThat(button(halvard, "Set")).hasCount(0);

        stage.app.standins().gateLog().turn("NSL-G1");
        Page ada = stage.as("Ada Brandvold");
        Browser.go(ada, "Signals");
        showWhatIsNew(ada, "Gate NSL-G1 stands open");
        matter(ada, "Gate NSL-G1 stands open").click();
        Locator pane = ada.getByRole(AriaRole.COMPLEMENTARY, new Page.GetByRoleOptions().setName("The matter"));
        pane.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^I-\\d+$")))
                .first()
                .click();
        assertThat(ada.getByText("Gates, by syslog raised the ticket")).isVisible();
        assertThat(ada.getByText(Pattern.compile("Start “?Gate lane stuck open"))
                        .first())
                .isVisible();
    }

    /** I7, I8: a storm is rows of matters; what one looks at stays under the hand, and the desk of another goes on. */
    @Test
    void aBadNightPushesNothingAway() throws IOException, InterruptedException {
        Page ada = stage.as("Ada Brandvold");
        Page teo = stage.as("Teo Marchetti");
        stage.app.standins().devices().needsPart("NSL-08", true);
        Browser.go(ada, "Signals");
        showWhatIsNew(ada, "Board 8 at North Slip stands still");
        matter(ada, "Board 8 at North Slip stands still").click();
        Locator list = ada.getByRole(
                AriaRole.LIST, new Page.GetByRoleOptions().setName("Matters").setExact(true));
        int rows = list.getByRole(AriaRole.LISTITEM).count();
        try (HttpClient client = HttpClient.newHttpClient()) {
            client.send(
                    HttpRequest.newBuilder(URI.create(stage.app.standins().address() + "/night"))
                            .header("Content-Type", "application/x-www-form-urlencoded")
                            .POST(HttpRequest.BodyPublishers.ofString("seconds=10"))
                            .build(),
                    HttpResponse.BodyHandlers.discarding());
        }
        assertThat(ada.getByText(Pattern.compile("3\\d more matters since you look")))
                .isVisible();
        assertThat(list.getByRole(AriaRole.LISTITEM)).hasCount(rows);
        assertThat(ada.locator("button[aria-current=true]")).containsText("Board 8 at North Slip stands still");
        Browser.go(teo, "Tickets");
        teo.getByText("Board 1 at Alder Pier stands still").first().waitFor();
        Browser.go(teo, "Desk");
        assertThat(ada.getByText(Pattern.compile("5,?\\d{3} signals in the last six hours")))
                .isVisible();
        ada.getByText(Pattern.compile("since you look.*: show")).click();
        assertThat(matter(ada, "A board stands still")).isVisible();
    }

    private static Locator row(Locator in, String label) {
        return in.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(Pattern.compile("^" + label)))
                .first();
    }

    private static void assertEquals(int expected, int is) {
        org.junit.jupiter.api.Assertions.assertEquals(expected, is);
    }

    private static int post(String secret, String body) {
        try (HttpClient client = HttpClient.newHttpClient()) {
            HttpRequest request = HttpRequest.newBuilder(URI.create(stage.address() + "/in/berth-sensors"))
                    .header("Authorization", "Bearer " + secret)
                    .header("Content-Type", "application/json")
                    .POST(HttpRequest.BodyPublishers.ofString(body))
                    .build();
            return client.send(request, HttpResponse.BodyHandlers.discarding()).statusCode();
        } catch (IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }
}
