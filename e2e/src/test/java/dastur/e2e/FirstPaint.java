package dastur.e2e;

import com.microsoft.playwright.Page;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/**
 * Measures what a page costs until it is seen, with nothing kept from before, and as a person comes to it again; run by
 * {@code ./dastur bench paint}, never part of the tests.
 */
class FirstPaint {
    private static final int ROUNDS = 9;

    private static final String SEEN = """
            () => {
              const seen = performance.getEntriesByType("paint").find((p) => p.name === "first-contentful-paint")?.startTime ?? 0;
              const all = performance.getEntriesByType("resource").filter((r) => !r.name.endsWith("/api/live"));
              const before = all.filter((r) => r.startTime <= seen);
              return {
                seen,
                whole: Math.max(0, ...all.map((r) => r.responseEnd)),
                asked: all.filter((r) => r.name.includes("/api/")).length,
                files: all.filter((r) => r.name.includes("/assets/")).length,
                script: before.filter((r) => r.name.endsWith(".js")).reduce((sum, r) => sum + r.encodedBodySize, 0) / 1000,
              };
            }
            """;

    @Test
    void measure() {
        Map<String, List<String>> places = new LinkedHashMap<>();
        places.put("Teo Marchetti", List.of("/desk", "/tickets", "/tickets/I-1045"));
        places.put("Ines Okafor-Lind", List.of("/workflows/gate-lane-stuck-open", "/signals"));
        places.put("Mira Solheim", List.of("/desk"));
        try (Stage stage = new Stage()) {
            System.out.println(
                    "place | seen, ms: nothing kept | again | all there, ms: again | questions | files | script, kB");
            places.forEach((person, paths) -> paths.forEach(path -> measure(stage, person, path)));
        }
    }

    private static void measure(Stage stage, String person, String path) {
        double[][] first = new double[ROUNDS][];
        double[][] again = new double[ROUNDS][];
        for (int i = 0; i < ROUNDS; i++) {
            Page page = stage.as(person);
            page.navigate("about:blank");
            page.context().newCDPSession(page).send("Network.clearBrowserCache");
            first[i] = visit(stage, page, path);
            again[i] = visit(stage, page, path);
            page.context().close();
        }
        System.out.printf(
                "%s, %s | %.0f | %.0f | %.0f | %.0f | %.0f | %.0f%n",
                person,
                path,
                median(first, 0),
                median(again, 0),
                median(again, 1),
                median(first, 2),
                median(first, 3),
                median(first, 4));
    }

    private static double[] visit(Stage stage, Page page, String path) {
        page.navigate(stage.address() + path);
        Browser.until(page, SteadyTest.QUIET);
        @SuppressWarnings("unchecked")
        Map<String, Number> seen = (Map<String, Number>) page.evaluate(SEEN);
        return new double[] {
            seen.get("seen").doubleValue(),
            seen.get("whole").doubleValue(),
            seen.get("asked").doubleValue(),
            seen.get("files").doubleValue(),
            seen.get("script").doubleValue()
        };
    }

    private static double median(double[][] rounds, int which) {
        return Arrays.stream(rounds).mapToDouble(r -> r[which]).sorted().toArray()[rounds.length / 2];
    }
}
