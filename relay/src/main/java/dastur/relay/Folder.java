package dastur.relay;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.connectors.relay.Allowed;
import dastur.core.json.Json;
import dastur.core.record.Seal;
import dastur.core.workflow.ZoneKey;
import java.io.IOException;
import java.nio.file.FileSystems;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.GeneralSecurityException;
import java.security.KeyFactory;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.spec.PKCS8EncodedKeySpec;
import java.security.spec.X509EncodedKeySpec;
import java.util.Base64;
import java.util.List;
import java.util.Optional;

/**
 * What a relay has: {@code allowed.json} (what it may do; whoever runs the network writes it), {@code secrets/}, {@code scripts/},
 * and, made by itself, its key, where its server is, and its journal.
 */
final class Folder {
    /** Where the server is, and who it is. @param key its public key in base64 */
    record Server(String address, String relay, ZoneKey zone, String key) {}

    /** It is not as it has to be; the message says what to mend. */
    static final class Unusable extends Exception {
        Unusable(String message) {
            super(message);
        }
    }

    private final Path folder;

    Folder(Path folder) throws IOException {
        this.folder = Files.createDirectories(folder);
    }

    Path scripts() {
        return folder.resolve("scripts");
    }

    Path copies() {
        return folder.resolve("copies");
    }

    Path journal() {
        return folder.resolve("journal.jsonl");
    }

    /** What the file allows, and the hash of its text. */
    record Read(Allowed allowed, String hash, boolean writable) {}

    Read allowed() throws Unusable {
        Path file = folder.resolve("allowed.json");
        try {
            String text = Files.readString(file);
            return new Read(Allowed.read(text), Seal.hash(text), Files.isWritable(file));
        } catch (IOException e) {
            throw new Unusable(file + " cannot be read. It says what this relay may do; without it, nothing.");
        } catch (Allowed.Unusable e) {
            throw new Unusable(file + ": " + e.getMessage());
        }
    }

    /** A secret of the zone; it never leaves it. Empty where there is none of this name. */
    Optional<String> secret(String name) {
        Path file = folder.resolve("secrets").resolve(name);
        try {
            return name.matches("[A-Za-z0-9][A-Za-z0-9._-]{0,79}")
                            && Files.isRegularFile(file, LinkOption.NOFOLLOW_LINKS)
                    ? Optional.of(Files.readString(file).stripTrailing())
                    : Optional.empty();
        } catch (IOException e) {
            return Optional.empty();
        }
    }

    /** The relay's own key; made on first use. */
    KeyPair key() throws IOException, GeneralSecurityException {
        Path file = folder.resolve("relay.key");
        if (!Files.exists(file)) {
            KeyPair made = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
            Base64.Encoder text = Base64.getEncoder();
            secretly(
                    file,
                    text.encodeToString(made.getPrivate().getEncoded()) + "\n"
                            + text.encodeToString(made.getPublic().getEncoded()) + "\n");
        }
        List<String> lines = Files.readAllLines(file);
        KeyFactory keys = KeyFactory.getInstance("Ed25519");
        return new KeyPair(
                keys.generatePublic(new X509EncodedKeySpec(Base64.getDecoder().decode(lines.get(1)))),
                keys.generatePrivate(new PKCS8EncodedKeySpec(Base64.getDecoder().decode(lines.get(0)))));
    }

    Server server() throws Unusable {
        Path file = folder.resolve("server.json");
        try {
            return Json.mapper().readValue(Files.readString(file), Server.class);
        } catch (JsonProcessingException e) {
            throw new Unusable(file + " is damaged. Let the relay join anew.");
        } catch (IOException e) {
            throw new Unusable(
                    "This relay belongs to no server yet. Let it join, by a code from the page of its zone.");
        }
    }

    boolean belongs() {
        return Files.exists(folder.resolve("server.json"));
    }

    void belongsTo(Server server) throws IOException {
        secretly(folder.resolve("server.json"), Json.write(server) + "\n");
    }

    private static void secretly(Path file, String text) throws IOException {
        if (FileSystems.getDefault().supportedFileAttributeViews().contains("posix") && !Files.exists(file)) {
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        }
        Files.writeString(file, text);
    }
}
