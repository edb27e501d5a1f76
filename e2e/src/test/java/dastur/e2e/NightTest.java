package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Page;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import java.time.Duration;
import java.time.LocalTime;
import java.time.ZoneId;
import java.time.ZonedDateTime;
import java.util.List;
import org.junit.jupiter.api.Test;

/** N20: working time stands still over the night, on a clock that the test moves. */
class NightTest {
    private static final ZoneId OSLO = ZoneId.of("Europe/Oslo");

    /** The piers close at 23:30 and open at 5:00: a rung an hour after 23:00 is due at 5:30. */
    @Test
    void aLadderStandsStillWhileThePierIsClosed() {
        try (Stage stage = new Stage()) {
            stage.app
                    .app()
                    .design()
                    .workflows()
                    .putLadder(new Ladder(
                            new LadderKey("pier-hours"),
                            "In pier hours",
                            List.of(new Rung(Span.parse("1 working h"), new Rung.RaisePriority()))));
            stage.publish("""
                    workflow over-night "Over night" for incident
                      owner ines
                    look: ask group pier-technicians "Look in the morning" within 4 working h: "Looked"
                      ladder pier-hours
                      "Looked" -> end
                    end: done "looked"
                    """);
            until(stage, LocalTime.of(23, 0));
            Page ada = stage.as("Ada Brandvold");
            Browser.go(ada, "Tickets");
            button(ada, "Raise a ticket").click();
            ada.getByLabel("What is the matter, in one line").fill("A lamp at the gate flickers");
            Pick.choose(ada.getByLabel("Service", new Page.GetByLabelOptions().setExact(true)), "ticket-gates");
            Pick.choose(ada.getByLabel("For whom"), "mira");
            button(ada, "Raise it").click();
            Browser.start(ada, "over-night");
            assertThat(ada.getByText("05:30: raises the priority").first()).isVisible();

            until(stage, LocalTime.of(5, 20));
            note(ada, "Still dark at the pier.");
            // Whatever is due is done before the note is taken in: nothing was.
            assertThat(ada.getByText("Rung 1")).hasCount(0);

            until(stage, LocalTime.of(5, 31));
            assertThat(ada.getByText("Rung 1").first()).isVisible();
            assertThat(ada.locator("header")).containsText("P2");
        }
    }

    private static void until(Stage stage, LocalTime time) {
        ZonedDateTime now = stage.clock.instant().atZone(OSLO);
        ZonedDateTime then = now.with(time);
        stage.clock.pass(Duration.between(now, then.isAfter(now) ? then : then.plusDays(1)));
    }

    private static void note(Page page, String text) {
        button(page, "Add a note").click();
        page.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)).fill(text);
        button(page, "Add it to the record").click();
        assertThat(page.getByText(text).first()).isVisible();
    }
}
