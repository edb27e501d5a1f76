package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Every dialog holds the focus, has a name, keeps nobody out, and goes with Esc (B7, B11). */
class DialogsTest {
    private static Stage stage;
    private static Page ines;
    private static Page halvard;

    @BeforeAll
    static void open() {
        stage = new Stage();
        ines = stage.as("Ines Okafor-Lind");
        halvard = stage.as("Halvard Quist");
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    @ParameterizedTest(name = "{0}: {1}")
    @CsvSource(delimiter = '|', textBlock = """
            /tickets | Raise a ticket
            /tickets/I-1046 | Start a workflow…
            /tickets/I-1046 | Change…
            /tickets/I-1046 | Close…
            /tickets/I-1046 | Add a note
            /tickets/I-1046 | Link…
            /tickets/I-1044 | intervene…
            /workflows | New workflow
            /workflows | Order of triggers…
            /workflows/gate-lane-stuck-open | About
            /workflows/gate-lane-stuck-open | Versions
            /workflows/gate-lane-stuck-open | from a document
            /on-call | New rota
            /on-call | New ladder
            /on-call | In my calendar…
            /on-call | Who would be reached…
            /on-call | Somebody stands in…
            /people | New group
            /services | New service
            /services | New CI
            /services | CIs from CSV…
            /services | New calendar
            /automation | New action
            /automation | New connection
            """)
    void ofProcessOwners(String place, String button) {
        walk(ines, place, button);
    }

    @ParameterizedTest(name = "{0}: {1}")
    @CsvSource(delimiter = '|', textBlock = """
            /people | New account
            /automation | New secret
            """)
    void ofAdministrators(String place, String button) {
        walk(halvard, place, button);
    }

    @Test
    void ofTheMenuUnderOnesName() {
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

    private static void walk(Page page, String place, String button) {
        page.navigate(stage.address() + place);
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(button))
                .first()
                .click();
        look(page, place + ": " + button);
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
    }
}
