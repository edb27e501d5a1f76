package dastur.relay;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.connectors.relay.SignedText;
import dastur.core.json.Json;
import java.io.IOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.channels.OverlappingFileLockException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * What this relay has begun and what became of it, on the disk before it is begun and before it is told (M15). So a process that
 * is killed neither begins anything twice nor forgets a result, and what was begun without a result is known to be unsure.
 */
final class Journal implements AutoCloseable {
    /** So long work that was done is known, so that a copy of it is not done again. */
    static final Duration KEPT = Duration.ofDays(30);

    /** How far a piece of work is. */
    enum Did {
        BEGUN,
        DONE,
        /** The server has the result. */
        TOLD
    }

    /** @param result as this relay signed it; null before it is done and once it is told */
    record Entry(String work, Did did, Instant at, @Nullable SignedText result) {}

    /** What is begun, or done and not yet told. */
    private final Map<String, Entry> open = new LinkedHashMap<>();
    /** When what is over was told. */
    private final Map<String, Instant> told = new HashMap<>();

    private final FileChannel file;
    private final FileChannel lock;

    /** Reads what an earlier process has left. A last line that was cut off by a kill says nothing. */
    Journal(Path path, Instant now) throws IOException {
        lock = channel(path.resolveSibling("lock"), StandardOpenOption.APPEND);
        if (!locked(lock)) {
            lock.close();
            throw new IOException("Another process works with this folder: each relay has one of its own.");
        }
        if (Files.exists(path)) {
            for (String line : Files.readString(path).split("\n")) {
                read(line);
            }
        }
        told.values().removeIf(at -> at.isBefore(now.minus(KEPT)));
        Path anew = path.resolveSibling(path.getFileName() + ".new");
        try (FileChannel out = channel(anew, StandardOpenOption.TRUNCATE_EXISTING)) {
            for (Map.Entry<String, Instant> entry : told.entrySet()) {
                write(out, new Entry(entry.getKey(), Did.TOLD, entry.getValue(), null));
            }
            for (Entry entry : open.values()) {
                write(out, entry);
            }
            out.force(true);
        }
        Files.move(anew, path, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        file = channel(path, StandardOpenOption.APPEND);
    }

    private static boolean locked(FileChannel lock) throws IOException {
        try {
            return lock.tryLock() != null;
        } catch (OverlappingFileLockException e) {
            return false;
        }
    }

    private static FileChannel channel(Path path, StandardOpenOption how) throws IOException {
        return FileChannel.open(path, StandardOpenOption.CREATE, StandardOpenOption.WRITE, how);
    }

    private void read(String line) {
        try {
            Entry entry = Json.mapper().readValue(line, Entry.class);
            if (entry != null && entry.work() != null && entry.did() != null && entry.at() != null) {
                know(entry);
            }
        } catch (JsonProcessingException e) {
            // Cut off by a kill: what it would have said was not yet counted on.
        }
    }

    /** On a line of its own, whatever half a line a full disk has left before it. */
    private static void write(FileChannel out, Entry entry) throws IOException {
        ByteBuffer bytes = ByteBuffer.wrap(("\n" + Json.write(entry) + "\n").getBytes(StandardCharsets.UTF_8));
        while (bytes.hasRemaining()) {
            out.write(bytes);
        }
    }

    private void enter(Entry entry) throws IOException {
        write(file, entry);
        if (entry.did() != Did.TOLD) {
            file.force(false);
        }
        know(entry);
    }

    private void know(Entry entry) {
        if (entry.did() == Did.TOLD) {
            open.remove(entry.work());
            told.put(entry.work(), entry.at());
        } else {
            open.put(entry.work(), entry);
        }
    }

    /** Says that a piece of work begins; returns once that is on the disk. False when it was begun before. */
    synchronized boolean begin(String work, Instant at) throws IOException {
        if (open.containsKey(work) || told.containsKey(work)) {
            return false;
        }
        enter(new Entry(work, Did.BEGUN, at, null));
        return true;
    }

    /** Keeps what became of it; returns once that is on the disk. */
    synchronized void done(String work, SignedText result, Instant at) throws IOException {
        enter(new Entry(work, Did.DONE, at, result));
    }

    /** The server has it: it need not be told again. */
    synchronized void told(String work, Instant at) throws IOException {
        Entry entry = open.get(work);
        if (entry != null && entry.did() == Did.DONE) {
            enter(new Entry(work, Did.TOLD, at, null));
        }
    }

    /** Results that the server has still to be told, the oldest first. */
    synchronized List<SignedText> untold() {
        List<SignedText> untold = new ArrayList<>();
        open.values().forEach(e -> {
            if (e.did() == Did.DONE && e.result() != null) {
                untold.add(e.result());
            }
        });
        return untold;
    }

    /** What an earlier process has begun, and nobody knows the end of. */
    synchronized List<String> begun() {
        return open.values().stream()
                .filter(e -> e.did() == Did.BEGUN)
                .map(Entry::work)
                .toList();
    }

    @Override
    public synchronized void close() throws IOException {
        file.close();
        lock.close();
    }
}
