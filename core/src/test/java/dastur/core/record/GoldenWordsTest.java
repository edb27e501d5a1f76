package dastur.core.record;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.run.Content;
import dastur.core.run.WaitingWords;
import java.io.IOException;
import java.io.InputStream;
import java.lang.reflect.Method;
import java.lang.reflect.ParameterizedType;
import java.lang.reflect.RecordComponent;
import java.lang.reflect.Type;
import java.lang.reflect.WildcardType;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Arrays;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.stream.Collectors;
import org.junit.jupiter.api.Test;

/**
 * What is on records stays readable: no word of an event or a waiting state, none of their members, and nothing that those
 * consist of, is taken away or becomes something else. Members may be added, if they may be absent.
 *
 * <p>The frozen words are those of 2026-11-28. What is there now is written to {@code target/words.txt}; it becomes the frozen
 * file with a release.
 */
class GoldenWordsTest {
    /** By word, its members with their types. */
    private final Map<String, Map<String, String>> words = new TreeMap<>();

    private final Set<Class<?>> seen = new LinkedHashSet<>();

    private void collect() {
        for (String kind : EventCodec.kinds()) {
            words.put("event " + kind, members(EventCodec.type(kind)));
        }
        WaitingWords.all().forEach((word, type) -> words.put("waiting " + word, members(type)));
    }

    private Map<String, String> members(Class<?> type) {
        Map<String, String> members = new LinkedHashMap<>();
        for (RecordComponent c : type.getRecordComponents()) {
            String content = c.isAnnotationPresent(Content.class) ? " (content)" : "";
            members.put(c.getName(), shape(c.getGenericType()) + content);
        }
        return members;
    }

    /** As JSON has it: what is written as a text is a text, whatever holds it. */
    private String shape(Type type) {
        return switch (type) {
            case ParameterizedType p -> {
                Class<?> raw = (Class<?>) p.getRawType();
                String inner = Arrays.stream(p.getActualTypeArguments())
                        .map(this::shape)
                        .collect(Collectors.joining(", "));
                yield (Map.class.isAssignableFrom(raw) ? "map" : "list") + "<" + inner + ">";
            }
            case WildcardType w -> shape(w.getUpperBounds()[0]);
            case Class<?> c when c.isRecord() && textual(c) -> "text";
            case Class<?> c when c.isRecord() -> named(c);
            case Class<?> c
            when c.isEnum() ->
                "one of "
                        + Arrays.stream(c.getEnumConstants())
                                .map(e -> dastur.core.json.Json.tree(e).asText())
                                .collect(Collectors.joining(" | "));
            case Class<?> c when c.isSealed() -> sealed(c);
            case Class<?> c -> simple(c);
            default -> type.getTypeName();
        };
    }

    private static String simple(Class<?> c) {
        return switch (c.getSimpleName()) {
            case "String", "Instant" -> "text";
            case "int", "long", "Integer", "Long" -> "number";
            case "boolean", "Boolean" -> "yes or no";
            default -> c.getSimpleName();
        };
    }

    private static boolean textual(Class<?> type) {
        return Arrays.stream(type.getRecordComponents())
                        .anyMatch(c -> c.getAccessor().isAnnotationPresent(JsonValue.class))
                || Arrays.stream(type.getMethods()).anyMatch(GoldenWordsTest::isValue);
    }

    private static boolean isValue(Method method) {
        return method.isAnnotationPresent(JsonValue.class) && method.getParameterCount() == 0;
    }

    private String named(Class<?> type) {
        String name = type.getSimpleName();
        if (seen.add(type)) {
            words.put("part " + name, members(type));
        }
        return name;
    }

    private String sealed(Class<?> type) {
        if (seen.add(type)) {
            for (Class<?> one : type.getPermittedSubclasses()) {
                if (one.isRecord()) {
                    words.put("part " + type.getSimpleName() + "." + one.getSimpleName(), members(one));
                }
            }
        }
        return type.getSimpleName();
    }

    @Test
    void nothingThatStandsOnRecordsIsTakenAway() throws IOException {
        collect();
        StringBuilder now = new StringBuilder();
        words.forEach((word, members) -> {
            now.append(word).append('\n');
            members.forEach((name, shape) ->
                    now.append("  ").append(name).append(": ").append(shape).append('\n'));
        });
        Files.writeString(Path.of("target", "words.txt"), now);

        Map<String, Map<String, String>> frozen = frozen();
        assertThat(frozen).hasSizeGreaterThan(80);
        assertThat(words.keySet()).containsAll(frozen.keySet());
        frozen.forEach((word, members) -> members.forEach((name, shape) -> assertThat(words.get(word))
                .as("%s of '%s'", name, word)
                .hasEntrySatisfying(name, is -> assertThat(sameOrMore(shape, is))
                        .as("'%s' was '%s'", is, shape)
                        .isTrue())));
    }

    /** Choices may be added. */
    private static boolean sameOrMore(String was, String is) {
        if (!was.startsWith("one of ")) {
            return was.equals(is);
        }
        return is.startsWith("one of ")
                && Set.of(is.substring(7).split(" \\| "))
                        .containsAll(Set.of(was.substring(7).split(" \\| ")));
    }

    private static Map<String, Map<String, String>> frozen() throws IOException {
        Map<String, Map<String, String>> all = new LinkedHashMap<>();
        Map<String, String> members = new LinkedHashMap<>();
        try (InputStream in = GoldenWordsTest.class.getResourceAsStream("/golden/words.txt")) {
            for (String line : new String(in.readAllBytes(), StandardCharsets.UTF_8).split("\n")) {
                if (line.startsWith("  ")) {
                    members.put(line.substring(2, line.indexOf(": ")), line.substring(line.indexOf(": ") + 2));
                } else {
                    members = new LinkedHashMap<>();
                    all.put(line, members);
                }
            }
        }
        return all;
    }
}
