package dastur.core.expression;

/** What evaluating an expression came to. */
public sealed interface Outcome {
    /** A value in JSON form: text, whole number, number, yes or no, list, map; times as ISO text. */
    record Value(Object value) implements Outcome {}

    /** Something it needs has no value. */
    record Absent(String what) implements Outcome {}

    /** It cannot be evaluated; the reason holds no values (D27). */
    record Failed(String why) implements Outcome {}
}
