package dastur.store;

import dastur.core.record.Mac;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;

/** Databases for tests: the built-in one or, with {@code -Dtest.database=postgresql}, one on a server of the test's own. */
final class Stores {
    private static final Map<Path, Database.Server> OPENED = new ConcurrentHashMap<>();

    private Stores() {}

    static boolean onServer() {
        return "postgresql".equals(System.getProperty("test.database"));
    }

    /** An empty one. */
    static Database empty() {
        return onServer()
                ? Database.onServer(PgServer.shared().database(), Mac.NONE)
                : Database.inMemory("empty-" + System.nanoTime());
    }

    /** Copies the closed database of a folder. @return what puts it back in the place of what is there then */
    static Runnable copyOf(Path folder) {
        if (onServer()) {
            Database.Server server = OPENED.get(folder);
            Database.Server copy = PgServer.shared().copyOf(server);
            return () -> PgServer.shared().putBack(copy, server);
        }
        Path file = folder.resolve(Database.FILE);
        byte[] older = read(file);
        return () -> {
            try {
                Files.write(file, older);
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        };
    }

    private static byte[] read(Path file) {
        try {
            return Files.readAllBytes(file);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** That of a folder: opened again, it is the one that was there before. */
    static Database in(Path folder) {
        return onServer()
                ? Database.onServer(
                        OPENED.computeIfAbsent(folder, f -> PgServer.shared().database()), Mac.NONE)
                : Database.inFolder(folder);
    }
}
