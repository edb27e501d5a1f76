package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.ticket.TicketId;
import java.time.Duration;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * What explains a fault for now, so that it opens nothing of its own (I21, I22).
 *
 * @param under the ticket that explains it: a change in its window, or the incident of what it depends on
 * @param lookAt when it is looked at again whether it still does
 * @param over since when it was seen to explain it no longer; null while it does
 */
public record Aside(
        TicketId under,
        Because because,
        Instant lookAt,
        @Nullable Instant over) {
    private static final Duration LOOKED_AT_EVERY = Duration.ofMinutes(1);

    /** So long a fault may outlast what explained it before it is judged by itself. */
    private static final Duration OUTLASTS = Duration.ofMinutes(10);

    /** Why a fault is set aside. */
    public enum Because {
        PLANNED_WORK("planned work"),
        CONSEQUENCE("consequence");

        private final String word;

        Because(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    static Aside under(TicketId ticket, Because because, Instant now) {
        return new Aside(ticket, because, now.plus(LOOKED_AT_EVERY), null);
    }

    /** As it is after a look. @param holds whether its ticket still explains the fault */
    Aside looked(boolean holds, Instant now) {
        if (holds) {
            return under(under, because, now);
        }
        return over == null ? new Aside(under, because, now.plus(OUTLASTS), now) : this;
    }

    /** Whether the fault has outlasted what explained it. */
    boolean outlasted(Instant now) {
        return over != null && !lookAt.isAfter(now);
    }
}
