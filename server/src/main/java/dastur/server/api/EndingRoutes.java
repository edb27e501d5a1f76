package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.step.approval.ApprovalEvents.AnsweredBack;
import dastur.core.ticket.TicketId;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Records;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What became of something that was asked, for whoever still has it before them. */
final class EndingRoutes {
    /** Endings of the ids of what stands beside a visit. */
    private static final String QUESTION = "?question";

    private static final String LATE = "?late";

    /**
     * How something asked came to its end.
     *
     * @param person who did it; null where nobody in person did
     * @param by in words, where nobody in person did
     * @param how completes the sentence "Teo …"
     */
    public record Ending(@Nullable String person, @Nullable String by, Instant at, String how) {}

    private final Records records;
    private final Organisation organisation;
    private final Sight sight;

    private EndingRoutes(Records records, Organisation organisation, Sight sight) {
        this.records = records;
        this.organisation = organisation;
        this.sight = sight;
    }

    static Stream<Route> of(Records records, Organisation organisation, Sight sight) {
        return Stream.of(Route.get(
                "/api/endings",
                Right.SIGNED_IN,
                "What became of something that was asked, named by its id on the Desk",
                Ending.class,
                new EndingRoutes(records, organisation, sight)::ending,
                "item"));
    }

    private Object ending(Request q) {
        String item = q.query("item").orElseThrow(() -> Problem.malformed("item", "'item' names what was asked.")
                .end());
        TicketId ticket = ticketOf(item).orElseThrow(() -> nothing(item));
        List<Recorded> record = records.of(ticket).stream().map(Seal::open).toList();
        if (!Right.SEE.of(q.person())
                && !new WhoWasAsked(organisation, q.person().id()).isAmong(record, item)) {
            throw nothing(item);
        }
        return ending(record, item).orElseThrow(() -> nothing(item));
    }

    /** How something asked came to its end, by what the record says; empty where it has not. */
    static Optional<Ending> ending(List<Recorded> record, String item) {
        return record.reversed().stream()
                .flatMap(r -> how(r, item).stream().map(how -> ending(r, how)))
                .findFirst();
    }

    private static RuntimeException nothing(String item) {
        return Problem.notFound("Nothing that was asked under '" + Texts.clip(item, 60) + "' is over.")
                .end();
    }

    /** The ticket that an id on the Desk belongs to: of a visit, of what stands beside one, of a proposal, or of a run. */
    private static Optional<TicketId> ticketOf(String item) {
        try {
            return Optional.of(new TicketId(item.split("[./?]", 2)[0]));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private static Ending ending(Recorded r, String how) {
        return switch (r.actor()) {
            case Actor.OfPerson p -> new Ending(p.person().value(), null, r.at(), how);
            case Actor.OfAction a -> new Ending(null, "A machine", r.at(), how);
            case Actor.System s -> new Ending(null, "Dastur", r.at(), how);
            case Actor.Clock c -> new Ending(null, "The clock", r.at(), how);
            case Actor.Outside o -> new Ending(null, o.party(), r.at(), how);
        };
    }

    /** What an entry says of the end of an item; empty where it does not end it. */
    private static Optional<String> how(Recorded r, String item) {
        if (r.event() instanceof Event.StartAnswered e) {
            return item.endsWith("/" + e.trigger())
                    ? Optional.of(e.starts() ? "started it" : "said that it is not to start")
                    : Optional.empty();
        }
        if (r.event() instanceof Event.DifferenceSettled e) {
            return item.endsWith("/" + e.partner() + "/" + e.field())
                    ? Optional.of(
                            switch (e.way()) {
                                case THEIRS -> "said that theirs counts";
                                case OURS -> "said that ours counts";
                                case GONE -> "says the same now";
                            })
                    : Optional.empty();
        }
        if (r.visit() == null) {
            return Optional.empty();
        }
        String visit = r.visit().value();
        if (item.equals(visit + QUESTION)) {
            return r.event() instanceof AnsweredBack
                    ? Optional.of("answered it")
                    : Optional.ofNullable(r.event().endedBy());
        }
        if (item.equals(visit + LATE)) {
            return r.event() instanceof Event.LateSettled ? Optional.of("looked at it") : Optional.empty();
        }
        return item.equals(visit) || item.equals(r.visit().run().value())
                ? Optional.ofNullable(r.event().endedBy())
                : Optional.empty();
    }
}
