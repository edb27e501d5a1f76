package dastur.store;

import com.zaxxer.hikari.HikariConfig;
import com.zaxxer.hikari.HikariDataSource;
import dastur.core.record.Mac;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.SQLTransientConnectionException;
import java.time.Duration;
import java.util.List;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Stream;
import javax.sql.DataSource;
import org.flywaydb.core.Flyway;
import org.hibernate.SessionFactory;
import org.hibernate.StatelessSession;
import org.hibernate.Transaction;
import org.hibernate.cfg.Configuration;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The open database: brings its tables up to date, then hands out transactions. What was acknowledged survives a killed
 * process, and a power failure unless told otherwise (N81, K3).
 */
public final class Database implements AutoCloseable {
    /** The one file of a database in a folder. */
    public static final String FILE = "dastur.mv.db";

    private static final Logger LOG = LoggerFactory.getLogger(Database.class);

    /** A smaller file is opened as it is. Bytes. */
    private static final long WORTH_SHRINKING = 100_000_000;

    private static final int CONNECTIONS = 16;

    /** So long a connection is waited for. */
    private static final Duration PATIENCE = Duration.ofSeconds(10);

    /** H2 keeps 8 parsed statements a session unless told otherwise; a command uses more than that. */
    private static final String OPTIONS = ";QUERY_CACHE_SIZE=256";
    /** Without it the file may not even open after a power failure. */
    private static final Duration SYNC_AT_LEAST_EVERY = Duration.ofSeconds(5);

    private final HikariDataSource pool;
    private final SessionFactory sessions;
    private final StoredCases cases;
    private final @Nullable H2File file;
    private final @Nullable Tidying tidying;
    private final SharedSync sync;

    private final Dialect dialect;
    private final List<Scribe> scribes;
    private final OneWriter writer;
    private final Announcing announcing;
    private final Sequencer sequencer = new Sequencer(this);
    private final Mac mac;
    private final Durability durability;
    private final ScheduledExecutorService syncs = Executors.newSingleThreadScheduledExecutor(
            Thread.ofPlatform().daemon().name("dastur-sync").factory());
    private volatile boolean filling;
    private volatile boolean closing;

    private Database(Dialect dialect, Server server, Durability durability, Mac mac, Runnable fatal) {
        this.dialect = dialect;
        this.mac = mac;
        HikariConfig config = new HikariConfig();
        config.setJdbcUrl(server.url());
        config.setUsername(server.user());
        config.setPassword(server.password());
        config.setMaximumPoolSize(CONNECTIONS);
        config.setAutoCommit(false);
        config.setPoolName("dastur");
        config.setMinimumIdle(dialect == Dialect.H2 ? CONNECTIONS : 2 + dialect.scribes());
        config.setConnectionTimeout(PATIENCE.toMillis());
        this.durability = durability;
        this.cases = new StoredCases(mac);
        pool = new HikariDataSource(config);
        sessions = opened();
        file = dialect == Dialect.H2 ? H2File.of(pool).orElse(null) : null;
        writer = new OneWriter(dialect == Dialect.H2);
        tidying = file == null ? null : new Tidying(file, writer);
        sync = new SharedSync(file == null ? () -> {} : () -> safely(file::sync, () -> lost(fatal)));
        announcing = new Announcing(dialect);
        scribes = Stream.generate(() -> new Scribe(pool, writer, announcing, this::onDisk, () -> lost(fatal)))
                .limit(dialect.scribes())
                .toList();
        if (file != null) {
            long millis = SYNC_AT_LEAST_EVERY.toMillis();
            syncs.scheduleWithFixedDelay(sync::await, millis, millis, TimeUnit.MILLISECONDS);
        }
        new Rebuilding(this).due();
    }

    /** Opens the database in a folder, creating it when it is not there. What is acknowledged outlives a power failure. */
    public static Database inFolder(Path folder) {
        return inFolder(folder, Durability.POWER, Mac.NONE);
    }

    /**
     * Opens the database in a folder. A process that can no longer say what is kept ends at once.
     *
     * @param mac shows which rows were written by whoever has its key
     */
    public static Database inFolder(Path folder, Durability durability, Mac mac) {
        H2File.shrink(folder, WORTH_SHRINKING);
        return new Database(
                Dialect.H2, Server.own(H2File.url(durability, folder) + OPTIONS), durability, mac, Database::halt);
    }

    /**
     * Opens the database on a PostgreSQL server, which several nodes may share.
     *
     * @throws IllegalStateException when the server is too old, or would not keep what it acknowledges
     */
    public static Database onServer(Server server, Mac mac) {
        // What became of a commit can be asked of the server later; nothing in this process depends on it.
        return new Database(Dialect.POSTGRESQL, server, Durability.POWER, mac, () -> {});
    }

    /**
     * Where a database server is.
     *
     * @param url begins with {@code jdbc:postgresql:}
     */
    public record Server(String url, String user, String password) {
        private static Server own(String url) {
            return new Server(url, "dastur", "");
        }

        /** Without the password: it stands in no log. */
        @Override
        public String toString() {
            return url;
        }
    }

    /** Opens the database in a folder through another file system, for tests that lose what was not forced. */
    static Database through(String fileSystem, Path folder, Durability durability) {
        return new Database(
                Dialect.H2, Server.own(H2File.url(fileSystem, folder) + OPTIONS), durability, Mac.NONE, () -> {});
    }

    /** Opens a database that lives as long as the process; for tests and rehearsals. */
    public static Database inMemory(String name) {
        return new Database(
                Dialect.H2,
                Server.own("jdbc:h2:mem:" + name + OPTIONS + ";DB_CLOSE_DELAY=-1"),
                Durability.PROCESS,
                Mac.NONE,
                () -> {});
    }

    /** The server is one that keeps what it says, and the tables are up to date. */
    private SessionFactory opened() {
        try {
            try (Connection connection = pool.getConnection()) {
                dialect.check(connection);
                connection.rollback();
            }
            Flyway.configure()
                    .dataSource(pool)
                    .locations(dialect.scripts(), "classpath:db/common")
                    .load()
                    .migrate();
            Configuration hibernate = new Configuration();
            hibernate.getProperties().put("hibernate.connection.datasource", pool);
            hibernate.setProperty("hibernate.hbm2ddl.auto", "validate");
            hibernate.setProperty("hibernate.connection.provider_disables_autocommit", "true");
            hibernate.setProperty("hibernate.jdbc.batch_size", "50");
            hibernate.setProperty("hibernate.order_inserts", "true");
            hibernate.setProperty("hibernate.jdbc.time_zone", "UTC");
            hibernate.setProperty("hibernate.query.plan_cache_max_size", "512");
            Rows.ALL.forEach(hibernate::addAnnotatedClass);
            return hibernate.buildSessionFactory();
        } catch (SQLException e) {
            pool.close();
            throw new IllegalStateException("The database cannot be reached: " + e.getMessage(), e);
        } catch (RuntimeException e) {
            pool.close();
            throw e;
        }
    }

    /** Nobody can say any more what is kept. While it is being closed nobody is answered any more, and that is no matter. */
    private void lost(Runnable fatal) {
        if (!closing) {
            fatal.run();
        }
    }

    /** Nothing more may be answered: an answer could tell of what is not kept. */
    private static void halt() {
        LOG.error("the process ends, since it is not known what the database keeps");
        Runtime.getRuntime().halt(3);
    }

    private static void safely(Runnable bringing, Runnable fatal) {
        try {
            bringing.run();
        } catch (RuntimeException e) {
            LOG.error("what was committed could not be brought to the disk", e);
            fatal.run();
            throw e;
        }
    }

    /** Ends when what was committed is as safe as was asked for. */
    private void onDisk() {
        if (durability == Durability.POWER && !filling) {
            sync.await();
        }
    }

    /** The pool, for measurements that compare with plain JDBC on the same database. */
    public DataSource dataSource() {
        return pool;
    }

    /** Brings what was committed past this class to the disk; for measurements that compare with plain JDBC. */
    public void sync() {
        onDisk();
    }

    /** How the cases of this database stand. */
    StoredCases cases() {
        return cases;
    }

    Mac mac() {
        return mac;
    }

    Sequencer sequencer() {
        return sequencer;
    }

    Dialect dialect() {
        return dialect;
    }

    /** Whether other nodes may use the same database at the same time. */
    public boolean isShared() {
        return dialect == Dialect.POSTGRESQL;
    }

    /** What tells other nodes of what was written here. */
    Announcing announcing() {
        return announcing;
    }

    /**
     * Has a change written. Changes of a ticket come to the same writer, and so do raises: each of them rests on the one before.
     *
     * @throws Busy when too many wait already
     */
    CompletableFuture<Scribe.Fate> write(Change change) {
        int which = change.raises() ? 0 : change.ticket().hashCode();
        return scribes.get(Math.floorMod(which, scribes.size())).write(change);
    }

    /** The file; null when the database lies in memory. */
    @Nullable H2File file() {
        return file;
    }

    /** Runs work in one transaction and commits it; rolls back when the work throws. */
    <T> T write(Function<StatelessSession, T> work) {
        T result = writer.alone(() -> read(work));
        onDisk();
        return result;
    }

    /** The same for work that seldom writes anything. @param wrote whether it did, by its result */
    <T> T writeIf(Function<StatelessSession, T> work, Predicate<T> wrote) {
        T result = writer.alone(() -> read(work));
        if (wrote.test(result)) {
            onDisk();
        }
        return result;
    }

    void run(Consumer<StatelessSession> work) {
        write(session -> {
            work.accept(session);
            return null;
        });
    }

    /** Runs a read in one transaction: what it would write is not waited for on the disk. */
    <T> T read(Function<StatelessSession, T> work) {
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

    /** Runs a read of one moment: what others commit meanwhile is not seen by any of its questions. */
    <T> T still(Function<StatelessSession, T> work) {
        return read(session -> {
            int usual = session.doReturningWork(c -> {
                int before = c.getTransactionIsolation();
                c.setTransactionIsolation(dialect.still());
                return before;
            });
            try {
                return work.apply(session);
            } finally {
                session.doWork(c -> {
                    c.commit();
                    c.setTransactionIsolation(usual);
                });
            }
        });
    }

    /** Whether a failure is that the database's server cannot be reached, or went away meanwhile (SQLSTATE 08, 57P). */
    public static boolean isUnreachable(Throwable failure) {
        for (Throwable cause = failure; cause != null; cause = cause.getCause()) {
            if (cause instanceof SQLException e
                    && (e instanceof SQLTransientConnectionException
                            || e.getSQLState() != null
                                    && (e.getSQLState().startsWith("08")
                                            || e.getSQLState().startsWith("57P")))) {
                return true;
            }
        }
        return false;
    }

    /** Whether the database answers; for health checks. */
    public boolean answers() {
        return read(session ->
                        session.createNativeQuery("select 1", Integer.class).getSingleResult())
                == 1;
    }

    /**
     * Runs work that nobody is told of before it ends, such as filling an empty database: its commits need not each be on
     * the disk. They are when this returns, and stand in the log and under their words; a process killed before may have lost
     * the last second.
     */
    public void fill(Runnable work) {
        if (dialect != Dialect.H2) {
            work.run();
            sequencer.catchUp();
            return;
        }
        execute("set write_delay 1000");
        filling = true;
        try {
            work.run();
            sequencer.catchUp();
        } finally {
            filling = false;
            execute("set write_delay 0");
            execute("checkpoint");
            sync.await();
        }
    }

    private void execute(String sql) {
        run(session -> session.createNativeMutationQuery(sql).executeUpdate());
    }

    /** What keeps the file from growing; null when there is none. */
    @Nullable Tidying tidying() {
        return tidying;
    }

    /** How often what was committed was brought to the disk since it was opened, and how many nanoseconds that took. */
    public long[] synced() {
        return sync.done();
    }

    /** How many groups of changes were written since it was opened, and how many changes in them. */
    public long[] written() {
        long[] all = new long[2];
        for (Scribe scribe : scribes) {
            long[] written = scribe.written();
            all[0] += written[0];
            all[1] += written[1];
        }
        return all;
    }

    @Override
    public void close() {
        scribes.forEach(Scribe::close);
        closing = true;
        syncs.shutdown();
        try {
            // Not interrupted: an interrupt in the middle of reading or writing closes the file.
            syncs.awaitTermination(10, TimeUnit.SECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        if (tidying != null) {
            tidying.close();
        }
        sessions.close();
        pool.close();
    }
}
