package dastur.core.ticket;

import java.util.Collection;
import java.util.Comparator;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.function.Predicate;

/**
 * What stands beside a CI: every relation that begins or ends at it, with the CI at its other end as it is now (M17).
 *
 * @param neighbours in the order of their relations and ids
 * @param whole false where there are more than {@link #MOST}: then nothing is said of them, since a part would lie
 */
public record Beside(List<Neighbour> neighbours, boolean whole) {
    /** As many as a table on the record holds. */
    public static final int MOST = 2_000;

    /** What is beside a CI that is not related to anything. */
    public static final Beside NOTHING = new Beside(List.of(), true);

    /** The lists that expressions read as {@code near.*}. */
    public static final List<Field> LISTS = List.of(
            Field.of("all", "All CIs beside it", FieldType.LIST),
            Field.of("runsOn", "What it runs on", FieldType.LIST),
            Field.of("carries", "What runs on it", FieldType.LIST),
            Field.of("feeds", "What it feeds", FieldType.LIST),
            Field.of("fedBy", "What feeds it", FieldType.LIST));

    public Beside {
        neighbours = List.copyOf(neighbours);
    }

    /**
     * A CI at the other end of a relation.
     *
     * @param relation in the organisation's own words, such as <i>runs on</i>
     * @param leads whether the relation leads there, from the CI that is asked about
     */
    public record Neighbour(String relation, boolean leads, ConfigurationItem ci) {
        private Map<String, Object> row() {
            Map<String, Object> row = new LinkedHashMap<>(ci.values());
            row.put("relation", relation);
            row.put("leads", leads);
            return row;
        }

        private boolean is(String word) {
            return relation.strip().equalsIgnoreCase(word);
        }
    }

    /** What stands beside a CI, in its order. */
    public static Beside of(List<Neighbour> found) {
        return new Beside(
                found.stream()
                        .sorted(Comparator.comparing(Neighbour::relation)
                                .thenComparing(n -> n.ci().id().value())
                                .thenComparing(Neighbour::leads))
                        .limit(MOST)
                        .toList(),
                found.size() <= MOST);
    }

    /** The lists by their names; none where there are more than can be told. */
    public Map<String, Object> values() {
        return whole
                ? Map.of(
                        "all", rows(n -> true),
                        "runsOn", rows(n -> n.leads() && n.is("runs on")),
                        "carries", rows(n -> !n.leads() && n.is("runs on")),
                        "feeds", rows(n -> n.leads() && n.is("feeds")),
                        "fedBy", rows(n -> !n.leads() && n.is("feeds")))
                : Map.of();
    }

    private List<Map<String, Object>> rows(Predicate<Neighbour> which) {
        return neighbours.stream().filter(which).map(Neighbour::row).toList();
    }

    /** The same with CIs as they were made of since. */
    public Beside with(Collection<ConfigurationItem> since) {
        Map<CiId, ConfigurationItem> now = new HashMap<>();
        since.forEach(ci -> now.put(ci.id(), ci));
        return new Beside(
                neighbours.stream()
                        .map(n -> new Neighbour(n.relation(), n.leads(), now.getOrDefault(n.ci().id(), n.ci())))
                        .toList(),
                whole);
    }
}
