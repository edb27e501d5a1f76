package dastur.core.partner;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * A field that both desks have.
 *
 * @param ours the name of our ticket's field
 * @param at where it stands in one of their tickets: a JSON Pointer (RFC 6901)
 * @param as the input of the changing action that takes it; null where it is only read
 * @param words what their words mean here and ours there, in this order: of several that fit, the first counts. Empty where both use the
 *     same
 * @param leads who is believed where both have changed it since they last agreed
 */
public record Shared(String ours, String at, @Nullable String as, List<Word> words, Leads leads) {
    private static final int MOST_WORDS = 200;

    /** One of their words, and ours for it. */
    public record Word(String theirs, String ours) {}

    /** Who is believed where both have changed a field. */
    public enum Leads {
        THEM("them"),
        US("us"),
        /** Whoever has said it later, where that is known; else a person. */
        LATER("later"),
        /** Nobody by itself: it is put to whoever has the ticket. */
        PERSON("person");

        private final String word;

        Leads(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    public Shared {
        if (ours == null || ours.isBlank()) {
            throw new IllegalArgumentException("A shared field names one of ours.");
        }
        Places.check(at);
        as = as == null || as.isBlank() ? null : as;
        words = words == null ? List.of() : List.copyOf(words);
        if (words.size() > MOST_WORDS) {
            throw new IllegalArgumentException("A field has at most " + MOST_WORDS + " words.");
        }
        Set<Word> seen = new HashSet<>();
        for (Word word : words) {
            if (word.theirs() == null
                    || word.theirs().isBlank()
                    || word.ours() == null
                    || word.ours().isBlank()) {
                throw new IllegalArgumentException("Each word of '" + ours + "' says theirs and ours.");
            }
            if (!seen.add(word)) {
                throw new IllegalArgumentException("'" + word.theirs() + "' stands twice at '" + ours + "'.");
            }
        }
    }

    /** What a word of theirs means here; empty where the table does not know it. */
    public Optional<String> toOurs(String theirs) {
        return words.isEmpty()
                ? Optional.of(theirs)
                : words.stream()
                        .filter(w -> w.theirs().equals(theirs))
                        .map(Word::ours)
                        .findFirst();
    }

    /** What a value of ours is called there; empty where they have no word for it. */
    public Optional<String> toTheirs(String value) {
        return words.isEmpty()
                ? Optional.of(value)
                : words.stream()
                        .filter(w -> w.ours().equals(value))
                        .map(Word::theirs)
                        .findFirst();
    }
}
