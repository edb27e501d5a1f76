package dastur.store;

import dastur.core.run.Event;
import dastur.core.run.Event.Change;
import dastur.core.run.Recorded;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EmbeddedId;
import jakarta.persistence.Entity;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.util.Arrays;
import java.util.Collection;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** Finds tickets by the words that stand on their records (N6): what people wrote, not what machines logged. */
final class Words {
    /** More words of one entry are not kept; nobody looks for the thousandth word of a log. */
    private static final int MOST = 200;

    private static final int LONGEST = 40;

    @Embeddable
    record Key(String word, String ticket, long seq) implements Serializable {}

    @Entity(name = "TicketWordRow")
    @Table(name = "ticket_word")
    static class Row {
        @EmbeddedId
        Key key;
    }

    private Words() {}

    /** Words of a text in small letters, without the shortest, each once. */
    static List<String> of(String text) {
        return Arrays.stream(text.toLowerCase(Locale.ROOT).split("[^\\p{L}\\p{N}]+"))
                .filter(w -> w.length() > 1)
                .map(w -> w.length() > LONGEST ? w.substring(0, LONGEST) : w)
                .distinct()
                .limit(MOST)
                .toList();
    }

    static void index(StatelessSession session, String ticket, Recorded r) {
        String text = text(r.event());
        if (!text.isBlank()) {
            of(text).forEach(word -> {
                Row row = new Row();
                row.key = new Key(word, ticket, r.seq());
                session.insert(row);
            });
        }
    }

    static void forget(StatelessSession session, String ticket, long seq) {
        session.createMutationQuery("delete TicketWordRow where key.ticket = ?1 and key.seq = ?2")
                .setParameter(1, ticket)
                .setParameter(2, seq)
                .executeUpdate();
    }

    private static String text(Event event) {
        return switch (event) {
            case Event.TicketRaised e -> joined(values(e.fields()), values(e.texts()));
            case Event.TicketChanged e -> after(e.texts());
            case Event.Updated e -> after(e.texts());
            case Event.RoomTalked e ->
                joined(e.said() == null ? Stream.empty() : e.said().stream().map(Event.RoomLine::text));
            case Event.NoteAdded e -> joined(Stream.ofNullable(e.text()));
            case Event.TaskDone e -> joined(values(e.form()), Stream.ofNullable(e.note()));
            case Event.VoteCast e -> joined(Stream.ofNullable(e.comment()), Stream.ofNullable(e.condition()));
            case Event.FileAttached e -> joined(Stream.ofNullable(e.name()));
            default -> "";
        };
    }

    private static String after(@Nullable Map<String, Change> changes) {
        return changes == null
                ? ""
                : joined(changes.values().stream().map(Change::after).filter(Objects::nonNull));
    }

    private static Stream<?> values(@Nullable Map<String, Object> values) {
        return values == null ? Stream.empty() : ((Collection<?>) values.values()).stream();
    }

    private static String joined(Stream<?>... parts) {
        StringBuilder text = new StringBuilder();
        Arrays.stream(parts).flatMap(p -> p).forEach(v -> text.append(v).append(' '));
        return text.toString();
    }
}
