package dastur.core.notation;

import java.util.ArrayList;
import java.util.List;

/** A text as a tree of lines by how far they stand in; comments and quoted blocks are kept with the line they belong to. */
final class Lines {
    /**
     * A line with those that stand further in below it.
     *
     * @param text without its indent
     * @param comments what stands as comment right above it, a line each
     * @param block the lines of text that follow it behind bars; empty when there are none
     */
    record Node(int number, int indent, String text, List<String> comments, List<String> block, List<Node> under) {}

    /** The lines that stand out most, and the comments after the last. */
    record Tree(List<Node> nodes, List<String> tail) {}

    private static final int MAX_CHARACTERS = 1_000_000;
    private static final int MAX_LINES = 20_000;

    private final List<String> pending = new ArrayList<>();

    private Lines() {}

    static Tree of(String text) {
        if (text.length() > MAX_CHARACTERS) {
            throw new Wrong(1, 1, "A workflow's text has at most " + MAX_CHARACTERS + " characters.", null);
        }
        return new Lines().read(text);
    }

    private Tree read(String text) {
        List<Node> top = new ArrayList<>();
        List<Node> path = new ArrayList<>();
        int number = 0;
        for (String raw : text.split("\\R", -1)) {
            number++;
            if (number > MAX_LINES) {
                throw new Wrong(number, 1, "A workflow's text has at most " + MAX_LINES + " lines.", null);
            }
            int tab = raw.indexOf('\t');
            if (tab >= 0 && raw.substring(0, tab).isBlank()) {
                throw new Wrong(number, tab + 1, "Lines stand in by spaces, not by tabs.", "  ");
            }
            String line = raw.stripTrailing();
            int indent = line.length() - line.stripLeading().length();
            String content = line.strip();
            if (content.isEmpty()) {
                continue;
            }
            if (content.startsWith("#")) {
                pending.add(content.substring(1).strip());
                continue;
            }
            if (content.startsWith("|")) {
                block(path, number, indent, content);
                continue;
            }
            Node node = new Node(number, indent, content, List.copyOf(pending), new ArrayList<>(), new ArrayList<>());
            pending.clear();
            while (!path.isEmpty() && path.getLast().indent() >= indent) {
                path.removeLast();
            }
            (path.isEmpty() ? top : path.getLast().under()).add(node);
            path.add(node);
        }
        return new Tree(top, List.copyOf(pending));
    }

    private static void block(List<Node> path, int number, int indent, String content) {
        while (!path.isEmpty() && path.getLast().indent() >= indent) {
            path.removeLast();
        }
        if (path.isEmpty()) {
            throw new Wrong(
                    number, indent + 1, "A line of text behind a bar belongs below a line such as 'say'.", null);
        }
        String text = content.substring(1);
        path.getLast().block().add(text.startsWith(" ") ? text.substring(1) : text);
    }
}
