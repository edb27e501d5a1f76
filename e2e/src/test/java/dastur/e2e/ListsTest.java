package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Download;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.nio.file.Files;
import java.util.List;
import java.util.regex.Pattern;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Many tickets, gone through by keys, put in order, narrowed down and taken along; anything found from anywhere. */
class ListsTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static List<String> numbers(Page page) {
        return page.locator("tr[data-ticket]").all().stream()
                .map(r -> r.getAttribute("data-ticket"))
                .toList();
    }

    private static Locator head(Page page, String name) {
        return page.getByRole(AriaRole.COLUMNHEADER, new Page.GetByRoleOptions().setName(name));
    }

    @Test
    void aListIsPutInOrderGoneThroughByKeysAndTakenAlong() throws IOException {
        Page teo = stage.as("Teo Marchetti");
        Browser.go(teo, "Tickets");
        assertThat(head(teo, "Clock")).hasAttribute("aria-sort", "ascending");
        head(teo, "Number").getByRole(AriaRole.BUTTON).click();
        assertThat(head(teo, "Number")).hasAttribute("aria-sort", "descending");
        teo.waitForURL(Pattern.compile(".*order.*number-last.*"));
        head(teo, "Number").getByRole(AriaRole.BUTTON).click();
        assertThat(head(teo, "Number")).hasAttribute("aria-sort", "ascending");
        assertThat(teo.locator("tr[data-ticket]").first()).hasAttribute("data-ticket", Pattern.compile("C-.*"));
        List<String> listed = numbers(teo);
        assertThat(listed).isSorted().hasSizeGreaterThan(3);

        // What is taken along is what is listed, in the same order.
        Download taken = teo.waitForDownload(
                () -> teo.getByRole(AriaRole.LINK, new Page.GetByRoleOptions().setName("Save as CSV"))
                        .click());
        List<String> lines = Files.readAllLines(taken.path());
        assertThat(lines.stream().skip(1).map(l -> l.substring(0, l.indexOf(','))))
                .isEqualTo(listed);

        teo.keyboard().press("j");
        teo.keyboard().press("j");
        teo.keyboard().press("x");
        assertThat(teo.getByText("1 ticket chosen")).isVisible();
        teo.keyboard().press("o");
        teo.waitForURL("**/tickets/" + listed.get(1));

        // Going back brings the list as it was.
        teo.goBack();
        assertThat(head(teo, "Number")).hasAttribute("aria-sort", "ascending");
    }

    @Test
    void anythingIsFoundFromAnywhere() {
        Page ada = stage.as("Ada Brandvold");
        ada.keyboard().press("Control+k");
        ada.getByPlaceholder("A ticket, workflow, person, CI, place…").fill("connections");
        ada.keyboard().press("Enter");
        ada.waitForURL("**/automation");
        ada.keyboard().press("Control+k");
        ada.getByPlaceholder("A ticket, workflow, person, CI, place…").fill("ALD-G2");
        assertThat(ada.getByRole(AriaRole.OPTION).first()).containsText("ALD-G2");
        ada.keyboard().press("Enter");
        ada.waitForURL("**/cis/ALD-G2");
        ada.keyboard().press("Control+k");
        ada.getByPlaceholder("A ticket, workflow, person, CI, place…").fill("new incident");
        ada.keyboard().press("Enter");
        assertThat(ada.getByRole(AriaRole.DIALOG)).containsText("Raise a ticket");
    }
}
