package dastur.core.record;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.RunId;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.StepId;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** The hash chain over a record: sealing, opening and checking entries (D21, D22). */
public final class Seal {
    /** What the first entry follows. */
    public static final String START = "0".repeat(64);

    private static final HexFormat HEX = HexFormat.of();

    private Seal() {}

    /** What is wrong with a record, and from which entry on. */
    public record Break(long seq, String message) {}

    /**
     * Seals an event as the next entry.
     *
     * @param previous the hash of the entry before, or {@link #START}
     * @param salt gives 32 fresh random bytes; asked only when there is content
     */
    public static Entry seal(TicketId ticket, Recorded recorded, String previous, Supplier<byte[]> salt) {
        EventCodec.Encoded encoded = EventCodec.encode(recorded.event());
        ObjectNode line = Json.mapper().createObjectNode();
        line.put("v", EventCodec.VERSION);
        line.put("ticket", ticket.value());
        line.put("seq", recorded.seq());
        line.set("at", Json.tree(recorded.at()));
        line.set("actor", Json.tree(recorded.actor()));
        line.put("kind", encoded.kind());
        put(line, "run", recorded.run());
        put(line, "step", recorded.step());
        put(line, "visit", recorded.visit());
        line.put("cause", recorded.cause());
        line.set("body", encoded.body());
        line.put("previous", previous);
        String content = null;
        String salted = null;
        if (encoded.content() != null) {
            content = CanonicalJson.write(encoded.content());
            salted = HEX.formatHex(salt.get());
            line.put("contentHash", contentHash(content, salted));
        }
        String sealed = CanonicalJson.write(line);
        return new Entry(ticket, recorded.seq(), recorded.at(), encoded.kind(), sealed, hash(sealed), content, salted);
    }

    private static void put(ObjectNode line, String name, @Nullable Object id) {
        if (id != null) {
            line.put(name, id.toString());
        }
    }

    /** The kinds of entries, by their words. */
    public static List<String> kinds() {
        return EventCodec.kinds();
    }

    /**
     * What entries of each kind hold, by the kinds' words. Components marked {@link dastur.core.run.Content} are their
     * content, the others their body.
     */
    public static Map<String, Class<? extends Event>> types() {
        Map<String, Class<? extends Event>> types = new TreeMap<>();
        kinds().forEach(kind -> types.put(kind, EventCodec.type(kind)));
        return types;
    }

    /** Reads an entry back. @throws UnreadableRecord when this release does not know it */
    public static Recorded open(Entry entry) {
        try {
            JsonNode line = Json.parse(entry.sealed());
            JsonNode content = entry.content() == null ? null : Json.parse(entry.content());
            return new Recorded(
                    line.get("seq").longValue(),
                    Instant.parse(line.get("at").textValue()),
                    Json.mapper().treeToValue(line.get("actor"), Actor.class),
                    text(line, "run").map(RunId::new).orElse(null),
                    text(line, "step").map(StepId::new).orElse(null),
                    text(line, "visit").map(VisitId::new).orElse(null),
                    line.get("cause").textValue(),
                    EventCodec.decode(
                            line.get("v").intValue(), line.get("kind").textValue(), line.get("body"), content));
        } catch (JsonProcessingException e) {
            throw new UnreadableRecord("entry " + entry.seq() + " of " + entry.ticket() + " is not readable JSON");
        }
    }

    /** When an entry that was checked says that it was written; what stands beside it may have been altered. */
    public static Instant at(Entry checked) {
        try {
            return Instant.parse(Json.parse(checked.sealed()).path("at").asText());
        } catch (JsonProcessingException e) {
            throw new IllegalArgumentException("an entry that was checked is readable", e);
        }
    }

    private static Optional<String> text(JsonNode line, String name) {
        return Optional.ofNullable(line.get(name)).map(JsonNode::textValue);
    }

    /**
     * Checks a whole record; empty when it is unbroken from the first entry to the last, and all content that is not there was
     * taken away by an entry that says so.
     */
    public static Optional<Break> check(List<Entry> entries) {
        String previous = START;
        long seq = 0;
        Redactions redactions = new Redactions();
        for (Entry entry : entries) {
            Optional<Break> broken = checkNext(entry, seq + 1, previous);
            if (broken.isPresent()) {
                return broken;
            }
            redactions.see(entry);
            seq++;
            previous = entry.hash();
        }
        return redactions.unexplained().map(missing -> new Break(missing, MISSING));
    }

    /** What is said of content that nobody redacted. */
    static final String MISSING = "its content is not there, and no entry says that it was redacted: it was removed";

    /** Which content is not there, and which is said to have been redacted: the second may stand long after the first. */
    static final class Redactions {
        private final SortedSet<Long> missing = new TreeSet<>();
        private final Set<Long> redacted = new HashSet<>();

        /** Takes an entry that was checked itself. */
        void see(Entry entry) {
            try {
                JsonNode line = Json.parse(entry.sealed());
                if (line.has("contentHash") && entry.content() == null) {
                    missing.add(line.path("seq").longValue());
                }
                if (line.path("kind").asText().equals("redacted")) {
                    redacted.add(line.path("body").path("seq").longValue());
                }
            } catch (JsonProcessingException e) {
                throw new IllegalArgumentException("an entry that was checked is readable", e);
            }
        }

        int count() {
            return missing.size();
        }

        /** The first entry whose content is not there though nothing says that it was redacted. */
        Optional<Long> unexplained() {
            return missing.stream().filter(seq -> !redacted.contains(seq)).findFirst();
        }
    }

    /** Checks one entry against what it must follow. */
    static Optional<Break> checkNext(Entry entry, long expectedSeq, String previous) {
        JsonNode line;
        try {
            line = Json.parse(entry.sealed());
        } catch (JsonProcessingException e) {
            return broken(expectedSeq, "the sealed line is not JSON: it was altered");
        }
        if (!hash(entry.sealed()).equals(entry.hash())) {
            return broken(expectedSeq, "the sealed line does not have its hash: it was altered");
        }
        if (!line.path("seq").isIntegralNumber() || line.path("seq").longValue() != expectedSeq) {
            return broken(
                    expectedSeq,
                    "entry " + expectedSeq + " is expected here, but it is entry "
                            + line.path("seq").asText("?") + ": entries were removed, inserted or swapped");
        }
        if (!line.path("previous").asText("").equals(previous)) {
            return broken(
                    expectedSeq, "it does not follow the entry before it: an entry was altered, removed or inserted");
        }
        String expected = line.path("contentHash").asText(null);
        if (entry.content() == null || entry.salt() == null) {
            boolean half = entry.content() != null || entry.salt() != null;
            return half ? broken(expectedSeq, "its content or salt was removed alone") : Optional.empty();
        }
        if (!contentHash(entry.content(), entry.salt()).equals(expected)) {
            return broken(expectedSeq, "its content does not have the sealed hash: it was altered");
        }
        return Optional.empty();
    }

    private static Optional<Break> broken(long seq, String message) {
        return Optional.of(new Break(seq, message));
    }

    /** SHA-256 of a text's UTF-8 bytes, in hexadecimal. */
    public static String hash(String text) {
        return HEX.formatHex(sha256().digest(text.getBytes(StandardCharsets.UTF_8)));
    }

    /** SHA-256 of the salt's bytes followed by the content's UTF-8 bytes, in hexadecimal. */
    static String contentHash(String content, String salt) {
        MessageDigest digest = sha256();
        try {
            digest.update(HEX.parseHex(salt));
        } catch (IllegalArgumentException e) {
            return "";
        }
        return HEX.formatHex(digest.digest(content.getBytes(StandardCharsets.UTF_8)));
    }

    private static MessageDigest sha256() {
        try {
            return MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }
}
