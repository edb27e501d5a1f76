package dastur.core.start;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Verdict;
import dastur.core.expression.Vocabulary;
import dastur.core.time.Span;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** What a watch makes of a reading. Pure: where it stands goes in, where it stands then comes out, with what is to be said. */
public final class Watching {
    private Watching() {}

    /** What one reading says. */
    public enum Said {
        HOLDS("holds"),
        DOES_NOT("does not hold"),
        /** Neither: the other side did not answer, or a value is absent. */
        COULD_NOT_BE_READ("could not be read");

        private final String word;

        Said(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /** What becomes a signal. */
    public enum Turn {
        FAULT,
        WELL,
        CANNOT_BE_READ,
        READ_AGAIN
    }

    /**
     * A reading.
     *
     * @param calm whether it says that all is well
     * @param why it could not be read; null where it could
     */
    public record Reading(
            Instant at,
            Said said,
            boolean calm,
            Map<String, Object> values,
            @Nullable String why) {}

    /**
     * Where a watch stands.
     *
     * @param inFault whether it has said that something is the matter
     * @param holdsSince since when it holds without a break; null when it does not
     * @param unreadSince since when it could not be read; null when it could
     * @param unreadSaid whether it has said so
     * @param last the last reading's moment; null before the first
     * @param rows how the rows stand that something is the matter with, or may be, by what they are known by
     */
    public record Stand(
            boolean inFault,
            @Nullable Instant holdsSince,
            @Nullable Instant unreadSince,
            boolean unreadSaid,
            @Nullable Instant last,
            Map<String, Stand> rows) {
        /** Before the first reading. */
        public static final Stand NEW = new Stand(false, null, null, false, null);

        public Stand {
            rows = rows == null ? Map.of() : Collections.unmodifiableMap(new TreeMap<>(rows));
        }

        Stand(
                boolean inFault,
                @Nullable Instant holdsSince,
                @Nullable Instant unreadSince,
                boolean unreadSaid,
                @Nullable Instant last) {
            this(inFault, holdsSince, unreadSince, unreadSaid, last, Map.of());
        }

        private boolean isOfNote() {
            return inFault || holdsSince != null;
        }
    }

    /** What is to be said. @param row of which row; null for what is read as a whole */
    public record Turned(Turn turn, @Nullable String row, Reading reading) {}

    /** @param turns what is to be said, in its order */
    public record Step(Stand stand, List<Turned> turns) {
        public Step {
            turns = List.copyOf(turns);
        }
    }

    /** What was read. @param rows each by what it is known by; empty where the watch looks at the whole */
    public record Seen(Reading whole, Map<String, Reading> rows) {
        public Seen {
            rows = Collections.unmodifiableMap(new LinkedHashMap<>(rows));
        }

        /** Nothing could be read. */
        public static Seen nothing(Instant at, String why) {
            return new Seen(new Reading(at, Said.COULD_NOT_BE_READ, false, Map.of(), why), Map.of());
        }
    }

    /** More rows than that are not looked at: some of them would be passed over unnoticed. */
    public static final int MOST_ROWS = 500;

    private static final int LONGEST_KNOWN = 100;
    private static final int NAMED = 20;

    /** What the rules say of what was read. @param expressions over what the action gives */
    public static Seen judged(Watch watch, Expressions expressions, Map<String, Object> values, Instant at) {
        if (watch.each() == null) {
            return new Seen(judged(watch, expressions, values, null, at), Map.of());
        }
        Map<String, Map<String, Object>> rows = new LinkedHashMap<>();
        String problem = rows(watch.each(), values.get(watch.each().list()), rows);
        if (problem != null) {
            return Seen.nothing(at, problem);
        }
        Map<String, Reading> each = new LinkedHashMap<>();
        rows.forEach((known, row) -> each.put(known, judged(watch, expressions, values, row, at)));
        return new Seen(together(each, at), each);
    }

    /** Takes the rows apart. Returns why that cannot be done; null where it can. */
    private static @Nullable String rows(
            Watch.Each each, @Nullable Object list, Map<String, Map<String, Object>> into) {
        if (!(list instanceof List<?> all)) {
            return "What was read has no list '" + each.list() + "'.";
        }
        if (all.size() > MOST_ROWS) {
            return "There are " + all.size() + " rows; a watch looks at " + MOST_ROWS + " at the most.";
        }
        Set<String> seen = new HashSet<>();
        for (int i = 0; i < all.size(); i++) {
            Map<String, Object> row = new LinkedHashMap<>();
            if (all.get(i) instanceof Map<?, ?> members) {
                members.forEach((k, v) -> row.put(String.valueOf(k), v));
            }
            String known =
                    String.valueOf(row.getOrDefault(each.known(), "")).strip().replaceAll("\\s+", " ");
            if (known.isEmpty() || known.length() > LONGEST_KNOWN) {
                return "Row " + (i + 1) + " has no '" + each.known() + "' of at most " + LONGEST_KNOWN
                        + " characters to be known by.";
            }
            into.put(known, row);
            // Matters do not tell letters apart by their case.
            if (!seen.add(known.toLowerCase(Locale.ROOT))) {
                return "Two rows are known by '" + known + "'.";
            }
        }
        return null;
    }

    /** What can be judged of the rows is judged, whatever the others lack. */
    private static Reading together(Map<String, Reading> rows, Instant at) {
        List<String> hold = those(rows, Said.HOLDS);
        List<String> cannotSay = those(rows, Said.COULD_NOT_BE_READ);
        Map<String, Object> values = new LinkedHashMap<>();
        values.put("rows", (long) rows.size());
        if (!hold.isEmpty()) {
            values.put("hold", named(hold));
        }
        boolean none = !rows.isEmpty() && cannotSay.size() == rows.size();
        String why = cannotSay.isEmpty()
                ? null
                : (none ? "Each row lacks" : cannotSay.size() + " of " + rows.size() + " rows lack")
                        + " a value that the rule needs: " + named(cannotSay) + ".";
        Said said = none ? Said.COULD_NOT_BE_READ : hold.isEmpty() ? Said.DOES_NOT : Said.HOLDS;
        return new Reading(at, said, hold.isEmpty() && cannotSay.isEmpty(), values, why);
    }

    private static List<String> those(Map<String, Reading> rows, Said said) {
        return rows.entrySet().stream()
                .filter(row -> row.getValue().said() == said)
                .map(Map.Entry::getKey)
                .toList();
    }

    private static String named(List<String> rows) {
        String some = String.join(", ", rows.subList(0, Math.min(NAMED, rows.size())));
        return rows.size() <= NAMED ? some : some + " and " + (rows.size() - NAMED) + " more";
    }

    private static Reading judged(
            Watch watch,
            Expressions expressions,
            Map<String, Object> values,
            @Nullable Map<String, Object> row,
            Instant at) {
        Scope whole = Scope.of(Map.of("read", values), at);
        Scope scope = row == null ? whole : new OfRow(whole, row);
        Map<String, Object> shown = row == null ? values : row;
        Verdict holds = expressions.explain(watch.holds(), scope).verdict();
        Verdict calm = watch.calm() == null
                ? holds == Verdict.FALSE ? Verdict.TRUE : Verdict.FALSE
                : expressions.explain(watch.calm(), scope).verdict();
        return switch (holds) {
            case TRUE -> new Reading(at, Said.HOLDS, false, shown, null);
            case FALSE -> new Reading(at, Said.DOES_NOT, calm == Verdict.TRUE, shown, null);
            case CANNOT_SAY ->
                new Reading(
                        at, Said.COULD_NOT_BE_READ, false, shown, "What was read lacks a value that the rule needs.");
        };
    }

    /** What was read, and in it one row. */
    private record OfRow(Scope whole, Map<String, Object> row) implements Scope {
        @Override
        public Map<String, Object> root(String name) {
            return whole.root(name);
        }

        @Override
        public Optional<Object> item(String name) {
            return name.equals(Vocabulary.ROW) ? Optional.of(row) : Optional.empty();
        }

        @Override
        public Instant now() {
            return whole.now();
        }
    }

    /** Each row goes its own way; that nothing can be read is said once, of the whole. */
    public static Step step(Watch watch, Stand before, Seen seen) {
        if (watch.each() == null) {
            return step(watch, before, seen.whole(), null);
        }
        boolean read =
                seen.whole().said() != Said.COULD_NOT_BE_READ || !seen.rows().isEmpty();
        List<Turned> turns = new ArrayList<>();
        Map<String, Stand> rows = new TreeMap<>();
        Set<String> all = new LinkedHashSet<>(seen.rows().keySet());
        all.addAll(before.rows().keySet());
        for (String known : all) {
            Stand stood = before.rows().getOrDefault(known, new Stand(false, null, null, false, before.last()));
            Step step = step(watch, stood, ofRow(seen, known, read), known);
            // Said of the whole, never of a row.
            step.turns().stream()
                    .filter(t -> t.turn() == Turn.FAULT || t.turn() == Turn.WELL)
                    .forEach(turns::add);
            if (step.stand().isOfNote()) {
                rows.put(known, step.stand());
            }
        }
        Step whole = step(watch, before, seen.whole(), null);
        whole.turns().stream()
                .filter(t -> t.turn() == Turn.CANNOT_BE_READ || t.turn() == Turn.READ_AGAIN)
                .forEach(turns::add);
        Stand stand = whole.stand();
        return new Step(
                new Stand(
                        rows.values().stream().anyMatch(Stand::inFault),
                        stand.holdsSince(),
                        stand.unreadSince(),
                        stand.unreadSaid(),
                        stand.last(),
                        rows),
                turns);
    }

    /** One that is gone from a list that was read is well. */
    private static Reading ofRow(Seen seen, String known, boolean read) {
        Reading own = seen.rows().get(known);
        if (own != null) {
            return own;
        }
        Instant at = seen.whole().at();
        return read
                ? new Reading(at, Said.DOES_NOT, true, Map.of(), "It is not on the list any more.")
                : new Reading(
                        at,
                        Said.COULD_NOT_BE_READ,
                        false,
                        Map.of(),
                        seen.whole().why());
    }

    /** "For at least" needs readings that span it; what could not be read neither confirms nor ends; a gap begins anew. */
    private static Step step(Watch watch, Stand before, Reading reading, @Nullable String row) {
        Instant at = reading.at();
        boolean gap =
                before.last() != null && Duration.between(before.last(), at).toSeconds() > 2 * watch.everySeconds();
        List<Turned> turns = new ArrayList<>();
        if (reading.said() == Said.COULD_NOT_BE_READ) {
            Instant since = before.unreadSince() == null || gap ? at : before.unreadSince();
            boolean says = !before.unreadSaid()
                    && watch.unreadAfter() != null
                    && !at.isBefore(since.plusSeconds(seconds(watch.unreadAfter())));
            if (says) {
                turns.add(new Turned(Turn.CANNOT_BE_READ, row, reading));
            }
            return new Step(
                    new Stand(
                            before.inFault(), gap ? null : before.holdsSince(), since, before.unreadSaid() || says, at),
                    turns);
        }
        if (before.unreadSaid()) {
            turns.add(new Turned(Turn.READ_AGAIN, row, reading));
        }
        boolean holds = reading.said() == Said.HOLDS;
        Instant holdsSince = !holds ? null : before.holdsSince() == null || gap ? at : before.holdsSince();
        boolean fault = holdsSince != null
                && !before.inFault()
                && !at.isBefore(holdsSince.plusSeconds(seconds(watch.atLeast())));
        boolean well = before.inFault() && reading.calm();
        if (fault) {
            turns.add(new Turned(Turn.FAULT, row, reading));
        }
        if (well) {
            turns.add(new Turned(Turn.WELL, row, reading));
        }
        return new Step(new Stand((before.inFault() || fault) && !well, holdsSince, null, false, at), turns);
    }

    private static long seconds(@Nullable Span span) {
        return span == null ? 0 : span.roughSeconds();
    }
}
