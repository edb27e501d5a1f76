package dastur.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Page;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.Map;

/** Looks for what keeps people out. */
final class Axe {
    private static final String SCRIPT = script();

    private Axe() {}

    private static String script() {
        try {
            return Files.readString(Path.of("..", "web", "node_modules", "axe-core", "axe.min.js"));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Nothing serious or critical on what a page shows now. @param theme light or dark */
    @SuppressWarnings("unchecked")
    static void check(Page page, String name, String theme) {
        page.evaluate("theme => { document.documentElement.dataset.theme = theme }", theme);
        com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat(page.getByText("Loading "))
                .hasCount(0);
        page.evaluate(SCRIPT);
        List<Map<String, Object>> found = (List<Map<String, Object>>)
                page.evaluate(
                        "async () => (await axe.run()).violations.filter(v => ['serious', 'critical'].includes(v.impact))"
                                + ".map(v => ({ id: v.id, where: v.nodes.slice(0, 4).map(n => n.html.slice(0, 160) + ' ' + (n.any[0]?.message ?? '')).join(' | ') }))");
        assertThat(found).as(name + " in " + theme).isEmpty();
    }
}
