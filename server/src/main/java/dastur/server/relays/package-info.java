/** Calls that relays make in private networks: how they are handed over, and the door at which relays ask (M13 to M15). */
@org.jspecify.annotations.NullMarked
package dastur.server.relays;
