package dastur.core.signal;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Json;
import dastur.core.people.GroupId;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.ServiceId;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/** A board monitor and what it sends. */
public final class Sent {
    public static final Instant NOW = Instant.parse("2026-03-02T10:00:00Z");
    public static final SourceKey BOARDS = new SourceKey("board-monitor");
    public static final ServiceId SERVICE = new ServiceId("departure-boards");
    public static final ConfigurationItem BOARD = new ConfigurationItem(
            new CiId("ALD-07"),
            "Board 7 at Alder Pier",
            "board",
            SERVICE,
            "ALD",
            "10.30.0.27",
            new GroupId("pier-technicians"),
            "in use",
            Map.of("serial", "K-77"));

    static final Mapper.Cis CIS = new Mapper.Cis() {
        @Override
        public Optional<ConfigurationItem> find(String by, String value) {
            boolean is = value.equals(String.valueOf(BOARD.values().get(by)));
            return is ? Optional.of(BOARD) : Optional.empty();
        }

        @Override
        public Map<String, Object> service(ServiceId id) {
            return id.equals(SERVICE) ? Map.of("id", id.value(), "name", "Departure boards") : Map.of();
        }
    };

    private Sent() {}

    static Source source(Mapping.Row... rows) {
        return new Source(
                BOARDS,
                "Board monitor",
                true,
                Source.Proof.TOKEN,
                new Mapping(List.of(rows)),
                Source.Otherwise.KEPT,
                false,
                null);
    }

    static Reading read(Source source, String body, Map<String, String> headers) {
        return Mapper.read(source, "1", NOW, new Raw(headers, json(body)), CIS, expressions(source));
    }

    static Expressions expressions(Source source) {
        return new Expressions(
                Vocabulary.ofSignal(FieldCatalogue.PLAIN, source.mapping().own()));
    }

    static JsonNode json(String body) {
        try {
            return Json.parse(body);
        } catch (JsonProcessingException e) {
            throw new IllegalArgumentException(e);
        }
    }

    /** A signal that says this, so many seconds after {@link #NOW}. */
    public static Signal signal(String id, SourceKey source, Sort sort, Severity severity, long seconds) {
        return new Signal(
                id,
                source,
                NOW.plusSeconds(seconds),
                NOW.plusSeconds(seconds),
                sort,
                severity,
                "stands still",
                "ald-07/stands still",
                null,
                BOARD.id(),
                SERVICE,
                "Board 7 at Alder Pier stands still",
                null,
                null,
                Map.of("pictureAge", 60L));
    }
}
