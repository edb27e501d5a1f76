package dastur.store;

import dastur.core.json.Json;
import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EmbeddedId;
import jakarta.persistence.Entity;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;

/**
 * What somebody has filled in of a task's form and not yet given: theirs alone, on every device, and no part of the
 * record until they give it (N40).
 */
public final class FormDrafts {
    /** Forgotten after this long. */
    private static final Duration KEPT = Duration.ofDays(30);

    private static final Duration OVER = Duration.ofHours(1);

    @Entity(name = "FormDraftRow")
    @Table(name = "form_draft")
    static class Row {
        @EmbeddedId
        Key key;

        @Column(name = "saved_at")
        Instant savedAt;

        String form;
    }

    @Embeddable
    record Key(String visit, String person) implements Serializable {}

    private final Database database;

    public FormDrafts(Database database) {
        this.database = database;
    }

    public Optional<Map<String, Object>> of(VisitId visit, PersonId person) {
        return database.read(
                        session -> Optional.ofNullable(session.get(Row.class, new Key(visit.value(), person.value()))))
                .map(row -> Json.readMap(row.form));
    }

    public void put(VisitId visit, PersonId person, Map<String, Object> form, Instant now) {
        database.run(session -> {
            Row row = new Row();
            row.key = new Key(visit.value(), person.value());
            row.savedAt = now;
            row.form = Json.write(form);
            session.upsert(row);
        });
    }

    /**
     * Forgets what was left lying, and an hour after a task is over what was filled in for it: until then, an outcome that
     * is taken back finds its form as it was.
     */
    public void forgetOld(Instant now) {
        database.run(session -> {
            session.createMutationQuery("delete FormDraftRow where savedAt < ?1")
                    .setParameter(1, now.minus(KEPT))
                    .executeUpdate();
            session.createMutationQuery("delete FormDraftRow d where exists (select 1 from WorkItemRow w"
                            + " where w.visit = d.key.visit and w.isOpen = false and w.closedAt < ?1)")
                    .setParameter(1, now.minus(OVER))
                    .executeUpdate();
        });
    }
}
