/** Calling people in. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.callin;
