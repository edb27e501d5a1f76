/**
 * The engine. A case is a ticket with its open runs; {@link dastur.core.run.Engine} decides commands into events and
 * folds events into the case, with no clock, no randomness and no I/O.
 */
@org.jspecify.annotations.NullMarked
package dastur.core.run;
