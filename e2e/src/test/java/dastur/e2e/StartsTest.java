package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.TimeoutError;
import com.microsoft.playwright.assertions.LocatorAssertions;
import com.microsoft.playwright.options.AriaRole;
import dastur.standins.Mailbox;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.time.Duration;
import java.util.Set;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A workflow that starts by its time, one that a program starts, and what comes of both, on the real screens. */
class StartsTest {
    private static final String LOOKED_AT = """
            workflow kiosks-looked-at "Kiosks looked at" for routine
              owner ines
              asks site: text "Site" required

            look: ask group pier-technicians "Walk past the kiosks" within 1 h: "All well"
              say "At {{ input.site }}."

            done: done "looked at"
            """;

    private static final String HURRIES = """
            workflow more-hands "More hands" for incident
              owner ines

            look: ask group duty-managers "Are more hands needed?": "No"

            done: done "looked at"
            """;

    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
        stage.publish(LOOKED_AT);
        stage.publish(HURRIES);
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(
                AriaRole.REGION, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    private static void openTriggers(Page page, String workflow) {
        page.navigate(stage.address() + "/workflows/" + workflow);
        page.locator("main button.link").first().click();
        page.getByRole(AriaRole.DIALOG).waitFor();
    }

    private static void choose(Page page, String label, String value) {
        Pick.choose(
                page.getByRole(AriaRole.DIALOG)
                        .getByLabel(label, new Locator.GetByLabelOptions().setExact(true))
                        .first(),
                value);
    }

    /** A schedule from nothing (I10): what comes next is told before it is saved, and it starts when its time has come. */
    @Test
    void aScheduleIsSetItsTimeComesAndItsRoutineIsFinished() {
        Page ines = stage.as("Ines");
        openTriggers(ines, "kiosks-looked-at");
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        choose(ines, "When", "time comes");
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("Next");
        choose(ines, "How often", "hourly");
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("each of them is kept as a routine of its own");
        dialog.getByLabel("First day").fill("today");
        // Also by night there is one within the hour.
        dialog.getByLabel("Time", new Locator.GetByLabelOptions().setExact(true))
                .fill("00:00");
        dialog.getByLabel("What the ticket is called").fill("Kiosks, every hour");
        // The start form is asked for here: nobody is there later who could fill it in.
        dialog.getByLabel("Site: value").fill("Alder Pier");
        button(ines, "Save").click();
        dialog.waitFor(
                new Locator.WaitForOptions().setState(com.microsoft.playwright.options.WaitForSelectorState.DETACHED));
        Browser.go(ines, "Starts");
        Locator line = region(ines, "Schedules")
                .getByRole(AriaRole.LISTITEM)
                .filter(new Locator.FilterOptions().setHasText("Kiosks, every hour"));
        assertThat(line).containsText("every hour from");
        assertThat(line).containsText("has not come yet");
        waitUntilCounted("kiosks-looked-at");
        stage.clock.pass(Duration.ofHours(1));
        assertThat(line).containsText("under way", soon());
        String number = line.getByRole(
                        AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^T-\\d+$")))
                .textContent();
        Page runa = stage.as("Runa");
        Browser.go(runa, "Desk");
        runa.getByText("Walk past the kiosks").first().click();
        button(runa, "All well").first().click();
        line.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName("Kiosks, every hour"))
                .click();
        assertThat(region(ines, "What became of its times")).containsText("finished");
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName(number))
                .first()
                .click();
        assertThat(ines.getByText("Its time had come").first()).isVisible();
        assertThat(ines.locator("header").first()).containsText("routine");
        // Nobody waits for it: it stands in no list but its own.
        Browser.go(ines, "Tickets");
        assertThat(ines.getByText("Kiosks, every hour")).hasCount(0);
        Browser.go(ines, "Starts");
        ines.getByRole(
                        AriaRole.LINK,
                        new Page.GetByRoleOptions().setName("Routines").setExact(true))
                .click();
        assertThat(ines.getByText("Kiosks, every hour").first()).isVisible();
    }

    /** Nothing is moved on before the schedule is known to whoever keeps the time. */
    private static void waitUntilCounted(String workflow) {
        becomes("somebody keeps its time", () -> stage.app.app().starts().schedules().stand().keySet().stream()
                .anyMatch(t -> t.value().startsWith(workflow)));
    }

    private static void becomes(String what, BooleanSupplier so) {
        long end = System.nanoTime() + Duration.ofSeconds(30).toNanos();
        while (!so.getAsBoolean()) {
            org.junit.jupiter.api.Assertions.assertTrue(System.nanoTime() < end, what);
            LockSupport.parkNanos(20_000_000);
        }
    }

    /** A clock of a ticket has run so far (I12): nobody sets a field, and what is to be done about it starts all the same. */
    @Test
    void aPartOfTheTimeToRestoreStartsWhatListensToIt() {
        Page ines = stage.as("Ines");
        openTriggers(ines, "more-hands");
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        choose(ines, "When", "clock reaches");
        dialog.getByLabel("Percent of it that has passed").fill("75");
        assertThat(dialog).containsText("when 75 % of the time to restore an incident has passed");
        button(ines, "Save").click();
        dialog.waitFor(
                new Locator.WaitForOptions().setState(com.microsoft.playwright.options.WaitForSelectorState.DETACHED));
        Page ada = stage.as("Ada");
        Browser.go(ada, "Tickets");
        button(ada, "Raise a ticket").click();
        ada.getByLabel("What is the matter, in one line").fill("Gate 2 at Alder Pier stands open, for Mira");
        ada.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Gate 2 at Alder Pier"))
                .click();
        ada.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("for Mira Solheim"))
                .click();
        assertThat(ada.getByLabel("Service")).hasAttribute("data-value", "ticket-gates");
        Pick.choose(ada.getByLabel("Impact"), "1");
        Pick.choose(ada.getByLabel("Urgency"), "2");
        button(ada, "Raise it").click();
        ada.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
        stage.clock.pass(Duration.ofHours(5));
        assertThat(ada.getByText("of the time to restore has passed").first())
                .isVisible(new LocatorAssertions.IsVisibleOptions().setTimeout(20_000));
        assertThat(ada.getByText("Are more hands needed?").first()).isVisible();
    }

    /** I27: of fourteen boards that freeze at once ten are set right by machines; for the rest somebody says so, once for all. */
    @Test
    void whatStartsTooOftenIsHeldBackAndStartedByOneAnswer() {
        Page ines = stage.as("Ines Okafor-Lind");
        stage.app.standins().devices().freezeAll("ALD-GW1");
        Browser.go(ines, "Starts");
        Locator held = region(ines, "Held back");
        assertThat(held).containsText("4 starts are held back", soon());
        Browser.go(ines, "Desk");
        assertThat(ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("4 starts are held back")))
                .isVisible();
        Browser.go(ines, "Starts");
        held.getByRole(AriaRole.BUTTON).click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        assertThat(dialog.getByRole(AriaRole.LISTITEM)).hasCount(4);
        String first =
                dialog.getByRole(AriaRole.LISTITEM).first().locator("label").textContent();
        dialog.getByLabel("Why (if you like)").fill("All of them stand still");
        dialog.getByRole(
                        AriaRole.BUTTON,
                        new Locator.GetByRoleOptions()
                                .setName("Start it on 4 tickets")
                                .setExact(true))
                .click();
        assertThat(dialog).hasCount(0);
        assertThat(held).hasCount(0);
        // The record says who let it start, and why; the machines have begun.
        ines.navigate(stage.address() + "/tickets/" + first);
        assertThat(ines.getByText("All of them stand still").first()).isVisible();
        assertThat(ines.getByText("Read the board's log").first()).isVisible();
    }

    /** A program calls (I9): its page says how, a token is made once, a wrong value is named, and the call stands there. */
    @Test
    void aHookIsCalledByItsExampleAndAWrongValueIsNamed() throws IOException, InterruptedException {
        Page ines = stage.as("Ines");
        Browser.go(ines, "Starts");
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Booking site answers slowly"))
                .click();
        button(ines, "Make the second token").click();
        String token = region(ines, "Tokens").locator("code.select-all").textContent();
        assertThat(region(ines, "How to call it")).containsText(token);
        org.junit.jupiter.api.Assertions.assertEquals(422, call(token, "{\"page\":\"/book\",\"seconds\":\"slow\"}"));
        org.junit.jupiter.api.Assertions.assertEquals(202, call(token, "{\"page\":\"/book\",\"seconds\":14}"));
        Locator calls = region(ines, "Calls");
        assertThat(calls).containsText("'Seconds to answer' must be a number.");
        calls.getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(Pattern.compile("^I-\\d+$")))
                .first()
                .click();
        assertThat(ines.locator("header").first()).containsText("Booking site: /book takes 14");
        assertThat(ines.getByText("A program called its address")).isVisible();
    }

    /** A watch from nothing (I11): its rule is chosen, tried, and what turns opens an incident that says what was read. */
    @Test
    void aWatchIsMadeTriedAndWhatItSeesIsTold() {
        Page ines = stage.as("Ines");
        Browser.go(ines, "Starts");
        button(ines, "New watch").click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        dialog.getByLabel("What is the matter when it holds").fill("A kiosk is silent");
        choose(ines, "It looks by", "kiosk.heard");
        dialog.getByLabel("Every", new Locator.GetByLabelOptions().setExact(true))
                .fill("10 s");
        dialog.getByLabel("Something is the matter when: than").fill("20");
        button(ines, "Look once").click();
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("It does not hold. Minutes: 2");
        button(ines, "Make it").click();
        ines.waitForURL("**/watches/a-kiosk-is-silent");
        assertThat(region(ines, "What it saw")).containsText("nothing to do", soon());
        stage.app.standins().kiosks().fallSilent(true);
        assertThat(region(ines, "What it saw")).containsText("holds", soon());
        assertThat(region(ines, "What it saw")).containsText("minutes 35");
        assertThat(ines.locator("header").first()).containsText("in fault");
        // One opens to its readings as soon as there are two of them.
        ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Each reading since"))
                .first()
                .click();
        assertThat(ines.getByRole(AriaRole.LIST, new Page.GetByRoleOptions().setName("Each reading"))
                        .first())
                .containsText("minutes");
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Its signals"))
                .click();
        assertThat(ines.getByText("A kiosk is silent").first()).isVisible();
        stage.app.standins().kiosks().fallSilent(false);
        Browser.go(ines, "Tickets");
        assertThat(ines.getByText("A kiosk is silent").first()).isVisible();
    }

    /** What another system holds to be the matter, row by row (I2): each has an incident of its own, on its own CI. */
    @Test
    void aListIsWatchedRowByRow() {
        Page ines = stage.as("Ines");
        Browser.go(ines, "Starts");
        button(ines, "New watch").click();
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        dialog.getByLabel("What is the matter when it holds").fill("No paper");
        choose(ines, "It looks by", "kiosk.paper");
        dialog.getByLabel("Every", new Locator.GetByLabelOptions().setExact(true))
                .fill("10 s");
        dialog.getByLabel("A row is known again by its").fill("number");
        dialog.getByLabel("Its CI stands in (if anywhere)").fill("kiosk");
        dialog.getByLabel("Something is the matter when: member of the row").fill("metres");
        dialog.getByLabel("Something is the matter when: than").fill("20");
        choose(ines, "Something is the matter when: how", "<");
        button(ines, "Look once").click();
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("Row 1 has no 'number'");
        dialog.getByLabel("A row is known again by its").fill("kiosk");
        button(ines, "Look once").click();
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("Of 12 rows: none");
        button(ines, "Make it").click();
        ines.waitForURL("**/watches/no-paper");
        assertThat(region(ines, "What it saw")).containsText("nothing to do", soon());
        stage.app.standins().kiosks().useUpPaper(Set.of("kiosk-06", "kiosk-08"));
        assertThat(ines.locator("main")).containsText("Something is the matter with kiosk-06, kiosk-08.", soon());
        ines.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Its signals"))
                .click();
        assertThat(ines.locator("main")).containsText("No paper: kiosk-06");
        stage.app.standins().kiosks().useUpPaper(Set.of());
        Browser.go(ines, "Tickets");
        ines.getByText("No paper: kiosk-08").first().click();
        assertThat(ines.locator("main")).containsText("kiosk-08");
    }

    /** Mail of machines (I2): a source is made, which words of its mails mean what is said on one that came, and the next is understood. */
    @Test
    void mailOfMachinesBecomesIncidents() {
        Page halvard = stage.as("Halvard");
        Browser.go(halvard, "Sources");
        button(halvard, "New source").click();
        Locator dialog = halvard.getByRole(AriaRole.DIALOG);
        dialog.getByLabel("Name").fill("Heating of the crew huts");
        choose(halvard, "How its senders show who they are", "mail");
        dialog.getByLabel("The address that they write to").fill("dastur@kestrel.example");
        button(halvard, "Make it").click();
        assertThat(dialog).containsText("the desk's own address");
        dialog.getByLabel("The address that they write to").fill("heating@kestrel.example");
        button(halvard, "Make it").click();
        halvard.waitForURL("**/sources/heating-of-the-crew-huts**");
        button(halvard, "How to send").click();
        assertThat(halvard.getByText("Nothing is taken yet")).isVisible();
        halvard.getByLabel("It is taken of").fill("@huts.kestrel.example");
        button(halvard, "Set").click();
        assertThat(halvard.getByText("Nothing is taken yet")).hasCount(0);
        region(halvard, "What becomes of it").waitFor();
        Pick.choose(region(halvard, "What becomes of it").getByLabel("Faults that no trigger takes up"), "incident");

        Mailbox mailbox = stage.app.standins().mailbox();
        mailbox.machine("north@huts.kestrel.example", "heating@kestrel.example", "COLD: hut at NSL-02", "4 degrees");
        button(halvard, "What came").click();
        Browser.reloadUntil(halvard, halvard.locator("main").getByText("COLD: hut at NSL-02"));
        button(halvard, "What it means").click();
        Locator rows = region(halvard, "As Dastur understands it");
        rows.getByRole(AriaRole.BUTTON, new Locator.GetByRoleOptions().setName(Pattern.compile("^sort")))
                .click();
        halvard.getByLabel("Only the part of it that fits (empty: all of it)").fill("^(");
        assertThat(halvard.getByText("no regular expression").first()).isVisible();
        halvard.getByLabel("Only the part of it that fits (empty: all of it)").fill("^(COLD|WARM)");
        assertThat(halvard.locator("main")).containsText("where ^(COLD|WARM) fits");
    }

    /** A sender that has died (I2): an administrator asks to be told, and its page says that it is silent. */
    @Test
    void theSilenceOfASourceIsTold() {
        Page halvard = stage.as("Halvard");
        halvard.navigate(stage.address() + "/sources/board-monitor?tab=send");
        Locator rules = region(halvard, "What becomes of it");
        Pick.choose(rules.getByLabel("When nothing comes from it"), "60");
        assertThat(rules).containsText("that is a fault after 60 min");
        Locator silent = halvard.locator("header").getByText("silent");
        // It counts from when somebody first listens for it, which is a moment after it was set.
        for (int hours = 0; hours < 10 && !silent.isVisible(); hours++) {
            stage.clock.pass(Duration.ofMinutes(61));
            halvard.reload();
            try {
                silent.waitFor(new Locator.WaitForOptions().setTimeout(3_000));
            } catch (TimeoutError notYet) {
                // Another hour, then.
            }
        }
        assertThat(silent).isVisible();
        Browser.go(halvard, "Tickets");
        assertThat(halvard.getByText("Nothing comes from Board monitor").first())
                .isVisible();
    }

    private static LocatorAssertions.ContainsTextOptions soon() {
        return new LocatorAssertions.ContainsTextOptions().setTimeout(30_000);
    }

    /** The harbour office is told (I17): what is taken, what is not, and what is sent again by hand. */
    @Test
    void aSubscriptionIsTriedToldAndSaysWhatWasNotTaken() {
        Page halvard = stage.as("Halvard");
        Browser.go(halvard, "Subscriptions");
        halvard.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Harbour office"))
                .click();
        button(halvard, "Try its address").click();
        assertThat(halvard.getByText("The address takes events.")).isVisible();
        stage.app.standins().faults().set("office", dastur.standins.Faults.Fault.DOWN);
        Page ada = stage.as("Ada Brandvold");
        Browser.raise(ada, "The crane is stuck");
        String event = ada.url().substring(ada.url().lastIndexOf('/') + 1) + "/1";
        Locator all = region(halvard, "What became of events");
        assertThat(all).containsText("not taken yet · It answered 503.", soon());
        assertThat(halvard.locator("header").first()).containsText("tried again in");
        stage.app.standins().faults().set("office", dastur.standins.Faults.Fault.NONE);
        // Other tests have raised tickets as well, of which the office is told with this one.
        Locator again = halvard.getByRole(
                AriaRole.BUTTON,
                new Page.GetByRoleOptions().setName("Send again: " + event).setExact(true));
        Locator became = all.getByRole(AriaRole.LISTITEM).filter(new Locator.FilterOptions().setHas(again));
        assertThat(became).containsText(Pattern.compile("(?<!not )taken"), soon());
        again.click();
        // The office remembers the last few that it heard: this one is the last now.
        becomes("the office has heard of it", () -> stage.app.standins().office().heard().values().stream()
                .anyMatch(v -> v.contains("The crane is stuck")));
    }

    private static int call(String token, String body) throws IOException, InterruptedException {
        return HttpClient.newHttpClient()
                .send(
                        HttpRequest.newBuilder(URI.create(stage.address() + "/in/hooks/booking-site-slow-hook"))
                                .header("Authorization", "Bearer " + token)
                                .header("Content-Type", "application/json")
                                .POST(HttpRequest.BodyPublishers.ofString(body))
                                .build(),
                        HttpResponse.BodyHandlers.discarding())
                .statusCode();
    }
}
