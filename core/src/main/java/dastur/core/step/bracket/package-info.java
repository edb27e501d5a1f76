/** Parts with steps inside. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.bracket;
