package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.core.JsonPointer;

/** Where a value of a signal comes from (I3). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Origin.At.class, name = "at"),
    @JsonSubTypes.Type(value = Origin.Header.class, name = "header"),
    @JsonSubTypes.Type(value = Origin.Text.class, name = "text")
})
public sealed interface Origin {
    /** A place in what was sent. @param pointer a JSON Pointer (RFC 6901), such as {@code /data/unit} */
    record At(String pointer) implements Origin {
        public At {
            try {
                if (pointer.isEmpty()) {
                    throw new IllegalArgumentException("A place begins with '/', such as /data/unit.");
                }
                JsonPointer.compile(pointer);
            } catch (IllegalArgumentException e) {
                throw new IllegalArgumentException(
                        "'" + pointer + "' is no place: it begins with '/', such as /data/unit.");
            }
        }
    }

    /** A header of the request, whatever its letters' case. */
    record Header(String name) implements Origin {}

    /** The same text always, with values of the signal, its CI and service in {@code {{ }}} where one wants. */
    record Text(String text) implements Origin {}
}
