/** Decisions of people. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.approval;
