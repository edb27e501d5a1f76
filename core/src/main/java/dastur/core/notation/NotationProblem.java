package dastur.core.notation;

import org.jspecify.annotations.Nullable;

/**
 * Something in a text that cannot be understood.
 *
 * @param line from 1
 * @param column from 1
 * @param message one sentence: what is wrong
 * @param proposal what could stand there instead; null when nothing comes near
 */
public record NotationProblem(
        int line, int column, String message, @Nullable String proposal) {}
