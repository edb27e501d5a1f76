/** The model of a workflow: versions, steps, ways, ladders, actions, triggers. */
@org.jspecify.annotations.NullMarked
package dastur.core.workflow;
