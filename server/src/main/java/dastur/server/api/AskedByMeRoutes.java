package dastur.server.api;

import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Solved;
import dastur.core.run.Target;
import dastur.core.run.Visit;
import dastur.core.ticket.Promised;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.TicketFilter;
import dastur.store.Tickets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** The page of those who ask (O4): what they asked, where it stands in plain words, what happens next, until when, who has it. */
final class AskedByMeRoutes {
    /** More is found in the list of tickets. */
    private static final int OPEN = 30;

    private static final int ENDED = 10;

    /**
     * What somebody asked.
     *
     * @param restoreDue until when it is promised to be done; null where nothing is promised, or it stands still
     * @param asksMe whether it waits for the one who asked
     */
    record AskedLine(
            String number,
            TicketKind kind,
            String title,
            String state,
            boolean ended,
            Instant createdAt,
            Instant updatedAt,
            @Nullable Instant restoreDue,
            List<Next> next,
            boolean asksMe,
            @Nullable String answer,
            List<Solved.Said> maySay) {}

    /**
     * What happens next.
     *
     * @param what {@code work}, {@code decision}, {@code machine} or {@code stalled}: without the inner words of a workflow
     * @param who names of groups and people; empty for a machine
     */
    record Next(String what, List<String> who, @Nullable Instant due) {}

    /** @param moreOpen whether more are open than are told here */
    record AskedView(List<AskedLine> open, List<AskedLine> ended, boolean moreOpen) {}

    private final Tickets tickets;
    private final Organisation organisation;
    private final AskViews asks;
    private final InstantSource clock;

    private AskedByMeRoutes(Tickets tickets, Organisation organisation, AskViews asks, InstantSource clock) {
        this.tickets = tickets;
        this.organisation = organisation;
        this.asks = asks;
        this.clock = clock;
    }

    static Stream<Route> of(Tickets tickets, Organisation organisation, AskViews asks, InstantSource clock) {
        AskedByMeRoutes r = new AskedByMeRoutes(tickets, organisation, asks, clock);
        return Stream.of(
                Route.get("/api/asked", Right.ASK, "What I asked and where it stands", AskedView.class, r::asked));
    }

    private Object asked(Request q) {
        TicketFilter.Builder mine =
                TicketFilter.all().requester(q.person().id().value()).order(TicketFilter.Order.NEWEST);
        List<Tickets.Row> open = tickets.many(mine.open(true).build(), OPEN + 1);
        return new AskedView(
                lines(open.stream().limit(OPEN), q.person()),
                lines(tickets.many(mine.open(false).build(), ENDED).stream(), q.person()),
                open.size() > OPEN);
    }

    private List<AskedLine> lines(Stream<Tickets.Row> rows, Person me) {
        return rows.flatMap(r -> tickets.find(new TicketId(r.number())).stream())
                .map(c -> line(c, me))
                .toList();
    }

    private AskedLine line(Case c, Person me) {
        Target restore = c.targets().get(Promised.RESTORE);
        return new AskedLine(
                c.id().value(),
                c.kind(),
                c.text("title").orElse(""),
                c.state(),
                TicketKind.ended(c.state()),
                c.createdAt(),
                c.lastAt(),
                restore == null || restore.metAt() != null ? null : restore.due(),
                c.open().values().stream()
                        .flatMap(run -> run.open().values().stream())
                        .flatMap(visit -> next(visit).stream())
                        .distinct()
                        .toList(),
                asks.of(c, me).stream().anyMatch(Views.Ask::mine)
                        || !TicketViews.questions(c, me).isEmpty(),
                c.text("answer").orElse(null),
                List.copyOf(Solved.open(c, clock.instant())));
    }

    private Optional<Next> next(Visit visit) {
        if (visit.stall() != null) {
            return Optional.of(new Next("stalled", List.of(), null));
        }
        if (visit.waiting().toCall(visit.id()).isPresent()) {
            return Optional.of(new Next("machine", List.of(), null));
        }
        return visit.waiting()
                .asks()
                .map(a -> new Next(
                        a.kind().equals("approval") ? "decision" : "work",
                        a.claimedBy() == null ? names(a.to()) : List.of(name(a.claimedBy())),
                        a.due()));
    }

    private List<String> names(Assigned to) {
        Set<String> names = new LinkedHashSet<>();
        to.groups().forEach(g -> names.add(group(g)));
        to.people().forEach(p -> names.add(name(p)));
        return List.copyOf(names);
    }

    private String group(GroupId id) {
        return organisation.group(id).map(g -> g.name()).orElse(id.value());
    }

    private String name(PersonId id) {
        return organisation.person(id).map(Person::name).orElse(id.value());
    }
}
