package dastur.core.signal;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** How a source's words become ours: rows of what is meant and where it comes from (I3). */
public record Mapping(List<Row> rows) {
    private static final int MOST = 60;
    private static final int MOST_WORDS = 500;
    /** Names that own values may not take: they are said of every signal. */
    private static final Set<String> TAKEN = Set.of(
            "source",
            "sort",
            "severity",
            "what",
            "ci",
            "service",
            "matter",
            "key",
            "title",
            "text",
            "link",
            "at",
            "id");

    /** Whether an own value may have a name. */
    public static boolean isFree(String name) {
        return !TAKEN.contains(name);
    }

    /** What a row sets. */
    public enum To {
        SORT("sort"),
        SEVERITY("severity"),
        /** The alarm's name: with the CI it makes the matter where no row says the matter itself. */
        WHAT("what"),
        CI("ci"),
        SERVICE("service"),
        MATTER("matter"),
        /** By what a waiting step is told. */
        KEY("key"),
        TITLE("title"),
        TEXT("text"),
        LINK("link"),
        /** When it happened. */
        AT("at"),
        /** A value of the source's own. */
        VALUE("value");

        private final String word;

        To(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * One row.
     *
     * @param name of an own value; null for others
     * @param type of an own value; left out, a text
     * @param by by what a CI is found: its id, name, address or any attribute; left out, its id
     * @param part a regular expression (RE2): of what stands there only what fits is taken, of that the first group where there is one
     * @param table words as they come with what they mean; null takes them as they are
     * @param otherwise what words mean that are not in the table; null for nothing
     */
    public record Row(
            To to,
            @Nullable String name,
            @Nullable FieldType type,
            Origin from,
            @Nullable String by,
            @Nullable String part,
            @Nullable Map<String, String> table,
            @Nullable String otherwise) {
        public Row {
            if (to == To.VALUE) {
                Texts.checkWord("value's name", name);
                if (TAKEN.contains(name)) {
                    throw new IllegalArgumentException(
                            "'" + name + "' is said of every signal; give the value another name.");
                }
            }
            type = to == To.VALUE ? Objects.requireNonNullElse(type, FieldType.TEXT) : null;
            table = table == null || table.isEmpty() ? null : new LinkedHashMap<>(table);
            part = part == null || part.isBlank() ? null : part;
            if (part != null) {
                Fitting.check(part);
            }
            if (table != null && table.size() > MOST_WORDS) {
                throw new IllegalArgumentException("A table has at most " + MOST_WORDS + " words.");
            }
        }

        /** Takes what stands at a place as it is. */
        public static Row at(To to, String pointer) {
            return new Row(to, null, null, new Origin.At(pointer), null, null, null, null);
        }

        /** Takes a text of our own. */
        public static Row text(To to, String text) {
            return new Row(to, null, null, new Origin.Text(text), null, null, null, null);
        }

        /** An own value at a place. */
        public static Row value(String name, FieldType type, String pointer) {
            return new Row(To.VALUE, name, type, new Origin.At(pointer), null, null, null, null);
        }

        public Row by(String attribute) {
            return new Row(to, name, type, from, attribute, part, table, otherwise);
        }

        public Row table(Map<String, String> words, @Nullable String other) {
            return new Row(to, name, type, from, by, part, words, other);
        }

        /** Takes only what fits a regular expression. */
        public Row part(String expression) {
            return new Row(to, name, type, from, by, expression, table, otherwise);
        }
    }

    public Mapping {
        rows = List.copyOf(rows);
        if (rows.size() > MOST) {
            throw new IllegalArgumentException("A mapping has at most " + MOST + " rows.");
        }
        Set<String> seen = new HashSet<>();
        for (Row row : rows) {
            String what =
                    row.to() == To.VALUE ? "value " + row.name() : row.to().word();
            if (!seen.add(what)) {
                throw new IllegalArgumentException("Two rows say the " + what + ".");
            }
        }
    }

    /** The source's own values. */
    @JsonIgnore
    public List<Field> own() {
        List<Field> own = new ArrayList<>();
        for (Row row : rows) {
            if (row.to() == To.VALUE && row.name() != null && row.type() != null) {
                own.add(Field.of(row.name(), row.name(), row.type()));
            }
        }
        return own;
    }
}
