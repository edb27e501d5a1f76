package dastur.store;

import java.sql.Connection;
import java.sql.SQLException;
import java.time.Duration;
import java.util.List;
import org.h2.engine.Constants;

/** In what the databases differ (K7). Everything else is standard SQL, and one text for all. */
enum Dialect {
    /** In this process, with a file of its own. */
    H2("current_timestamp", 1, "classpath:db/migration", Constants.TRANSACTION_SNAPSHOT) {
        @Override
        void check(Connection connection) {
            // What is asked of it stands in its address.
        }
    },

    /** A server that several nodes share. */
    POSTGRESQL("clock_timestamp()", 4, "classpath:db/postgresql", Connection.TRANSACTION_REPEATABLE_READ) {
        @Override
        void check(Connection connection) throws SQLException {
            int version = Integer.parseInt(setting(connection, "server_version_num"));
            demand(version >= OLDEST, "is version " + version / 10_000 + "; 15 or newer is needed");
            demand(setting(connection, "fsync").equals("on"), "has fsync off: what it says is kept may be lost");
            demand(
                    !setting(connection, "synchronous_commit").equals("off"),
                    "has synchronous_commit off: what it says is kept may be lost");
            demand(setting(connection, "server_encoding").equals("UTF8"), "does not keep texts as UTF-8");
            String collation = Jdbc.query(
                            connection,
                            "select datcollate from pg_database where datname = current_database()",
                            r -> r.getString(1))
                    .getFirst();
            demand(
                    List.of("C", "POSIX").contains(collation),
                    "sorts by " + collation
                            + "; it is to be made with the collation C, so that ids sort as they do here");
        }
    };

    private static final int OLDEST = 150_000;

    private final String now;
    private final int scribes;
    private final String scripts;
    private final int still;

    Dialect(String now, int scribes, String scripts, int still) {
        this.now = now;
        this.scribes = scribes;
        this.scripts = scripts;
        this.still = still;
    }

    /** The moment at which a statement is executed, as the database has it. */
    String now() {
        return now;
    }

    /** A moment so much later than {@link #now()}, in whole seconds; earlier for a length below zero. */
    String in(Duration length) {
        return now + " + " + length.toSeconds() + " * interval '1' second";
    }

    /** The isolation in which all of a transaction's questions are of one moment. */
    int still() {
        return still;
    }

    /** How many may write at once with advantage: a file has one writer (K4). */
    int scribes() {
        return scribes;
    }

    String scripts() {
        return scripts;
    }

    /** @throws IllegalStateException when what is acknowledged would not be kept, or things would be found in another order */
    abstract void check(Connection connection) throws SQLException;

    static String setting(Connection connection, String name) throws SQLException {
        return Jdbc.query(connection, "select current_setting(?)", r -> r.getString(1), name)
                .getFirst();
    }

    private static void demand(boolean met, String otherwise) {
        if (!met) {
            throw new IllegalStateException("The database " + otherwise + ".");
        }
    }
}
