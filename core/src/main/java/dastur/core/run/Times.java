package dastur.core.run;

import dastur.core.run.Event.PlannedRung;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** Moments from here on, in working time where it is asked for. */
final class Times {
    private final Deciding d;
    private final Position position;
    private final @Nullable WorkingCalendar hours;

    Times(Deciding d, Position position, @Nullable WorkingCalendar hours) {
        this.d = d;
        this.position = position;
        this.hours = hours;
    }

    /** A ladder's rungs with their moments, fixed now (D28). */
    List<PlannedRung> rungs(@Nullable LadderKey key) {
        if (key == null) {
            return List.of();
        }
        Ladder ladder = d.lookups()
                .ladder(key)
                .orElseThrow(() -> new CannotOpen("no ladder", "The ladder '" + key + "' no longer exists."));
        List<PlannedRung> planned = new ArrayList<>();
        int number = 0;
        for (Rung rung : ladder.rungs()) {
            planned.add(new PlannedRung(++number, after(rung.after()), rung.deed()));
        }
        if (ladder.again() != null) {
            Instant from = d.at();
            for (int i = 0; i < ladder.again().times(); i++) {
                from = after(from, ladder.again().every());
                for (Rung rung : ladder.rungs()) {
                    if (rung.deed().takesNothingAway()) {
                        planned.add(new PlannedRung(++number, after(from, rung.after()), rung.deed()));
                    }
                }
            }
        }
        return planned;
    }

    Instant after(Span span) {
        return after(d.at(), span);
    }

    private Instant after(Instant from, Span span) {
        WorkingCalendar calendar =
                hours != null ? hours : d.lookups().calendar(d.scope(position).service());
        return calendar.after(from, span)
                .orElseThrow(() -> new CannotOpen(
                        "no working time",
                        "The calendar '" + calendar.name() + "' has no working time within 400 days."));
    }
}
