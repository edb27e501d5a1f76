package dastur.server;

import dastur.core.record.Mac;
import dastur.core.record.Signer;
import dastur.server.auth.Secrets;
import java.io.IOException;
import java.io.Reader;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileSystems;
import java.nio.file.Files;
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
import java.util.Map;
import java.util.Optional;
import java.util.Properties;
import java.util.TreeMap;
import java.util.function.Consumer;

/** The folder beside the database: the signing key and the secrets, readable by their owner only. */
public final class DataFolder {
    private final Path folder;

    public DataFolder(Path folder) {
        this.folder = folder;
        try {
            Files.createDirectories(folder);
        } catch (IOException e) {
            throw new UncheckedIOException("The data folder " + folder + " cannot be made.", e);
        }
    }

    /** The key that signs links in mails; made on first use. */
    public byte[] linkKey() {
        return key("links.key");
    }

    private byte[] key(String name) {
        Path file = folder.resolve(name);
        try {
            if (!Files.exists(file)) {
                byte[] made = new byte[32];
                new java.security.SecureRandom().nextBytes(made);
                write(file, Base64.getEncoder().encodeToString(made) + "\n");
            }
            return Base64.getDecoder().decode(Files.readString(file).strip());
        } catch (IOException | IllegalArgumentException e) {
            throw new IllegalStateException("The key " + file + " cannot be read.", e);
        }
    }

    /** The Ed25519 key that signs records; made on first use. It is kept outside the database on purpose (D23). */
    public KeyPair signingKey() {
        return keyPair("seal.key", "without it, new records cannot be tied to old ones.");
    }

    /** The Ed25519 key that signs what relays are given; made on first use. It signs nothing else (M13). */
    public KeyPair relaysKey() {
        return keyPair("relays.key", "without it, each relay has to join anew.");
    }

    private KeyPair keyPair(String name, String without) {
        Path file = folder.resolve(name);
        try {
            if (!Files.exists(file)) {
                KeyPair made = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
                Base64.Encoder encoder = Base64.getEncoder();
                write(
                        file,
                        encoder.encodeToString(made.getPrivate().getEncoded()) + "\n"
                                + encoder.encodeToString(made.getPublic().getEncoded()) + "\n");
            }
            List<String> lines = Files.readAllLines(file);
            KeyFactory keys = KeyFactory.getInstance("Ed25519");
            return new KeyPair(
                    keys.generatePublic(
                            new X509EncodedKeySpec(Base64.getDecoder().decode(lines.get(1)))),
                    keys.generatePrivate(
                            new PKCS8EncodedKeySpec(Base64.getDecoder().decode(lines.get(0)))));
        } catch (IOException e) {
            throw new UncheckedIOException("The signing key " + file + " cannot be read.", e);
        } catch (GeneralSecurityException | IllegalArgumentException | IndexOutOfBoundsException e) {
            throw new IllegalStateException(
                    "The signing key " + file + " is damaged. Restore it from a copy: " + without, e);
        }
    }

    /** The key whose codes show which rows the application wrote (K14); made on first use. */
    public Mac rowKey() {
        return new Mac(key("rows.key"));
    }

    /** Whether there is a key for rows already; before, nothing in the database bears a code. */
    public boolean hasRowKey() {
        return Files.exists(folder.resolve("rows.key"));
    }

    /** The key under which secrets in the database are encrypted; made on first use. */
    public byte[] secretsKey() {
        return key("secrets.key");
    }

    /** Signs how far the log reaches; keeps beside the key what it signed last (K11). */
    public Signer signer() {
        return new Signer(signingKey(), signedLast());
    }

    SignedLast signedLast() {
        return new SignedLast(folder.resolve("seal.last"));
    }

    /** A secret by its name, from {@code secrets.properties}. */
    public Optional<String> secret(String name) {
        return Optional.ofNullable(secrets().getProperty(name)).filter(s -> !s.isBlank());
    }

    /**
     * Has the secrets of the file taken over by whoever keeps them from now on, and leaves only that which says how the database
     * is reached.
     */
    public void handOverSecrets(Consumer<Map<String, String>> keeper) {
        Properties all = secrets();
        Map<String, String> others = new TreeMap<>();
        all.stringPropertyNames().stream()
                .filter(n -> !n.equals(OnServer.SECRET) && !all.getProperty(n).isBlank())
                .forEach(n -> others.put(n, all.getProperty(n)));
        if (others.isEmpty()) {
            return;
        }
        keeper.accept(others);
        all.keySet().removeAll(others.keySet());
        keepSecrets(all);
    }

    /** The secret of a name, made when there is none yet. */
    public String secretOrNew(String name) {
        return secret(name).orElseGet(() -> {
            String made = Secrets.newToken();
            keepSecret(name, made);
            return made;
        });
    }

    /** Keeps a secret's value under its name, in place of an earlier one. */
    public void keepSecret(String name, String value) {
        Properties all = secrets();
        all.setProperty(name, value);
        keepSecrets(all);
    }

    private void keepSecrets(Properties all) {
        StringBuilder text = new StringBuilder();
        all.stringPropertyNames().stream()
                .sorted()
                .forEach(n ->
                        text.append(n).append('=').append(all.getProperty(n)).append('\n'));
        try {
            write(folder.resolve("secrets.properties"), text.toString());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private Properties secrets() {
        Properties properties = new Properties();
        Path file = folder.resolve("secrets.properties");
        if (Files.exists(file)) {
            try (Reader in = Files.newBufferedReader(file, StandardCharsets.UTF_8)) {
                properties.load(in);
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
        return properties;
    }

    private static void write(Path file, String text) throws IOException {
        if (FileSystems.getDefault().supportedFileAttributeViews().contains("posix") && !Files.exists(file)) {
            Files.createFile(file, PosixFilePermissions.asFileAttribute(PosixFilePermissions.fromString("rw-------")));
        }
        Files.writeString(file, text);
    }
}
