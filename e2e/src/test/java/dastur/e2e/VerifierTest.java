package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.microsoft.playwright.Page;
import dastur.core.json.Json;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import org.junit.jupiter.api.Test;

/** The page that checks exports by itself, opened from the disk: it says of every kept vector what {@code verify} says. */
class VerifierTest {
    private static final Path DOCS = Path.of("../docs");

    @Test
    void itSaysOfEachVectorWhatItMust() throws IOException {
        JsonNode kept = Json.parse(Files.readString(DOCS.resolve("vectors/vectors.json")));
        try (Browser browser = new Browser()) {
            Page page = browser.window(1280, 800).newPage();
            page.navigate(DOCS.resolve("verify.html")
                    .toAbsolutePath()
                    .normalize()
                    .toUri()
                    .toString());
            page.getByLabel("Public key that must have signed it")
                    .fill(kept.path("key").asText());
            for (JsonNode vector : kept.path("vectors")) {
                String file = vector.path("file").asText();
                page.getByLabel("The export (NDJSON)")
                        .setInputFiles(DOCS.resolve("vectors").resolve(file));
                assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                        .containsText(file);
                if (vector.path("proved").asBoolean()) {
                    assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                            .containsText(
                                    "Proved: I-1, " + vector.path("entries").asText() + " entries");
                } else {
                    assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                            .containsText(
                                    "Not proved: line " + vector.path("line").asText() + ",");
                }
            }
            page.getByLabel("The export (NDJSON)").setInputFiles(DOCS.resolve("vectors/witnessed.ndjson"));
            assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                    .containsText("witness of 8 was given the log with 8 changes");
            assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                    .containsText("the end of this record is newer");
            // Another key than the one that signed it, and none.
            page.getByLabel("The export (NDJSON)").setInputFiles(DOCS.resolve("vectors/whole.ndjson"));
            page.getByLabel("Public key that must have signed it").fill("MCowBQYDK2VwAyEA");
            page.getByLabel("Public key that must have signed it").press("Tab");
            assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                    .containsText("by another key than the one expected");
            page.getByLabel("Public key that must have signed it").fill("");
            page.getByLabel("Public key that must have signed it").press("Tab");
            assertThat(page.getByRole(com.microsoft.playwright.options.AriaRole.STATUS))
                    .containsText("nobody was named");
            assertThat(kept.path("vectors").size()).isGreaterThan(15);
        }
    }
}
