package dastur.core.rehearsal;

import com.fasterxml.jackson.annotation.JsonInclude;
import dastur.core.people.PersonId;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Function;

/**
 * A rehearsal that is kept, and played again before a version is published: it fails loudly when it ends otherwise.
 *
 * @param expected the result it must come to; what it stalls on counts as a result
 */
@JsonInclude(JsonInclude.Include.NON_NULL)
public record KeptCase(
        String name,
        TicketKind kind,
        Map<String, Object> fields,
        Map<String, Object> inputs,
        PersonId by,
        Instant start,
        List<Answer> answers,
        String expected) {
    public KeptCase {
        if (name == null || name.isBlank() || name.length() > 120) {
            throw new IllegalArgumentException("A kept rehearsal has a name of 1 to 120 characters.");
        }
        fields = fields == null ? Map.of() : fields;
        inputs = inputs == null ? Map.of() : inputs;
        answers = answers == null ? List.of() : List.copyOf(answers);
    }

    /** What became of it. @param problem a sentence; null when it ended as expected */
    public record Verdict(
            String name,
            String came,
            @org.jspecify.annotations.Nullable String problem) {}

    /** Plays the answers, then goes on as expected to the end. */
    public Verdict play(WorkflowVersion version, Function<LookupKey, Optional<?>> world) {
        Rehearsal rehearsal = new Rehearsal(new Setting(version, kind, fields, inputs, by, start, world));
        Played played = rehearsal.play(answers);
        if (played.refused() != null) {
            return new Verdict(name, played.refused(), "'" + name + "' cannot be played any more: " + played.refused());
        }
        Played end = rehearsal.toTheEnd(played);
        String came = end.ended().or(end::stalled).orElse("not ended");
        return new Verdict(
                name,
                came,
                came.equals(expected)
                        ? null
                        : "'" + name + "' ends with '" + came + "', but was kept as ending with '" + expected + "'.");
    }
}
