package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Arrays;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** How bad a fault is, by the words of ITU-T X.733, the worst first. */
public enum Severity {
    CRITICAL("critical", 2, 1),
    MAJOR("major", 2, 2),
    MINOR("minor", 3, 3),
    WARNING("warning", 4, 3),
    INDETERMINATE("indeterminate", 3, 3),
    CLEARED("cleared", 4, 4);

    private final String word;
    private final long impact;
    private final long urgency;

    Severity(String word, long impact, long urgency) {
        this.word = word;
        this.impact = impact;
        this.urgency = urgency;
    }

    @JsonValue
    public String word() {
        return word;
    }

    /** 1 to 4, as of an incident that such a fault opens. */
    public long impact() {
        return impact;
    }

    /** 1 to 4. */
    public long urgency() {
        return urgency;
    }

    /** Whether this is worse than another; anything is worse than nothing. One that cannot be told is as bad as a minor one. */
    public boolean worseThan(@Nullable Severity other) {
        return other == null || rank() < other.rank();
    }

    public boolean atLeast(Severity other) {
        return rank() <= other.rank();
    }

    private int rank() {
        return this == INDETERMINATE ? MINOR.ordinal() : ordinal();
    }

    public static Optional<Severity> of(String word) {
        return Arrays.stream(values()).filter(s -> s.word.equals(word)).findFirst();
    }
}
