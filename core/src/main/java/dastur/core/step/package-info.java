/** The kinds of steps, each family in a room of its own: its model, what it waits for, and all that is particular to it. */
@org.jspecify.annotations.NullMarked
package dastur.core.step;
