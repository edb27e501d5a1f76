/**
 * What starts workflows without a ticket or a signal: {@link dastur.server.starts.Timekeeper} keeps their times,
 * {@link dastur.server.starts.HookDoor} takes calls of programs. Both open a ticket by the one way of every command.
 */
@org.jspecify.annotations.NullMarked
package dastur.server.starts;
