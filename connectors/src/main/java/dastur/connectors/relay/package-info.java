/**
 * What the server and the relays of a private network say to each other (M13 to M15): signed both ways, so that neither the
 * line between them nor whoever reads it can change anything, and what a relay's own file allows.
 */
@org.jspecify.annotations.NullMarked
package dastur.connectors.relay;
