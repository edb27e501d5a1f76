package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static dastur.e2e.Browser.button;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** A workflow as text beside its route: both are one thing, changed from either side (B9). */
class TextTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Page opened() {
        Page ines = stage.as("Ines Okafor-Lind");
        ines.navigate(stage.address() + "/workflows/gate-lane-stuck-open");
        ines.locator("[data-step]").first().waitFor();
        ines.keyboard().press("t");
        ines.getByLabel("Notation").waitFor();
        return ines;
    }

    private static Locator line(Page page, String words) {
        return page.locator(".cm-line").filter(new Locator.FilterOptions().setHasText(words));
    }

    @Test
    void whatIsTypedIsOnTheRouteAndWhatIsChangedThereIsInTheText() {
        Page ines = opened();
        line(ines, "look: ask").click();
        assertThat(ines.locator("[data-step=look][aria-current=true], [data-step=look][aria-selected=true]"))
                .hasCount(1);
        line(ines, "approve: approve").click();
        ines.keyboard().press("Home");
        ines.keyboard().insertText("more: wait 10 min as \"Let it cool\"\n\n");
        assertThat(ines.locator("[data-step=more]")).isVisible();
        ines.getByLabel("Undo").click();
        assertThat(ines.locator("[data-step=more]")).hasCount(0);
        assertThat(line(ines, "more: wait")).hasCount(0);
    }

    @Test
    void whatCannotBeReadStaysIsSaidAtItsLineAndOverwritesNothing() {
        Page ines = opened();
        line(ines, "look: ask").click();
        ines.keyboard().press("Home");
        ines.keyboard().insertText("nonsense here\n");
        Locator said = ines.getByRole(AriaRole.REGION, new Page.GetByRoleOptions().setName("Text"))
                .getByRole(AriaRole.ALERT);
        assertThat(said).containsText("Line ");
        assertThat(ines.locator(".cm-lint-marker-error").first()).isVisible();
        assertThat(ines.locator("[data-step=look]")).isVisible();

        // It outlives the pane, and is not taken over by itself when it is opened again.
        ines.getByLabel("Close the text").click();
        button(ines, "Text").click();
        assertThat(ines.getByText("This was typed here before and is not on the route."))
                .isVisible();
        assertThat(line(ines, "nonsense here")).hasCount(1);
        button(ines, "Show the route’s text").click();
        line(ines, "look: ask").click();
        ines.keyboard().press("Home");
        ines.keyboard().insertText("nonsense here\n");
        said.waitFor();

        // Somebody removes a row meanwhile: neither overwrites the other unasked.
        ines.locator("[data-step=close]").first().click();
        ines.keyboard().press("Delete");
        assertThat(ines.getByText("Which of the two is right?")).isVisible();
        assertThat(line(ines, "nonsense here")).hasCount(1);
        button(ines, "Show the route’s text").click();
        assertThat(line(ines, "nonsense here")).hasCount(0);
        ines.getByLabel("Undo").click();
    }
}
