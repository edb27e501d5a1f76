package dastur.connectors.relay;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.json.Json;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import java.security.KeyPair;
import java.time.Instant;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * What became of a piece of work, signed by the relay that did it: it stands behind it, whoever carries the text.
 *
 * @param work its id
 * @param relay who did it
 * @param answer the whole answer as JSON, where it is short enough to be shown where an action is tried; null for none
 */
public record WorkDone(
        String work,
        String relay,
        Said said,
        @Nullable String exit,
        @Nullable Map<String, Object> outputs,
        @Nullable String reference,
        @Nullable String link,
        String text,
        long millis,
        int polls,
        @Nullable String answer,
        Instant at) {
    /** In one word how it ended. */
    public enum Said {
        DONE,
        FAILED,
        UNKNOWN,
        /** A fault on this side of the other system; nothing went out. */
        NOT_SENT,
        /** A fault on this side after which it may have gone out. */
        MAYBE_SENT
    }

    public static WorkDone of(
            String work, String relay, CallOutcome outcome, long millis, @Nullable String answer, Instant at) {
        return switch (outcome) {
            case CallOutcome.Done d ->
                new WorkDone(
                        work,
                        relay,
                        Said.DONE,
                        d.exit(),
                        d.outputs(),
                        d.reference(),
                        d.link(),
                        d.log(),
                        d.tookMillis(),
                        d.polls(),
                        answer,
                        at);
            case CallOutcome.Failed f -> without(work, relay, Said.FAILED, f.why(), millis, answer, at);
            case CallOutcome.Unknown u -> without(work, relay, Said.UNKNOWN, u.why(), millis, answer, at);
            case CallOutcome.Fault f ->
                without(work, relay, f.sent() ? Said.MAYBE_SENT : Said.NOT_SENT, f.why(), millis, answer, at);
        };
    }

    private static WorkDone without(
            String work, String relay, Said said, String why, long millis, @Nullable String answer, Instant at) {
        return new WorkDone(work, relay, said, null, null, null, null, why, millis, 0, answer, at);
    }

    public CallOutcome outcome() {
        return switch (said) {
            case DONE ->
                new CallOutcome.Done(
                        exit == null ? "ok" : exit,
                        outputs == null ? Map.of() : outputs,
                        reference,
                        link,
                        text,
                        millis,
                        polls);
            case FAILED -> new CallOutcome.Failed(text);
            case UNKNOWN -> new CallOutcome.Unknown(text);
            case NOT_SENT -> new CallOutcome.Fault(text, false);
            case MAYBE_SENT -> new CallOutcome.Fault(text, true);
        };
    }

    public SignedText signed(KeyPair key) {
        return SignedText.of(Json.write(this), key);
    }

    /** Opens what came; empty when another than this relay has said it, or it cannot be read. */
    public static Optional<WorkDone> open(SignedText came, String relay, String key) {
        if (!came.saidBy(key)) {
            return Optional.empty();
        }
        try {
            return Optional.of(Json.mapper().readValue(came.text(), WorkDone.class))
                    .filter(d -> d.relay().equals(relay));
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }
}
