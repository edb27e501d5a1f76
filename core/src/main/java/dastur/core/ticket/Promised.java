package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonValue;

/** What a service promises to do soon enough; each has a clock on the ticket. */
public enum Promised {
    RESPOND("respond"),
    RESTORE("restore");

    private final String word;

    Promised(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
