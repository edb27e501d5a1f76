package dastur.core.record;

import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.ticket.TicketId;
import java.security.KeyPair;
import java.time.Instant;
import java.util.List;
import java.util.Map;

/**
 * A signed statement of record heads, chained to the one before: whoever keeps one can show later that a record was not
 * cut or rewritten since (D23).
 *
 * @param text the canonical text that is signed
 * @param hash SHA-256 of the text; the next anchor names it
 */
public record Anchor(long number, Instant at, String text, String hash, String signature) {
    /** The newest entry of a record. */
    public record Head(TicketId ticket, long seq, String hash) {}

    /** Signs heads as the next anchor. */
    public static Anchor over(long number, Instant at, List<Head> heads, String previous, KeyPair key) {
        String text = CanonicalJson.write(Map.of(
                "v",
                1,
                "anchor",
                number,
                "at",
                Json.tree(at),
                "heads",
                heads.stream()
                        .map(h -> List.<Object>of(h.ticket().value(), h.seq(), h.hash()))
                        .toList(),
                "previous",
                previous));
        return new Anchor(number, at, text, Seal.hash(text), Signing.sign(text, key));
    }
}
