package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonValue;
import dastur.core.json.Texts;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.time.Span;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * A reusable automated step over one of the {@link Protocol}s (N14, N46).
 *
 * @param connection the connection whose address the path continues and whose hosts are allowed
 * @param repeat what may be done when nobody knows whether a call happened (D13)
 * @param changesWorld whether it changes something outside; such a call is guarded by the approval before it (D19)
 * @param results further results beside ok and failed, such as "already so"
 * @param tries how often at most
 * @param pause before the second try; doubled before each further one
 * @param withdrawn why nothing may begin by it any more (M1); null while it is in use
 * @param limits what its inputs may be, by their names (M4); null for none
 */
public record Action(
        ActionKey key,
        String name,
        String description,
        String connection,
        HttpCall call,
        List<Field> inputs,
        List<Output> outputs,
        List<OwnResult> results,
        Repeat repeat,
        boolean changesWorld,
        Span timeLimit,
        int tries,
        Span pause,
        @Nullable String withdrawn,
        @Nullable Map<String, Limit> limits) {
    public Action {
        inputs = List.copyOf(inputs);
        outputs = List.copyOf(outputs);
        results = List.copyOf(results);
        limits = limits == null || limits.isEmpty() ? null : Step.ordered(limits);
        if (tries < 1 || tries > 20) {
            throw new IllegalArgumentException(
                    "An action is tried 1 to 20 times, but '" + key + "' says " + tries + ".");
        }
    }

    /** One that is in use. */
    public Action(
            ActionKey key,
            String name,
            String description,
            String connection,
            HttpCall call,
            List<Field> inputs,
            List<Output> outputs,
            List<OwnResult> results,
            Repeat repeat,
            boolean changesWorld,
            Span timeLimit,
            int tries,
            Span pause) {
        this(
                key,
                name,
                description,
                connection,
                call,
                inputs,
                outputs,
                results,
                repeat,
                changesWorld,
                timeLimit,
                tries,
                pause,
                null,
                null);
    }

    /** The same, withdrawn for a reason; null to let it be used again. */
    public Action withdrawn(@Nullable String why) {
        return new Action(
                key,
                name,
                description,
                connection,
                call,
                inputs,
                outputs,
                results,
                repeat,
                changesWorld,
                timeLimit,
                tries,
                pause,
                why,
                limits);
    }

    /** The same, with other limits. */
    public Action limited(Map<String, Limit> other) {
        return new Action(
                key,
                name,
                description,
                connection,
                call,
                inputs,
                outputs,
                results,
                repeat,
                changesWorld,
                timeLimit,
                tries,
                pause,
                withdrawn,
                other);
    }

    /**
     * What is wrong with a value of an input, as a sentence; empty where it fits. Absent values fit unless the input is needed.
     *
     * @param cis looks CIs up
     */
    public Optional<String> problemWith(
            Field input, @Nullable Object value, Function<CiId, Optional<ConfigurationItem>> cis) {
        Limit limit = limits == null ? null : limits.get(input.name());
        return input.problemWith(value)
                .or(() -> limit == null || Texts.blank(value) ? Optional.empty() : limit.problem(input, value, cis));
    }

    public Optional<Output> output(String name) {
        return outputs.stream().filter(o -> o.field().name().equals(name)).findFirst();
    }

    /** Whether a call may be repeated when its outcome is unknown. */
    public enum Repeat {
        /** Any time. */
        FREE("free"),
        /** Under the same idempotency key. */
        KEYED("keyed"),
        /** Never by itself: a person says whether it happened. */
        NEVER("never");

        private final String word;

        Repeat(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * What is called. Path, headers and body are texts with {@code {{ input.x }}}.
     *
     * @param method one of those of the connection's {@link Protocol}
     * @param body JSON text; null for none
     * @param poll how to find out when a long job is done; null when the answer is the result
     * @param pages how further pages of the answer are found; null for one answer
     */
    public record HttpCall(
            String method,
            String path,
            @Nullable Map<String, String> headers,
            @Nullable String body,
            @Nullable Poll poll,
            @Nullable Pages pages) {
        /** One whose answer is one page. */
        public HttpCall(
                String method,
                String path,
                @Nullable Map<String, String> headers,
                @Nullable String body,
                @Nullable Poll poll) {
            this(method, path, headers, body, poll, null);
        }
    }

    /**
     * An answer in pages, which are asked for one after the other and read as one (M10).
     *
     * @param itemsAt JSON Pointer into each page: the list whose parts are put together
     * @param nextAt JSON Pointer into each page: where the next one is; null where the header {@code Link} says it (RFC 8288)
     * @param most pages, 2 to {@value #MOST}; an answer of more is a failure, since a part of a list says nothing of the whole
     */
    public record Pages(String itemsAt, @Nullable String nextAt, int most) {
        public static final int MOST = 50;

        public Pages {
            nextAt = nextAt == null || nextAt.isBlank() ? null : nextAt;
        }
    }

    /**
     * Asks again until done, inside the step.
     *
     * @param linkAt JSON Pointer into the first answer: where to ask
     * @param stateAt JSON Pointer into each answer: the state
     * @param doneWhen the state that means done
     * @param failedWhen the state that means failed
     * @param percentAt JSON Pointer into each answer: how far it is, 0 to 100; null where it does not say
     * @param sayingAt JSON Pointer into each answer: what it is at, in words; null where it does not say
     * @param cancels whether it ends when DELETE is said where it is asked for (M7); null for no
     */
    public record Poll(
            String linkAt,
            String stateAt,
            String doneWhen,
            String failedWhen,
            Span every,
            @Nullable String percentAt,
            @Nullable String sayingAt,
            @Nullable Boolean cancels) {
        public Poll {
            percentAt = percentAt == null || percentAt.isBlank() ? null : percentAt;
            sayingAt = sayingAt == null || sayingAt.isBlank() ? null : sayingAt;
        }

        /** One that says nothing while it goes on, and cannot be cancelled. */
        public Poll(String linkAt, String stateAt, String doneWhen, String failedWhen, Span every) {
            this(linkAt, stateAt, doneWhen, failedWhen, every, null, null, null);
        }

        /** Whether it says how far it is, or what it is at. */
        public boolean tells() {
            return percentAt != null || sayingAt != null;
        }
    }

    /** A named output, read from the answer by JSON Pointer (RFC 6901). */
    public record Output(Field field, String pointer) {}

    /** A further result: taken when the value at the pointer, or with {@link #STATUS} the status of the answer, equals the text. */
    public record OwnResult(String name, String pointer, String equal) {
        /** The status of an HTTP answer that says no about what was asked for (RFC 9110, 15.5), such as 404. */
        public static final String STATUS = "http:status";

        /** These speak of who asks, or how often, and not of what was asked for. */
        private static final Set<String> OF_ASKING = Set.of("401", "403", "407", "408", "429");

        @JsonIgnore
        public boolean isOfStatus() {
            return pointer.equals(STATUS);
        }

        /** Whether a status can be a result. */
        public static boolean isResult(String status) {
            return status.matches("4\\d\\d") && !OF_ASKING.contains(status);
        }
    }
}
