package dastur.core.ticket;

import org.jspecify.annotations.Nullable;

/**
 * What was wished of a CI and came otherwise (M17). What a CI is given while it is planned is wished, and agreed to as it stands
 * then; what it is given from the moment on that it is planned no longer is real.
 *
 * @param name the field, as it is declared
 * @param wished as text
 * @param real as text; null where the CI has no such value any more
 */
public record Wish(String name, String wished, @Nullable String real) {}
