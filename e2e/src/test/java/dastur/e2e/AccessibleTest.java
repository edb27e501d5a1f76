package dastur.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** axe finds nothing serious on any screen, by day and by night. */
class AccessibleTest {
    private static Stage stage;
    private static String axe;

    @BeforeAll
    static void open() throws IOException {
        stage = new Stage();
        axe = Files.readString(Path.of("..", "web", "node_modules", "axe-core", "axe.min.js"));
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    @ParameterizedTest
    @ValueSource(strings = {"light", "dark"})
    void nothingSeriousOnAnyScreen(String theme) {
        Page entrance = stage.newPage();
        entrance.navigate(stage.address());
        entrance.getByText("Ines Okafor-Lind").waitFor();
        check(entrance, "sign-in", theme);
        Page ines = stage.as("Ines Okafor-Lind");
        for (String place : List.of(
                "/desk",
                "/tickets",
                "/tickets/I-1045",
                "/tickets/C-311",
                "/runs",
                "/workflows",
                "/workflows/gate-lane-stuck-open",
                "/people",
                "/on-call",
                "/services",
                "/automation",
                "/cis/ALD-G1")) {
            ines.navigate(stage.address() + place);
            ines.getByRole(AriaRole.HEADING).first().waitFor();
            check(ines, place, theme);
        }
        ines.navigate(stage.address() + "/workflows/gate-lane-stuck-open");
        ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("when an incident is raised"))
                .click();
        ines.getByRole(AriaRole.DIALOG).waitFor();
        check(ines, "triggers", theme);
        Page teo = stage.as("Teo Marchetti");
        teo.getByText("Look at the gate").first().waitFor();
        check(teo, "a full desk", theme);
        teo.keyboard().press("Control+k");
        teo.getByPlaceholder("A ticket, workflow, person, CI, place…").fill("gate");
        teo.getByText("Gate lane stuck open").first().waitFor();
        check(teo, "finder", theme);
        Page mira = stage.as("Mira Solheim");
        Browser.go(mira, "Tickets");
        mira.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Ask for help"))
                .click();
        mira.getByRole(AriaRole.DIALOG).waitFor();
        check(mira, "raise", theme);
    }

    @SuppressWarnings("unchecked")
    private static void check(Page page, String name, String theme) {
        page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme);
        com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat(page.getByText("Loading "))
                .hasCount(0);
        page.evaluate(axe);
        List<Map<String, Object>> found = (List<Map<String, Object>>)
                page.evaluate(
                        "async () => (await axe.run()).violations.filter(v => ['serious', 'critical'].includes(v.impact))"
                                + ".map(v => ({ id: v.id, where: v.nodes.slice(0, 4).map(n => n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? '')).join(' | ') }))");
        assertThat(found).as(name + " in " + theme).isEmpty();
    }
}
