/**
 * What comes from outside by itself. {@link dastur.server.signals.SignalDoor} asks who sends and has it kept,
 * {@link dastur.server.signals.Intake} keeps what waits together, {@link dastur.server.signals.Router} says what becomes of it.
 *
 * <p>The one thing to get right: a sender is told that something was taken only when it is on the disk, and what is kept is
 * settled together with the change of the ticket that follows from it, or not at all.
 */
@org.jspecify.annotations.NullMarked
package dastur.server.signals;
