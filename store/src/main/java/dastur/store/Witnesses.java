package dastur.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.OffsetDateTime;
import java.util.List;
import java.util.Locale;
import java.util.Optional;

/**
 * What was given to witnesses, and what they gave back (K13). It is kept so that exports carry it; that it is here proves nothing
 * by itself, since whoever holds the database can take it away: what proves is what the witnesses keep, and time stamps, which
 * nobody can make later.
 */
public final class Witnesses {
    private static final String COLUMNS = "select kind, name, given_at, checkpoint, receipt from witness";

    private final Database database;

    public Witnesses(Database database) {
        this.database = database;
    }

    /** Keeps that a witness was given a checkpoint, in the place of what it was given before where it gives nothing back. */
    public void keep(Witnessed witnessed) {
        Checkpoint given = witnessed.checkpoint();
        if (given.size() == null || given.epoch() == null) {
            throw new IllegalArgumentException("a checkpoint of before there was a log is not given away");
        }
        database.run(session -> session.doWork(c -> {
            if (witnessed.receipt() == null) {
                Jdbc.update(c, "delete from witness where name = ? and receipt is null", witnessed.name());
            }
            // The same checkpoint may be given again by another node that took the duty over.
            Jdbc.update(c, "delete from witness where name = ? and number = ?", witnessed.name(), given.number());
            Jdbc.update(
                    c,
                    "insert into witness (name, number, kind, given_at, epoch, size, checkpoint, receipt)"
                            + " values (?, ?, ?, ?, ?, ?, ?, ?)",
                    witnessed.name(),
                    given.number(),
                    witnessed.kind().word(),
                    witnessed.at(),
                    given.epoch(),
                    given.size(),
                    Json.write(given),
                    witnessed.receipt());
        }));
    }

    /** What a witness was given last; empty when nothing. */
    public Optional<Witnessed> last(String name) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        COLUMNS + " where name = ? order by given_at desc, number desc fetch first 1 rows only",
                        Witnesses::of,
                        name)
                .stream()
                .findFirst()));
    }

    /** All that is kept, oldest first, from behind this one on. */
    static List<Witnessed> all(Connection connection) throws SQLException {
        return Jdbc.query(connection, COLUMNS + " order by given_at, name", Witnesses::of);
    }

    /**
     * Of each witness what says most about a change: the first that covers it; where none does, the last. Only what was given
     * in this epoch, and not later than this size.
     */
    static List<Witnessed> about(Connection connection, long leaf, int epoch, long size) throws SQLException {
        return Jdbc.query(
                connection,
                COLUMNS + " w where epoch = ? and size <= ? and number = coalesce("
                        + "(select min(number) from witness o where o.name = w.name and o.epoch = w.epoch"
                        + " and o.size > ? and o.size <= ?),"
                        + " (select max(number) from witness o where o.name = w.name and o.epoch = w.epoch and o.size <= ?))"
                        + " order by name",
                Witnesses::of,
                epoch,
                size,
                leaf,
                size,
                size);
    }

    private static Witnessed of(ResultSet r) throws SQLException {
        try {
            return new Witnessed(
                    Witnessed.Kind.valueOf(r.getString(1).toUpperCase(Locale.ROOT)),
                    r.getString(2),
                    r.getObject(3, OffsetDateTime.class).toInstant(),
                    Json.mapper().treeToValue(Json.parse(r.getString(4)), Checkpoint.class),
                    r.getString(5));
        } catch (JsonProcessingException e) {
            throw new SQLException("what a witness was given is not readable", e);
        }
    }
}
