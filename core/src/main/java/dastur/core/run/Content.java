package dastur.core.run;

import java.lang.annotation.ElementType;
import java.lang.annotation.Retention;
import java.lang.annotation.RetentionPolicy;
import java.lang.annotation.Target;

/**
 * Marks a component of an event as content: free text or values that are kept beside the sealed line under a salted
 * hash and can be redacted (D22). Redacted content folds as absent, so such a component must allow null.
 */
@Retention(RetentionPolicy.RUNTIME)
@Target(ElementType.RECORD_COMPONENT)
public @interface Content {}
