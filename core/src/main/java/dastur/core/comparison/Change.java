package dastur.core.comparison;

import com.fasterxml.jackson.annotation.JsonValue;

/** What became of one thing between two measurements. */
public enum Change {
    SAME("same"),
    /** Another value, of which nobody said which is the better. */
    CHANGED("changed"),
    /** A row or an item that was there before, where all rows of both sides are known. */
    GONE("gone"),
    /** A row or an item that was not there before, where all rows of both sides are known. */
    NEW("new"),
    /** A rule that did not hold and now does. */
    TURNED_GOOD("turned good"),
    /** A rule that held and no longer does. */
    TURNED_BAD("turned bad"),
    /** Only one side has a value: what the other would have said is not known. */
    UNKNOWN("not known");

    private final String word;

    Change(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }

    /** Whether it is known to be another than it was. What is not known is neither the same nor another. */
    public boolean differs() {
        return this != SAME && this != UNKNOWN;
    }
}
