package dastur.store;

import dastur.core.people.PersonId;
import java.time.Instant;

/**
 * What a person said of the calls over a connection (M6).
 *
 * @param held whether they wait until somebody lets them out again; else they were let out
 * @param why for whoever wonders
 */
public record ByHand(boolean held, PersonId by, Instant at, String why) {}
