/** Judging by rules. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.check;
