package dastur.core.record;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.CanonicalJson;
import dastur.core.json.Json;
import dastur.core.ticket.TicketId;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.Reader;
import java.security.KeyPair;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * A record as NDJSON: one entry a line with its texts verbatim, so that checking needs no canonicaliser, and a signed
 * trailer that says where the record ends (D21, D23).
 */
public final class Export {
    private static final int MAX_LINE = 4_000_000;

    private Export() {}

    /** One line without its line end. */
    public static String line(Entry entry) {
        ObjectNode line = Json.mapper().createObjectNode();
        line.put("hash", entry.hash());
        line.put("sealed", entry.sealed());
        if (entry.content() != null) {
            line.put("content", entry.content());
            line.put("salt", entry.salt());
        }
        return line.toString();
    }

    /**
     * What shows that a record is in the log.
     *
     * @param leaf the number of its last change there, from 0
     * @param path the hashes that lead from the change to the checkpoint's root, in hexadecimal
     * @param witnesses who was given how far the log reached, at this checkpoint or before
     */
    public record Proof(long leaf, List<String> path, Checkpoint checkpoint, List<Witnessed.Shown> witnesses) {}

    /** The last line: what the record consists of and what shows that the log holds it, signed. */
    public static String trailer(TicketId ticket, long entries, String head, Proof proof, Instant at, KeyPair key) {
        Map<String, Object> trailer = new HashMap<>(Map.of(
                "v",
                2,
                "ticket",
                ticket.value(),
                "entries",
                entries,
                "head",
                head,
                "leaf",
                proof.leaf(),
                "path",
                proof.path(),
                "checkpoint",
                Map.of(
                        "text",
                        proof.checkpoint().text(),
                        "signature",
                        proof.checkpoint().signature()),
                "at",
                Json.tree(at)));
        if (!proof.witnesses().isEmpty()) {
            trailer.put(
                    "witnesses", proof.witnesses().stream().map(Export::witness).toList());
        }
        String text = CanonicalJson.write(trailer);
        ObjectNode line = Json.mapper().createObjectNode();
        line.put("trailer", text);
        line.put("signature", Signing.sign(text, key));
        line.put("key", Signing.publicKey(key));
        return line.toString();
    }

    private static Map<String, Object> witness(Witnessed.Shown shown) {
        Witnessed w = shown.witnessed();
        Map<String, Object> words = new HashMap<>(Map.of(
                "kind",
                w.kind().word(),
                "name",
                w.name(),
                "at",
                Json.tree(w.at()),
                "checkpoint",
                Map.of(
                        "text",
                        w.checkpoint().text(),
                        "signature",
                        w.checkpoint().signature()),
                "consistency",
                shown.consistency()));
        if (w.receipt() != null) {
            words.put("receipt", w.receipt());
        }
        return words;
    }

    /**
     * What a check of an export found.
     *
     * @param problems what is wrong, in order; empty when the record is proved
     * @param key the key that signed the trailer, in base64; null without a trailer
     * @param log until when the log is shown to hold it, and how far; null where the export says nothing of a log
     * @param seen by whom the log was seen outside, as far as this export says
     */
    public record Report(
            @Nullable String ticket,
            long entries,
            long redacted,
            List<Problem> problems,
            @Nullable String key,
            @Nullable InLog log,
            List<Seen> seen) {
        public boolean proved() {
            return problems.isEmpty();
        }
    }

    /** That a checkpoint covers the record. @param size how many changes of all records the log had then */
    public record InLog(long checkpoint, Instant at, long size) {}

    /**
     * That somebody outside was given how far the log reached, and that the log of this export begins with it.
     *
     * @param kind how it was given: file, mail, post, or stamp (RFC 3161)
     * @param given when, by the clock of whoever gave it
     * @param all whether it covers all of this record; else what came last is newer
     * @param receipt what a look at its receipt found; null where it gave none
     */
    public record Seen(
            String kind, String name, Instant given, long size, boolean all, Witnessed.@Nullable Found receipt) {}

    /** A problem in a line of the file, counted from 1. */
    public record Problem(long line, String message) {}

    /**
     * Checks an export.
     *
     * @param trusted the public key expected, in base64; null accepts the one in the trailer, which then only proves
     *     that whoever holds it signed the end
     */
    public static Report check(Reader in, @Nullable String trusted) throws IOException {
        return check(in, trusted, Witnessed.Receipts.NONE);
    }

    /** The same. @param receipts looks at what witnesses gave back */
    public static Report check(Reader in, @Nullable String trusted, Witnessed.Receipts receipts) throws IOException {
        return new Checker(trusted, receipts).check(new BufferedReader(in));
    }

    private static final class Checker {
        private final @Nullable String trusted;
        private final List<Problem> problems = new ArrayList<>();
        private @Nullable String ticket;
        private @Nullable String key;
        private String previous = Seal.START;
        private long seq;
        private final Seal.Redactions redactions = new Seal.Redactions();
        private boolean ended;
        private @Nullable InLog inLog;
        private final Witnessed.Receipts receipts;
        private final List<Seen> seen = new ArrayList<>();

        Checker(@Nullable String trusted, Witnessed.Receipts receipts) {
            this.trusted = trusted;
            this.receipts = receipts;
        }

        Report check(BufferedReader in) throws IOException {
            long number = 0;
            for (String line = in.readLine(); line != null && problems.isEmpty(); line = in.readLine()) {
                number++;
                if (!line.isBlank()) {
                    line(number, line);
                }
            }
            if (problems.isEmpty() && !ended) {
                problem(
                        number + 1,
                        "the signed trailer is missing: the end was cut off, so nobody can say whether entries are missing");
            }
            if (problems.isEmpty()) {
                // Told by its number, since the entry that should have named it could stand anywhere after it.
                redactions
                        .unexplained()
                        .ifPresent(missing -> problem(missing, "entry " + missing + ": " + Seal.MISSING));
            }
            return new Report(ticket, seq, redactions.count(), problems, key, inLog, seen);
        }

        private void problem(long line, String message) {
            problems.add(new Problem(line, message));
        }

        private void line(long number, String text) {
            JsonNode line;
            try {
                if (text.length() > MAX_LINE) {
                    problem(number, "the line is longer than " + MAX_LINE + " characters");
                    return;
                }
                line = Json.parse(text);
            } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
                problem(number, "this is not JSON: it was altered");
                return;
            }
            if (ended) {
                problem(number, "something follows the trailer");
            } else if (line.has("trailer")) {
                trailer(number, line);
            } else {
                entry(number, line);
            }
        }

        private void entry(long number, JsonNode line) {
            JsonNode sealed = line.path("sealed");
            JsonNode hash = line.path("hash");
            if (!sealed.isTextual() || !hash.isTextual()) {
                problem(number, "this is no entry: 'sealed' and 'hash' are expected");
                return;
            }
            Entry entry = new Entry(
                    new TicketId("x"),
                    seq + 1,
                    Instant.EPOCH,
                    "",
                    sealed.textValue(),
                    hash.textValue(),
                    line.path("content").textValue(),
                    line.path("salt").textValue());
            Optional<Seal.Break> broken = Seal.checkNext(entry, seq + 1, previous);
            if (broken.isPresent()) {
                problem(number, "entry " + (seq + 1) + ": " + broken.get().message());
                return;
            }
            sameTicket(number, entry);
            redactions.see(entry);
            previous = entry.hash();
            seq++;
        }

        private void sameTicket(long number, Entry entry) {
            try {
                JsonNode inner = Json.parse(entry.sealed());
                String named = inner.path("ticket").asText();
                if (ticket != null && !ticket.equals(named)) {
                    problem(number, "this entry belongs to " + named + ", not to " + ticket);
                }
                ticket = named;
            } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
                problem(number, "this is not JSON: it was altered");
            }
        }

        private void trailer(long number, JsonNode line) {
            ended = true;
            String text = line.path("trailer").asText();
            key = line.path("key").asText();
            if (trusted != null && !trusted.equals(key)) {
                problem(number, "the trailer was signed by another key than the one expected");
                return;
            }
            if (!Signing.holds(text, line.path("signature").asText(), key)) {
                problem(number, "the trailer's signature does not hold: it was altered");
                return;
            }
            try {
                JsonNode trailer = Json.parse(text);
                if (trailer.path("entries").longValue() != seq
                        || !trailer.path("head").asText().equals(previous)) {
                    problem(
                            number,
                            "the trailer says " + trailer.path("entries").longValue() + " entries, but there are " + seq
                                    + ": entries are missing at the end, after entry " + seq);
                } else if (ticket != null && !trailer.path("ticket").asText().equals(ticket)) {
                    problem(
                            number,
                            "the trailer belongs to " + trailer.path("ticket").asText() + ", not to " + ticket);
                } else if (trailer.path("v").intValue() >= 2) {
                    inLog(number, trailer);
                }
            } catch (com.fasterxml.jackson.core.JsonProcessingException e) {
                problem(number, "the trailer is not readable");
            }
        }

        /** The last change leads to the root of a checkpoint that the same key signed. */
        private void inLog(long number, JsonNode trailer) throws com.fasterxml.jackson.core.JsonProcessingException {
            String text = trailer.path("checkpoint").path("text").asText();
            String signature = trailer.path("checkpoint").path("signature").asText();
            if (key == null || !Signing.holds(text, signature, key)) {
                problem(number, "the checkpoint in the trailer was not signed by this key");
                return;
            }
            JsonNode checkpoint = Json.parse(text);
            long size = checkpoint.path("size").longValue();
            byte[] found = MerkleTree.rootOf(
                    MerkleTree.leaf(Checkpoint.leaf(String.valueOf(ticket), seq, previous)),
                    trailer.path("leaf").longValue(),
                    size,
                    hashes(trailer.path("path")));
            if (found == null
                    || !Checkpoint.hex(found).equals(checkpoint.path("root").asText())) {
                problem(number, "the record does not lead to the root of the log that was signed");
                return;
            }
            inLog = new InLog(
                    checkpoint.path("checkpoint").longValue(),
                    Instant.parse(checkpoint.path("at").asText()),
                    size);
            for (JsonNode witness : trailer.path("witnesses")) {
                seen(number, witness, trailer.path("leaf").longValue(), checkpoint);
            }
        }

        /** What a witness was given was signed by the same key, and the log goes on from it. */
        private void seen(long number, JsonNode witness, long leaf, JsonNode log)
                throws com.fasterxml.jackson.core.JsonProcessingException {
            String name = witness.path("name").asText();
            String text = witness.path("checkpoint").path("text").asText();
            if (key == null
                    || !Signing.holds(
                            text, witness.path("checkpoint").path("signature").asText(), key)) {
                problem(number, "what " + name + " was given was not signed by this key");
                return;
            }
            JsonNode given = Json.parse(text);
            long size = given.path("size").longValue();
            if (!goesOn(given, size, log, hashes(witness.path("consistency")))) {
                problem(number, "the log of this export does not go on from what " + name + " was given");
                return;
            }
            String receipt = witness.path("receipt").textValue();
            Witnessed.Found found = receipt == null ? null : receipts.check(Seal.hash(text), receipt);
            if (found instanceof Witnessed.Spoiled spoiled) {
                problem(number, "what " + name + " gave back does not hold: " + spoiled.why());
                return;
            }
            seen.add(new Seen(
                    witness.path("kind").asText(),
                    name,
                    Instant.parse(witness.path("at").asText()),
                    size,
                    leaf < size,
                    found));
        }

        private static boolean goesOn(JsonNode given, long size, JsonNode log, List<byte[]> path) {
            long reached = log.path("size").longValue();
            List<byte[]> roots = hashes(Json.mapper()
                    .createArrayNode()
                    .add(given.path("root").asText())
                    .add(log.path("root").asText()));
            return size > 0
                    && size <= reached
                    && given.path("epoch").intValue() == log.path("epoch").intValue()
                    && MerkleTree.isExtension(size, roots.get(0), reached, roots.get(1), path);
        }

        /** What is no hash becomes an empty one, which leads nowhere. */
        private static List<byte[]> hashes(JsonNode texts) {
            List<byte[]> hashes = new ArrayList<>();
            for (JsonNode text : texts) {
                try {
                    hashes.add(HexFormat.of().parseHex(text.asText()));
                } catch (IllegalArgumentException e) {
                    hashes.add(new byte[0]);
                }
            }
            return hashes;
        }
    }
}
