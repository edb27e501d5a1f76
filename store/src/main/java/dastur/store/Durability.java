package dastur.store;

/** What an acknowledged change outlives (K3). */
public enum Durability {
    /** A killed process. What was committed in the last seconds before a power failure may be gone. */
    PROCESS,
    /** A power failure too: every answer waits until what it tells of is on the disk. */
    POWER
}
