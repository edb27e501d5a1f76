package dastur.core.signal;

import dastur.core.ticket.CiId;
import dastur.core.ticket.ServiceId;
import java.time.Instant;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * One event from a source, as it is understood.
 *
 * @param id of the signal here
 * @param cameAt when it was received
 * @param at when it happened, by the sender's clock where that can be believed, else when it was received
 * @param severity null for news
 * @param matter what makes it the same as another; null where nothing does
 * @param key by what a waiting step is told; null where the mapping names none
 * @param values the source's own
 */
public record Signal(
        String id,
        SourceKey source,
        Instant cameAt,
        Instant at,
        Sort sort,
        @Nullable Severity severity,
        @Nullable String what,
        @Nullable String matter,
        @Nullable String key,
        @Nullable CiId ci,
        @Nullable ServiceId service,
        String title,
        @Nullable String text,
        @Nullable String link,
        Map<String, Object> values) {
    /** What expressions read as {@code signal.*}, without absent values. */
    public Map<String, Object> words() {
        Map<String, Object> words = new LinkedHashMap<>(values);
        put(words, "id", id);
        put(words, "source", source.value());
        put(words, "sort", sort.word());
        put(words, "severity", severity == null ? null : severity.word());
        put(words, "what", what);
        put(words, "matter", matter);
        put(words, "key", key);
        put(words, "ci", ci == null ? null : ci.value());
        put(words, "service", service == null ? null : service.value());
        put(words, "title", title);
        put(words, "text", text);
        put(words, "link", link);
        put(words, "at", at.toString());
        return words;
    }

    private static void put(Map<String, Object> words, String name, @Nullable Object value) {
        if (value != null) {
            words.put(name, value);
        }
    }
}
