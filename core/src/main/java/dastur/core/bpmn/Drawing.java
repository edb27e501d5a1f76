package dastur.core.bpmn;

import dastur.core.people.Party;
import dastur.core.time.Span;
import java.util.List;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/**
 * One step in the standard's diagram.
 *
 * @param tag the standard's element
 * @param text what people read about it there; null for nothing
 * @param doers those who carry it out; nobody where the application does
 * @param limit how long it may take before it leaves by its border; null for no limit
 * @param details draws the parts in which it differs from others, in the order the standard's schema asks for
 */
public record Drawing(
        String tag,
        @Nullable String text,
        List<Party> doers,
        @Nullable Span limit,
        Consumer<Pen> details) {
    /** An element with nothing particular in it. */
    public static Drawing of(String tag) {
        return new Drawing(tag, null, List.of(), null, pen -> {});
    }

    public Drawing saying(@Nullable String words) {
        return new Drawing(tag, words, doers, limit, details);
    }

    /** People carry it out, and the diagram names them as its owners. */
    public Drawing by(List<Party> people) {
        return new Drawing(tag, text, List.copyOf(people), limit, pen -> people.forEach(pen::owner));
    }

    public Drawing within(@Nullable Span span) {
        return new Drawing(tag, text, doers, span, details);
    }

    public Drawing with(Consumer<Pen> draw) {
        return new Drawing(tag, text, doers, limit, draw);
    }
}
