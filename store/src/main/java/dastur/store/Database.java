package dastur.store;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import java.nio.file.Path;
import java.util.function.Consumer;
import java.util.function.Function;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.hibernate.SessionFactory;
import org.hibernate.StatelessSession;
import org.hibernate.Transaction;
import org.hibernate.cfg.Configuration;

/**
 * The open database: brings its tables up to date, then hands out transactions. Durable on every commit
 * ({@code WRITE_DELAY=0}): what was acknowledged survives a killed process (N81).
 */
public final class Database implements AutoCloseable {
    /** The one file of a database in a folder. */
    public static final String FILE = "dastur.mv.db";

    private static final int CONNECTIONS = 16;
    /** H2 keeps 8 parsed statements a session unless told otherwise; a command uses more than that. */
    private static final String OPTIONS = ";QUERY_CACHE_SIZE=256";
    /**
     * A stop only writes and closes. By itself H2 moves parts of the file about while it stops, and was seen to trip there
     * over an assertion about what is free: nothing that could lay one part over another is done to a file of records.
     */
    private static final String NO_MOVING_AT_STOP = ";MAX_COMPACT_TIME=0";

    private final HikariDataSource pool;
    private final SessionFactory sessions;
    private final StoredCases cases = new StoredCases();
    private final Tidying tidying;

    private Database(String url) {
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(url);
        config.setUsername("dastur");
        config.setPassword("");
        config.setMaximumPoolSize(CONNECTIONS);
        config.setAutoCommit(false);
        config.setPoolName("dastur");
        pool = new HikariDataSource(config);
        Flyway.configure().dataSource(pool).load().migrate();
        Configuration hibernate = new Configuration();
        hibernate.getProperties().put("hibernate.connection.datasource", pool);
        hibernate.setProperty("hibernate.hbm2ddl.auto", "validate");
        hibernate.setProperty("hibernate.connection.provider_disables_autocommit", "true");
        hibernate.setProperty("hibernate.jdbc.batch_size", "50");
        hibernate.setProperty("hibernate.order_inserts", "true");
        hibernate.setProperty("hibernate.jdbc.time_zone", "UTC");
        hibernate.setProperty("hibernate.query.plan_cache_max_size", "512");
        Rows.ALL.forEach(hibernate::addAnnotatedClass);
        sessions = hibernate.buildSessionFactory();
        tidying = new Tidying(pool);
    }

    /** Opens the database in a folder, creating it when it is not there. */
    public static Database inFolder(Path folder) {
        return new Database("jdbc:h2:file:" + folder.toAbsolutePath().resolve("dastur") + "" + OPTIONS
                + ";WRITE_DELAY=0;DB_CLOSE_ON_EXIT=FALSE" + NO_MOVING_AT_STOP);
    }

    /** Opens a database that lives as long as the process; for tests and rehearsals. */
    public static Database inMemory(String name) {
        return new Database("jdbc:h2:mem:" + name + OPTIONS + ";DB_CLOSE_DELAY=-1");
    }

    /** The pool, for measurements that compare with plain JDBC on the same database. */
    public DataSource dataSource() {
        return pool;
    }

    /** How the cases of this database stand. */
    StoredCases cases() {
        return cases;
    }

    /** Runs work in one transaction and commits it; rolls back when the work throws. */
    <T> T write(Function<StatelessSession, T> work) {
        try (StatelessSession session = sessions.openStatelessSession()) {
            Transaction transaction = session.beginTransaction();
            try {
                T result = work.apply(session);
                transaction.commit();
                return result;
            } catch (RuntimeException | Error e) {
                if (transaction.isActive()) {
                    transaction.rollback();
                }
                throw e;
            }
        }
    }

    void run(Consumer<StatelessSession> work) {
        write(session -> {
            work.accept(session);
            return null;
        });
    }

    /** Runs a read in one transaction. */
    <T> T read(Function<StatelessSession, T> work) {
        return write(work);
    }

    /** Whether the database answers; for health checks. */
    public boolean answers() {
        return read(session ->
                        session.createNativeQuery("select 1", Integer.class).getSingleResult())
                == 1;
    }

    /**
     * Runs work that nobody is told of before it ends, such as filling an empty database: its commits need not each be on
     * the disk. They are when this returns; a process killed before may have lost the last second.
     */
    public void fill(Runnable work) {
        execute("set write_delay 1000");
        try {
            work.run();
        } finally {
            execute("set write_delay 0");
            execute("checkpoint");
        }
    }

    private void execute(String sql) {
        run(session -> session.createNativeMutationQuery(sql).executeUpdate());
    }

    /** What keeps the file from growing. */
    Tidying tidying() {
        return tidying;
    }

    @Override
    public void close() {
        tidying.close();
        sessions.close();
        pool.close();
    }
}
