package dastur.core.record;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.api.Test;

/** The tree beside the definitions of RFC 9162, written down here as they stand there: slow and plain. */
class MerkleTreeTest {
    private static List<byte[]> leaves(int count) {
        List<byte[]> leaves = new ArrayList<>();
        for (int i = 0; i < count; i++) {
            leaves.add(MerkleTree.leaf("[\"I-1\"," + i + ",\"…\"]"));
        }
        return leaves;
    }

    /** Any node, from all leaves below it. */
    static MerkleTree.Nodes nodes(List<byte[]> leaves) {
        return (level, number) -> plain(leaves.subList((int) (number << level), (int) ((number + 1) << level)));
    }

    /** MTH of section 2.1.1. */
    private static byte[] plain(List<byte[]> leaves) {
        if (leaves.size() == 1) {
            return leaves.getFirst();
        }
        int k = 1;
        while (k * 2 < leaves.size()) {
            k *= 2;
        }
        return MerkleTree.node(plain(leaves.subList(0, k)), plain(leaves.subList(k, leaves.size())));
    }

    @Test
    void theHashesAreThoseOfTheStandard() throws Exception {
        MessageDigest sha = MessageDigest.getInstance("SHA-256");
        sha.update((byte) 0);
        assertThat(MerkleTree.leaf("x")).isEqualTo(sha.digest("x".getBytes(StandardCharsets.UTF_8)));
        assertThat(HexFormat.of().formatHex(MerkleTree.root(nodes(List.of()), 0)))
                .isEqualTo("e3b0c44298fc1c149afbf4c8996fb92427ae41e4649b934ca495991b7852b855");
    }

    @Property(tries = 300)
    void aLeafLeadsToTheRootAndToNoOther(
            @ForAll @IntRange(min = 1, max = 70) int size, @ForAll @IntRange(max = 69) int at) {
        int leaf = at % size;
        List<byte[]> leaves = leaves(size);
        byte[] root = MerkleTree.root(nodes(leaves), size);
        assertThat(root).isEqualTo(plain(leaves));
        List<byte[]> path = MerkleTree.inclusion(nodes(leaves), leaf, size);
        assertThat(MerkleTree.rootOf(leaves.get(leaf), leaf, size, path)).isEqualTo(root);

        assertThat(MerkleTree.rootOf(MerkleTree.leaf("forged"), leaf, size, path))
                .isNotEqualTo(root);
        for (int other = 0; other < size; other++) {
            if (other != leaf) {
                assertThat(MerkleTree.rootOf(leaves.get(leaf), other, size, path))
                        .isNotEqualTo(root);
            }
        }
        if (!path.isEmpty()) {
            assertThat(MerkleTree.rootOf(leaves.get(leaf), leaf, size, path.subList(1, path.size())))
                    .isNotEqualTo(root);
        }
    }

    @Property(tries = 300)
    void aLongerLogShowsThatItBeginsWithTheShorter(
            @ForAll @IntRange(min = 1, max = 70) int smaller, @ForAll @IntRange(max = 40) int more) {
        int size = smaller + more;
        List<byte[]> leaves = leaves(size);
        byte[] before = plain(leaves.subList(0, smaller));
        byte[] root = plain(leaves);
        List<byte[]> path = MerkleTree.consistency(nodes(leaves), smaller, size);
        assertThat(MerkleTree.isExtension(smaller, before, size, root, path)).isTrue();

        List<byte[]> rewritten = new ArrayList<>(leaves);
        rewritten.set(smaller - 1, MerkleTree.leaf("forged"));
        assertThat(MerkleTree.isExtension(
                        smaller,
                        before,
                        size,
                        plain(rewritten),
                        MerkleTree.consistency(nodes(rewritten), smaller, size)))
                .isFalse();
        if (more > 0) {
            assertThat(MerkleTree.isExtension(smaller, before, size, before, path))
                    .isFalse();
        }
    }
}
