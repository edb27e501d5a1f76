/**
 * The relay: a small process in a private network that makes there what the server asks for and its own file allows (M13 to M16). It
 * only calls out.
 */
@org.jspecify.annotations.NullMarked
package dastur.relay;
