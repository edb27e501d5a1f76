package dastur.core.partner;

import dastur.core.json.Texts;
import dastur.core.signal.Mapping;
import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import dastur.core.signal.Source;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Locale;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Another organisation's ticket desk that ours is joined to (I15).
 *
 * @param every how often it is looked at, 5 s to 1 h
 * @param list the action that lists what changed: inputs {@link #SINCE} and {@link #SHEET}, outputs {@link #TICKETS} and, where there may
 *     be more, {@link #NEXT}; with {@link #NOW}, their time (RFC 3339), it does not matter that their clock is off
 * @param raise the action by which our workflows raise a ticket there. Only what it raised is followed on our tickets: that they name one
 *     of ours is not enough
 * @param change the action that changes one of theirs: inputs {@link #ID} and those that shared fields name; null where they are only read
 * @param comment the action that says something there: inputs {@link #ID}, {@link #TEXT}, {@link #BY} and {@link #REFERENCE}; null where
 *     nothing is said
 * @param read the action that reads one of theirs: input {@link #ID}, output {@link #TICKET}, and the result {@link #GONE} where there is none
 *     any more; null where nobody notices that one is gone there
 * @param ciBy by what of our CIs theirs are found, such as {@code address}; null for the id
 * @param told further values of their tickets that triggers look at
 */
public record Partner(
        PartnerKey key,
        String name,
        boolean on,
        Span every,
        ActionKey list,
        @Nullable ActionKey raise,
        @Nullable ActionKey change,
        @Nullable ActionKey comment,
        @Nullable ActionKey read,
        Places places,
        @Nullable String ciBy,
        List<Shared> shared,
        List<Told> told) {
    public static final String SINCE = "since";
    public static final String SHEET = "sheet";
    public static final String TICKETS = "tickets";
    public static final String NEXT = "next";
    public static final String NOW = "now";
    public static final String TICKET = "ticket";
    public static final String GONE = "gone";
    public static final String ID = "id";
    public static final String TEXT = "text";
    public static final String BY = "by";
    public static final String REFERENCE = "reference";

    private static final String THEIR_NUMBER = "theirNumber";
    private static final long SHORTEST = 5;
    private static final long LONGEST = 3_600;
    private static final int MOST_SHARED = 40;

    /** A value of their tickets that only triggers look at. */
    public record Told(String name, FieldType type, String at) {
        public Told {
            Texts.checkWord("value's name", name);
            if (!Mapping.isFree(name) || name.equals(THEIR_NUMBER)) {
                throw new IllegalArgumentException("'" + name + "' is said of every signal; choose another name.");
            }
            if (!isPlain(type)) {
                throw new IllegalArgumentException("'" + name + "' cannot be a " + type.word() + ".");
            }
            Places.check(at);
        }
    }

    public Partner {
        if (name == null || name.isBlank() || name.length() > 200) {
            throw new IllegalArgumentException("A partner has a name of at most 200 characters.");
        }
        if (!isOften(every)) {
            throw new IllegalArgumentException(
                    "A partner is looked at every 5 seconds at the most, and every hour at the least.");
        }
        shared = shared == null ? List.of() : List.copyOf(shared);
        told = told == null ? List.of() : List.copyOf(told);
        if (shared.size() + told.size() > MOST_SHARED) {
            throw new IllegalArgumentException("A partner shares at most " + MOST_SHARED + " fields.");
        }
        Set<String> seen = new HashSet<>();
        for (String field : names(shared, told)) {
            if (!seen.add(field)) {
                throw new IllegalArgumentException("'" + field + "' stands twice.");
            }
        }
        for (Shared one : shared) {
            if (one.as() != null && change == null) {
                throw new IllegalArgumentException(
                        "'" + one.ours() + "' is to be sent, but no action changes their tickets.");
            }
        }
    }

    private static List<String> names(List<Shared> shared, List<Told> told) {
        List<String> names = new ArrayList<>();
        shared.forEach(s -> names.add(s.ours()));
        told.forEach(t -> names.add(t.name()));
        return names;
    }

    /** The same, where both have changed a field led by one side. */
    public Partner led(Shared.Leads by) {
        List<Shared> other = shared.stream()
                .map(s -> new Shared(s.ours(), s.at(), s.as(), s.words(), by))
                .toList();
        return new Partner(key, name, on, every, list, raise, change, comment, read, places, ciBy, other, told);
    }

    /** Whether somebody may be looked at so often. */
    public static boolean isOften(Span every) {
        return every.roughSeconds() >= SHORTEST && every.roughSeconds() <= LONGEST;
    }

    /** What makes all that is said of one of their tickets the same matter; matters are written small, and without gaps. */
    public String matter(String id) {
        return key + "/" + id.replaceAll("\\s+", " ").toLowerCase(Locale.ROOT);
    }

    /**
     * The source of the signals that their new tickets are. Nobody else sends to it: it has no secret.
     *
     * @param otherwise what becomes of a ticket of theirs that no trigger takes up
     * @param group who gets the incidents that are opened for them
     */
    public Source source(FieldCatalogue fields, Source.Otherwise otherwise, @Nullable String group) {
        List<Row> rows = new ArrayList<>(List.of(
                // What opens a ticket by itself is a fault; what only triggers look at is news, each time anew.
                Row.text(To.SORT, otherwise == Source.Otherwise.INCIDENT ? "fault" : "news"),
                Row.at(To.MATTER, "/matter"),
                Row.at(To.KEY, "/matter"),
                Row.at(To.TITLE, "/title"),
                Row.at(To.TEXT, "/text"),
                Row.at(To.LINK, "/link")));
        if (places.ci() != null) {
            Row ci = Row.at(To.CI, "/ci");
            rows.add(ciBy == null ? ci : ci.by(ciBy));
        }
        rows.add(Row.value(THEIR_NUMBER, FieldType.TEXT, "/id"));
        for (Shared one : shared) {
            FieldType type = fields.ticketField(one.ours())
                    .map(Field::type)
                    .filter(Partner::isPlain)
                    .orElse(FieldType.TEXT);
            if (Mapping.isFree(one.ours())) {
                rows.add(Row.value(one.ours(), type, "/values/" + one.ours()));
            }
        }
        told.forEach(t -> rows.add(Row.value(t.name(), t.type(), "/values/" + t.name())));
        return new Source(key.source(), name, true, Source.Proof.TOKEN, new Mapping(rows), otherwise, false, group);
    }

    private static boolean isPlain(FieldType type) {
        return switch (type) {
            case TEXT, LONG_TEXT, WHOLE, NUMBER, YES_NO, TIME -> true;
            case CHOICE, PERSON, GROUP, SERVICE, CI, LIST, ANY -> false;
        };
    }
}
