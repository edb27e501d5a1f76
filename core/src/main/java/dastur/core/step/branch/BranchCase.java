package dastur.core.step.branch;

/** A named case of a branch; the condition is an expression. */
public record BranchCase(String name, String when) {}
