package dastur.core.notation;

import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Writes lines that stand in by so much. */
public final class Out {
    private final StringBuilder out;
    private final String indent;

    Out(StringBuilder out, String indent) {
        this.out = out;
        this.indent = indent;
    }

    /** Lines that stand in further. */
    public Out below() {
        return new Out(out, indent + "  ");
    }

    public void line(String text) {
        out.append(indent).append(text).append('\n');
    }

    /** An empty line. */
    void gap() {
        out.append('\n');
    }

    /** A word and its value, where there is one. */
    public void optional(String word, @Nullable Object value) {
        if (value != null) {
            line(word + " " + value);
        }
    }

    /** Words that say something is so. */
    public void flag(String words, boolean set) {
        if (set) {
            line(words);
        }
    }

    /** An expression for each input. */
    public void inputs(Map<String, String> inputs) {
        inputs.forEach((name, expression) -> line("with " + name + " = " + expression));
    }

    /** A short text in quotes; a long one line by line behind bars. */
    public void text(String word, @Nullable String text) {
        if (text == null) {
            return;
        }
        boolean plain = text.lines().count() > 1
                && text.indexOf('\r') < 0
                && text.lines()
                        .allMatch(l -> l.equals(l.stripTrailing()) && l.chars().noneMatch(Phrases::tears))
                && !text.endsWith("\n");
        if (!plain) {
            line(word + " " + Phrases.quoted(text));
            return;
        }
        line(word);
        Out bars = below();
        text.lines().forEach(l -> bars.line(l.isEmpty() ? "|" : "| " + l));
    }
}
