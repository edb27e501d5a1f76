/** Waiting for a time, a condition, a signal or a reply. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.waiting;
