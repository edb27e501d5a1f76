package dastur.store;

import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.SecureRandom;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.Arrays;
import java.util.Base64;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import javax.crypto.Cipher;
import javax.crypto.spec.GCMParameterSpec;
import javax.crypto.spec.SecretKeySpec;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * What connections sign in with: encrypted (AES-256-GCM) under a key outside the database, each bound to its name, so that
 * nobody who can write rows puts one in the place of another. They are set, used and taken away, and never shown.
 */
public final class StoredSecrets {
    private static final Logger LOG = LoggerFactory.getLogger(StoredSecrets.class);
    private static final int NONCE = 12;
    private static final int TAG_BITS = 128;

    /** That there is a secret. @param by who set it; null where it was taken over from a file */
    public record Known(String name, Instant at, @Nullable PersonId by) {}

    /** Who set what stood in the file: whoever can write the server's folder. */
    private static final PersonId FILE = new PersonId("secrets.properties");

    private final Database database;
    private final SecretKeySpec key;
    private final SecureRandom random = new SecureRandom();

    /** @param key 32 bytes */
    public StoredSecrets(Database database, byte[] key) {
        this.database = database;
        this.key = new SecretKeySpec(key, "AES");
    }

    /** All that there are, by name. */
    public List<Known> all() {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select name, set_at, set_by from secret order by name",
                r -> new Known(
                        r.getString(1),
                        r.getObject(2, OffsetDateTime.class).toInstant(),
                        r.getString(3) == null ? null : new PersonId(r.getString(3))))));
    }

    /** The value of a secret; empty when there is none, or it cannot be decrypted with this key under this name. */
    public Optional<String> find(String name) {
        List<String> found = database.read(session -> session.doReturningWork(
                c -> Jdbc.query(c, "select sealed from secret where name = ?", r -> r.getString(1), name)));
        return found.stream().findFirst().flatMap(text -> opened(name, text));
    }

    public void set(Journal.By by, String name, String value) {
        database.run(session -> {
            boolean there = session.doReturningWork(
                    c -> keep(c, name, value, by.at(), by.person().value()));
            Journal.set(session, by, AsSet.SECRET, name, there ? "changed" : "made", null, hash(session, name));
        });
    }

    /** Of a secret as it is kept, encrypted. */
    static String hash(StatelessSession session, String name) {
        return session
                .doReturningWork(
                        c -> Jdbc.query(c, "select sealed from secret where name = ?", r -> r.getString(1), name))
                .stream()
                .findFirst()
                .map(text -> Seal.hash(name + " " + text))
                .orElse(AsSet.NOTHING);
    }

    /** Takes one away. Returns whether it was there. */
    public boolean remove(Journal.By by, String name) {
        return database.write(session -> {
            boolean there =
                    session.doReturningWork(c -> Jdbc.update(c, "delete from secret where name = ?", name)) == 1;
            if (there) {
                Journal.set(session, by, AsSet.SECRET, name, "removed", null, AsSet.NOTHING);
            }
            return there;
        });
    }

    /** Takes secrets over that stood in a file: what stands there is newer than what is known. */
    public void takeOver(Map<String, String> values, Instant at) {
        if (!values.isEmpty()) {
            database.run(session -> values.forEach((name, value) -> {
                session.doWork(c -> keep(c, name, value, at, null));
                Journal.By by = new Journal.By(FILE, at);
                Journal.set(session, by, AsSet.SECRET, name, "taken from the file", null, hash(session, name));
            }));
        }
    }

    /** Returns whether there was one of that name. */
    private boolean keep(java.sql.Connection c, String name, String value, Instant at, @Nullable String by)
            throws java.sql.SQLException {
        String encrypted = encrypted(name, value);
        boolean there = Jdbc.update(
                        c,
                        "update secret set sealed = ?, set_at = ?, set_by = ? where name = ?",
                        encrypted,
                        at,
                        by,
                        name)
                == 1;
        if (!there) {
            Jdbc.update(
                    c,
                    "insert into secret (name, sealed, set_at, set_by) values (?, ?, ?, ?)",
                    name,
                    encrypted,
                    at,
                    by);
        }
        return there;
    }

    private String encrypted(String name, String value) {
        try {
            byte[] nonce = new byte[NONCE];
            random.nextBytes(nonce);
            byte[] encrypted = cipher(Cipher.ENCRYPT_MODE, name, nonce).doFinal(value.getBytes(StandardCharsets.UTF_8));
            return Base64.getEncoder()
                    .encodeToString(ByteBuffer.allocate(NONCE + encrypted.length)
                            .put(nonce)
                            .put(encrypted)
                            .array());
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has AES-GCM", e);
        }
    }

    private Optional<String> opened(String name, String text) {
        try {
            byte[] all = Base64.getDecoder().decode(text);
            byte[] nonce = Arrays.copyOf(all, NONCE);
            byte[] value = cipher(Cipher.DECRYPT_MODE, name, nonce).doFinal(all, NONCE, all.length - NONCE);
            return Optional.of(new String(value, StandardCharsets.UTF_8));
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            LOG.error(
                    "the secret '{}' cannot be decrypted: it was written past the application, or by another key",
                    name);
            return Optional.empty();
        }
    }

    private Cipher cipher(int mode, String name, byte[] nonce) throws GeneralSecurityException {
        Cipher cipher = Cipher.getInstance("AES/GCM/NoPadding");
        cipher.init(mode, key, new GCMParameterSpec(TAG_BITS, nonce));
        cipher.updateAAD(name.getBytes(StandardCharsets.UTF_8));
        return cipher;
    }
}
