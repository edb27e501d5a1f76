/** Telling people, by themselves or in the ticket's room. */
@org.jspecify.annotations.NullMarked
package dastur.core.step.notify;
