package dastur.connectors.relay;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.workflow.Action;
import dastur.core.workflow.ZoneKey;
import java.security.KeyPair;
import java.time.Duration;
import java.time.Instant;
import java.util.Optional;

/**
 * A call that the server gives to one relay (M13). It names that relay and may only be begun within a short while: a copy of
 * it is of no use to another, or later.
 *
 * @param id by which server and relay know it, for good
 * @param relay the one that may do it
 * @param connection what the relay's file calls it
 * @param given when the server gave it
 */
public record Work(
        String id,
        ZoneKey zone,
        String relay,
        String connection,
        Event.Call call,
        Action.Repeat repeat,
        Instant given) {
    /** Begun within so long of being given, or not at all (M15). */
    public static final Duration TO_BEGIN = Duration.ofSeconds(120);
    /** So far two clocks may differ. */
    public static final Duration SKEW = Duration.ofSeconds(120);

    /** It is not what it should be; the message says what. */
    public static final class Unfit extends Exception {
        Unfit(String message) {
            super(message);
        }
    }

    public SignedText signed(KeyPair server) {
        return SignedText.of(Json.write(this), server);
    }

    /**
     * Opens what came.
     *
     * @param server the public key that the relay was told when it joined
     * @throws Unfit when another has said it, or it cannot be read
     */
    public static Work open(SignedText came, String server) throws Unfit {
        if (!came.saidBy(server)) {
            throw new Unfit("This work is not signed by the server whose key is known here.");
        }
        try {
            return Json.mapper().readValue(came.text(), Work.class);
        } catch (JsonProcessingException e) {
            throw new Unfit("This work cannot be read: the server may be newer than this relay.");
        }
    }

    /** Why it is not for this relay now; empty where it is. */
    public Optional<String> unfitFor(ZoneKey itsZone, String itself, Instant now) {
        if (!zone.equals(itsZone) || !relay.equals(itself)) {
            return Optional.of("This work is for another relay.");
        }
        if (now.isAfter(given.plus(TO_BEGIN)) || now.isBefore(given.minus(SKEW))) {
            return Optional.of("This work was given at " + given + ", and it is " + now
                    + " here: it is begun within two minutes or not at all.");
        }
        return Optional.empty();
    }
}
