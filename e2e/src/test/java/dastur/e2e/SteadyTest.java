package dastur.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.Page;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/** Nothing that stands on a page moves while the rest of it loads: nobody presses what was somewhere else a moment ago (B9). */
class SteadyTest {
    /** Adds up what the browser measures as moved without anybody's doing, and keeps what it was. */
    private static final String WATCH = """
            window.moved = { sum: 0, what: [] };
            new PerformanceObserver((list) => {
              for (const e of list.getEntries()) {
                if (e.hadRecentInput) continue;
                window.moved.sum += e.value;
                for (const s of e.sources) {
                  const n = s.node && (s.node.nodeType === 1 ? s.node : s.node.parentElement);
                  window.moved.what.push(`${n ? n.tagName + " " + n.textContent.slice(0, 40) : "?"} `
                    + `${s.previousRect.x},${s.previousRect.y} to ${s.currentRect.x},${s.currentRect.y}`);
                }
              }
            }).observe({ type: "layout-shift", buffered: true });
            """;

    /**
     * Answers come late and in an order of chance, as from a busy server: what stands still only while all is quick and in order
     * does not stand still.
     */
    private static final String LATE = """
            const asked = window.fetch;
            window.fetch = (...what) =>
              new Promise((go) => setTimeout(go, Math.random() * 300)).then(() => asked(...what));
            """;

    /** All is there, and nothing is on its way for a while, but for the news that never end. */
    static final String QUIET = """
            () => {
              const ends = performance.getEntriesByType("resource").map((r) => r.responseEnd);
              return !!document.querySelector("main :is(h1, h2, a)")
                && !document.querySelector("[aria-busy=true]")
                && performance.now() - Math.max(0, ...ends) > 500;
            }
            """;

    /** Something may come in just then, or the machine do other things: what moves on one visit is no fault, on each it is. */
    private static final int VISITS = 3;

    private static Stage stage;

    @BeforeAll
    static void open() {
        stage = new Stage();
        stage.app.standins().devices().needsPart("ALD-07", true);
    }

    @AfterAll
    static void close() {
        stage.close();
    }

    private static Page watched(Page page) {
        BrowserContext context = page.context();
        context.addInitScript(WATCH);
        context.addInitScript(LATE);
        return page;
    }

    /** What moved at a place on each visit; empty once nothing did on one of them. */
    private static String moved(Page page, String place) {
        List<String> moved = new ArrayList<>();
        for (int visit = 0; visit < VISITS; visit++) {
            page.navigate(stage.address() + place);
            Browser.until(page, QUIET);
            @SuppressWarnings("unchecked")
            Map<String, Object> seen = (Map<String, Object>) page.evaluate("() => window.moved");
            if (((Number) seen.get("sum")).doubleValue() == 0) {
                return "";
            }
            moved.add(place + ": " + seen.get("sum") + " " + seen.get("what"));
        }
        return String.join("\n", moved);
    }

    private static void steady(Page page, List<String> places) {
        List<String> moved = new ArrayList<>();
        places.forEach(place -> moved.add(moved(page, place)));
        moved.removeIf(String::isEmpty);
        assertThat(moved).isEmpty();
    }

    @Test
    void nothingMovesWhereOneDesigns() {
        steady(watched(stage.as("Ines Okafor-Lind")), AccessibleTest.PLACES);
    }

    @Test
    void nothingMovesOnAPhoneOrForThoseWhoAsk() {
        steady(
                watched(stage.phone("Teo Marchetti")),
                List.of("/desk", "/tickets", "/tickets/I-1045", "/on-call", "/workflows"));
        steady(watched(stage.as("Mira Solheim")), List.of("/desk", "/tickets", "/tickets/I-1045"));
    }
}
