package dastur.store;

import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import java.util.List;
import java.util.Optional;

/** The sources that are set up. */
public final class Sources {
    static final String KIND = "source";

    private final Database database;

    public Sources(Database database) {
        this.database = database;
    }

    public List<Source> all() {
        return database.read(session -> References.documents(session, KIND, Source.class));
    }

    public Optional<Source> find(SourceKey key) {
        return database.read(session -> References.document(session, KIND, key.value(), Source.class));
    }

    /** Sets one up without a line in the journal; for filling an empty database. */
    public void put(Source source) {
        database.run(
                session -> References.putDocument(session, KIND, source.key().value(), source));
    }
}
