/** Where lines end. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.end;
