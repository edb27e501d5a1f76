/** Setting values. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.update;
