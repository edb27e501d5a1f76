package dastur.core.comparison;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.run.RuleSeen;
import java.math.BigDecimal;
import java.util.ArrayList;
import java.util.Iterator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import net.jqwik.api.Arbitraries;
import net.jqwik.api.Arbitrary;
import net.jqwik.api.Combinators;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.Provide;
import org.assertj.core.groups.Tuple;
import org.junit.jupiter.api.Test;

/** What differs between two measurements, and what only seems to. */
class SideBySideTest {
    private static SideBySide of(Map<String, Object> before, Map<String, Object> after) {
        return SideBySide.of(before, List.of(), after, List.of(), Map.of());
    }

    private static SideBySide rules(List<RuleSeen> before, List<RuleSeen> after) {
        return SideBySide.of(Map.of(), before, Map.of(), after, Map.of());
    }

    private static RuleSeen rule(String name, boolean holds, Object value) {
        return new RuleSeen(name, holds, RuleSeen.Sense.STAY, value, 5, null, name + " saw " + value);
    }

    @Test
    void numbersAreTheSameByTheirSizeAndTheirDifferenceIsExact() {
        SideBySide s = of(Map.of("fare", 32), Map.of("fare", 32.0));
        assertThat(s.values().getFirst().change()).isEqualTo(Change.SAME);
        SideBySide more = of(Map.of("fare", 0.1), Map.of("fare", 0.3));
        assertThat(more.values().getFirst().change()).isEqualTo(Change.CHANGED);
        assertThat(more.values().getFirst().by()).isEqualByComparingTo(new BigDecimal("0.2"));
        assertThat(of(Map.of("fare", "32"), Map.of("fare", 32))
                        .values()
                        .getFirst()
                        .by())
                .isNull();
    }

    @Test
    void whatOneSideDoesNotHaveIsNotKnownAndNeverGone() {
        SideBySide s = of(Map.of("lock", "L-7", "seen", List.of("a"), "disks", List.of(Map.of("name", "a"))), Map.of());
        assertThat(s.values()).extracting(SideBySide.Value::change).containsExactly(Change.UNKNOWN);
        assertThat(s.lists().getFirst().after()).isNull();
        assertThat(s.lists().getFirst().items())
                .extracting(SideBySide.Item::change)
                .containsExactly(Change.UNKNOWN);
        assertThat(s.tables().getFirst().after()).isNull();
        assertThat(s.tables().getFirst().rows()).extracting(Table.Row::change).containsExactly(Change.UNKNOWN);
        assertThat(s.differing()).isZero();
        assertThat(s.unknown()).isEqualTo(3);
    }

    @Test
    void anEmptyListIsAnAnswer() {
        SideBySide s = of(Map.of("seen", List.of("a", "b", "b")), Map.of("seen", List.of()));
        assertThat(s.lists().getFirst().items())
                .extracting(SideBySide.Item::change)
                .containsExactly(Change.GONE, Change.GONE, Change.GONE);
        assertThat(s.lists().getFirst().after()).isZero();
    }

    @Test
    void listsAreComparedByWhatIsInThemAsOftenAsItIs() {
        SideBySide s = of(Map.of("seen", List.of("a", "b", "b")), Map.of("seen", List.of("b", "c", "a")));
        assertThat(s.lists().getFirst().items())
                .containsExactly(
                        new SideBySide.Item("a", Change.SAME),
                        new SideBySide.Item("b", Change.SAME),
                        new SideBySide.Item("b", Change.GONE),
                        new SideBySide.Item("c", Change.NEW));
        assertThat(of(Map.of("seen", List.of("a", "b")), Map.of("seen", List.of("b", "a")))
                        .differing())
                .isZero();
    }

    @Test
    void rowsFindEachOtherByTheColumnThatNamesThemOnBothSides() {
        // The size tells rows apart as well, but names none of them again.
        SideBySide s = of(
                Map.of("disks", List.of(disk(10, "a", "ok"), disk(20, "b", "ok"), disk(30, "c", "ok"))),
                Map.of("disks", List.of(disk(11, "b", "ok"), disk(10, "a", "worn"), disk(44, "d", "ok"))));
        Table disks = s.tables().getFirst();
        assertThat(disks.key()).isEqualTo("name");
        assertThat(disks.keys()).containsExactly("name", "size");
        assertThat(disks.rows())
                .extracting(Table.Row::change)
                .containsExactly(Change.CHANGED, Change.CHANGED, Change.GONE, Change.NEW);
        assertThat(disks.rows().get(0).differs()).containsExactly("state");
        assertThat(disks.rows().get(1).differs()).containsExactly("size");
        assertThat(disks.before()).isEqualTo(3);
    }

    private static Map<String, Object> disk(int size, String name, String state) {
        Map<String, Object> row = new LinkedHashMap<>();
        row.put("size", size);
        row.put("name", name);
        row.put("state", state);
        return row;
    }

    @Test
    void rowsThatNoColumnNamesAreComparedWhole() {
        List<Map<String, Object>> before = List.of(Map.of("state", "ok"), Map.of("state", "ok"));
        SideBySide s = of(Map.of("disks", before), Map.of("disks", List.of(Map.of("state", "ok"))));
        assertThat(s.tables().getFirst().key()).isNull();
        assertThat(s.tables().getFirst().rows())
                .extracting(Table.Row::change)
                .containsExactly(Change.SAME, Change.GONE);
    }

    @Test
    void aColumnThatDoesNotNameRowsIsRefusedWithThoseThatDo() {
        Map<String, Object> side = Map.of("disks", List.of(disk(1, "a", "ok"), disk(2, "b", "ok")));
        assertThatThrownBy(() -> SideBySide.of(side, List.of(), side, List.of(), Map.of("disks", "state")))
                .isInstanceOf(Table.NoKey.class)
                .hasMessageContaining("state")
                .hasMessageContaining("size, name");
        assertThat(SideBySide.of(side, List.of(), side, List.of(), Map.of("disks", "name"))
                        .tables()
                        .getFirst()
                        .key())
                .isEqualTo("name");
    }

    @Test
    void rulesTurnGoodOrBadAndAreNotKnownWhereTheyWereNotJudged() {
        SideBySide s = rules(
                List.of(rule("child", true, 1), rule("adult", false, 1), rule("old", true, 1), rule("stays", false, 1)),
                List.of(
                        rule("child", false, 2),
                        rule("adult", true, 2),
                        rule("new", true, 1),
                        rule("stays", false, 1)));
        assertThat(s.rules())
                .extracting(SideBySide.Rule::name, SideBySide.Rule::change)
                .containsExactly(
                        Tuple.tuple("child", Change.TURNED_BAD),
                        Tuple.tuple("adult", Change.TURNED_GOOD),
                        Tuple.tuple("old", Change.UNKNOWN),
                        Tuple.tuple("stays", Change.SAME),
                        Tuple.tuple("new", Change.UNKNOWN));
        List<RuleSeen> twice = List.of(rule("same name", true, 1), rule("same name", true, 2));
        assertThat(rules(twice, twice).rules()).hasSize(2);
    }

    @Test
    void valuesWithinValuesAreToldApart() {
        SideBySide s = of(
                Map.of("site", Map.of("name", "GNQ", "gates", Map.of("free", 2))),
                Map.of("site", Map.of("name", "GNQ", "gates", Map.of("free", 3))));
        assertThat(s.values())
                .filteredOn(v -> v.change().differs())
                .extracting(SideBySide.Value::name)
                .containsExactly("site.gates.free");
    }

    @Test
    void aListBesideATextIsAnotherValue() {
        SideBySide s = of(Map.of("seen", List.of("a")), Map.of("seen", "a"));
        assertThat(s.values().getFirst().change()).isEqualTo(Change.CHANGED);
    }

    // --- laws

    @Provide
    Arbitrary<Map<String, Object>> sides() {
        Arbitrary<Object> scalar = Arbitraries.oneOf(
                Arbitraries.strings().ofMaxLength(2).map(x -> (Object) x),
                Arbitraries.integers().between(0, 3).map(x -> (Object) x),
                Arbitraries.doubles().between(0, 3).ofScale(1).map(x -> (Object) x),
                Arbitraries.of(true, false).map(x -> (Object) x));
        Arbitrary<Object> row = Arbitraries.maps(Arbitraries.of("name", "size", "state"), scalar)
                .map(x -> (Object) x);
        // What a name gives is of one type, as an action's outputs are.
        Map<String, Arbitrary<Object>> typed = Map.of(
                "a", scalar,
                "b", scalar.list().ofMaxSize(4).map(x -> (Object) x),
                "c", row.list().ofMaxSize(4).map(x -> (Object) x),
                "d", row.filter(r -> !((Map<?, ?>) r).isEmpty()));
        return Arbitraries.subsetOf(typed.keySet()).flatMap(names -> Combinators.combine(
                        names.stream().map(typed::get).toList())
                .as(values -> {
                    Map<String, Object> side = new LinkedHashMap<>();
                    Iterator<Object> each = values.iterator();
                    names.forEach(name -> side.put(name, each.next()));
                    return side;
                }));
    }

    @Property(tries = 300)
    void nothingDiffersFromItself(@ForAll("sides") Map<String, Object> side) {
        assertThat(of(side, side).differing()).isZero();
    }

    @Property(tries = 300)
    void turnedRoundItSaysTheSame(
            @ForAll("sides") Map<String, Object> before, @ForAll("sides") Map<String, Object> after) {
        assertThat(of(after, before).differing()).isEqualTo(of(before, after).differing());
        assertThat(of(after, before).unknown()).isEqualTo(of(before, after).unknown());
    }

    @Property(tries = 300)
    void everyRowAndItemStandsInItOnce(
            @ForAll("sides") Map<String, Object> before, @ForAll("sides") Map<String, Object> after) {
        SideBySide s = of(before, after);
        assertThat(leftOf(s)).isEqualTo(counted(before));
        assertThat(leftOf(of(after, before))).isEqualTo(counted(after));
    }

    /** How many things stand on the left. */
    private static int leftOf(SideBySide s) {
        List<Change> all = new ArrayList<>();
        s.values().stream().filter(v -> v.before() != null).forEach(v -> all.add(v.change()));
        s.lists().stream()
                .filter(l -> l.before() != null)
                .flatMap(l -> l.items().stream())
                .filter(i -> i.change() != Change.NEW)
                .forEach(i -> all.add(i.change()));
        s.tables().stream()
                .flatMap(t -> t.rows().stream())
                .filter(r -> r.before() != null)
                .forEach(r -> all.add(r.change()));
        return all.size();
    }

    private static int counted(Map<String, Object> side) {
        return side.values().stream()
                .mapToInt(v ->
                        v instanceof List<?> l ? l.size() : v instanceof Map<?, ?> m && !m.isEmpty() ? m.size() : 1)
                .sum();
    }
}
