package dastur.core.record;

import dastur.core.ticket.TicketId;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/**
 * An entry as it is stored: its bytes are never rewritten.
 *
 * @param sealed the canonical text (RFC 8785) that is hashed
 * @param hash SHA-256 of {@code sealed} in hexadecimal
 * @param content the canonical text of what may be redacted; null when there is none or it was redacted
 * @param salt 32 bytes in hexadecimal; null like the content
 */
public record Entry(
        TicketId ticket,
        long seq,
        Instant at,
        String kind,
        String sealed,
        String hash,
        @Nullable String content,
        @Nullable String salt) {
    /** The same after its content was redacted. */
    public Entry withoutContent() {
        return new Entry(ticket, seq, at, kind, sealed, hash, null, null);
    }
}
