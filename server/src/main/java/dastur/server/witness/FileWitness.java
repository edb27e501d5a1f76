package dastur.server.witness;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import java.io.IOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardOpenOption;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/** A file in another place, where whoever runs the database cannot write: one statement a minute, each on a line. */
public final class FileWitness implements Witness {
    private static final Duration EVERY = Duration.ofMinutes(1);

    private final Path file;

    FileWitness(Path file) {
        this.file = file;
    }

    @Override
    public Witnessed.Kind kind() {
        return Witnessed.Kind.FILE;
    }

    /** Only the last part: where it lies is nobody's business who reads an export. */
    @Override
    public String name() {
        return String.valueOf(file.getFileName());
    }

    @Override
    public Duration every() {
        return EVERY;
    }

    @Override
    public @Nullable String give(Checkpoint checkpoint) throws NotGiven {
        try {
            Path folder = file.toAbsolutePath().getParent();
            if (folder != null) {
                Files.createDirectories(folder);
            }
            Files.writeString(
                    file, Json.write(checkpoint) + "\n", StandardOpenOption.CREATE, StandardOpenOption.APPEND);
            return null;
        } catch (IOException e) {
            throw new NotGiven("The file " + file + " cannot be written.", e);
        }
    }

    /** What such a file holds. @throws IOException when it cannot be read, or a line of it is no statement */
    public static List<Checkpoint> read(Path file) throws IOException {
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
