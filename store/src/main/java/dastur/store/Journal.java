package dastur.store;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import jakarta.persistence.Column;
import jakarta.persistence.Entity;
import jakarta.persistence.GeneratedValue;
import jakarta.persistence.GenerationType;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Instant;
import java.time.temporal.ChronoUnit;
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

        @Column(name = "who")
        String person;

        String subject;

        @Column(name = "subject_id")
        String subjectId;

        String did;

        @Nullable String detail;

        /** Counts the lines of the chain; null of one that an earlier release wrote. */
        @Nullable Long seq;

        /** SHA-256 of what was set, in canonical JSON; null where nothing was. */
        @Column(name = "set_hash")
        @Nullable String setHash;

        @Nullable String hash;

        /** What is hashed: all of the line, and the hash of the one before. */
        String sealed(String previous) {
            Map<String, Object> text = new TreeMap<>(Map.of(
                    "v",
                    1,
                    "record",
                    RECORD,
                    "seq",
                    Objects.requireNonNull(seq),
                    "at",
                    Json.tree(at),
                    "by",
                    person,
                    "subject",
                    subject,
                    "id",
                    subjectId,
                    "did",
                    did,
                    "previous",
                    previous));
            if (detail != null) {
                text.put("detail", detail);
            }
            if (setHash != null) {
                text.put("set", setHash);
            }
            return CanonicalJson.write(text);
        }
    }

    /** By what the log knows the journal. */
    static final String RECORD = "journal";

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

    /** Whether something has ever been set up by somebody. */
    public boolean knows(String subject, String id) {
        return database.read(session -> session.createSelectionQuery(
                                "select count(*) from JournalRow where subject = ?1 and subjectId = ?2", Long.class)
                        .setParameter(1, subject)
                        .setParameter(2, id)
                        .getSingleResult()
                > 0);
    }

    /** Writes a line of its own, where nothing else is changed. */
    public void write(By by, String subject, String id, String did, @Nullable String detail) {
        database.run(session -> write(session, by, subject, id, did, detail));
    }

    static void write(StatelessSession session, By by, String subject, String id, String did, @Nullable String detail) {
        write(session, by, subject, id, did, detail, null);
    }

    /** @param set what the subject is now; null where nothing was set */
    private static void write(
            StatelessSession session,
            By by,
            String subject,
            String id,
            String did,
            @Nullable String detail,
            @Nullable Object set) {
        set(session, by, subject, id, did, detail, set == null ? null : hashOf(set));
    }

    /** Writes what was set. @param setHash as {@link AsSet} gives it; null where nothing was */
    static void set(
            StatelessSession session,
            By by,
            String subject,
            String id,
            String did,
            @Nullable String detail,
            @Nullable String setHash) {
        Row row = new Row();
        row.at = by.at().truncatedTo(ChronoUnit.MILLIS);
        row.person = by.person().value();
        row.subject = subject;
        row.subjectId = id;
        row.did = did;
        row.detail = detail == null ? null : Texts.clip(detail, MAX_DETAIL);
        row.setHash = setHash;
        session.doWork(c -> chain(c, row));
        session.insert(row);
    }

    /** The hash of what something is, as a line names it. */
    static String hashOf(Object set) {
        return Seal.hash(CanonicalJson.write(withoutNothing(Json.tree(set))));
    }

    /** Canonical JSON knows no null: what is nothing is left out. */
    private static JsonNode withoutNothing(JsonNode node) {
        if (node.isObject()) {
            ObjectNode kept = Json.mapper().createObjectNode();
            node.properties().stream()
                    .filter(p -> !p.getValue().isNull())
                    .forEach(p -> kept.set(p.getKey(), withoutNothing(p.getValue())));
            return kept;
        }
        if (node.isArray()) {
            ArrayNode kept = Json.mapper().createArrayNode();
            node.forEach(n -> kept.add(n.isNull() ? Json.mapper().createObjectNode() : withoutNothing(n)));
            return kept;
        }
        return node;
    }

    /** Makes the line the next of the chain, and has it entered into the log. Who writes another meanwhile waits. */
    private static void chain(Connection c, Row row) throws SQLException {
        Jdbc.update(c, "update journal_head set seq = seq + 1 where id = 1");
        Row before = Jdbc.query(c, "select seq, head from journal_head where id = 1", r -> {
                    Row head = new Row();
                    head.seq = r.getLong(1);
                    head.hash = r.getString(2);
                    return head;
                })
                .getFirst();
        row.seq = before.seq;
        row.hash = Seal.hash(row.sealed(Objects.requireNonNull(before.hash)));
        Jdbc.update(c, "update journal_head set head = ? where id = 1", row.hash);
        Jdbc.update(c, "insert into log_pending (ticket, seq, hash) values (?, ?, ?)", RECORD, row.seq, row.hash);
    }

    /** Writes what a change made of something: made, changed with each difference, or nothing when all is the same. */
    static void changed(StatelessSession session, By by, String subject, String id, Optional<?> before, Object after) {
        changed(session, by, subject, id, before, after, after);
    }

    /** @param set what the audit compares with what is there: without what other lines set */
    static void changed(
            StatelessSession session, By by, String subject, String id, Optional<?> before, Object after, Object set) {
        if (before.isEmpty()) {
            write(session, by, subject, id, "made", null, set);
            return;
        }
        List<String> differences = differences(flat(before.get()), flat(after));
        if (!differences.isEmpty()) {
            write(session, by, subject, id, "changed", String.join("; ", differences), set);
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
