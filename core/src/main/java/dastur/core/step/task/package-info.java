/** Tasks for people. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.task;
