package dastur.store;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.channels.FileChannel;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.LongFunction;
import javax.sql.DataSource;
import org.h2.engine.SessionLocal;
import org.h2.jdbc.JdbcConnection;
import org.h2.mvstore.MVStore;
import org.h2.mvstore.MVStoreException;
import org.h2.store.fs.FilePath;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The file of an H2 database; with {@link PartFiles} the only place that knows the classes of H2. How it is opened so that it outlives a power
 * failure, brought to the disk, tidied and copied while it is in use (K3, K6, K10).
 */
final class H2File {
    private static final Logger LOG = LoggerFactory.getLogger(H2File.class);

    /** Of what lies in the file's parts, so much shall be in use, in percent. */
    private static final int IN_USE = 50;
    /** A part that is out of use stays for so long: the header may still lead to it. Milliseconds. */
    private static final int RETENTION = 45_000;

    /**
     * What H2 remembers of the header that it wrote last. It writes another one only every twenty parts; what follows is found
     * by a chain from part to part. A part that is out of use is overwritten after {@link #RETENTION}, and where twenty parts
     * took longer than that, it may be one of the chain: whoever is killed right then loses all that came behind it (seen
     * under kill with parts of half a second). So it is made to think that its header is old, and writes one behind each part.
     */
    private static final String VERSION = "version";

    static {
        FilePath.register(new PartFiles.Ordered());
        FilePath.register(new PartFiles.Quick());
    }

    private final MVStore store;

    private H2File(MVStore store) {
        this.store = store;
        store.setRetentionTime(RETENTION);
        Map<String, Object> header = store.getFileStore().getStoreHeader();
        PartFiles.beforeEachPart(store.getFileStore().getFileName(), () -> header.put(VERSION, 0L));
    }

    /** How to open the database in a folder. @param fileSystem under which the file lies */
    static String url(String fileSystem, Path folder) {
        return "jdbc:h2:" + fileSystem
                // An interrupted thread would close the file for all; this opens it again and goes on.
                + ":retry:"
                + folder.toAbsolutePath().resolve("dastur")
                // A delayed commit may return while another thread is still writing, so none is delayed.
                + ";WRITE_DELAY=0;DB_CLOSE_ON_EXIT=FALSE"
                // A stop only writes and closes. By itself H2 moves parts of the file about while it stops, and was
                // seen to trip there over an assertion about what is free: nothing that could lay one part over
                // another is done to a file of records.
                + ";MAX_COMPACT_TIME=0";
    }

    /** How to open the database in a folder so that what is acknowledged outlives what it shall. */
    static String url(Durability durability, Path folder) {
        return url(durability == Durability.POWER ? PartFiles.ORDERED : PartFiles.QUICK, folder);
    }

    /**
     * Writes a file of which little is in use anew, before it is opened: into another one, which takes its place when it is whole
     * on the disk. H2 only looks for space that it could use again once a file has been open for three quarters of a minute; one
     * that is killed again and again would grow for ever.
     *
     * @param from how large a file must be to be worth it, in bytes
     * @return whether it was written anew
     */
    static boolean shrink(Path folder, long from) {
        Path file = folder.resolve(Database.FILE);
        Path anew = folder.resolve(Database.FILE + ".anew");
        try {
            Files.deleteIfExists(anew);
            if (!Files.exists(file) || Files.size(file) < from || mostlyInUse(file)) {
                return false;
            }
            MVStore.compact(file.toString(), anew.toString(), false, null);
            try (FileChannel written = FileChannel.open(anew, StandardOpenOption.WRITE)) {
                written.force(true);
            }
            Files.move(anew, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
            return true;
        } catch (IOException e) {
            throw new UncheckedIOException("The file " + file + " could not be written anew.", e);
        } catch (MVStoreException e) {
            // In use by another process, or damaged: whoever opens it next says so.
            LOG.info("{} was not written anew: {}", file, e.getMessage());
            return false;
        }
    }

    /** Whether a third of a file is in use, or more. */
    private static boolean mostlyInUse(Path file) {
        MVStore store =
                new MVStore.Builder().fileName(file.toString()).readOnly().open();
        try {
            return store.getFileStore().getChunksFillRate() >= 33;
        } finally {
            store.closeImmediately();
        }
    }

    /** The file of an open database; empty when it lies in memory. */
    static Optional<H2File> of(DataSource source) {
        try (Connection connection = source.getConnection()) {
            SessionLocal session =
                    (SessionLocal) connection.unwrap(JdbcConnection.class).getSession();
            MVStore store = session.getDatabase().getStore().getMvStore();
            return store.getFileStore() == null ? Optional.empty() : Optional.of(new H2File(store));
        } catch (SQLException e) {
            throw new IllegalStateException("the database cannot be reached", e);
        }
    }

    /** Ends when what was committed is on the disk. */
    void sync() {
        store.sync();
    }

    /** How many bytes were written to the file since it was opened. */
    long written() {
        return PartFiles.written(store.getFileStore().getFileName()).sum();
    }

    /** How much of what lies in the file's parts is in use, in percent. */
    int inUse() {
        return store.getFileStore().getChunksFillRate();
    }

    long size() {
        return store.getFileStore().size();
    }

    /** Gathers up to so many bytes from parts that are mostly out of use. Returns whether there was something to gather. */
    boolean gather(int bytes) {
        return store.compact(IN_USE, bytes);
    }

    /** The root of each tree; those that are another one afterwards were touched by what was done between. */
    Map<String, String> roots() {
        Map<String, String> roots = new TreeMap<>();
        store.getLayoutMap().forEach((key, value) -> {
            if (key.startsWith("root.")) {
                roots.put(key, value);
            }
        });
        return roots;
    }

    /**
     * Runs work while nothing that is in the file is overwritten: what is committed meanwhile is only written behind it.
     *
     * @param work gets how many bytes of the file are a whole database
     */
    <T> T whileNothingIsReused(LongFunction<T> work) {
        store.setReuseSpace(false);
        try {
            store.commit();
            store.sync();
            return work.apply(store.getFileStore().size());
        } finally {
            store.setReuseSpace(true);
        }
    }
}
