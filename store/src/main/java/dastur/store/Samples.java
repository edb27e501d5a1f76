package dastur.store;

import dastur.core.people.PersonId;
import dastur.core.signal.SourceKey;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Optional;

/** What people keep of what sources sent, by names: what has come goes after 30 days, a sample stays (I4). */
public final class Samples {
    /** Names a sample in the journal. */
    private static final String SUBJECT = "sample";

    /** So many a source. */
    public static final int MOST = 50;

    /** A sample in a list. */
    public record Line(String name, Instant at, PersonId by) {}

    /** One whole: as it came. @param headers and {@code raw} are JSON */
    public record Sample(Line line, String headers, String raw) {}

    private static final String COLUMNS = "select name, kept_at, kept_by, headers, raw from sample where source = ?";

    private final Database database;

    public Samples(Database database) {
        this.database = database;
    }

    /** Those of a source, by their names. */
    public List<Line> of(SourceKey source) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select name, kept_at, kept_by from sample where source = ? order by name",
                Samples::line,
                source.value())));
    }

    public Optional<Sample> find(SourceKey source, String name) {
        return database
                .read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        COLUMNS + " and name = ?",
                        r -> new Sample(line(r), r.getString(4), r.getString(5)),
                        source.value(),
                        name)))
                .stream()
                .findFirst();
    }

    private static Line line(ResultSet r) throws SQLException {
        return new Line(r.getString(1), r.getObject(2, OffsetDateTime.class).toInstant(), new PersonId(r.getString(3)));
    }

    /**
     * Keeps one, in place of that of the same name.
     *
     * @return false where there are as many already as a source may have; then nothing is kept
     */
    public boolean keep(Journal.By by, SourceKey source, String name, String headers, String raw) {
        return database.writeIf(
                session -> {
                    boolean full = session.doReturningWork(c -> Jdbc.query(
                                            c,
                                            "select count(*) from sample where source = ? and name <> ?",
                                            r -> r.getLong(1),
                                            source.value(),
                                            name)
                                    .getFirst())
                            >= MOST;
                    if (full) {
                        return false;
                    }
                    session.doWork(c -> {
                        Jdbc.update(c, "delete from sample where source = ? and name = ?", source.value(), name);
                        Jdbc.update(
                                c,
                                "insert into sample (source, name, kept_at, kept_by, headers, raw) values (?, ?, ?, ?, ?, ?)",
                                source.value(),
                                name,
                                by.at(),
                                by.person().value(),
                                headers,
                                raw);
                    });
                    Journal.write(session, by, SUBJECT, source + " " + name, "kept", null);
                    return true;
                },
                kept -> kept);
    }

    /** Lets one go. @return false where there is none */
    public boolean forget(Journal.By by, SourceKey source, String name) {
        return database.writeIf(
                session -> {
                    int gone = session.doReturningWork(c ->
                            Jdbc.update(c, "delete from sample where source = ? and name = ?", source.value(), name));
                    if (gone > 0) {
                        Journal.write(session, by, SUBJECT, source + " " + name, "let go", null);
                    }
                    return gone > 0;
                },
                gone -> gone);
    }
}
