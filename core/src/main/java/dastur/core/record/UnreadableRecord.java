package dastur.core.record;

/** A record holds an entry this release cannot read; the case refuses to load rather than to guess (D24). */
public final class UnreadableRecord extends RuntimeException {
    UnreadableRecord(String message) {
        super(message);
    }
}
