package dastur.core.expression;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.FieldCatalogue;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Tables in expressions (M11): in order, in groups, side by side. */
class TablesTest {
    private static final Expressions EXPRESSIONS = new Expressions(Vocabulary.ofTicket(FieldCatalogue.PLAIN));

    private static final List<Map<String, Object>> FILES = List.of(
            Map.of("name", "b", "size", 300L, "on", "h1"),
            Map.of("name", "a", "size", 20.5, "on", "h2"),
            Map.of("name", "d", "size", "much", "on", "h1"),
            Map.of("name", "c", "on", "h3"),
            Map.of("name", "e", "size", 300L, "on", "h9"));

    private static final List<Map<String, Object>> HOSTS = List.of(
            Map.of("id", "h1", "site", "ALD", "n", 1L),
            Map.of("id", "h2", "site", "GNQ", "n", 2L),
            Map.of("id", "h3", "site", "GNQ", "n", 2L));

    private static Outcome give(String expression, List<? extends Object> all, List<? extends Object> others) {
        Scope scope =
                Scope.of(Map.of("near", Map.of("all", all, "feeds", others)), Instant.parse("2026-03-02T10:00:00Z"));
        return EXPRESSIONS.evaluate(expression, scope);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '¦', textBlock = """
            join(sorted(near.all, 'size').map(f, f.name), ' ')                              ¦ a b e d c
            join(reversed(sorted(near.all, 'size')).map(f, f.name), ' ')                    ¦ c d e b a
            join(first(sorted(near.all, 'name'), 2).map(f, f.name), ' ')                    ¦ a b
            size(first(near.all, 99))                                                       ¦ 5
            size(first(near.all, -1))                                                       ¦ 0
            join(grouped(near.all, 'on').map(g, g.value + ':' + string(g.count)), ' ')      ¦ h1:2 h2:1 h3:1 h9:1
            size(grouped(near.all, 'size').filter(g, has(g.value)))                         ¦ 3
            grouped(near.all, 'size').filter(g, !has(g.value))[0].rows[0].name              ¦ c
            join(paired(near.all, 'on', near.feeds, 'id').filter(f, has(f.match)).map(f, f.name + '@' + f.match.site), ' ') ¦ b@ALD a@GNQ d@ALD c@GNQ
            paired(near.all, 'on', near.feeds, 'id').filter(f, !has(f.match))[0].name       ¦ e
            """)
    void areWorkedOn(String expression, String expected) {
        assertThat(EXPRESSIONS.problemWith(expression)).isEmpty();
        assertThat(give(expression, FILES, HOSTS))
                .isInstanceOfSatisfying(
                        Outcome.Value.class, v -> assertThat(v.value()).hasToString(expected));
    }

    /** Which of several is meant cannot be said, and a list of texts has no columns. */
    @ParameterizedTest
    @CsvSource(delimiter = '¦', textBlock = """
            size(paired([{'n': 2}], 'n', near.feeds, 'n'))
            size(sorted(['x'], 'name'))
            size(grouped([1], 'name'))
            """)
    void whatCannotBeSaidFails(String expression) {
        assertThat(give(expression, FILES, HOSTS)).isInstanceOf(Outcome.Failed.class);
    }

    @Property(tries = 100)
    void noRowIsLostOrMade(@ForAll @Size(max = 30) List<@IntRange(min = 0, max = 5) Integer> numbers) {
        List<Map<String, Object>> rows = new ArrayList<>();
        for (int n : numbers) {
            Map<String, Object> row = new HashMap<>(Map.of("at", (long) rows.size()));
            if (n > 0) {
                row.put("n", (long) n);
            }
            rows.add(row);
        }
        assertThat(TablesTest.<Map<String, Object>>list("sorted(near.all, 'n')", rows))
                .containsExactlyInAnyOrderElementsOf(rows);
        assertThat(TablesTest.<Long>list("sorted(near.all.filter(r, has(r.n)), 'n').map(r, r.n)", rows))
                .isSorted();
        assertThat(TablesTest.<Long>list("grouped(near.all, 'n').map(g, g.count)", rows).stream()
                        .mapToLong(Long::longValue)
                        .sum())
                .isEqualTo(rows.size());
        assertThat(TablesTest.<Object>list("paired(near.all, 'n', [{'n': 1}], 'n').map(r, r.at)", rows))
                .isEqualTo(rows.stream().map(r -> r.get("at")).toList());
    }

    @SuppressWarnings("unchecked")
    private static <T> List<T> list(String expression, List<Map<String, Object>> rows) {
        return (List<T>) ((Outcome.Value) give(expression, rows, List.of())).value();
    }
}
