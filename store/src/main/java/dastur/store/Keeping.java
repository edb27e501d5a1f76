package dastur.store;

import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.MerkleTree;
import dastur.core.record.Seal;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** Copies of the whole database while it is in use, and how a copy begins its own life (K10). */
public final class Keeping {
    private static final int AT_ONCE = 1 << 20;

    private final Database database;

    public Keeping(Database database) {
        this.database = database;
    }

    /**
     * Copies the database's file while it is in use: what is committed meanwhile is only written behind what is copied.
     *
     * @throws IllegalStateException when the database lies in memory
     */
    public void copy(Path folder, Path to) {
        H2File file = database.file();
        if (file == null) {
            throw new IllegalStateException("a database in memory has no file to copy");
        }
        file.whileNothingIsReused(size -> {
            try (InputStream in = Files.newInputStream(folder.resolve(Database.FILE));
                    OutputStream out = Files.newOutputStream(
                            to.resolve(Database.FILE), StandardOpenOption.CREATE_NEW, StandardOpenOption.WRITE)) {
                byte[] bytes = new byte[AT_ONCE];
                long left = size;
                while (left > 0) {
                    int read = in.read(bytes, 0, (int) Math.min(left, bytes.length));
                    if (read < 0) {
                        throw new IOException("the file is shorter than it was");
                    }
                    out.write(bytes, 0, read);
                    left -= read;
                }
                return size;
            } catch (IOException e) {
                throw new UncheckedIOException("The database could not be copied to " + to + ".", e);
            }
        });
    }

    /** How far the log reaches, with the root over it. */
    public Checkpoint.Reach reach() {
        return database.read(session -> session.doReturningWork(c -> {
            Checkpoint.Reach state = Sequencer.state(c);
            String root = HexFormat.of().formatHex(MerkleTree.root(new LogTiles(c), state.size()));
            return new Checkpoint.Reach(state.epoch(), state.size(), root);
        }));
    }

    /**
     * Begins a new epoch of the log on a restored database. Its first leaf says what it began with. Nothing goes out until
     * {@link #goOn}; calls that were to be made may have been made after the copy was taken, so each counts as tried.
     *
     * @param by who restores
     * @return how far the log reaches, of the new epoch; to be kept beside the key
     */
    public Checkpoint.Reach beginEpoch(String by, String from, Instant at) {
        database.sequencer().catchUp();
        Checkpoint.Reach restored = reach();
        int epoch = restored.epoch() + 1;
        String text = CanonicalJson.write(Map.of(
                "v",
                1,
                "epoch",
                epoch,
                "restored",
                Map.of("epoch", restored.epoch(), "size", restored.size(), "root", restored.root()),
                "from",
                from,
                "by",
                by,
                "at",
                Json.tree(at)));
        String hash = Seal.hash(text);
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "update log_state set epoch = ?, held_since = ? where id = 1", epoch, at);
            Jdbc.update(c, "insert into epoch (number, text, hash) values (?, ?, ?)", epoch, text, hash);
            Jdbc.update(c, "insert into log_pending (ticket, seq, hash) values (?, 1, ?)", "epoch " + epoch, hash);
            Jdbc.update(
                    c,
                    "update outbox set tries = case when tries = 0 and kind = 'call' then 1 else tries end,"
                            + " leased_until = null, lease = null");
            // What had to be done once may have been done since by one relay, which another cannot know.
            Jdbc.update(
                    c,
                    "update relay_work set standing = 'LEFT', settled_at = "
                            + database.dialect().now()
                            + " where standing in ('WAITS', 'GIVEN') and repeat_as = 'never'");
            Jdbc.update(c, "update relay set boot = null");
        }));
        database.sequencer().catchUp();
        return reach();
    }

    /** Since when nothing goes out, because the database was restored; empty while things go out. */
    public Optional<Instant> heldSince() {
        List<Optional<Instant>> found = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select held_since from log_state where id = 1", r -> Optional.ofNullable(
                                r.getObject(1, OffsetDateTime.class))
                        .map(OffsetDateTime::toInstant))));
        return found.getFirst();
    }

    /** Says that things may go out again. */
    public void goOn() {
        database.run(
                session -> session.doWork(c -> Jdbc.update(c, "update log_state set held_since = null where id = 1")));
    }
}
