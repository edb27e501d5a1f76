package dastur.server.witness;

import dastur.connectors.Posting;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import java.net.URI;
import java.time.Duration;
import java.util.Optional;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** A program elsewhere that a statement is posted to each minute, as JSON, under its hash as the key. */
final class PostWitness implements Witness {
    private static final Duration EVERY = Duration.ofMinutes(1);

    private final Posting posting;
    private final URI address;
    private final Supplier<Optional<String>> token;

    /** @param token a bearer token (RFC 6750), where one is set */
    PostWitness(Posting posting, URI address, Supplier<Optional<String>> token) {
        this.posting = posting;
        this.address = address;
        this.token = token;
    }

    @Override
    public Witnessed.Kind kind() {
        return Witnessed.Kind.POST;
    }

    @Override
    public String name() {
        return Giving.withoutSecrets(address);
    }

    @Override
    public Duration every() {
        return EVERY;
    }

    @Override
    public @Nullable String give(Checkpoint checkpoint) throws NotGiven {
        try {
            posting.post(
                    address,
                    Json.write(checkpoint),
                    checkpoint.hash(),
                    token.get().orElse(null));
            return null;
        } catch (Posting.NotTaken e) {
            throw new NotGiven(e.getMessage(), e);
        }
    }
}
