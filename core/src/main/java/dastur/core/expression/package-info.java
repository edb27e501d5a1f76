/** Expressions and texts: CEL, type-checked against the declared fields, bounded and without I/O (D25–D27). */
@org.jspecify.annotations.NullMarked
package dastur.core.expression;
