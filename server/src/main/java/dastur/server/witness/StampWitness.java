package dastur.server.witness;

import dastur.connectors.TimeStamps;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import java.net.URI;
import java.net.http.HttpClient;
import java.time.Duration;
import java.util.Base64;
import java.util.HexFormat;

/**
 * An outside authority that says with its own key when it saw a statement's hash (RFC 3161), once an hour. What it gives back is
 * kept for good: nobody can make it later, whoever they are.
 */
final class StampWitness implements Witness {
    private static final Duration EVERY = Duration.ofHours(1);

    private final HttpClient http;
    private final URI address;
    private final TimeStamps stamps;

    StampWitness(HttpClient http, URI address, TimeStamps stamps) {
        this.http = http;
        this.address = address;
        this.stamps = stamps;
    }

    @Override
    public Witnessed.Kind kind() {
        return Witnessed.Kind.STAMP;
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
    public String give(Checkpoint checkpoint) throws NotGiven {
        try {
            byte[] hash = HexFormat.of().parseHex(checkpoint.hash());
            return Base64.getEncoder().encodeToString(stamps.ask(http, address, hash));
        } catch (TimeStamps.NoStamp e) {
            throw new NotGiven(e.getMessage(), e);
        }
    }

    /** Looks at what such an authority gave back. */
    static Witnessed.Receipts receipts(TimeStamps stamps) {
        return (hash, receipt) -> {
            try {
                TimeStamps.Stamp stamp = stamps.check(
                        HexFormat.of().parseHex(hash), Base64.getDecoder().decode(receipt));
                return new Witnessed.Genuine(stamp.at(), stamp.authority());
            } catch (TimeStamps.NoStamp e) {
                return new Witnessed.Spoiled(e.getMessage());
            } catch (IllegalArgumentException e) {
                return new Witnessed.Spoiled("it is no time stamp");
            }
        };
    }
}
