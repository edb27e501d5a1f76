package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Every dialog holds the focus, has a name, keeps nobody out, and goes with Esc (B7, B11). */
class DialogsTest {
    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    @Test
    void ofThoseWhoWorkOnTickets() {
        walk(
                "Ada Brandvold",
                "/tickets | Raise a ticket",
                "/tickets/I-1046 | Start a workflow…",
                "/tickets/I-1046 | Change…",
                "/tickets/I-1046 | Close…",
                "/tickets/I-1046 | Add a note",
                "/tickets/I-1046 | Link…");
    }

    @Test
    void ofProcessOwners() {
        walk(
                "Ines Okafor-Lind",
                "/tickets/I-1044 | intervene…",
                "/workflows | New workflow",
                "/workflows | Order of triggers…",
                "/workflows/gate-lane-stuck-open | About",
                "/workflows/gate-lane-stuck-open | Versions",
                "/workflows/gate-lane-stuck-open | from a document",
                "/on-call | New rota",
                "/on-call | New ladder",
                "/on-call | In my calendar…",
                "/on-call | Who would be reached…",
                "/on-call | Somebody stands in…");
    }

    @Test
    void ofSettingUp() {
        walk(
                "Halvard Quist",
                "/people | New account",
                "/people | New group",
                "/people | From CSV",
                "/services | New service",
                "/services | New CI",
                "/services | CIs from CSV…",
                "/services | Fields…",
                "/services | New calendar",
                "/automation | New action",
                "/automation | New connection",
                "/automation | Test… Sales ledger",
                "/automation | New secret",
                "/actions/lane.close | Withdraw… version 1",
                "/actions/machine.launch | Change…",
                "/automation/zones | New zone",
                "/automation/zones | Add a relay to Mooring Data Room",
                "/automation/zones | Let go of mdr-relay-1",
                "/sources | New source",
                "/starts | New watch",
                "/starts | Start now: Fares not on every kiosk",
                "/partners | New partner",
                "/partners/lane-supplier | Take over what is open there…",
                "/subscriptions | New subscription");
    }

    @Test
    void ofTheMenuUnderOnesName() {
        Page ines = stage.as("Ines Okafor-Lind");
        for (String item :
                List.of("When I am away…", "How I am reached…", "Let an administrator help…", "My API tokens…")) {
            ines.navigate(stage.address() + "/desk");
            ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Ines Okafor-Lind"))
                    .click();
            ines.getByRole(AriaRole.MENUITEM, new Page.GetByRoleOptions().setName(item))
                    .click();
            look(ines, item);
        }
    }

    /** @param dialogs each as the address and the button there that opens it */
    private static void walk(String person, String... dialogs) {
        Page page = stage.as(person);
        for (String dialog : dialogs) {
            String[] parts = dialog.split(" \\| ");
            page.navigate(stage.address() + parts[0]);
            page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(parts[1]))
                    .first()
                    .click();
            look(page, dialog);
        }
    }

    private static void look(Page page, String name) {
        Locator dialog = page.getByRole(AriaRole.DIALOG);
        dialog.waitFor();
        assertThat(dialog).hasAccessibleName(java.util.regex.Pattern.compile(".+"));
        for (String theme : List.of("light", "dark")) {
            Axe.check(page, name, theme);
        }
        // The focus goes round inside, however often one goes on.
        for (int i = 0; i < 40; i++) {
            page.keyboard().press("Tab");
        }
        assertThat(dialog.locator(":focus")).hasCount(1);
        page.keyboard().press("Escape");
        assertThat(dialog).hasCount(0);
        // Whoever has no pointer goes on where they were.
        assertThat(page.locator(":focus")).hasCount(1);
    }
}
