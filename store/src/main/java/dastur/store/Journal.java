package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.TreeMap;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * What was changed in the set-up, by whom and when (N80). Tickets have their own records; this is about accounts,
 * groups, services, CIs, calendars, rotas, actions. Written in the transaction of the change, never changed.
 */
public final class Journal {
    private static final int MAX_DETAIL = 8000;

    /** Who changes something. */
    public record By(PersonId person, Instant at) {}

    /** One line. @param detail each changed value with what it was before; null when there is nothing to tell */
    public record Line(
            long number,
            Instant at,
            PersonId by,
            String subject,
            String id,
            String did,
            @Nullable String detail) {}

    @Entity(name = "JournalRow")
    @Table(name = "journal")
    static class Row {
        @Id
        @GeneratedValue(strategy = GenerationType.IDENTITY)
        @Nullable Long number;

        Instant at;

        String person;

        String subject;

        @Column(name = "subject_id")
        String subjectId;

        String did;

        @Nullable String detail;
    }

    private final Database database;

    public Journal(Database database) {
        this.database = database;
    }

    /** Newest lines first. @param before only lines before this number; null for the newest */
    public Page<Line> lines(@Nullable Long before, int size) {
        return Page.of(
                database.read(session -> session
                        .createSelectionQuery("from JournalRow where number < ?1 order by number desc", Row.class)
                        .setParameter(1, before == null ? Long.MAX_VALUE : before)
                        .setMaxResults(size + 1)
                        .getResultList()
                        .stream()
                        .map(r -> new Line(
                                r.number == null ? 0 : r.number,
                                r.at,
                                new PersonId(r.person),
                                r.subject,
                                r.subjectId,
                                r.did,
                                r.detail))
                        .toList()),
                size);
    }

    /** Writes a line of its own, where nothing else is changed. */
    public void write(By by, String subject, String id, String did, @Nullable String detail) {
        database.run(session -> write(session, by, subject, id, did, detail));
    }

    static void write(StatelessSession session, By by, String subject, String id, String did, @Nullable String detail) {
        Row row = new Row();
        row.at = by.at();
        row.person = by.person().value();
        row.subject = subject;
        row.subjectId = id;
        row.did = did;
        row.detail = detail == null ? null : Texts.clip(detail, MAX_DETAIL);
        session.insert(row);
    }

    /** Writes what a change made of something: made, changed with each difference, or nothing when all is the same. */
    static void changed(StatelessSession session, By by, String subject, String id, Optional<?> before, Object after) {
        if (before.isEmpty()) {
            write(session, by, subject, id, "made", null);
            return;
        }
        List<String> differences = differences(flat(before.get()), flat(after));
        if (!differences.isEmpty()) {
            write(session, by, subject, id, "changed", String.join("; ", differences));
        }
    }

    private static Map<String, Object> flat(Object value) {
        return new TreeMap<>(Json.readMap(Json.write(value)));
    }

    private static List<String> differences(Map<String, Object> before, Map<String, Object> after) {
        List<String> found = new ArrayList<>();
        TreeMap<String, Object> all = new TreeMap<>(before);
        all.putAll(after);
        all.keySet().stream()
                .filter(name -> !Objects.equals(before.get(name), after.get(name)))
                .forEach(name -> found.add(name + ": " + words(before.get(name)) + " → " + words(after.get(name))));
        return found;
    }

    private static String words(@Nullable Object value) {
        return value == null ? "nothing" : Texts.clip(value instanceof String s ? s : Json.write(value), 500);
    }
}
