package dastur.core.partner;

import com.fasterxml.jackson.core.JsonPointer;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.record.Seal;
import java.time.DateTimeException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * One of their tickets, as it came.
 *
 * @param changed when it was last changed, by their clock; null where they do not say
 * @param says for each shared field what they say, in their words; without those of which they say nothing
 * @param told values that only triggers look at
 * @param raw as it came, in canonical JSON (RFC 8785): what is equal came before
 */
public record Theirs(
        String id,
        String title,
        @Nullable String text,
        @Nullable String link,
        @Nullable String reference,
        @Nullable String ci,
        @Nullable Instant changed,
        Map<String, String> says,
        Map<String, String> told,
        List<Comment> comments,
        String raw) {
    private static final int MOST_COMMENTS = 500;
    /** With the partner's key it must fit into a matter. */
    private static final int LONGEST_ID = 100;

    private static final int LONGEST_WORD = 1_000;

    /** Something said on it there. @param reference our mark, where it was we who said it */
    public record Comment(
            String id,
            @Nullable String by,
            String text,
            @Nullable String reference) {}

    /** Why something cannot be read as one of their tickets. */
    public static final class Unreadable extends Exception {
        private static final long serialVersionUID = 1;

        Unreadable(String why) {
            super(why);
        }

        /** In words for people. */
        public String why() {
            return String.valueOf(getMessage());
        }
    }

    /** @throws Unreadable where it has no id or no title at the places that are named */
    public static Theirs read(Partner partner, JsonNode node) throws Unreadable {
        Places places = partner.places();
        String id = word(node, places.id()).orElseThrow(() -> new Unreadable("It has no id at " + places.id() + "."));
        if (id.length() > LONGEST_ID || !Texts.keepable(id)) {
            throw new Unreadable("Its id at " + places.id() + " is longer than " + LONGEST_ID + " characters.");
        }
        String title = word(node, places.title())
                .orElseThrow(
                        () -> new Unreadable("'" + Texts.clip(id, 40) + "' has no title at " + places.title() + "."));
        Map<String, String> says = new LinkedHashMap<>();
        partner.shared()
                .forEach(s -> word(node, s.at()).ifPresent(w -> says.put(s.ours(), Texts.clip(w, LONGEST_WORD))));
        Map<String, String> told = new LinkedHashMap<>();
        partner.told().forEach(t -> word(node, t.at()).ifPresent(w -> told.put(t.name(), Texts.clip(w, LONGEST_WORD))));
        return new Theirs(
                id,
                Texts.clip(title, 200),
                word(node, places.text()).orElse(null),
                word(node, places.link()).filter(Texts::isLink).orElse(null),
                word(node, places.reference()).orElse(null),
                word(node, places.ci()).orElse(null),
                word(node, places.changed()).flatMap(Theirs::time).orElse(null),
                says,
                told,
                comments(node, places),
                CanonicalJson.write(node));
    }

    private static Optional<Instant> time(String word) {
        try {
            return Optional.of(OffsetDateTime.parse(word).toInstant());
        } catch (DateTimeException e) {
            return Optional.empty();
        }
    }

    private static List<Comment> comments(JsonNode node, Places places) {
        List<Comment> comments = new ArrayList<>();
        if (places.comments() != null) {
            for (JsonNode one : node.at(JsonPointer.compile(places.comments()))) {
                Optional<String> id = word(one, places.commentId()).filter(i -> i.length() <= LONGEST_ID);
                Optional<String> text = word(one, places.commentText());
                if (id.isPresent() && text.isPresent() && comments.size() < MOST_COMMENTS) {
                    comments.add(new Comment(
                            id.get(),
                            word(one, places.commentBy())
                                    .map(b -> Texts.clip(b, 100))
                                    .orElse(null),
                            Texts.clip(text.get(), Texts.MAX_TEXT),
                            word(one, places.commentReference()).orElse(null)));
                }
            }
        }
        return comments;
    }

    /** A word, number, or yes or no at a place, cleaned of what cannot be kept; blank is absent. */
    private static Optional<String> word(JsonNode node, @Nullable String place) {
        if (place == null) {
            return Optional.empty();
        }
        JsonNode found = node.at(JsonPointer.compile(place));
        if (!found.isValueNode() || found.isNull()) {
            return Optional.empty();
        }
        return Optional.of(Texts.clean(found.asText())).filter(w -> !w.isEmpty());
    }

    /** The same as long as nothing of it has changed. */
    public String version() {
        return Seal.hash(raw);
    }

    /** What the mapping of its source reads. */
    public String signal(Partner partner, Map<String, String> meant) {
        Map<String, Object> said = new LinkedHashMap<>();
        said.put("id", id);
        said.put("matter", partner.matter(id));
        said.put("title", title);
        said.put("text", text == null ? "" : Texts.clip(text, Texts.MAX_TEXT));
        said.put("link", link == null ? "" : link);
        said.put("ci", ci == null ? "" : ci);
        Map<String, Object> values = new LinkedHashMap<>(meant);
        values.putAll(told);
        said.put("values", values);
        return Json.write(said);
    }
}
