package dastur.store;

import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EmbeddedId;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.HexFormat;
import java.util.Optional;
import org.hibernate.StatelessSession;

/** Bytes of attached files, each kept once under its SHA-256 (N8). */
public final class Files {
    @Entity(name = "FileBytesRow")
    @Table(name = "file_bytes")
    static class BytesRow {
        @Id
        String hash;

        byte[] bytes;
    }

    @Embeddable
    record UseKey(String ticket, long seq) implements Serializable {}

    @Entity(name = "FileUseRow")
    @Table(name = "file_use")
    static class UseRow {
        @EmbeddedId
        UseKey key;

        @Column(name = "hash")
        String hash;
    }

    private final Database database;

    public Files(Database database) {
        this.database = database;
    }

    /** Keeps bytes; the same bytes are kept once. @return their SHA-256, in hex, by which they are found */
    public String keep(byte[] bytes) {
        String hash = hash(bytes);
        database.run(session -> {
            if (session.get(BytesRow.class, hash) == null) {
                BytesRow row = new BytesRow();
                row.hash = hash;
                row.bytes = bytes;
                session.insert(row);
            }
        });
        return hash;
    }

    private static String hash(byte[] bytes) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }

    public Optional<byte[]> bytes(String hash) {
        return database.read(session ->
                Optional.ofNullable(session.get(BytesRow.class, hash)).map(row -> row.bytes));
    }

    /** Forgets bytes that no entry refers to, for instance because the command that was to attach them was refused. */
    public void dropUnused(String hash) {
        database.run(session -> dropUnused(session, hash));
    }

    static void dropUnused(StatelessSession session, String hash) {
        boolean used = !session.createSelectionQuery("select 1 from FileUseRow where hash = ?1", Integer.class)
                .setParameter(1, hash)
                .setMaxResults(1)
                .getResultList()
                .isEmpty();
        if (!used) {
            session.createMutationQuery("delete FileBytesRow where hash = ?1")
                    .setParameter(1, hash)
                    .executeUpdate();
        }
    }
}
