package dastur.store;

import dastur.core.FreePort;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;

/**
 * A PostgreSQL server of Debian's package, in a folder of its own, run by a user without rights. It ends with the process that
 * started it, however that ends.
 */
public final class PgServer implements AutoCloseable {
    private static final String USER = "dastur";
    private static final String PASSWORD = "kept-by-the-test";
    private static final Duration PATIENCE = Duration.ofSeconds(60);
    private static final AtomicInteger NEXT = new AtomicInteger();

    private static PgServer shared;

    private final Path folder;
    private final int port;
    private final List<String> settings;
    private Process process;

    /** The server of this process, started when it is first asked for. */
    public static synchronized PgServer shared() {
        if (shared == null) {
            shared = new PgServer(List.of());
            Runtime.getRuntime().addShutdownHook(new Thread(shared::close));
        }
        return shared;
    }

    /** @param settings more of them, each {@code name=value} */
    public PgServer(List<String> settings) {
        this.settings = settings;
        try {
            folder = Files.createTempDirectory("dastur-pg");
            port = FreePort.any();
            Path data = folder.resolve("data");
            Path password = folder.resolve("password");
            Files.writeString(password, PASSWORD);
            if (root()) {
                done(List.of("chown", "-R", "postgres", folder.toString()));
            }
            done(as(List.of(
                    program("initdb"),
                    "--no-sync",
                    "--no-instructions",
                    "--encoding=UTF8",
                    "--locale=C.UTF-8",
                    "--auth=scram-sha-256",
                    "--username=" + USER,
                    "--pwfile=" + password,
                    "--pgdata=" + data)));
            start();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** Starts it, also again on what it left when it was killed. */
    public void start() {
        try {
            List<String> start = new ArrayList<>(
                    List.of(program("postgres"), "-D", folder.resolve("data").toString()));
            List<String> all = new ArrayList<>(List.of(
                    "port=" + port,
                    "listen_addresses=127.0.0.1",
                    "unix_socket_directories=" + folder,
                    "max_connections=120"));
            all.addAll(settings);
            all.forEach(s -> start.addAll(List.of("-c", s)));
            // The shell waits for the end of its input, which comes with the end of this process; what is thrown away
            // need not be brought to the disk first.
            List<String> guarded = new ArrayList<>(
                    List.of("sh", "-c", "\"$@\" & cat >/dev/null; kill -QUIT $! 2>/dev/null; wait", "guard"));
            guarded.addAll(as(start));
            process = new ProcessBuilder(guarded)
                    .redirectErrorStream(true)
                    .redirectOutput(folder.resolve("log").toFile())
                    .start();
            untilItAnswers();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** A new empty database, that sorts as the application demands. */
    public Database.Server database() {
        return database("C");
    }

    Database.Server database(String collation) {
        String name = "d" + NEXT.incrementAndGet();
        execute("create database " + name + " template template0 lc_collate '" + collation + "' lc_ctype 'C.UTF-8'");
        return new Database.Server(url(name), USER, PASSWORD);
    }

    public int port() {
        return port;
    }

    /** Ends all of its processes at once. */
    public void kill() {
        List<ProcessHandle> all = process.descendants().toList();
        all.forEach(ProcessHandle::destroyForcibly);
        all.forEach(one -> one.onExit().join());
        process.destroyForcibly();
        process.onExit().join();
    }

    /** A copy of a database that nobody uses; {@link #putBack} sets it in its place again. */
    Database.Server copyOf(Database.Server server) {
        String name = "d" + NEXT.incrementAndGet();
        execute("create database " + name + " template " + name(server));
        return new Database.Server(url(name), USER, PASSWORD);
    }

    void putBack(Database.Server copy, Database.Server server) {
        execute("drop database " + name(server));
        execute("create database " + name(server) + " template " + name(copy));
    }

    private static String name(Database.Server server) {
        return server.url().substring(server.url().lastIndexOf('/') + 1);
    }

    private void execute(String sql) {
        try (Connection connection = DriverManager.getConnection(url("postgres"), USER, PASSWORD);
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private String url(String name) {
        return "jdbc:postgresql://127.0.0.1:" + port + "/" + name;
    }

    private void untilItAnswers() {
        Instant end = Instant.now().plus(PATIENCE);
        while (true) {
            try {
                DriverManager.getConnection(url("postgres"), USER, PASSWORD).close();
                return;
            } catch (SQLException e) {
                if (Instant.now().isAfter(end) || !process.isAlive()) {
                    throw new IllegalStateException("the server did not start: see " + folder.resolve("log"), e);
                }
                pause();
            }
        }
    }

    private static void pause() {
        try {
            Thread.sleep(50);
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The newest that is installed. */
    private static String program(String name) throws IOException {
        try (Stream<Path> versions = Files.list(Path.of("/usr/lib/postgresql"))) {
            return versions.map(v -> v.resolve("bin").resolve(name))
                    .filter(Files::isExecutable)
                    .max(Comparator.naturalOrder())
                    .map(Path::toString)
                    .orElseThrow(() -> new IOException("PostgreSQL is not installed"));
        }
    }

    private static boolean root() {
        return "root".equals(System.getProperty("user.name"));
    }

    /** The server refuses to be run by the one who may do everything. */
    private static List<String> as(List<String> command) {
        if (!root()) {
            return command;
        }
        List<String> all =
                new ArrayList<>(List.of("setpriv", "--reuid=postgres", "--regid=postgres", "--init-groups", "--"));
        all.addAll(command);
        return all;
    }

    private void done(List<String> command) throws IOException {
        Path said = folder.resolve("said");
        Process process = new ProcessBuilder(command)
                .directory(Path.of("/").toFile())
                .redirectErrorStream(true)
                .redirectOutput(said.toFile())
                .start();
        try {
            if (process.waitFor() != 0) {
                throw new IOException(command + " failed: " + Files.readString(said));
            }
        } catch (InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    @Override
    public void close() {
        try {
            process.getOutputStream().close();
            process.waitFor();
            try (Stream<Path> all = Files.walk(folder)) {
                all.sorted(Comparator.reverseOrder()).forEach(p -> p.toFile().delete());
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }
}
