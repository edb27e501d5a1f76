package dastur.core.record;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.World;
import java.io.IOException;
import java.io.StringReader;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.security.KeyPairGenerator;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

class ExportTest {
    private KeyPair key;
    private List<String> lines;

    @BeforeEach
    void export() throws GeneralSecurityException {
        key = KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        write(null);
    }

    /** A record of two notes and, where a number is given, of a redaction of that entry. */
    private void write(@Nullable Long redacted) {
        World world = new World();
        world.raise();
        world.accepted(Actor.of(World.RUNA), new Command.AddNote("On my way", false));
        world.accepted(Actor.of(World.RUNA), new Command.AddNote("At the gate", false));
        if (redacted != null) {
            Event event = new Event.Redacted(redacted, "A number of a card");
            world.record.add(new Recorded(
                    world.record.size() + 1, Instant.EPOCH, Actor.of(World.TEO), null, null, null, "cmd", event));
        }
        lines = new ArrayList<>();
        String previous = Seal.START;
        byte salt = 0;
        for (var recorded : world.record) {
            byte[] bytes = new byte[32];
            bytes[0] = ++salt;
            Entry entry = Seal.seal(World.TICKET, recorded, previous, () -> bytes);
            lines.add(Export.line(entry));
            previous = entry.hash();
        }
        lines.add(trailer(lines.size(), previous, previous, key));
    }

    /** In a log where it is the third of five changes. @param inLog the hash that the log holds for it */
    private static String trailer(long entries, String head, String inLog, KeyPair by) {
        List<byte[]> leaves = new ArrayList<>();
        for (int i = 0; i < 5; i++) {
            leaves.add(MerkleTree.leaf("other " + i));
        }
        leaves.set(2, MerkleTree.leaf(Checkpoint.leaf(World.TICKET, entries, inLog)));
        MerkleTree.Nodes nodes = MerkleTreeTest.nodes(leaves);
        Checkpoint.Reach reach = new Checkpoint.Reach(1, 5, Checkpoint.hex(MerkleTree.root(nodes, 5)));
        Checkpoint checkpoint = Checkpoint.over(7, reach, Instant.EPOCH, Seal.START, by);
        List<String> path =
                MerkleTree.inclusion(nodes, 2, 5).stream().map(Checkpoint::hex).toList();
        return Export.trailer(
                World.TICKET, entries, head, new Export.Proof(2, path, checkpoint, List.of()), Instant.EPOCH, by);
    }

    @Test
    void itSaysUntilWhenTheLogHoldsIt() throws IOException {
        assertThat(check(lines).log()).isEqualTo(new Export.InLog(7, Instant.EPOCH, 5));
    }

    /** Whoever holds the key can sign any trailer, but not make a log that was signed before hold another record. */
    @Test
    void aRecordThatTheLogDoesNotHoldIsFound() throws Exception {
        String head = Seal.hash(lines.get(lines.size() - 2));
        String real = dastur.core.json.Json.parse(lines.get(lines.size() - 2))
                .path("hash")
                .asText();
        List<String> forged = new ArrayList<>(lines.subList(0, lines.size() - 1));
        forged.add(trailer(forged.size(), real, head, key));
        assertFound(forged, forged.size(), "does not lead to the root");

        KeyPair other = java.security.KeyPairGenerator.getInstance("Ed25519").generateKeyPair();
        forged.set(forged.size() - 1, trailer(forged.size() - 1, real, real, other));
        assertThat(check(forged).proved()).as("another key proves itself only").isTrue();
        assertThat(Export.check(new StringReader(String.join("\n", forged)), Signing.publicKey(key))
                        .proved())
                .isFalse();
    }

    private Export.Report check(List<String> export) throws IOException {
        return Export.check(new StringReader(String.join("\n", export)), null);
    }

    private void assertFound(List<String> export, long line, String words) throws IOException {
        Export.Report report = check(export);
        assertThat(report.proved()).isFalse();
        assertThat(report.problems().getFirst().line()).isEqualTo(line);
        assertThat(report.problems().getFirst().message()).contains(words);
    }

    @Test
    void anUntouchedRecordIsProved() throws IOException {
        Export.Report report = check(lines);
        assertThat(report.problems()).isEmpty();
        assertThat(report.entries()).isEqualTo(lines.size() - 1);
        assertThat(report.ticket()).isEqualTo("I-1");
    }

    /** Whichever byte is changed, it is found, and in its own line. */
    @Test
    void everyChangedByteIsFoundAndLocated() throws IOException {
        for (int line = 0; line < lines.size(); line++) {
            String text = lines.get(line);
            for (int at = 0; at < text.length(); at += 7) {
                char other = text.charAt(at) == 'x' ? 'y' : 'x';
                List<String> altered = new ArrayList<>(lines);
                altered.set(line, text.substring(0, at) + other + text.substring(at + 1));
                Export.Report report = check(altered);
                assertThat(report.proved())
                        .as("line %d, character %d: %s", line + 1, at, altered.get(line))
                        .isFalse();
                assertThat(report.problems().getFirst().line()).isBetween(line + 1L, line + 2L);
            }
        }
    }

    @Test
    void aDroppedSwappedInsertedOrCutEntryIsFound() throws IOException {
        List<String> dropped = new ArrayList<>(lines);
        dropped.remove(lines.size() - 2);
        assertFound(dropped, lines.size() - 1, "missing at the end");

        List<String> middle = new ArrayList<>(lines);
        middle.remove(2);
        assertFound(middle, 3, "removed, inserted or swapped");

        List<String> swapped = new ArrayList<>(lines);
        Collections.swap(swapped, 1, 2);
        assertFound(swapped, 2, "swapped");

        List<String> twice = new ArrayList<>(lines);
        twice.add(1, lines.get(1));
        assertFound(twice, 3, "inserted");

        assertFound(lines.subList(0, lines.size() - 1), lines.size(), "trailer is missing");
    }

    @Test
    void anotherKeyIsFoundWhenOneIsExpected() throws IOException {
        Export.Report report = Export.check(new StringReader(String.join("\n", lines)), "another key");
        assertThat(report.problems().getFirst().message()).contains("another key");
        assertThat(Export.check(new StringReader(String.join("\n", lines)), Signing.publicKey(key))
                        .proved())
                .isTrue();
    }

    /** D22: redaction takes content and salt together, an entry says so, and the seal still holds. */
    @Test
    void redactedContentStillHolds() throws Exception {
        write(2L);
        take(lines.get(1), 1);
        assertThat(check(lines).proved()).isTrue();
        assertThat(check(lines).redacted()).isEqualTo(1);
    }

    /** Whoever cuts out what was said, and nobody redacted, is found: with no entry that says so, or one about another. */
    @Test
    void contentThatNobodyRedactedIsFound() throws Exception {
        take(lines.get(2), 2);
        assertFound(lines, 3, "no entry says that it was redacted");
        write(2L);
        take(lines.get(2), 2);
        assertFound(lines, 3, "no entry says that it was redacted");
        take(lines.get(1), 1);
        assertFound(lines, 3, "no entry says that it was redacted");
    }

    private void take(String text, int at) throws Exception {
        ObjectNode line = (ObjectNode) Json.parse(text);
        assertThat(line.has("content")).isTrue();
        line.remove(List.of("content", "salt"));
        lines.set(at, line.toString());
    }

    @Test
    void garbageIsNoRecord() throws IOException {
        assertFound(List.of("hello"), 1, "not JSON");
        assertFound(List.of("{\"a\":1}"), 1, "no entry");
        assertFound(List.of(""), 1, "trailer is missing");
    }
}
