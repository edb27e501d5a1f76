package dastur.core.expression;

import java.util.Map;

/**
 * One clause of a condition with the values it saw.
 *
 * @param text the clause as written
 * @param seen the value of each path in it; an absent one is missing
 * @param absent the paths in it that had no value
 */
public record Clause(String text, Verdict verdict, Map<String, Object> seen, java.util.List<String> absent) {
    /** A condition taken apart. */
    public record Explained(String condition, Verdict verdict, java.util.List<Clause> clauses) {}
}
