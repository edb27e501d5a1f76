package dastur.core.partner;

import com.fasterxml.jackson.core.JsonPointer;
import org.jspecify.annotations.Nullable;

/**
 * Where things stand in one of their tickets, each a JSON Pointer (RFC 6901).
 *
 * @param id what names it among theirs
 * @param reference the number of our ticket, in those that we have raised there
 * @param changed when it was last changed there: a time with its offset (RFC 3339), by their clock
 * @param comments a list of what was said on it; those in it are told apart by {@code commentId}
 * @param commentReference our own mark on what we have said there, so that it does not come back as theirs
 */
public record Places(
        String id,
        String title,
        @Nullable String text,
        @Nullable String link,
        @Nullable String reference,
        @Nullable String ci,
        @Nullable String changed,
        @Nullable String comments,
        @Nullable String commentId,
        @Nullable String commentBy,
        @Nullable String commentText,
        @Nullable String commentReference) {
    public Places {
        check(id);
        check(title);
        text = place(text);
        link = place(link);
        reference = place(reference);
        ci = place(ci);
        changed = place(changed);
        comments = place(comments);
        commentId = place(commentId);
        commentBy = place(commentBy);
        commentText = place(commentText);
        commentReference = place(commentReference);
        if (comments != null && (commentId == null || commentText == null)) {
            throw new IllegalArgumentException("Where comments are read, say where each has its id and its text.");
        }
    }

    private static @Nullable String place(@Nullable String pointer) {
        if (pointer == null || pointer.isBlank()) {
            return null;
        }
        check(pointer);
        return pointer;
    }

    static void check(@Nullable String pointer) {
        try {
            if (pointer == null || pointer.isBlank()) {
                throw new IllegalArgumentException();
            }
            JsonPointer.compile(pointer);
        } catch (IllegalArgumentException e) {
            throw new IllegalArgumentException("'" + (pointer == null ? "" : pointer)
                    + "' is no place: it begins with '/', such as /fault/state.");
        }
    }
}
