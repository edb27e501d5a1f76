package dastur.server;

import dastur.core.json.Json;
import dastur.core.record.Checkpoint.Reach;
import dastur.core.record.Signer;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.ByteBuffer;
import java.nio.channels.FileChannel;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.StandardOpenOption;
import java.util.Optional;

/** A small file beside the signing key that says how far the log was signed. It is replaced whole, never written into. */
final class SignedLast implements Signer.Keeper {
    private final Path file;

    SignedLast(Path file) {
        this.file = file;
    }

    @Override
    public Optional<Reach> last() {
        try {
            return Files.exists(file)
                    ? Optional.of(Json.read(Files.readString(file, StandardCharsets.UTF_8), Reach.class))
                    : Optional.empty();
        } catch (IOException | IllegalArgumentException e) {
            throw new IllegalStateException(
                    "What was signed last cannot be read from " + file
                            + ". Restore the file from a copy; without it nothing is signed.",
                    e);
        }
    }

    @Override
    public void keep(Reach reach) {
        Path next = file.resolveSibling(file.getFileName() + ".next");
        try {
            try (FileChannel out = FileChannel.open(
                    next, StandardOpenOption.CREATE, StandardOpenOption.WRITE, StandardOpenOption.TRUNCATE_EXISTING)) {
                out.write(ByteBuffer.wrap((Json.write(reach) + "\n").getBytes(StandardCharsets.UTF_8)));
                out.force(true);
            }
            Files.move(next, file, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        } catch (IOException e) {
            throw new UncheckedIOException("What was signed cannot be kept beside the key.", e);
        }
    }
}
