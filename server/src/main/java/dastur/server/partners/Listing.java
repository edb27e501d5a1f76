package dastur.server.partners;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.partner.Partner;
import dastur.core.partner.Theirs;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.server.work.OwnCalls;
import dastur.store.Partners.Came;
import java.time.DateTimeException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** Reads from a partner's desk what has changed there, page after page. */
public final class Listing {
    /** More sheets than that at one look are not read: something is wrong there. */
    static final int SHEETS = 100;

    private static final int MOST_A_PAGE = 1_000;

    /** One page. @param unread why some of it could not be read; null where all could */
    public record Sheet(List<Theirs> tickets, @Nullable String unread) {
        /** As it is kept. */
        List<Came> came() {
            return tickets.stream()
                    .map(t -> new Came(t.id(), t.version(), t.raw(), t.title()))
                    .toList();
        }
    }

    /** How it ended. @param problem why not all was read; null where it was @param theirs their time as they began; null where they tell none @param ahead how far their clock is ahead of ours; null where nobody can tell */
    public record Ended(
            @Nullable String problem,
            @Nullable Instant theirs,
            @Nullable Duration ahead) {}

    /** An answer that takes longer says of their clock only what it was some time ago. */
    private static final Duration AT_ONCE = Duration.ofSeconds(2);

    /** A clock that is off by more than that tells nothing. */
    private static final Duration MOST_AHEAD = Duration.ofDays(1);

    private final OwnCalls calls;
    private final InstantSource clock;

    public Listing(OwnCalls calls, InstantSource clock) {
        this.calls = calls;
        this.clock = clock;
    }

    /**
     * Reads all sheets.
     *
     * @param most how many at most; 1 for a look at the first
     * @param sheets takes each page as it came
     */
    public Ended read(Partner partner, Instant since, int most, BooleanSupplier wanted, Consumer<Sheet> sheets) {
        String sheet = "";
        Instant theirs = null;
        Duration ahead = null;
        for (int i = 0; i < most; i++) {
            if (!wanted.getAsBoolean()) {
                return new Ended("It was ended early.", null, null);
            }
            Instant asked = clock.instant();
            CallOutcome outcome = calls.call(
                    partner.list(),
                    Map.of(Partner.SINCE, since.toString(), Partner.SHEET, sheet),
                    "look." + partner.key() + "." + since.toEpochMilli() + "." + i,
                    wanted);
            if (!(outcome instanceof CallOutcome.Done done)) {
                return new Ended(OwnCalls.why(outcome), null, null);
            }
            if (!(done.outputs().get(Partner.TICKETS) instanceof List<?> tickets)) {
                return new Ended(
                        "The answer has no list of tickets: the output '" + Partner.TICKETS + "' is empty.",
                        null,
                        null);
            }
            if (theirs == null) {
                theirs = time(done.outputs().get(Partner.NOW));
                ahead = ahead(theirs, asked, clock.instant());
            }
            sheets.accept(sheet(partner, tickets));
            String next = done.outputs().get(Partner.NEXT) instanceof Object o
                    ? o.toString().strip()
                    : "";
            if (next.isEmpty()) {
                return new Ended(null, theirs, ahead);
            }
            if (next.equals(sheet)) {
                return new Ended("Their list gives the same sheet '" + next + "' again and again.", null, null);
            }
            sheet = next;
        }
        String tooMany = "More than " + most + " sheets have changed there at once.";
        return new Ended(most == 1 ? null : tooMany, theirs, ahead);
    }

    private static @Nullable Duration ahead(@Nullable Instant theirs, Instant asked, Instant answered) {
        if (theirs == null || Duration.between(asked, answered).compareTo(AT_ONCE) > 0) {
            return null;
        }
        Duration ahead = Duration.between(answered, theirs);
        return ahead.abs().compareTo(MOST_AHEAD) > 0 ? null : ahead;
    }

    private static @Nullable Instant time(@Nullable Object said) {
        try {
            return said == null ? null : OffsetDateTime.parse(said.toString()).toInstant();
        } catch (DateTimeException e) {
            return null;
        }
    }

    private static Sheet sheet(Partner partner, List<?> tickets) {
        List<Theirs> read = new ArrayList<>();
        String unread = tickets.size() > MOST_A_PAGE ? "A sheet holds more than " + MOST_A_PAGE + " tickets." : null;
        for (Object one : tickets.subList(0, Math.min(tickets.size(), MOST_A_PAGE))) {
            JsonNode node = Json.tree(one);
            try {
                Theirs theirs = Theirs.read(partner, node);
                if (theirs.raw().length() > dastur.store.Partners.LONGEST) {
                    unread = "'" + theirs.id() + "' is too large to be kept.";
                } else {
                    read.add(theirs);
                }
            } catch (Theirs.Unreadable e) {
                unread = e.why();
            }
        }
        return new Sheet(read, unread);
    }
}
