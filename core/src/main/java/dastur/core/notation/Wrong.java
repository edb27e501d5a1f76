package dastur.core.notation;

import org.jspecify.annotations.Nullable;

/** Thrown while reading only; becomes a {@link NotationProblem}. */
public final class Wrong extends RuntimeException {
    final transient NotationProblem problem;

    Wrong(int line, int column, String message, @Nullable String proposal) {
        super(message, null, false, false);
        problem = new NotationProblem(line, column, message, proposal);
    }
}
