/** A kind of step that exists in tests only. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.tally;
