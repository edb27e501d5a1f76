package dastur.core.start;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Verdict;
import dastur.core.time.Span;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
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
     */
    public record Stand(
            boolean inFault,
            @Nullable Instant holdsSince,
            @Nullable Instant unreadSince,
            boolean unreadSaid,
            @Nullable Instant last) {
        /** Before the first reading. */
        public static final Stand NEW = new Stand(false, null, null, false, null);
    }

    /** @param turns what is to be said, in its order */
    public record Step(Stand stand, List<Turn> turns) {
        public Step {
            turns = List.copyOf(turns);
        }
    }

    /** What the rules say of what was read. @param expressions over what the action gives */
    public static Reading judged(Watch watch, Expressions expressions, Map<String, Object> values, Instant at) {
        Scope scope = Scope.of(Map.of("read", values), at);
        Verdict holds = expressions.explain(watch.holds(), scope).verdict();
        Verdict calm = watch.calm() == null
                ? holds == Verdict.FALSE ? Verdict.TRUE : Verdict.FALSE
                : expressions.explain(watch.calm(), scope).verdict();
        return switch (holds) {
            case TRUE -> new Reading(at, Said.HOLDS, false, values, null);
            case FALSE -> new Reading(at, Said.DOES_NOT, calm == Verdict.TRUE, values, null);
            case CANNOT_SAY ->
                new Reading(
                        at, Said.COULD_NOT_BE_READ, false, values, "What was read lacks a value that the rule needs.");
        };
    }

    /** "For at least" needs readings that span it; what could not be read neither confirms nor ends; a gap begins anew. */
    public static Step step(Watch watch, Stand before, Reading reading) {
        Instant at = reading.at();
        boolean gap =
                before.last() != null && Duration.between(before.last(), at).toSeconds() > 2 * watch.everySeconds();
        List<Turn> turns = new ArrayList<>();
        if (reading.said() == Said.COULD_NOT_BE_READ) {
            Instant since = before.unreadSince() == null || gap ? at : before.unreadSince();
            boolean says = !before.unreadSaid()
                    && watch.unreadAfter() != null
                    && !at.isBefore(since.plusSeconds(seconds(watch.unreadAfter())));
            if (says) {
                turns.add(Turn.CANNOT_BE_READ);
            }
            return new Step(
                    new Stand(
                            before.inFault(), gap ? null : before.holdsSince(), since, before.unreadSaid() || says, at),
                    turns);
        }
        if (before.unreadSaid()) {
            turns.add(Turn.READ_AGAIN);
        }
        boolean holds = reading.said() == Said.HOLDS;
        Instant holdsSince = !holds ? null : before.holdsSince() == null || gap ? at : before.holdsSince();
        boolean fault = holdsSince != null
                && !before.inFault()
                && !at.isBefore(holdsSince.plusSeconds(seconds(watch.atLeast())));
        boolean well = before.inFault() && reading.calm();
        if (fault) {
            turns.add(Turn.FAULT);
        }
        if (well) {
            turns.add(Turn.WELL);
        }
        return new Step(new Stand((before.inFault() || fault) && !well, holdsSince, null, false, at), turns);
    }

    private static long seconds(@Nullable Span span) {
        return span == null ? 0 : span.roughSeconds();
    }
}
