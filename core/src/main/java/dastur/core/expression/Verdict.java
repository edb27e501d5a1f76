package dastur.core.expression;

import com.fasterxml.jackson.annotation.JsonValue;

/** What a condition says. A value it needs may be absent: then it cannot say, and counts as not taken (D25). */
public enum Verdict {
    TRUE("true"),
    FALSE("false"),
    CANNOT_SAY("cannot say");

    private final String word;

    Verdict(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }

    static Verdict of(boolean holds) {
        return holds ? TRUE : FALSE;
    }
}
