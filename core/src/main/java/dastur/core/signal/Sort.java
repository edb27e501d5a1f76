package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Arrays;
import java.util.Optional;

/** What a signal says of its matter (I3). */
public enum Sort {
    FAULT("fault"),
    RECOVERED("recovered"),
    /** Something happened that is neither a fault nor its end. */
    NEWS("news");

    private final String word;

    Sort(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }

    public static Optional<Sort> of(String word) {
        return Arrays.stream(values()).filter(s -> s.word.equals(word)).findFirst();
    }
}
