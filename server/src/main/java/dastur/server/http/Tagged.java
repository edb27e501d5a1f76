package dastur.server.http;

import dastur.core.json.Json;
import dastur.core.record.Seal;
import java.nio.charset.StandardCharsets;
import java.util.Arrays;
import org.jspecify.annotations.Nullable;

/**
 * A large answer that seldom changes, with a tag of what it says (RFC 9110, 8.8.3): who says which they have is told so in a few
 * bytes. Two are tagged alike only if they say the same, so a tag gives away nothing that its holder did not have.
 *
 * @param tag in quotes, as it is sent
 */
public record Tagged(byte[] json, String tag) {
    public static Tagged of(Object answer) {
        String json = Json.write(answer);
        return new Tagged(json.getBytes(StandardCharsets.UTF_8), "\"" + Seal.hash(json) + "\"");
    }

    /** @param had what {@code If-None-Match} says; null for nothing */
    boolean isAmong(@Nullable String had) {
        // What comes packed may have been told to be weak on its way; the content is the same (RFC 9110, 8.8.3.2).
        return had != null
                && Arrays.stream(had.split(","))
                        .map(String::strip)
                        .anyMatch(t -> t.equals(tag) || t.equals("W/" + tag));
    }
}
