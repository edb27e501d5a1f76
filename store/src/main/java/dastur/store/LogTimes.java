package dastur.store;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;

/**
 * When the log took a change (K12): after the newest checkpoint that does not hold it, and before the oldest that does. What is
 * entered later under an earlier time is found by this, also when it was hashed and signed like anything else.
 */
final class LogTimes {
    /** So far the clocks of nodes may be apart, and so long a change may be on its way. */
    static final Duration SLACK = Duration.ofMinutes(5);

    /** How far the log reached at a time. */
    private record Mark(long number, long size, Instant at) {}

    private final List<Mark> marks = new ArrayList<>();

    /** Takes in what was signed since. The newest may yet be replaced, so it is read again. */
    synchronized void follow(Connection connection) throws SQLException {
        if (!marks.isEmpty()) {
            marks.removeLast();
        }
        marks.addAll(Jdbc.query(
                connection,
                "select number, size, at from checkpoint where number > ? and size is not null order by number",
                r -> new Mark(
                        r.getLong(1),
                        r.getLong(2),
                        r.getObject(3, OffsetDateTime.class).toInstant()),
                marks.isEmpty() ? 0L : marks.getLast().number()));
    }

    /**
     * Why something cannot have been written when it says; empty when it can, or when no checkpoint holds it yet.
     *
     * @param leaf the number of its change in the log
     */
    synchronized Optional<String> outside(long leaf, Instant at) {
        int holds = firstThatHolds(leaf);
        if (holds == marks.size()) {
            return Optional.empty();
        }
        Instant until = marks.get(holds).at();
        if (holds == 0) {
            // What was there before anything was signed may be of any time before that.
            return at.isAfter(until.plus(SLACK)) ? Optional.of(said(at, "by " + until)) : Optional.empty();
        }
        Instant from = marks.get(holds - 1).at();
        // A clock that was set back between them is no forgery.
        Instant earliest = from.isBefore(until) ? from : until;
        Instant latest = from.isBefore(until) ? until : from;
        boolean fits = !at.isBefore(earliest.minus(SLACK)) && !at.isAfter(latest.plus(SLACK));
        return fits ? Optional.empty() : Optional.of(said(at, "between " + earliest + " and " + latest));
    }

    private static String said(Instant at, String taken) {
        return "it says that it was written at " + at + ", but the log took it " + taken
                + ": it was written under another time";
    }

    /** The first checkpoint whose log has the leaf. Sizes only grow with their numbers. */
    private int firstThatHolds(long leaf) {
        int low = 0;
        int high = marks.size();
        while (low < high) {
            int middle = (low + high) >>> 1;
            if (marks.get(middle).size() > leaf) {
                high = middle;
            } else {
                low = middle + 1;
            }
        }
        return low;
    }
}
