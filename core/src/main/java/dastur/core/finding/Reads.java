package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.expression.TextTemplate;
import dastur.core.people.Party;
import java.util.Collection;
import java.util.HashSet;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** Takes in what a step reads, as paths such as {@code steps.look.seen}. */
public final class Reads {
    private final Expressions expressions;
    private final Set<String> paths = new HashSet<>();

    Reads(Expressions expressions) {
        this.expressions = expressions;
    }

    public void expression(@Nullable String text) {
        if (text != null && !text.isBlank()) {
            paths.addAll(expressions.reads(text));
        }
    }

    public void expressions(Collection<String> all) {
        all.forEach(this::expression);
    }

    /** A text with values in it. */
    public void text(@Nullable String text) {
        if (text != null) {
            TextTemplate.parse(text).inserted().forEach(this::expression);
        }
    }

    public void party(Party party) {
        if (party instanceof Party.Computed c) {
            expression(c.expression());
        }
    }

    Set<String> paths() {
        return paths;
    }
}
