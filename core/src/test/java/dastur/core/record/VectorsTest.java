package dastur.core.record;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.World;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.security.SecureRandom;
import java.security.spec.NamedParameterSpec;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.Collections;
import java.util.List;
import java.util.function.UnaryOperator;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIfSystemProperty;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.MethodSource;

/**
 * Exports that are kept for good in {@code docs/vectors}, whole and spoiled in every way, with what a check must say of each:
 * for whoever writes another checker. What was once proved stays so, whatever a later release writes.
 */
class VectorsTest {
    private static final Path FOLDER = Path.of("../docs/vectors");

    static Stream<JsonNode> vectors() throws IOException {
        List<JsonNode> all = new ArrayList<>();
        Json.parse(Files.readString(FOLDER.resolve("vectors.json")))
                .path("vectors")
                .forEach(all::add);
        assertThat(all).hasSizeGreaterThan(15);
        return all.stream();
    }

    @ParameterizedTest
    @MethodSource("vectors")
    void aCheckSaysWhatItMust(JsonNode vector) throws IOException {
        String trusted = Json.parse(Files.readString(FOLDER.resolve("vectors.json")))
                .path("key")
                .asText();
        try (var in = Files.newBufferedReader(FOLDER.resolve(vector.path("file").asText()))) {
            Export.Report report = Export.check(in, trusted);
            assertThat(report.proved())
                    .as(report.problems().toString())
                    .isEqualTo(vector.path("proved").asBoolean());
            if (!report.proved()) {
                assertThat(report.problems().getFirst().line())
                        .as(report.problems().toString())
                        .isEqualTo(vector.path("line").asLong());
            } else {
                assertThat(report.entries()).isEqualTo(vector.path("entries").asLong());
                assertThat(report.redacted()).isEqualTo(vector.path("redacted").asLong());
            }
        }
    }

    @Test
    void aCheckSaysWhatWasSeenOutsideAndUpToWhen() throws IOException {
        Export.Report report = check((hash, receipt) -> new Witnessed.Genuine(Instant.EPOCH, "An authority"));
        assertThat(report.problems()).isEmpty();
        assertThat(report.seen())
                .extracting(Export.Seen::name, Export.Seen::all, Export.Seen::receipt)
                .containsExactly(
                        tuple("witness of 8", true, null),
                        tuple("witness of 5", false, new Witnessed.Genuine(Instant.EPOCH, "An authority")));
        assertThat(check(Witnessed.Receipts.NONE).seen().getLast().receipt()).isInstanceOf(Witnessed.Unchecked.class);
        assertThat(check((hash, receipt) -> new Witnessed.Spoiled("it is of something else"))
                        .problems()
                        .getFirst()
                        .message())
                .contains("witness of 5")
                .contains("it is of something else");
    }

    private static Export.Report check(Witnessed.Receipts receipts) throws IOException {
        try (var in = Files.newBufferedReader(FOLDER.resolve("witnessed.ndjson"))) {
            return Export.check(in, null, receipts);
        }
    }

    // --- how they were made

    private static final KeyPair KEY = key((byte) 1);
    private static final KeyPair OTHER = key((byte) 2);

    private final List<String> lines = new ArrayList<>();
    private final ArrayNode written = Json.mapper().createArrayNode();

    /** Always the same key for the same byte. */
    private static KeyPair key(byte of) {
        try {
            KeyPairGenerator generator = KeyPairGenerator.getInstance("Ed25519");
            generator.initialize(NamedParameterSpec.ED25519, new SecureRandom() {
                private static final long serialVersionUID = 1;

                @Override
                public void nextBytes(byte[] bytes) {
                    Arrays.fill(bytes, of);
                }
            });
            return generator.generateKeyPair();
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    @Test
    @EnabledIfSystemProperty(named = "vectors.write", matches = "true")
    void write() throws IOException {
        World world = new World();
        world.raise();
        List<Recorded> record = new ArrayList<>(List.of(world.record.getFirst()));
        for (Event event : List.of(
                new Event.NoteAdded(false, "On my way: \"Ærlig\" talt 🛳 \\ \u2028"),
                new Event.NoteAdded(false, "The card is 1234"),
                new Event.NoteAdded(false, "At the gate"),
                new Event.Redacted(3, "A number of a card"))) {
            record.add(new Recorded(
                    record.size() + 1, Instant.EPOCH, Actor.of(World.RUNA), null, null, null, "cmd", event));
        }
        String previous = Seal.START;
        byte salt = 0;
        for (Recorded recorded : record) {
            byte[] bytes = new byte[32];
            bytes[0] = ++salt;
            Entry entry = Seal.seal(World.TICKET, recorded, previous, () -> bytes);
            lines.add(Export.line(recorded.seq() == 3 ? entry.withoutContent() : entry));
            previous = entry.hash();
        }
        int last = lines.size();
        lines.add(trailer(last, previous, previous, KEY, KEY));

        keep("whole", true, 0, "nothing", l -> l);
        keep(
                "word-altered",
                false,
                2,
                "a word of a sealed line",
                l -> at(l, 1, s -> s.replace("noteAdded", "notedAdd")));
        keep("content-altered", false, 2, "what was said", l -> at(l, 1, s -> s.replace("On my way", "Not coming")));
        keep("salt-altered", false, 2, "a salt", l -> at(l, 1, s -> s.replace("\"salt\":\"02", "\"salt\":\"03")));
        keep("content-removed", false, 4, "what was said, taken away", l -> at(l, 3, VectorsTest::bare));
        keep(
                "salt-removed",
                false,
                4,
                "a salt, taken away",
                l -> at(l, 3, s -> s.replaceAll(",\"salt\":\"[0-9a-f]*\"", "")));
        keep("hashed-anew", false, 3, "a sealed line, with a hash that fits", l -> at(l, 1, VectorsTest::forged));
        keep("chained-anew", false, last + 1, "all from an altered line on", VectorsTest::chained);
        keep("dropped", false, 3, "an entry that is not there", l -> without(l, 2));
        keep("end-dropped", false, last, "the last entry is not there", l -> without(l, last - 1));
        keep("doubled", false, 3, "an entry stands twice", l -> {
            l.add(1, l.get(1));
            return l;
        });
        keep("swapped", false, 2, "two entries, swapped", l -> {
            Collections.swap(l, 1, 3);
            return l;
        });
        keep("cut", false, last + 1, "the trailer is not there", l -> without(l, last));
        keep("followed", false, last + 2, "something after the trailer", l -> {
            l.add(l.getFirst());
            return l;
        });
        keep("no-json", false, 1, "a line that is no JSON", l -> at(l, 0, s -> s.substring(1)));
        keep(
                "trailer-altered",
                false,
                last + 1,
                "the trailer",
                l -> at(l, last, s -> s.replace("\\\"v\\\":2", "\\\"v\\\":3")));
        keep("signature-altered", false, last + 1, "the signature", l -> at(l, last, VectorsTest::otherSignature));
        String head = previous;
        keep(
                "by-another-key",
                false,
                last + 1,
                "all of it, by another key",
                l -> at(l, last, s -> trailer(last, head, head, OTHER, OTHER)));
        keep(
                "checkpoint-by-another-key",
                false,
                last + 1,
                "the checkpoint, by another key",
                l -> at(l, last, s -> trailer(last, head, head, KEY, OTHER)));
        keep(
                "not-in-the-log",
                false,
                last + 1,
                "a record that the signed log does not hold",
                l -> at(l, last, s -> trailer(last, head, "0".repeat(64), KEY, KEY)));
        UnaryOperator<List<String>> seen = l -> at(l, last, s -> witnessed(last, head, KEY, 8, 5));
        keep("witnessed", true, 0, "nothing; two were given how far the log reached", seen);
        keep(
                "witnessed-by-another-key",
                false,
                last + 1,
                "what a witness was given, by another key",
                l -> at(l, last, s -> witnessed(last, head, OTHER, 8)));
        keep(
                "witnessed-another-log",
                false,
                last + 1,
                "a witness was given another log, signed by the same key",
                l -> at(l, last, s -> witnessed(last, head, KEY, -8)));
        keep(
                "witnessed-more",
                false,
                last + 1,
                "a witness was given a longer log than this export's",
                l -> at(l, last, s -> witnessed(last, head, KEY, 12)));
        ObjectNode all = Json.mapper().createObjectNode();
        all.put("key", Signing.publicKey(KEY));
        all.set("vectors", written);
        Files.writeString(
                FOLDER.resolve("vectors.json"),
                Json.mapper().writerWithDefaultPrettyPrinter().writeValueAsString(all) + "\n");
    }

    private void keep(String name, boolean proved, long line, String spoiled, UnaryOperator<List<String>> how)
            throws IOException {
        List<String> all = how.apply(new ArrayList<>(lines));
        Files.createDirectories(FOLDER);
        Files.writeString(FOLDER.resolve(name + ".ndjson"), String.join("\n", all) + "\n");
        ObjectNode one = written.addObject();
        one.put("file", name + ".ndjson");
        one.put("spoiled", spoiled);
        one.put("proved", proved);
        if (proved) {
            one.put("entries", lines.size() - 1);
            one.put("redacted", 1);
        } else {
            one.put("line", line);
        }
    }

    private static List<String> at(List<String> all, int line, UnaryOperator<String> how) {
        String spoiled = how.apply(all.get(line));
        assertThat(spoiled).isNotEqualTo(all.get(line));
        all.set(line, spoiled);
        return all;
    }

    private static List<String> without(List<String> all, int line) {
        all.remove(line);
        return all;
    }

    private static String bare(String line) {
        ObjectNode node = (ObjectNode) parsed(line);
        node.remove(List.of("content", "salt"));
        return node.toString();
    }

    private static String forged(String line) {
        ObjectNode node = (ObjectNode) parsed(line);
        String sealed = node.path("sealed").asText().replace("\"toRequester\":false", "\"toRequester\":true");
        node.put("sealed", sealed);
        node.put("hash", Seal.hash(sealed));
        return node.toString();
    }

    private static List<String> chained(List<String> all) {
        all.set(1, forged(all.get(1)));
        for (int i = 2; i < all.size() - 1; i++) {
            ObjectNode node = (ObjectNode) parsed(all.get(i));
            ObjectNode sealed = (ObjectNode) parsed(node.path("sealed").asText());
            sealed.put("previous", parsed(all.get(i - 1)).path("hash").asText());
            String text = dastur.core.json.CanonicalJson.write(sealed);
            node.put("sealed", text);
            node.put("hash", Seal.hash(text));
            all.set(i, node.toString());
        }
        return all;
    }

    private static String otherSignature(String line) {
        ObjectNode node = (ObjectNode) parsed(line);
        node.put("signature", Signing.sign("something else", KEY));
        return node.toString();
    }

    private static JsonNode parsed(String text) {
        try {
            return Json.parse(text);
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    private static String trailer(long entries, String head, String inLog, KeyPair by, KeyPair checkpointBy) {
        return trailer(entries, head, inLog, by, checkpointBy, KEY);
    }

    /** @param sizes of the logs that witnesses were given; a negative one is another log of that size */
    private static String witnessed(long entries, String head, KeyPair givenBy, int... sizes) {
        return trailer(entries, head, head, KEY, KEY, givenBy, sizes);
    }

    private static Witnessed.Shown shown(List<byte[]> leaves, KeyPair by, int size) {
        int given = Math.abs(size);
        List<byte[]> theirs = new ArrayList<>(leaves);
        theirs.add(MerkleTree.leaf("more"));
        if (size < 0) {
            theirs.set(2, MerkleTree.leaf("altered"));
        }
        String root = Checkpoint.hex(MerkleTree.root(MerkleTreeTest.nodes(theirs.subList(0, given)), given));
        Checkpoint checkpoint =
                Checkpoint.over(given, new Checkpoint.Reach(1, given, root), Instant.EPOCH, Seal.START, by);
        List<String> consistency = given >= leaves.size()
                ? List.of()
                : MerkleTree.consistency(MerkleTreeTest.nodes(leaves), given, leaves.size()).stream()
                        .map(Checkpoint::hex)
                        .toList();
        return new Witnessed.Shown(
                new Witnessed(
                        size == 5 ? Witnessed.Kind.STAMP : Witnessed.Kind.POST,
                        "witness of " + given,
                        Instant.EPOCH,
                        checkpoint,
                        size == 5 ? "AAAA" : null),
                consistency);
    }

    private static String trailer(
            long entries, String head, String inLog, KeyPair by, KeyPair checkpointBy, KeyPair givenBy, int... given) {
        List<byte[]> leaves = new ArrayList<>();
        for (int i = 0; i < 11; i++) {
            leaves.add(MerkleTree.leaf("other " + i));
        }
        leaves.set(6, MerkleTree.leaf(Checkpoint.leaf(World.TICKET, entries, inLog)));
        MerkleTree.Nodes nodes = MerkleTreeTest.nodes(leaves);
        Checkpoint.Reach reach = new Checkpoint.Reach(1, 11, Checkpoint.hex(MerkleTree.root(nodes, 11)));
        Checkpoint checkpoint = Checkpoint.over(7, reach, Instant.EPOCH, Seal.START, checkpointBy);
        List<String> path =
                MerkleTree.inclusion(nodes, 6, 11).stream().map(Checkpoint::hex).toList();
        List<Witnessed.Shown> witnesses = Arrays.stream(given)
                .mapToObj(size -> shown(leaves, givenBy, size))
                .toList();
        return Export.trailer(
                World.TICKET, entries, head, new Export.Proof(6, path, checkpoint, witnesses), Instant.EPOCH, by);
    }
}
