package dastur.server;

import dastur.connectors.Carriers;
import dastur.core.FreePort;
import dastur.store.Database;
import dastur.store.PgServer;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.io.Writer;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.util.ArrayList;
import java.util.List;
import java.util.concurrent.TimeUnit;
import java.util.function.Consumer;
import java.util.stream.Stream;

/** Two processes of the application on one PostgreSQL server, behind a proxy, as an operator would run them. */
public final class TwoNodes implements AutoCloseable {
    private final PgServer server = new PgServer(List.of());
    private final Database.Server database = server.database();
    private final Path folder;
    private final List<Integer> ports = List.of(FreePort.any(), FreePort.any());
    private final List<Process> nodes = new ArrayList<>();
    private final Proxy proxy = new Proxy(() -> ports);

    /**
     * @param folder where their data folders are made
     * @param prepare fills the database before any of them runs
     */
    public TwoNodes(Path folder, Consumer<Database> prepare) {
        this.folder = folder;
        DataFolder first = data(0);
        first.keepSecret("database", database.password());
        try (Database opened = open()) {
            prepare.accept(opened);
        }
        first.signingKey();
        first.linkKey();
        // Every node has the keys of the first.
        copy(folder.resolve("node-0"), folder.resolve("node-1"));
        nodes.add(start(0));
        nodes.add(start(1));
    }

    public DataFolder data(int node) {
        return new DataFolder(folder.resolve("node-" + node));
    }

    /** The database itself, past the nodes. */
    public Database open() {
        return Database.onServer(database, data(0).rowKey());
    }

    public String address() {
        return "http://127.0.0.1:" + proxy.port();
    }

    public String address(int node) {
        return "http://127.0.0.1:" + ports.get(node);
    }

    public void kill(int node) {
        nodes.get(node).destroyForcibly();
        nodes.get(node).onExit().join();
    }

    /** Asks a node to end, and waits until it has. */
    public void stop(int node) {
        nodes.get(node).destroy();
        nodes.get(node).onExit().orTimeout(60, TimeUnit.SECONDS).join();
    }

    public void startAgain(int node) {
        nodes.set(node, start(node));
    }

    public PgServer server() {
        return server;
    }

    private Process start(int node) {
        try {
            Process process = new ProcessBuilder(
                            Path.of(System.getProperty("java.home"), "bin", "java")
                                    .toString(),
                            "-XX:TieredStopAtLevel=1",
                            "-cp",
                            System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                            "dastur.server.Main",
                            "start",
                            "--data",
                            folder.resolve("node-" + node).toString(),
                            "--database",
                            database.url(),
                            "--port",
                            ports.get(node).toString(),
                            "--call-lease",
                            "4")
                    .redirectError(folder.resolve("node-" + node + ".log").toFile())
                    .start();
            BufferedReader out = process.inputReader(StandardCharsets.UTF_8);
            for (String line = out.readLine(); line != null; line = out.readLine()) {
                if (line.startsWith("Dastur is ready at ")) {
                    // What it says later is of no matter, but it must not wait for somebody to read it. Not on a
                    // virtual
                    // thread: two that wait for the output of programs stopped the proxy.
                    Carriers.apart("node-out", () -> silently(out));
                    return process;
                }
            }
            throw new IOException(
                    "node " + node + " did not start: " + Files.readString(folder.resolve("node-" + node + ".log")));
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static void silently(BufferedReader out) {
        try (out) {
            out.transferTo(Writer.nullWriter());
        } catch (IOException e) {
            // It was killed.
        }
    }

    private static void copy(Path from, Path to) {
        try (Stream<Path> files = Files.list(from)) {
            Files.createDirectories(to);
            for (Path file : files.toList()) {
                Files.copy(file, to.resolve(file.getFileName()), StandardCopyOption.COPY_ATTRIBUTES);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Override
    public void close() {
        proxy.close();
        nodes.forEach(Process::destroyForcibly);
        nodes.forEach(n -> n.onExit().join());
        server.close();
    }
}
