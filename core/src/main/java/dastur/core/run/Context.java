package dastur.core.run;

import java.time.Instant;
import java.time.temporal.ChronoUnit;

/**
 * What a decision may know besides the case (D2).
 *
 * @param now the moment, cut to milliseconds
 * @param upSince since when the application has been up; what was due before is late (D6)
 */
public record Context(Instant now, Instant upSince, Lookups lookups) {
    public Context {
        now = now.truncatedTo(ChronoUnit.MILLIS);
    }
}
