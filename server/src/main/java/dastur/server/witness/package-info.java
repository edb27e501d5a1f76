/** To whom outside it is said how far the log reaches, so that nobody who holds all that is here can rewrite it alone (K13). */
@org.jspecify.annotations.NullMarked
package dastur.server.witness;
