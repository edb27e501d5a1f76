/** What machines carry out: automations, measurements, and what undoes them. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.calling;
