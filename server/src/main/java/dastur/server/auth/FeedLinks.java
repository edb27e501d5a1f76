package dastur.server.auth;

import dastur.core.people.PersonId;
import dastur.core.people.RotaKey;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Addresses under which a calendar program fetches who is on call: such programs cannot sign in, so the address itself is
 * the proof. It shows names and times of one rota, or of one person's turns, to whoever holds it.
 */
public final class FeedLinks {
    private static final String FEED = "feed";

    /**
     * What an address is for.
     *
     * @param owner to whom it was given; it ends with their account
     * @param rota the rota; null for all turns of the owner
     */
    public record Feed(PersonId owner, @Nullable RotaKey rota) {}

    private final SignedToken signed;

    /** @param key at least 32 random bytes, kept outside the database */
    public FeedLinks(byte[] key) {
        signed = new SignedToken(key);
    }

    public String token(Feed feed) {
        return signed.of(List.of(
                FEED,
                feed.owner().value(),
                feed.rota() == null ? "" : feed.rota().value()));
    }

    public Optional<Feed> read(String token) {
        try {
            return signed.read(token)
                    .filter(said -> said.size() == 3 && said.get(0).equals(FEED))
                    .map(said -> new Feed(
                            new PersonId(said.get(1)), said.get(2).isEmpty() ? null : new RotaKey(said.get(2))));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }
}
