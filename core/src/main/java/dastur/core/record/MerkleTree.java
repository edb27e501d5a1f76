package dastur.core.record;

import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The tree of hashes over a log, as RFC 9162 describes it: its root stands for all leaves and their order; a few hashes show
 * that a leaf is in it, or that a longer log only extends a shorter one.
 *
 * <p>Leaves are counted from 0. A node of level {@code l} and number {@code n} is the root over the leaves from {@code n·2^l}
 * up to {@code (n+1)·2^l}, of which all are there.
 */
public final class MerkleTree {
    /** Bytes of a hash. */
    public static final int HASH = 32;

    /** Where the hashes of complete nodes come from. */
    public interface Nodes {
        /** The hash of a complete node. */
        byte[] node(int level, long number);
    }

    private MerkleTree() {}

    /** The hash of a leaf: SHA-256(0x00 ‖ its text in UTF-8). */
    public static byte[] leaf(String text) {
        MessageDigest digest = sha256();
        digest.update((byte) 0);
        return digest.digest(text.getBytes(StandardCharsets.UTF_8));
    }

    /** The hash of a node over two others: SHA-256(0x01 ‖ left ‖ right). */
    public static byte[] node(byte[] left, byte[] right) {
        MessageDigest digest = sha256();
        digest.update((byte) 1);
        digest.update(left);
        return digest.digest(right);
    }

    /** The root over the first leaves of a log. @param size how many; 0 gives the hash of nothing */
    public static byte[] root(Nodes nodes, long size) {
        return size == 0 ? sha256().digest() : range(nodes, 0, size);
    }

    /** The root over the leaves from {@code from} up to {@code until}; {@code from} is where such a subtree can begin. */
    private static byte[] range(Nodes nodes, long from, long until) {
        long count = until - from;
        if (Long.bitCount(count) == 1) {
            int level = Long.numberOfTrailingZeros(count);
            return nodes.node(level, from >> level);
        }
        long left = Long.highestOneBit(count - 1);
        return node(range(nodes, from, from + left), range(nodes, from + left, until));
    }

    // --- a leaf is in the log (RFC 9162, 2.1.3)

    /** The hashes that lead from a leaf to the root. */
    public static List<byte[]> inclusion(Nodes nodes, long leaf, long size) {
        List<byte[]> path = new ArrayList<>();
        path(nodes, leaf, 0, size, path);
        return path;
    }

    private static void path(Nodes nodes, long leaf, long from, long until, List<byte[]> path) {
        if (until - from == 1) {
            return;
        }
        long middle = from + Long.highestOneBit(until - from - 1);
        if (leaf < middle) {
            path(nodes, leaf, from, middle, path);
            path.add(range(nodes, middle, until));
        } else {
            path(nodes, leaf, middle, until, path);
            path.add(range(nodes, from, middle));
        }
    }

    /** The root that a leaf leads to; null when so many hashes cannot lead anywhere. */
    public static byte @Nullable [] rootOf(byte[] leafHash, long leaf, long size, List<byte[]> path) {
        if (leaf < 0 || leaf >= size) {
            return null;
        }
        long fn = leaf;
        long sn = size - 1;
        byte[] r = leafHash;
        for (byte[] p : path) {
            if (sn == 0) {
                return null;
            }
            if ((fn & 1) == 1 || fn == sn) {
                r = node(p, r);
                while ((fn & 1) == 0 && fn != 0) {
                    fn >>= 1;
                    sn >>= 1;
                }
            } else {
                r = node(r, p);
            }
            fn >>= 1;
            sn >>= 1;
        }
        return sn == 0 ? r : null;
    }

    // --- a longer log extends a shorter one (RFC 9162, 2.1.4)

    /** The hashes that show that the log of one size begins with the log of a smaller one, which is not empty. */
    public static List<byte[]> consistency(Nodes nodes, long smaller, long size) {
        List<byte[]> path = new ArrayList<>();
        extension(nodes, smaller, 0, size, true, path);
        return path;
    }

    private static void extension(Nodes nodes, long smaller, long from, long until, boolean whole, List<byte[]> path) {
        if (smaller == until - from) {
            if (!whole) {
                path.add(range(nodes, from, until));
            }
            return;
        }
        long left = Long.highestOneBit(until - from - 1);
        if (smaller <= left) {
            extension(nodes, smaller, from, from + left, whole, path);
            path.add(range(nodes, from + left, until));
        } else {
            extension(nodes, smaller - left, from + left, until, false, path);
            path.add(range(nodes, from, from + left));
        }
    }

    /** Whether the hashes show that a log with one root begins with a log with the other. */
    public static boolean isExtension(long smaller, byte[] smallerRoot, long size, byte[] root, List<byte[]> path) {
        if (smaller == size) {
            return path.isEmpty() && MessageDigest.isEqual(smallerRoot, root);
        }
        if (smaller <= 0 || smaller > size || path.isEmpty() && Long.bitCount(smaller) != 1) {
            return false;
        }
        List<byte[]> all = new ArrayList<>(path);
        if (Long.bitCount(smaller) == 1) {
            all.addFirst(smallerRoot);
        }
        long fn = smaller - 1;
        long sn = size - 1;
        while ((fn & 1) == 1) {
            fn >>= 1;
            sn >>= 1;
        }
        byte[] fr = all.getFirst();
        byte[] sr = all.getFirst();
        for (byte[] c : all.subList(1, all.size())) {
            if (sn == 0) {
                return false;
            }
            if ((fn & 1) == 1 || fn == sn) {
                fr = node(c, fr);
                sr = node(c, sr);
                while ((fn & 1) == 0 && fn != 0) {
                    fn >>= 1;
                    sn >>= 1;
                }
            } else {
                sr = node(sr, c);
            }
            fn >>= 1;
            sn >>= 1;
        }
        return sn == 0 && MessageDigest.isEqual(fr, smallerRoot) && MessageDigest.isEqual(sr, root);
    }

    private static MessageDigest sha256() {
        try {
            return MessageDigest.getInstance("SHA-256");
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }
}
