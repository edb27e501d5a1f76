package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.assertions.LocatorAssertions.IsVisibleOptions;
import com.microsoft.playwright.options.AriaRole;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.server.TwoNodes;
import dastur.server.auth.Secrets;
import dastur.store.Database;
import dastur.store.Organisation;
import java.nio.file.Path;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** People at two nodes of one application: each sees what the other does, and who was at a node that dies works on at the other. */
class TwoNodesTest {
    private static final String PASSWORD = "two nodes, one record";
    /** K9: so long, in milliseconds, until who was at the dead node goes on. */
    private static final double SOON = 10_000;

    @TempDir
    Path folder;

    private static void accounts(Database database) {
        Organisation organisation = new Organisation(database);
        organisation.putPerson(
                new Person(new PersonId("ada"), "Ada Brandvold", "ada@kestrel.example", Set.of(Role.AGENT), true),
                Secrets.hashPassword(PASSWORD));
        organisation.putPerson(
                new Person(new PersonId("runa"), "Runa Feld", "runa@kestrel.example", Set.of(Role.AGENT), true),
                Secrets.hashPassword(PASSWORD));
    }

    @Test
    void eachSeesWhatTheOtherDoesAndADeadNodeStopsNobody() {
        try (TwoNodes nodes = new TwoNodes(folder, TwoNodesTest::accounts);
                Browser browser = new Browser()) {
            Page ada = browser.signIn(nodes.address(0), "ada", PASSWORD);
            Page runa = browser.signIn(nodes.address(1), "runa", PASSWORD);
            Browser.go(ada, "Tickets");
            button(ada, "Raise a ticket").click();
            ada.getByLabel("What is the matter, in one line").fill("The gate at the east pier stands open");
            button(ada, "Raise it").click();
            ada.waitForURL("**/tickets/I-1001");
            runa.navigate(nodes.address(1) + "/tickets/I-1001");
            assertThat(runa.getByRole(
                            AriaRole.HEADING, new Page.GetByRoleOptions().setName("The gate at the east pier")))
                    .isVisible();
            // Nobody reloads: node 1 hears of what was written by node 0.
            note(ada, "The arm does not move.");
            assertThat(runa.getByText("The arm does not move.")).isVisible(new IsVisibleOptions().setTimeout(SOON));

            // Through the proxy, as people would: whichever node it was, it dies under the page.
            Page through = browser.signIn(nodes.address(), "ada", PASSWORD);
            through.navigate(nodes.address() + "/tickets/I-1001");
            assertThat(through.getByText("The arm does not move.")).isVisible();
            nodes.kill(0);
            note(through, "Somebody is on the way.");
            assertThat(through.getByText("Somebody is on the way.")).isVisible(new IsVisibleOptions().setTimeout(SOON));
            assertThat(runa.getByText("Somebody is on the way.")).isVisible(new IsVisibleOptions().setTimeout(SOON));
            nodes.startAgain(0);
            nodes.kill(1);
            note(through, "The arm moves again.");
            assertThat(through.getByText("The arm moves again.")).isVisible(new IsVisibleOptions().setTimeout(SOON));
        }
    }

    private static com.microsoft.playwright.Locator button(Page page, String name) {
        return page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name));
    }

    private static void note(Page page, String text) {
        button(page, "Add a note").click();
        page.getByLabel("Note", new Page.GetByLabelOptions().setExact(true)).fill(text);
        button(page, "Add it to the record").click();
    }
}
