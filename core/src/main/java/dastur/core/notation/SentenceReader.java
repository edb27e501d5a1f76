package dastur.core.notation;

import dastur.core.json.Texts;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import java.util.Arrays;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Reads one sentence: what a step does, who does it, by when. Each kind of step has sentences of its own. */
final class SentenceReader {
    private static final Map<String, Speaks<Step>> BY_HEAD = new LinkedHashMap<>();

    /** The words that begin a sentence, for completion and proposals. */
    static final List<String> HEADS;

    /** The same, longer ones first: "call in" is no "call". */
    private static final List<String> LONGEST_FIRST;

    static {
        List<Speaks<Step>> kinds = Kinds.as(Speaks.class);
        for (Speaks<Step> kind : kinds) {
            for (String head : kind.heads()) {
                if (BY_HEAD.put(head, kind) != null) {
                    throw new IllegalStateException("two kinds of steps begin with '" + head + "'");
                }
            }
        }
        HEADS = List.copyOf(BY_HEAD.keySet());
        LONGEST_FIRST = HEADS.stream()
                .sorted(Comparator.comparingInt(String::length).reversed())
                .toList();
    }

    private SentenceReader() {}

    static Begun read(Scanner in) {
        for (String head : LONGEST_FIRST) {
            if (in.take(head)) {
                return BY_HEAD.get(head).begin(head, in);
            }
        }
        String first = in.left().split("[\\s\"]", 2)[0];
        throw in.wrong(
                first.isEmpty()
                        ? "A sentence is expected here, such as: ask … or run …"
                        : "A step does not begin with '" + Texts.clip(first, 30) + "'.",
                meant(in.left()));
    }

    /** The head that comes nearest to as many words as it has. */
    private static @Nullable String meant(String typed) {
        return HEADS.stream()
                .filter(head -> Near.to(words(typed, head), List.of(head)) != null)
                .max(Comparator.comparingInt(String::length))
                .orElse(null);
    }

    private static String words(String typed, String head) {
        String[] words = typed.split("[\\s\"]+");
        return String.join(" ", Arrays.copyOf(words, Math.min(words.length, head.split(" ").length)));
    }
}
