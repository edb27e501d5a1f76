package dastur.core.partner;

import org.jspecify.annotations.Nullable;

/** What follows for one shared field, of what both sides say and what they last agreed on (I16). */
public sealed interface Verdict {
    String field();

    /** Nothing: nothing has changed, or what was sent is waited for. */
    record Rests(String field) implements Verdict {}

    /** Both say the same: that is what they agree on from now. */
    record Agrees(String field, String value) implements Verdict {}

    /** Theirs is taken over. @param word what they call it */
    record Takes(String field, String value, String word) implements Verdict {}

    /** Ours is sent. @param as the input that takes it @param word what it is called there */
    record Sends(String field, String value, String as, String word) implements Verdict {}

    /**
     * A person says what counts.
     *
     * @param ours what we say; null for nothing
     * @param word what they say, in their words
     * @param theirs what that means here; null where it is not known
     * @param why they are asked
     */
    record Asks(
            String field,
            @Nullable String ours,
            String word,
            @Nullable String theirs,
            String why) implements Verdict {}
}
