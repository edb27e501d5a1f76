/**
 * Signals: what a source says, made into our words. A source names how its senders show who they are and what their words
 * mean; {@link dastur.core.signal.Mapper} reads one payload by that, and {@link dastur.core.signal.Matter} says what it is
 * about and whether that has turned.
 *
 * <p>The one thing to get right: what is blank is absent, what cannot be understood is said and never guessed, and a value
 * that came from outside is never read as a template or an expression.
 */
@org.jspecify.annotations.NullMarked
package dastur.core.signal;
