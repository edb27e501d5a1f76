package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Engine;
import dastur.core.ticket.TicketId;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.zip.GZIPInputStream;
import org.junit.jupiter.api.Test;

/**
 * Records of 2026-11-28, written by the demo, open and fold as they did then: whatever becomes of the rooms of the engine, what
 * stands on records means the same.
 */
class GoldenRecordsTest {
    private static final int GOLDEN_KINDS = 72;

    private static BufferedReader open(String name) throws IOException {
        return new BufferedReader(new InputStreamReader(
                new GZIPInputStream(GoldenRecordsTest.class.getResourceAsStream("/golden/" + name)),
                StandardCharsets.UTF_8));
    }

    private static Map<String, List<Entry>> records() throws IOException {
        Map<String, List<Entry>> records = new TreeMap<>();
        try (BufferedReader in = open("records.ndjson.gz")) {
            for (String line = in.readLine(); line != null; line = in.readLine()) {
                JsonNode entry = Json.parse(line);
                JsonNode sealed = Json.parse(entry.path("sealed").asText());
                TicketId ticket = new TicketId(sealed.path("ticket").asText());
                records.computeIfAbsent(entry.path("story").asText(), t -> new ArrayList<>())
                        .add(new Entry(
                                ticket,
                                sealed.path("seq").longValue(),
                                Instant.parse(sealed.path("at").asText()),
                                sealed.path("kind").asText(),
                                entry.path("sealed").asText(),
                                entry.path("hash").asText(),
                                entry.path("content").textValue(),
                                entry.path("salt").textValue()));
            }
        }
        return records;
    }

    @Test
    void oldRecordsHoldAndFoldToWhatStoodThen() throws IOException {
        StringBuilder stands = new StringBuilder();
        Set<String> kinds = new TreeSet<>();
        for (Map.Entry<String, List<Entry>> record : records().entrySet()) {
            assertThat(Seal.check(record.getValue())).as("%s", record.getKey()).isEmpty();
            record.getValue().forEach(e -> kinds.add(e.kind()));
            Case folded = Engine.fold(
                    record.getValue().getFirst().ticket(),
                    record.getValue().stream().map(Seal::open).toList());
            assertThat(folded.seq()).isEqualTo(record.getValue().size());
            new TreeMap<>(StoredStanding.expected(folded)).forEach((row, is) -> stands.append(record.getKey())
                    .append(' ')
                    .append(row)
                    .append(" = ")
                    .append(is)
                    .append('\n'));
            stands.append(record.getKey())
                    .append(" fields = ")
                    .append(new TreeMap<>(folded.fields()))
                    .append('\n');
            folded.open().values().forEach(run -> stands.append(record.getKey())
                    .append(' ')
                    .append(run.id())
                    .append(" ready ")
                    .append(run.ready().stream().map(t -> t.step().value()).toList())
                    .append(", vars ")
                    .append(new TreeMap<>(run.vars()))
                    .append(", of steps ")
                    .append(new TreeSet<>(run.steps().keySet()))
                    .append('\n'));
        }
        // What is there now, for whoever means to change it and says why.
        Files.writeString(Path.of("target", "standing.txt"), stands);
        try (BufferedReader in = open("standing.txt.gz")) {
            assertThat(stands.toString().lines())
                    .containsExactlyElementsOf(in.lines().toList());
        }
        assertThat(kinds).as("kinds of entries that are among them").hasSizeGreaterThan(GOLDEN_KINDS);
    }
}
