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
import java.time.Duration;
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

    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
        stage.publish(LOOKED_AT);
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Locator region(Page page, String name) {
        return page.getByRole(
                AriaRole.REGION, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    private static void openTriggers(Page page) {
        page.navigate(stage.address() + "/workflows/kiosks-looked-at");
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
        openTriggers(ines);
        Locator dialog = ines.getByRole(AriaRole.DIALOG);
        choose(ines, "When", "time comes");
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("Next");
        choose(ines, "How often", "hourly");
        assertThat(dialog.getByRole(AriaRole.STATUS)).containsText("each of them is kept as a routine of its own");
        dialog.getByLabel("First day").fill("today");
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
        assertThat(line)
                .containsText(
                        "under way",
                        new com.microsoft.playwright.assertions.LocatorAssertions.ContainsTextOptions()
                                .setTimeout(20_000));
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
        long end = System.nanoTime() + Duration.ofSeconds(20).toNanos();
        while (stage.app.app().starts().schedules().stand().keySet().stream()
                .noneMatch(t -> t.value().startsWith(workflow))) {
            org.junit.jupiter.api.Assertions.assertTrue(System.nanoTime() < end, "nobody keeps its time");
            java.util.concurrent.locks.LockSupport.parkNanos(20_000_000);
        }
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
