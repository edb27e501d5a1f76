package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonValue;

/** What a signal does to its matter (I20). Only turns start anything; repeats are counted. */
public enum Turn {
    BEGINS("begins"),
    WORSE("worse"),
    REPEATS("repeats"),
    RECOVERED("recovered"),
    /** One source says it is well, another still reports the fault. */
    STILL("still in fault"),
    NEWS("news"),
    /** It is well again, of which nobody had said that it was not. */
    NOTHING("nothing to recover"),
    /** It speaks of a time before the last fault. */
    OUT_OF_ORDER("out of order"),
    /** It turns so often that no single turn means anything (I23). */
    UNSTEADY("unsteady");

    private final String word;

    Turn(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
