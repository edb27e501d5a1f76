package dastur.core.start;

import dastur.core.json.Texts;
import dastur.core.signal.Mapping;
import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import dastur.core.signal.Severity;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.CiId;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Looks at something again and again: an action that only reads, and a rule over what it reads. What turns becomes a signal of the
 * watch's own source (I11).
 *
 * @param key also of its source
 * @param inputs of the action
 * @param every from 10 seconds to a day
 * @param holds when something is the matter: an expression over {@code read.*}
 * @param atLeast for how long it must hold before that is said; null for at once
 * @param calm when all is well again; null when {@code holds} does not hold any more
 * @param severity of the signal
 * @param ci of which it speaks; null for none
 * @param unreadAfter how long it may not be readable before that is said; null for never
 * @param each where the rules are about each row of a list by itself; null where they are about what is read as a whole
 */
public record Watch(
        SourceKey key,
        String name,
        boolean on,
        ActionKey action,
        Map<String, Object> inputs,
        Span every,
        String holds,
        @Nullable Span atLeast,
        @Nullable String calm,
        Severity severity,
        @Nullable CiId ci,
        @Nullable Span unreadAfter,
        @Nullable Each each) {
    /** One that looks at what is read as a whole. */
    public Watch(
            SourceKey key,
            String name,
            boolean on,
            ActionKey action,
            Map<String, Object> inputs,
            Span every,
            String holds,
            @Nullable Span atLeast,
            @Nullable String calm,
            Severity severity,
            @Nullable CiId ci,
            @Nullable Span unreadAfter) {
        this(key, name, on, action, inputs, every, holds, atLeast, calm, severity, ci, unreadAfter, null);
    }

    /**
     * The rows of a list that is read, such as what another system holds to be the matter. Each is a fault of its own while the rule
     * holds for it; one that is gone from the list is well.
     *
     * @param list the action's output
     * @param known what a row is known again by: one of its members
     * @param ci the member that names its CI; null for none
     */
    public record Each(String list, String known, @Nullable String ci) {
        public Each {
            Texts.checkWord("member", known);
            if (ci != null) {
                Texts.checkWord("member", ci);
            }
        }
    }

    private static final long SHORTEST_SECONDS = 10;
    private static final long LONGEST_SECONDS = 86_400;
    private static final Set<FieldType> KEPT =
            Set.of(FieldType.TEXT, FieldType.WHOLE, FieldType.NUMBER, FieldType.YES_NO, FieldType.TIME);

    public Watch {
        if (name == null || name.isBlank() || name.length() > 200) {
            throw new IllegalArgumentException("A watch has a name of at most 200 characters.");
        }
        long seconds = every.roughSeconds();
        if (every.working() || seconds < SHORTEST_SECONDS || seconds > LONGEST_SECONDS) {
            throw new IllegalArgumentException(
                    "A watch looks every 10 seconds at the most, and once a day at the least.");
        }
        if (holds == null || holds.isBlank()) {
            throw new IllegalArgumentException("A watch says when something is the matter.");
        }
        inputs = inputs == null ? Map.of() : Map.copyOf(inputs);
        calm = calm == null || calm.isBlank() ? null : calm;
    }

    public long everySeconds() {
        return every.roughSeconds();
    }

    /**
     * The source of its signals. Nobody else sends to it: it has no secret.
     *
     * @param otherwise what becomes of a fault that no trigger takes up
     * @param group who gets incidents that it opens by itself
     */
    public Source source(Action reads, Source.Otherwise otherwise, @Nullable String group) {
        List<Row> rows = new ArrayList<>(List.of(
                Row.at(To.SORT, "/sort"),
                Row.at(To.SEVERITY, "/severity"),
                Row.at(To.CI, "/ci"),
                Row.at(To.WHAT, "/what"),
                Row.at(To.TITLE, "/title"),
                Row.at(To.TEXT, "/text"),
                Row.at(To.AT, "/at")));
        if (each != null) {
            // One that is gone from the list no longer says of what it was: what it was known by does.
            rows.add(Row.at(To.MATTER, "/matter"));
        }
        for (Action.Output output : each == null ? reads.outputs() : List.<Action.Output>of()) {
            Field field = output.field();
            if (KEPT.contains(field.type()) && Mapping.isFree(field.name())) {
                rows.add(Row.value(field.name(), field.type(), "/read/" + field.name()));
            }
        }
        return new Source(key, name, true, Source.Proof.TOKEN, new Mapping(rows), otherwise, false, group);
    }
}
