package dastur.core.ticket;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import java.util.Arrays;
import java.util.HashMap;
import java.util.Map;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What was wished of a CI, and what came otherwise (M17). */
class WishTest {
    /** Entry by entry, the values that each sets, and a dash for nothing; the first makes the CI. */
    private static final String LIVES = """
            life planned size large                                          | size: large | ``                   | planned, all is a wish
            life planned size large, life ordered, size middle               | size: large | size: large, middle  | other than wished
            life planned size large, size small, life ordered                | size: small | ``                   | wished otherwise before it was agreed to
            life planned size large, size middle life ordered                | size: large | size: large, middle  | real in the entry that settles it
            life planned site ALD, life ordered, address 10.0.0.1            | site: ALD   | ``                   | nobody wished for an address
            life planned size large, life ordered, size middle, size large   | size: large | ``                   | came as wished in the end
            life planned size large, life ordered, size -                    | size: large | size: large, nothing | there no more
            life planned service gates, life ordered, service shop           | service: gates | service: gates, shop | another service
            life planned size large, life retired, life planned size small   | size: small | ``                   | planned anew, all is a wish again
            life planned size large, life retired, life planned size small, life ordered, size middle | size: small | size: small, middle | agreed to anew
            life ordered size large, life in-use, size small                 | ``          | ``                   | never planned
            """;

    @ParameterizedTest(name = "{3}")
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = LIVES)
    void asTicketsSetIt(String entries, String wished, String unmet, String why) {
        @Nullable ConfigurationItem ci = null;
        for (Map<String, Object> values : read(entries)) {
            ci = ci == null ? made(values) : ci.with(settling(ci, values));
        }
        assertThat(told(ci)).as(why).isEqualTo(wished + " / " + unmet);
    }

    /** Whoever sets a CI by hand, or takes it over from a file, says all of its values and nothing of its wish. */
    @ParameterizedTest(name = "{3}")
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = LIVES)
    void asPeopleSetIt(String entries, String wished, String unmet, String why) {
        @Nullable ConfigurationItem ci = null;
        for (Map<String, Object> values : read(entries)) {
            ConfigurationItem set = ci == null ? made(values) : ci.with(values);
            ci = new ConfigurationItem(
                            set.id(),
                            set.name(),
                            set.kind(),
                            set.service(),
                            set.site(),
                            set.address(),
                            set.owner(),
                            set.life(),
                            set.attributes())
                    .inPlaceOf(ci);
        }
        assertThat(told(ci)).as(why).isEqualTo(wished + " / " + unmet);
    }

    /** What was sealed before wishes were kept is sealed to the same. */
    @Test
    void whatWasNeverWishedForIsWrittenAsEver() {
        ConfigurationItem ci = made(Map.of("life", "in use", "size", "large"));
        assertThat(Json.write(ci)).doesNotContain("wish");
        ConfigurationItem settled =
                made(Map.of("life", "planned", "size", "large")).inPlaceOf(null);
        settled = settled.with(settling(settled, Map.of("life", "ordered")));
        assertThat(Json.read(Json.write(settled), ConfigurationItem.class)).isEqualTo(settled);
        assertThat(Json.read(Json.write(ci), ConfigurationItem.class)).isEqualTo(ci);
    }

    /** As an update does it. */
    private static Map<String, Object> settling(ConfigurationItem ci, Map<String, Object> values) {
        Map<String, Object> all = new HashMap<>(values);
        ci.settles(values.get("life")).ifPresent(wish -> all.put(ConfigurationItem.WISH, wish));
        return all;
    }

    private static ConfigurationItem made(Map<String, Object> values) {
        return ConfigurationItem.planned(new CiId("crew-7"), "machine").with(values);
    }

    private static String told(ConfigurationItem ci) {
        return ci.wished().entrySet().stream()
                        .filter(w -> !w.getKey().equals("name"))
                        .map(w -> w.getKey() + ": " + w.getValue())
                        .collect(Collectors.joining("; "))
                + " / "
                + ci.unmet().stream()
                        .map(w -> w.name() + ": " + w.wished() + ", " + (w.real() == null ? "nothing" : w.real()))
                        .collect(Collectors.joining("; "));
    }

    private static Iterable<Map<String, Object>> read(String entries) {
        return Arrays.stream(entries.strip().split(", "))
                .map(entry -> {
                    String[] words = entry.split(" ");
                    Map<String, Object> values = new HashMap<>();
                    for (int i = 0; i < words.length; i += 2) {
                        values.put(words[i], words[i + 1].equals("-") ? null : words[i + 1].replace('-', ' '));
                    }
                    return values;
                })
                .toList();
    }
}
