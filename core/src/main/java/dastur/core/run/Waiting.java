package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.people.PersonId;
import dastur.core.ticket.Field;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What an open visit waits for. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "for")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Waiting.Task.class, name = "task"),
    @JsonSubTypes.Type(value = Waiting.Votes.class, name = "votes"),
    @JsonSubTypes.Type(value = Waiting.CallResult.class, name = "call"),
    @JsonSubTypes.Type(value = Waiting.Delivery.class, name = "delivery"),
    @JsonSubTypes.Type(value = Waiting.Moment.class, name = "moment"),
    @JsonSubTypes.Type(value = Waiting.Help.class, name = "help")
})
public sealed interface Waiting {
    /** A person's outcome. */
    record Task(
            String name,
            @Nullable String instructions,
            Assigned to,
            @Nullable Assigned overseers,
            @Nullable PersonId claimedBy,
            List<String> outcomes,
            List<Field> form,
            @Nullable Instant due)
            implements Waiting {
        Task claimed(@Nullable PersonId by) {
            return new Task(name, instructions, to, overseers, by, outcomes, form, due);
        }

        Task handedTo(Assigned others) {
            return new Task(name, instructions, others, overseers, null, outcomes, form, due);
        }
    }

    /** Votes of one round. */
    record Votes(
            int round,
            String name,
            @Nullable String question,
            @Nullable String setsOff,
            List<PersonId> electorate,
            List<PersonId> excluded,
            String rule,
            int needed,
            List<String> shown,
            Map<String, Object> values,
            String digest,
            boolean commentOnDecline,
            @Nullable Instant due,
            Map<PersonId, Boolean> cast)
            implements Waiting {
        @JsonIgnore
        int yes() {
            return (int) cast.values().stream().filter(v -> v).count();
        }

        @JsonIgnore
        int no() {
            return cast.size() - yes();
        }

        Votes with(Map<PersonId, Boolean> votes) {
            return new Votes(
                    round,
                    name,
                    question,
                    setsOff,
                    electorate,
                    excluded,
                    rule,
                    needed,
                    shown,
                    values,
                    digest,
                    commentOnDecline,
                    due,
                    votes);
        }

        Votes joinedBy(List<PersonId> more) {
            List<PersonId> all = java.util.stream.Stream.concat(electorate.stream(), more.stream())
                    .distinct()
                    .sorted()
                    .toList();
            return new Votes(
                    round,
                    name,
                    question,
                    setsOff,
                    all,
                    excluded,
                    rule,
                    needed,
                    shown,
                    values,
                    digest,
                    commentOnDecline,
                    due,
                    cast);
        }
    }

    /** The result of a call. */
    record CallResult(
            ActionKey action,
            int attempt,
            String key,
            Action.Repeat repeat,
            int tries,
            long pauseSeconds,
            Instant startedAt,
            boolean betweenAttempts,
            boolean unsure,
            Event.@Nullable Call call)
            implements Waiting {}

    /** The delivery of a message to all its people. */
    record Delivery(String message, List<PersonId> left, boolean someFailed) implements Waiting {}

    /** A moment. */
    record Moment(Instant until) implements Waiting {}

    /** Somebody who helps: the visit could not even begin. */
    record Help() implements Waiting {}
}
