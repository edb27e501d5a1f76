package dastur.server.auth;

import dastur.core.people.PersonId;
import dastur.core.run.VisitId;
import java.time.Instant;
import java.util.List;
import java.util.Optional;

/**
 * Links by which a person decides from a mail (N41): signed, for one person, one round of one approval, until a moment.
 * They stand in the mail alone, never on a record or in a log. That each is used once follows from the engine: a person
 * votes once.
 */
public final class DecisionLinks {
    /**
     * What a link says.
     *
     * @param digest of what was shown; a vote on anything else is refused (D18)
     */
    public record Link(VisitId visit, int round, String digest, PersonId person, Instant until) {}

    private final SignedToken signed;

    /** @param key at least 32 random bytes, kept outside the database */
    public DecisionLinks(byte[] key) {
        signed = new SignedToken(key);
    }

    public String token(Link link) {
        return signed.of(List.of(
                link.visit().value(),
                String.valueOf(link.round()),
                link.digest(),
                link.person().value(),
                String.valueOf(link.until().getEpochSecond())));
    }

    /** What a token says; empty when it was not made here, was altered, or its time is over. */
    public Optional<Link> read(String token, Instant now) {
        try {
            return signed.read(token)
                    .filter(said -> said.size() == 5)
                    .map(said -> new Link(
                            new VisitId(said.get(0)),
                            Integer.parseInt(said.get(1)),
                            said.get(2),
                            new PersonId(said.get(3)),
                            Instant.ofEpochSecond(Long.parseLong(said.get(4)))))
                    .filter(link -> link.until().isAfter(now));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }
}
