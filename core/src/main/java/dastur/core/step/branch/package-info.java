/** Decisions on data. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.branch;
