/** The record: entries chained by SHA-256, their export, its check, and signed heads (N2–N4; D21–D24). */
@org.jspecify.annotations.NullMarked
package dastur.core.record;
