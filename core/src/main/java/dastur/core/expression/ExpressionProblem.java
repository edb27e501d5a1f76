package dastur.core.expression;

/** Why a text is no valid expression: a sentence, and the column (from 1) where it went wrong. */
public record ExpressionProblem(String message, int column) {}
