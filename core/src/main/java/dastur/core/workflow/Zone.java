package dastur.core.workflow;

/** A private network: what is in it is reached by its relays only, which call out (M13). */
public record Zone(ZoneKey key, String name) {}
