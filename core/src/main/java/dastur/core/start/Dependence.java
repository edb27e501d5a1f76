package dastur.core.start;

import dastur.core.ticket.CiId;
import java.util.Collection;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BiFunction;
import java.util.function.Function;

/**
 * What a CI depends on (I22): what it <i>runs on</i>, and what <i>feeds</i> it. Other relations carry no fault, so that
 * <i>runs on one of</i> is a relation for what has others to turn to.
 */
public final class Dependence {
    private static final int MOST_AWAY = 4;
    private static final int MOST_CIS = 2_000;

    private Dependence() {}

    /** A relation between two CIs, as somebody has written it. */
    public record Relation(CiId from, String word, CiId to) {
        private Optional<CiId> causeOf(CiId ci) {
            return switch (word.strip().toLowerCase(java.util.Locale.ROOT)) {
                case "runs on" -> from.equals(ci) ? Optional.of(to) : Optional.empty();
                case "feeds" -> to.equals(ci) ? Optional.of(from) : Optional.empty();
                default -> Optional.empty();
            };
        }

        private Optional<CiId> consequenceOf(CiId ci) {
            CiId other = from.equals(ci) ? to : from;
            return causeOf(other).filter(ci::equals).map(cause -> other);
        }
    }

    /**
     * What a CI depends on within four relations, and how many lie between; at most 2,000 CIs, the nearest first.
     *
     * @param relations gives those that begin or end at some CIs
     */
    public static Map<CiId, Integer> of(CiId ci, Function<Collection<CiId>, List<Relation>> relations) {
        return away(ci, relations, Relation::causeOf);
    }

    /** What depends on a CI within four relations; otherwise as {@link #of}. */
    public static Map<CiId, Integer> on(CiId ci, Function<Collection<CiId>, List<Relation>> relations) {
        return away(ci, relations, Relation::consequenceOf);
    }

    private static Map<CiId, Integer> away(
            CiId ci,
            Function<Collection<CiId>, List<Relation>> relations,
            BiFunction<Relation, CiId, Optional<CiId>> step) {
        Map<CiId, Integer> found = new LinkedHashMap<>();
        Set<CiId> edge = Set.of(ci);
        for (int away = 1; away <= MOST_AWAY && !edge.isEmpty(); away++) {
            Set<CiId> next = new LinkedHashSet<>();
            for (Relation relation : relations.apply(edge)) {
                for (CiId end : List.of(relation.from(), relation.to())) {
                    if (edge.contains(end)) {
                        step.apply(relation, end).ifPresent(next::add);
                    }
                }
            }
            next.remove(ci);
            next.removeAll(found.keySet());
            for (CiId one : next) {
                if (found.size() == MOST_CIS) {
                    return found;
                }
                found.put(one, away);
            }
            edge = next;
        }
        return found;
    }
}
