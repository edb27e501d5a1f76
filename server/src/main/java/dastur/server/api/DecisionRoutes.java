package dastur.server.api;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.Case;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.server.auth.DecisionLinks;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.work.CommandService;
import dastur.store.Organisation;
import dastur.store.Records;
import dastur.store.Tickets;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Deciding by a link from a mail: the same checks and the same record entries; opening the link decides nothing (N41). */
final class DecisionRoutes {
    /**
     * What a link asks.
     *
     * @param open whether it can still be decided by this link
     * @param why why not; null while it can
     */
    record DecisionView(
            String ticket,
            String title,
            String person,
            String name,
            @Nullable String question,
            @Nullable String setsOff,
            List<Views.Shown> shown,
            boolean commentOnDecline,
            boolean commentAlways,
            @Nullable Instant due,
            boolean open,
            @Nullable String why) {}

    record DecisionBody(Boolean approve, @Nullable String comment) {}

    private final InstantSource clock;
    private final CommandService commands;
    private final DecisionLinks links;
    private final Organisation organisation;
    private final Records records;
    private final Tickets tickets;
    private final AskViews asks;

    private DecisionRoutes(
            InstantSource clock,
            CommandService commands,
            DecisionLinks links,
            Organisation organisation,
            Records records,
            Tickets tickets,
            AskViews asks) {
        this.clock = clock;
        this.commands = commands;
        this.links = links;
        this.organisation = organisation;
        this.records = records;
        this.tickets = tickets;
        this.asks = asks;
    }

    static Stream<Route> of(
            InstantSource clock,
            CommandService commands,
            DecisionLinks links,
            Organisation organisation,
            Records records,
            Tickets tickets,
            AskViews asks) {
        DecisionRoutes r = new DecisionRoutes(clock, commands, links, organisation, records, tickets, asks);
        return Stream.of(
                Route.get(
                        "/api/decisions/{token}",
                        Right.ANYBODY,
                        "What a link from a mail asks; decides nothing",
                        DecisionView.class,
                        r::view),
                Route.post(
                        "/api/decisions/{token}",
                        Right.ANYBODY,
                        "Decide by a link from a mail",
                        DecisionBody.class,
                        DecisionView.class,
                        r::decide));
    }

    private DecisionLinks.Link link(Request q) {
        DecisionLinks.Link link = links.read(q.context().pathParam("token"), clock.instant())
                .orElseThrow(() -> Problem.notFound(
                                "This link is not valid or its time is over. Sign in and decide on your Desk.")
                        .end());
        if (organisation.person(link.person()).filter(Person::active).isEmpty()) {
            throw Problem.notFound("The account this link was made for is closed.")
                    .end();
        }
        return link;
    }

    private Object view(Request q) {
        return view(link(q));
    }

    private DecisionView view(DecisionLinks.Link link) {
        Optional<Case> c = tickets.find(link.visit().ticket());
        Optional<Visit> visit = c.flatMap(x -> x.visit(link.visit()));
        String person = organisation.person(link.person()).map(Person::name).orElse("");
        String title = c.flatMap(x -> x.text("title")).orElse("");
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Votes votes)) {
            return new DecisionView(
                    link.visit().ticket().value(),
                    title,
                    person,
                    "This decision",
                    null,
                    null,
                    List.of(),
                    false,
                    false,
                    null,
                    false,
                    settled(link));
        }
        String why = null;
        if (votes.cast().containsKey(link.person())) {
            why = "You have decided already.";
        } else if (!votes.turn().contains(link.person())) {
            why = "Those before you decide first; you are asked when it is your turn.";
        } else if (votes.round() != link.round() || !votes.digest().equals(link.digest())) {
            why = "What is shown has changed since this mail. A newer mail asks you again; use its link.";
        }
        return new DecisionView(
                link.visit().ticket().value(),
                title,
                person,
                votes.name(),
                votes.question(),
                votes.setsOff(),
                asks.shown(votes),
                votes.commentOnDecline(),
                votes.terms().commentAlways(),
                votes.due(),
                why == null,
                why);
    }

    /** Whoever was asked learns by whom and how it was decided without them. */
    private String settled(DecisionLinks.Link link) {
        List<Recorded> record =
                records.of(link.visit().ticket()).stream().map(Seal::open).toList();
        return EndingRoutes.ending(record, link.visit().value())
                        .map(e -> by(link, e) + " " + e.how())
                        .orElse("It was decided or withdrawn meanwhile")
                + ". Nothing is needed from you.";
    }

    private String by(DecisionLinks.Link link, EndingRoutes.Ending ending) {
        if (ending.person() == null) {
            return String.valueOf(ending.by());
        }
        return ending.person().equals(link.person().value())
                ? "You"
                : organisation
                        .person(new PersonId(ending.person()))
                        .map(Person::name)
                        .orElse(ending.person());
    }

    private Object decide(Request q) {
        DecisionLinks.Link link = link(q);
        DecisionBody body = q.body(DecisionBody.class);
        Answers.of(commands.handle(
                link.visit().ticket(),
                q.commandId(link.person()),
                Actor.of(link.person()),
                new Vote(
                        link.visit(),
                        link.round(),
                        link.digest(),
                        Request.needed(body.approve(), "approve"),
                        body.comment())));
        return view(link);
    }
}
