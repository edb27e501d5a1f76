package dastur.server.partners;

import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.partner.ThreeWay;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;

/** Counts what would be taken over from a partner's desk, without any effect (I15). */
public final class Counting {
    private static final int SHOWN = 5;
    /** So many words of a field are told: whoever has more unknown ones has chosen the wrong place. */
    private static final int MOST_WORDS = 20;
    /** So long somebody waits for it. */
    private static final Duration COUNTS_FOR = Duration.ofSeconds(20);

    /**
     * What would be taken over.
     *
     * @param problem why not all could be counted; null where all was
     * @param unclear how many of the open ones do not say whether they are, in a word that means something here
     * @param ended how many have ended there, and stay there
     * @param known how many came before
     * @param words of theirs that mean nothing here, by our field, with how many say so
     * @param first some of them
     */
    public record Counted(
            @Nullable String problem,
            int open,
            int unclear,
            int ended,
            int known,
            Map<String, Map<String, Integer>> words,
            List<Theirs> first) {}

    private final Exchange.Uses means;
    private final Listing listing;
    private final BooleanSupplier wanted;

    Counting(Exchange.Uses means, Listing listing, BooleanSupplier wanted) {
        this.means = means;
        this.listing = listing;
        this.wanted = wanted;
    }

    /** Counts for as long as somebody waits. */
    Counted count(Partner partner, Instant since) {
        Instant latest = now().plus(COUNTS_FOR);
        ThreeWay threeWay = new ThreeWay(means.fields().get());
        Backlog backlog = new Backlog(partner, threeWay, means.takeovers());
        Open open = new Open(partner, threeWay);
        Listing.Ended how = listing.read(
                partner,
                since,
                Backlog.SHEETS,
                () -> wanted.getAsBoolean() && now().isBefore(latest),
                sheet -> backlog.open(sheet).tickets().forEach(open::add));
        String problem = now().isBefore(latest)
                ? how.problem()
                : "Their desk has not told all within " + COUNTS_FOR.toSeconds()
                        + " seconds: there are at least these.";
        return new Counted(
                problem == null ? backlog.unread() : problem,
                open.count,
                open.unclear,
                backlog.ended(),
                backlog.known(),
                open.words,
                open.first);
    }

    /** What is open, of which no more is kept than is shown: there may be very many. */
    private static final class Open {
        private final Partner partner;
        private final ThreeWay threeWay;
        private final Map<String, Map<String, Integer>> words = new TreeMap<>();
        private final List<Theirs> first = new ArrayList<>();
        private int count;
        private int unclear;

        Open(Partner partner, ThreeWay threeWay) {
            this.partner = partner;
            this.threeWay = threeWay;
        }

        void add(Theirs one) {
            count++;
            unclear += threeWay.ended(partner, one).isEmpty() ? 1 : 0;
            threeWay.unknown(partner, one).forEach((field, word) -> {
                Map<String, Integer> of = words.computeIfAbsent(field, f -> new TreeMap<>());
                if (of.size() < MOST_WORDS || of.containsKey(word)) {
                    of.merge(word, 1, Integer::sum);
                }
            });
            if (first.size() < SHOWN) {
                first.add(one);
            }
        }
    }

    private Instant now() {
        return means.clock().instant();
    }
}
