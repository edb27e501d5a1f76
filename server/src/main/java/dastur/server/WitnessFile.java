package dastur.server;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * A file in another place, to which signed statements of how far the log reaches are appended (K13): whoever holds the database
 * and all keys cannot rewrite alone what such a file covers. One a minute, each on a line.
 */
public final class WitnessFile {
    private static final Logger LOG = LoggerFactory.getLogger(WitnessFile.class);
    private static final Duration EVERY = Duration.ofMinutes(1);

    private final Path file;
    private volatile @Nullable Checkpoint given;
    private volatile @Nullable Instant givenAt;
    private volatile @Nullable String trouble;

    public WitnessFile(Path file) {
        this.file = file;
    }

    /** Gives a statement away, unless it was given, or another within the last minute. What fails is tried again with the next. */
    public void give(Checkpoint checkpoint) {
        Checkpoint last = given;
        if (last != null
                && (last.hash().equals(checkpoint.hash())
                        || last.at().plus(EVERY).isAfter(checkpoint.at()))) {
            return;
        }
        try {
            Path folder = file.toAbsolutePath().getParent();
            if (folder != null) {
                Files.createDirectories(folder);
            }
            Files.writeString(
                    file, Json.write(checkpoint) + "\n", StandardOpenOption.CREATE, StandardOpenOption.APPEND);
            given = checkpoint;
            givenAt = checkpoint.at();
            trouble = null;
        } catch (IOException e) {
            if (trouble == null) {
                LOG.warn("signed statements cannot be given to {}", file, e);
            }
            trouble = "The file " + file + " cannot be written.";
        }
    }

    /** When one was given last since the application was started. */
    public Optional<Instant> givenAt() {
        return Optional.ofNullable(givenAt);
    }

    /** Why none can be given; empty while all is well. */
    public Optional<String> trouble() {
        return Optional.ofNullable(trouble);
    }

    /** What such a file holds. @throws IOException when it cannot be read, or a line of it is no statement */
    static List<Checkpoint> read(Path file) throws IOException {
        List<Checkpoint> all = new ArrayList<>();
        int number = 0;
        for (String line : Files.readAllLines(file, StandardCharsets.UTF_8)) {
            number++;
            try {
                JsonNode one = Json.parse(line);
                all.add(Json.mapper().treeToValue(one, Checkpoint.class));
            } catch (JsonProcessingException e) {
                throw new IOException("Line " + number + " of " + file + " is no signed statement.", e);
            }
        }
        return all;
    }
}
