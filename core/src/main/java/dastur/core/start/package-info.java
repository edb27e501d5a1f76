/**
 * What starts work. {@link dastur.core.start.Routing} says what becomes of a signal: whom it joins, what it opens, which
 * triggers take it up, and why. It decides nothing on a ticket: the command that follows is decided there, like every other.
 */
@org.jspecify.annotations.NullMarked
package dastur.core.start;
