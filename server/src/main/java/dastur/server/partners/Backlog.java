package dastur.server.partners;

import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.partner.ThreeWay;
import dastur.store.Takeovers;
import java.util.ArrayList;
import java.util.List;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** What stands at a partner's desk, sorted as its sheets come: what is open there, what has ended there, and what came before (I15). */
final class Backlog {
    /** How many sheets are read of it at most. */
    static final int SHEETS = 2_000;

    private final Partner partner;
    private final ThreeWay threeWay;
    private final Takeovers takeovers;
    private int ended;
    private int known;
    private @Nullable String unread;

    Backlog(Partner partner, ThreeWay threeWay, Takeovers takeovers) {
        this.partner = partner;
        this.threeWay = threeWay;
        this.takeovers = takeovers;
    }

    /** What of a sheet is open there and did not come before. One that does not say whether it is counts as open. */
    Listing.Sheet open(Listing.Sheet sheet) {
        unread = sheet.unread() == null ? unread : sheet.unread();
        Set<String> before = takeovers.known(partner.key(), sheet.came());
        List<Theirs> open = new ArrayList<>();
        for (Theirs one : sheet.tickets()) {
            if (before.contains(one.id())) {
                known++;
            } else if (threeWay.ended(partner, one).orElse(false)) {
                ended++;
            } else {
                open.add(one);
            }
        }
        return new Listing.Sheet(open, null);
    }

    int ended() {
        return ended;
    }

    int known() {
        return known;
    }

    /** Why some could not be read; null where all could. */
    @Nullable String unread() {
        return unread;
    }
}
