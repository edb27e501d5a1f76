package dastur.store;

import dastur.core.workflow.ActionKey;
import dastur.core.workflow.HandReading;
import java.util.Set;
import java.util.stream.Collectors;

/** By which actions people may read on tickets. */
public final class HandReadings {
    static final String KIND = "hand reading";

    private final Database database;

    public HandReadings(Database database) {
        this.database = database;
    }

    /** All that are let. */
    public Set<ActionKey> allowed() {
        return database.read(session -> References.documents(session, KIND, HandReading.class)).stream()
                .filter(HandReading::allowed)
                .map(HandReading::action)
                .collect(Collectors.toUnmodifiableSet());
    }

    /** Sets one without a line in the journal; for filling an empty database. */
    public void put(HandReading reading) {
        database.run(session ->
                References.putDocument(session, KIND, reading.action().value(), reading));
    }
}
