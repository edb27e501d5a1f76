package dastur.core.run;

import org.jspecify.annotations.Nullable;

/**
 * Why a command was not accepted.
 *
 * @param message one sentence that names the thing, what was expected and the next move
 * @param where the field it is about; null for the whole
 */
public record Refusal(Code code, String message, @Nullable String where) {
    /** Kinds of refusal, so that the boundary can choose its answer. */
    public enum Code {
        NOT_FOUND,
        NOT_YOURS,
        TOO_LATE,
        STALE,
        HELD,
        INVALID
    }

    public static Refusal invalid(String where, String message) {
        return new Refusal(Code.INVALID, message, where);
    }

    public static Refusal notYours(String message) {
        return new Refusal(Code.NOT_YOURS, message, null);
    }
}
