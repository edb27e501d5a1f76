package dastur.core.ticket;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Which fields an organisation may declare in place of those it has (M17). */
class FieldCatalogueTest {
    private static final Field LANE =
            new Field("lane", "Lane", FieldType.CHOICE, false, List.of("open", "closed"), null);
    private static final FieldCatalogue NOW = new FieldCatalogue(
            List.of(Field.of("lock", "Lock", FieldType.TEXT)), List.of(LANE), Map.of("lane", List.of("gate")));

    private static FieldCatalogue with(Field ticket, Field ci) {
        return new FieldCatalogue(List.of(ticket), List.of(ci), NOW.kinds());
    }

    private static Field lane(String... choices) {
        return new Field("lane", "Its lane", FieldType.CHOICE, true, List.of(choices), "help");
    }

    @Test
    void whatIsSaidOfOneMayChangeAndOthersMayCome() {
        Field lock = Field.of("lock", "Number of the lock", FieldType.TEXT);
        assertThat(NOW.problemWith(with(lock, lane("open", "closed", "broken"))))
                .isEmpty();
        assertThat(NOW.problemWith(new FieldCatalogue(
                        List.of(lock, Field.of("till", "Till", FieldType.WHOLE)),
                        List.of(LANE, Field.of("size", "Size", FieldType.NUMBER)),
                        Map.of("size", List.of("machine", "disk")))))
                .isEmpty();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            key      | Lock | TEXT   | false | ticket | 'Lock' stays
            lock     | Lock | NUMBER | false | ticket | 'Lock' is a text and stays one
            lock     | Lock | TEXT   | true  | ticket | 'Lock' cannot be needed
            """, quoteCharacter = '`')
    void whatWorkflowsRestOnStays(String name, String label, FieldType type, boolean needed, String where, String why) {
        Field lock = new Field(name, label, type, needed, null, null);
        assertThat(NOW.problemWith(with(lock, LANE))).hasValueSatisfying(w -> {
            assertThat(w.where()).isEqualTo(where);
            assertThat(w.message()).startsWith(why);
        });
    }

    @Test
    void namesAreFreeWordsAndChoicesAreThere() {
        Field lock = NOW.ticket().getFirst();
        assertThat(refusal(List.of(lock, Field.of("title", "T", FieldType.TEXT))))
                .contains("'title' already");
        assertThat(refusal(List.of(lock, lock))).contains("'lock' already");
        assertThat(refusal(List.of(lock, Field.of("other", "T".repeat(81), FieldType.TEXT))))
                .contains("1 to 80 characters");
        assertThat(refusal(List.of(lock, many(201)))).contains("at most 200 choices");
        assertThat(refusal(IntStream.rangeClosed(0, FieldCatalogue.MOST)
                        .mapToObj(i -> i == 0 ? lock : Field.of("f" + i, "F", FieldType.TEXT))
                        .toList()))
                .contains("at most 100");
        assertThat(NOW.problemWith(with(lock, lane("open"))).orElseThrow().message())
                .contains("none is taken away");
        assertThat(NOW.problemWith(new FieldCatalogue(NOW.ticket(), NOW.ci(), Map.of("gone", List.of("gate"))))
                        .orElseThrow()
                        .where())
                .isEqualTo("kinds");
    }

    private static Field many(int choices) {
        List<String> all = IntStream.range(0, choices).mapToObj(String::valueOf).toList();
        return new Field("many", "Many", FieldType.CHOICE, false, all, null);
    }

    private static String refusal(List<Field> ticket) {
        return NOW.problemWith(new FieldCatalogue(ticket, NOW.ci(), NOW.kinds()))
                .orElseThrow()
                .message();
    }

    @Test
    void anAttributeIsOfItsKindsOrOfAll() {
        assertThat(NOW.attributesOf("gate")).containsExactly(LANE);
        assertThat(NOW.attributesOf("board")).isEmpty();
        assertThat(new FieldCatalogue(List.of(), List.of(LANE)).attributesOf("board"))
                .containsExactly(LANE);
    }
}
