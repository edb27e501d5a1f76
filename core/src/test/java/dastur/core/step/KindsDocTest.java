package dastur.core.step;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.bpmn.Draws;
import dastur.core.notation.Speaks;
import dastur.core.run.Event;
import dastur.core.run.Waiting;
import dastur.core.workflow.Brings;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.StepKind;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.List;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;

/** What documents say of kinds of steps is so. {@code -Dkinds.write=true} writes the list of kinds anew. */
class KindsDocTest {
    private static final Path DOCS = Path.of("..", "docs");
    private static final Path KINDS = DOCS.resolve("kinds.md");

    /** Those that ship; the kind of tests alone is none of them. */
    private static List<StepKind<?>> shipped() {
        return Kinds.all().stream()
                .filter(k -> k.getClass()
                        .getProtectionDomain()
                        .getCodeSource()
                        .getLocation()
                        .getPath()
                        .contains("/classes"))
                .filter(k -> !k.getClass().getPackageName().endsWith(".tally"))
                .toList();
    }

    @Test
    void theListOfKindsIsWhatThereIs() throws IOException {
        StringBuilder text = new StringBuilder("""
                # Kinds of steps

                Made from `Kinds` by `KindsDocTest`; not written by hand. Each kind has one room in `dastur.core.step`, and plays the roles
                that the packages it concerns ask for (decision 38).

                | kind | room | a sentence begins with | roles beside those all play | on records | waits for |
                |---|---|---|---|---|---|
                """);
        for (StepKind<?> kind : shipped()) {
            String room = kind.getClass().getPackageName().replace("dastur.core.step.", "");
            text.append("| ").append(kind.word()).append(" | ").append(room).append(" | ");
            text.append(
                    ((Speaks<?>) kind).heads().stream().map(KindsDocTest::code).collect(Collectors.joining(", ")));
            text.append(" | ").append(own(kind)).append(" | ").append(brought(kind, Event.class));
            text.append(" | ").append(brought(kind, Waiting.class)).append(" |\n");
        }
        if (Boolean.getBoolean("kinds.write")) {
            Files.writeString(KINDS, text);
        }
        assertThat(Files.readString(KINDS)).isEqualTo(text.toString());
    }

    private static String own(StepKind<?> kind) {
        return Arrays.stream(kind.getClass().getInterfaces())
                .filter(c -> c != Room.class)
                .map(Class::getSimpleName)
                .map(KindsDocTest::code)
                .collect(Collectors.joining(", "));
    }

    private static String brought(StepKind<?> kind, Class<?> sort) {
        return kind.brings().stream()
                .filter(b -> sort.isAssignableFrom(b.type()))
                .map(Brings::word)
                .collect(Collectors.joining(", "));
    }

    private static String code(String word) {
        return "`" + word + "`";
    }

    /** Who follows the guide finds all that it names, and nothing that a kind must have is left out of it. */
    @Test
    void theGuideToANewKindNamesWhatThereIs() throws IOException {
        String guide = Files.readString(DOCS.resolve("developers.md"));
        String section = guide.substring(guide.indexOf("## A further kind of step"));
        section = section.substring(0, section.indexOf("\n## ", 5));
        for (Class<?> role : Room.class.getInterfaces()) {
            assertThat(section).contains(code(role.getSimpleName()));
        }
        assertThat(section).contains(code(Draws.class.getSimpleName()));
        try (Stream<Path> sources = Files.walk(Path.of("src"))) {
            List<String> known = sources.map(p -> p.getFileName().toString().replace(".java", ""))
                    .toList();
            Matcher named = Pattern.compile("`([A-Z]\\w+)`").matcher(section);
            while (named.find()) {
                assertThat(known).contains(named.group(1));
            }
        }
        Matcher paths = Pattern.compile("`((?:core|docs|web)/[^`]+)`").matcher(section);
        while (paths.find()) {
            assertThat(Path.of("..", paths.group(1))).exists();
        }
    }
}
