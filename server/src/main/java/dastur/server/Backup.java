package dastur.server;

import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint.Reach;
import dastur.core.record.Seal;
import dastur.core.record.Signer;
import dastur.core.record.Signing;
import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.Keeping;
import dastur.store.RecordLog;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.DigestInputStream;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.util.Comparator;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;

/**
 * Copies of everything while the application runs, and bringing one back (K10). A copy counts when it was opened and audited;
 * its manifest names every file with its hash, and how far the log reached, and is signed.
 */
public final class Backup {
    static final String MANIFEST = "manifest.json";
    /** What belongs to a database beside it; what is not there is not copied. */
    private static final List<String> BESIDE =
            List.of("seal.key", "links.key", "rows.key", "secrets.key", "relays.key", "secrets.properties");

    /** A copy is not to be trusted. */
    public static final class Damaged extends RuntimeException {
        private static final long serialVersionUID = 1;

        Damaged(String message) {
            super(message);
        }
    }

    /**
     * A copy that counts.
     *
     * @param tickets how many tickets were audited
     * @param files their SHA-256, by name
     */
    public record Taken(
            String name,
            Instant at,
            int epoch,
            long size,
            String root,
            long bytes,
            long tickets,
            Map<String, String> files) {}

    private Backup() {}

    /**
     * Takes a copy.
     *
     * @param data the folder of the running application
     * @param to a folder that is not there yet
     * @throws Damaged when the copy does not hold; then nothing is left of it
     */
    public static Taken take(Database database, RecordLog log, Path data, Path to, Instant at) {
        log.catchUp();
        log.sign(at);
        Path half = to.resolveSibling(to.getFileName() + ".half");
        try {
            delete(half);
            if (Files.exists(to)) {
                throw new IOException("there is something at " + to + " already");
            }
            Files.createDirectories(half);
            if (Files.getFileStore(half).supportsFileAttributeView("posix")) {
                // It holds the keys and secrets.
                Files.setPosixFilePermissions(half, PosixFilePermissions.fromString("rwx------"));
            }
            new Keeping(database).copy(data, half);
            for (String name : BESIDE) {
                if (Files.exists(data.resolve(name))) {
                    Files.copy(data.resolve(name), half.resolve(name), StandardCopyOption.COPY_ATTRIBUTES);
                }
            }
            Taken taken = audited(half, to.getFileName().toString(), at);
            String text = CanonicalJson.write(Json.tree(taken));
            Files.writeString(
                    half.resolve(MANIFEST),
                    Json.write(Map.of(
                                    "manifest",
                                    text,
                                    "signature",
                                    Signing.sign(text, log.signer().key()),
                                    "key",
                                    log.signer().publicKey()))
                            + "\n");
            Files.move(half, to, StandardCopyOption.ATOMIC_MOVE);
            return taken;
        } catch (IOException e) {
            throw new UncheckedIOException("The copy could not be taken: " + e.getMessage() + ".", e);
        } finally {
            delete(half);
        }
    }

    /** Opens a copy and goes through all of it, as far as its own log reaches. */
    private static Taken audited(Path copy, String name, Instant at) throws IOException {
        DataFolder folder = new DataFolder(copy);
        Reach reach;
        Audit.Report report;
        try (Database database = Database.inFolder(copy, Durability.PROCESS, folder.rowKey())) {
            reach = new Keeping(database).reach();
            Signer signer = new Signer(folder.signingKey(), new Nothing());
            report = new Audit(database, new RecordLog(database, signer)).run(done -> {});
        }
        if (!report.findings().isEmpty()) {
            Audit.Finding first = report.findings().getFirst();
            throw new Damaged("The copy does not hold: " + first.where() + ", " + first.what() + ".");
        }
        Map<String, String> hashes = new TreeMap<>();
        long bytes = 0;
        try (Stream<Path> files = Files.list(copy)) {
            for (Path file : files.sorted().toList()) {
                String own = file.getFileName().toString();
                if (own.equals(Database.FILE) || BESIDE.contains(own)) {
                    hashes.put(own, hash(file));
                    bytes += Files.size(file);
                } else {
                    Files.delete(file);
                }
            }
        }
        return new Taken(name, at, reach.epoch(), reach.size(), reach.root(), bytes, report.tickets(), hashes);
    }

    /** A copy may reach less far than what was signed meanwhile; nothing is signed with it. */
    private static final class Nothing implements Signer.Keeper {
        @Override
        public Optional<Reach> last() {
            return Optional.empty();
        }

        @Override
        public void keep(Reach reach) {
            throw new IllegalStateException("nothing is signed with a copy");
        }
    }

    private static String hash(Path file) throws IOException {
        try (DigestInputStream in =
                new DigestInputStream(Files.newInputStream(file), MessageDigest.getInstance("SHA-256"))) {
            in.transferTo(java.io.OutputStream.nullOutputStream());
            return HexFormat.of().formatHex(in.getMessageDigest().digest());
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }

    /** All copies in a folder, newest first. What has no readable manifest is none. */
    public static List<Taken> in(Path folder) {
        if (!Files.isDirectory(folder)) {
            return List.of();
        }
        try (Stream<Path> copies = Files.list(folder)) {
            return copies.filter(c -> Files.exists(c.resolve(MANIFEST)))
                    .flatMap(c -> {
                        try {
                            return Stream.of(checked(c, null));
                        } catch (Damaged e) {
                            return Stream.empty();
                        }
                    })
                    .sorted(Comparator.comparing(Taken::at).reversed())
                    .toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    /** What a manifest says, if it is signed by the key; its files are not looked at. */
    private static Taken checked(Path copy, String trusted) {
        try {
            var line = Json.parse(Files.readString(copy.resolve(MANIFEST), StandardCharsets.UTF_8));
            String text = line.path("manifest").asText();
            String key = line.path("key").asText();
            if (trusted != null && !trusted.equals(key)) {
                throw new Damaged("The manifest was signed by another key than the one expected.");
            }
            if (!Signing.holds(text, line.path("signature").asText(), key)) {
                throw new Damaged("The manifest was altered: its signature does not hold.");
            }
            return Json.read(text, Taken.class);
        } catch (IOException | IllegalArgumentException e) {
            throw new Damaged("There is no readable " + MANIFEST + " in " + copy + ".");
        }
    }

    /**
     * Brings a copy back into a folder that has no database, and begins a new epoch of its log. Nothing goes out from it until
     * somebody says so.
     *
     * @param trusted the public key that must have signed it, in base64; null accepts the one it names
     * @param by who does it
     * @throws Damaged when something of it is not as it was when it was taken
     */
    public static Taken restore(Path from, Path data, String trusted, String by, Instant at) {
        Taken taken = checked(from, trusted);
        try {
            if (Files.exists(data.resolve(Database.FILE))) {
                throw new IOException("there is a database in " + data + " already");
            }
            for (Map.Entry<String, String> file : taken.files().entrySet()) {
                Path one = from.resolve(file.getKey());
                if (!Files.exists(one) || !hash(one).equals(file.getValue())) {
                    throw new Damaged(file.getKey() + " is not what it was when the copy was taken.");
                }
            }
            Files.createDirectories(data);
            for (String name : taken.files().keySet()) {
                if (!name.equals(Database.FILE)) {
                    Files.copy(
                            from.resolve(name),
                            data.resolve(name),
                            StandardCopyOption.REPLACE_EXISTING,
                            StandardCopyOption.COPY_ATTRIBUTES);
                }
            }
            // Under another name until it is whole: an interrupted restore leaves no database behind.
            Path half = data.resolve("restoring");
            delete(half);
            Files.createDirectories(half);
            Files.copy(from.resolve(Database.FILE), half.resolve(Database.FILE));
            DataFolder folder = new DataFolder(data);
            Reach reach;
            try (Database database = Database.inFolder(half, Durability.POWER, folder.rowKey())) {
                reach = new Keeping(database).beginEpoch(by, taken.name() + ", manifest " + manifestHash(from), at);
            }
            folder.signedLast().keep(reach);
            Files.move(half.resolve(Database.FILE), data.resolve(Database.FILE), StandardCopyOption.ATOMIC_MOVE);
            delete(half);
            return taken;
        } catch (IOException e) {
            throw new UncheckedIOException("The copy could not be brought back: " + e.getMessage() + ".", e);
        }
    }

    private static String manifestHash(Path from) throws IOException {
        return Seal.hash(Files.readString(from.resolve(MANIFEST), StandardCharsets.UTF_8));
    }

    static void delete(Path folder) {
        if (!Files.exists(folder)) {
            return;
        }
        try (Stream<Path> files = Files.walk(folder)) {
            for (Path file : files.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(file);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }
}
