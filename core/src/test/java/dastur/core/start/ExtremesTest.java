package dastur.core.start;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import java.math.BigDecimal;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.NotEmpty;
import org.junit.jupiter.api.Test;

/** Between what the numbers lay that a watch read (I11). */
class ExtremesTest {
    @Property
    void everyReadingLiesBetweenThemAndBothWereRead(@ForAll @NotEmpty List<Double> read) {
        Extremes extremes = Extremes.NONE;
        for (double number : read) {
            extremes = extremes.with(Map.of("minutes", number));
        }
        Extremes.Range range = extremes.numbers().get("minutes");
        List<BigDecimal> exact =
                read.stream().map(d -> new BigDecimal(d.toString())).toList();
        assertThat(exact).allMatch(d -> d.compareTo(range.least()) >= 0 && d.compareTo(range.most()) <= 0);
        assertThat(exact).contains(range.least(), range.most());
        assertThat(Json.read(Json.write(extremes), Extremes.class).numbers().keySet())
                .containsExactly("minutes");
    }

    @Test
    void whatIsNoNumberOrNoneThatCanBeReadDoesNotCount() {
        Map<String, Object> values = new HashMap<>();
        values.put("text", "12");
        values.put("yes", true);
        values.put("rows", List.of(1, 2));
        values.put("nothing", null);
        values.put("endless", Double.POSITIVE_INFINITY);
        values.put("none", Double.NaN);
        values.put("long", new BigDecimal("1".repeat(41)));
        values.put("whole", 7);
        Extremes extremes = Extremes.NONE.with(values).with(Map.of("whole", 7.5, "late", 1L));
        assertThat(extremes.numbers().keySet()).containsExactly("late", "whole");
        assertThat(extremes.numbers().get("whole"))
                .isEqualTo(new Extremes.Range(new BigDecimal("7"), new BigDecimal("7.5")));
    }

    @Test
    void onlySoManyAreFollowedAndThoseThatAreStayFollowed() {
        Extremes extremes = Extremes.NONE;
        for (int i = 0; i < 100; i++) {
            extremes = extremes.with(Map.of("n" + i, i));
        }
        assertThat(extremes.numbers()).hasSize(Extremes.MOST).containsKey("n0");
        assertThat(extremes.with(Map.of("n0", -5)).numbers().get("n0").least()).isEqualTo(new BigDecimal("-5"));
        String longest = Json.write(extremes);
        assertThat(longest.length()).as("it must fit where it is kept").isLessThan(4_000);
    }
}
