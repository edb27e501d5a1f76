package dastur.store;

import dastur.core.people.PersonId;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.util.List;

/** Searches of the ticket list, and of the Desk, that somebody wants to come back to (N6). */
public final class SavedViews {
    /**
     * A search under a name.
     *
     * @param place where it belongs: {@code tickets} or {@code desk}
     * @param query as it stands in the page's address
     * @param shared whether everybody who sees tickets may use it
     */
    public record View(String id, PersonId person, String place, String name, String query, boolean shared) {}

    @Entity(name = "SavedViewRow")
    @Table(name = "saved_view")
    static class Row {
        @Id
        String id;

        String person;

        String place;

        String name;

        String query;

        boolean shared;
    }

    private final Database database;

    public SavedViews(Database database) {
        this.database = database;
    }

    /** A person's own and those that others share, by name. */
    public List<View> of(PersonId person) {
        return database.read(session -> session
                .createSelectionQuery("from SavedViewRow where person = ?1 or shared = true order by name", Row.class)
                .setParameter(1, person.value())
                .setMaxResults(200)
                .getResultList()
                .stream()
                .map(r -> new View(r.id, new PersonId(r.person), r.place, r.name, r.query, r.shared))
                .toList());
    }

    public void put(View view) {
        database.run(session -> {
            Row row = new Row();
            row.id = view.id();
            row.person = view.person().value();
            row.place = view.place();
            row.name = view.name();
            row.query = view.query();
            row.shared = view.shared();
            session.upsert(row);
        });
    }

    /** Whether a view of the person was there to be deleted. */
    public boolean delete(String id, PersonId person) {
        return database.write(
                        session -> session.createMutationQuery("delete SavedViewRow where id = ?1 and person = ?2")
                                .setParameter(1, id)
                                .setParameter(2, person.value())
                                .executeUpdate())
                > 0;
    }
}
