package dastur.demo;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.List;
import java.util.jar.JarFile;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** What is for show is no part of what is put to work. */
class ProductTest {
    private static final Path SERVER = Path.of("..", "server", "target");

    private static List<String> names(Path folder) throws IOException {
        try (Stream<Path> all = Files.list(folder)) {
            return all.map(p -> p.getFileName().toString()).toList();
        }
    }

    @Test
    void theProductBringsNoServersForShowAndNoToolsOfTests() throws IOException {
        assertThat(names(SERVER.resolve("lib")))
                .hasSizeGreaterThan(20)
                .anyMatch(n -> n.startsWith("dastur-core"))
                .noneMatch(n ->
                        n.matches("(greenmail|dastur-standins|dastur-demo|junit|mockito|assertj|jqwik|playwright).*"));
        try (JarFile jar = new JarFile(SERVER.resolve("dastur-server-0.1.0.jar").toFile())) {
            assertThat(jar.stream().map(Object::toString))
                    .anyMatch(n -> n.startsWith("dastur/server/"))
                    .noneMatch(n ->
                            n.startsWith("dastur/demo/") || n.startsWith("dastur/standins/") || n.startsWith("demo/"));
        }
    }

    /** Whoever gets the application gets the names and licences of what is in it. */
    @Test
    void allThatIsShippedIsInTheNotice() throws IOException {
        String notice = Files.readString(Path.of("..", "NOTICE"));
        assertThat(names(SERVER.resolve("lib")).stream()
                        .filter(n -> !n.startsWith("dastur-"))
                        .map(n -> n.replaceFirst("\\.jar$", ""))
                        .filter(n -> !notice.contains("  " + n.replaceFirst("-(?=\\d)", " ") + " (")))
                .as("run ./dastur bill")
                .isEmpty();
    }
}
