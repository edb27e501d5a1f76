package dastur.server.http;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * What JSON that is passed on as it stands looks like, for the description of the API. Entries of a record are answered as
 * they were sealed, not as this release would write them.
 */
public @interface Shape {
    /** On a component: the type that the JSON is of. */
    @Retention(RetentionPolicy.RUNTIME)
    @Target(ElementType.RECORD_COMPONENT)
    @interface Of {
        Class<?> value();
    }

    /** On a record whose {@code kind} tells what {@code body} and {@code content} hold: as many shapes as kinds of entries. */
    @Retention(RetentionPolicy.RUNTIME)
    @Target(ElementType.TYPE)
    @interface ByKind {}
}
