package dastur.server.api;

import dastur.core.partner.Partner;
import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.record.Seal;
import dastur.core.run.AtPartner;
import dastur.core.run.Case;
import dastur.core.run.Recorded;
import dastur.core.run.Solved;
import dastur.core.step.approval.Votes;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketKind;
import dastur.server.api.Views.TicketView;
import dastur.store.Organisation;
import dastur.store.Partners;
import dastur.store.Records;
import dastur.store.Tickets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;

/** Puts together what a person sees of a ticket. Reads only. */
final class TicketViews {
    private final Tickets tickets;
    private final Records records;
    private final Organisation organisation;
    private final AskViews asks;
    private final Startables startables;
    /** Whether there is anything that people may read by hand. */
    private final BooleanSupplier readable;

    private final CiFacts facts;
    private final Partners partners;
    /** Where the demo's chat is read; null where people use a program of their own. */
    private final @Nullable String chatPage;

    TicketViews(
            Tickets tickets,
            Records records,
            Organisation organisation,
            AskViews asks,
            Startables startables,
            BooleanSupplier readable,
            CiFacts facts,
            Partners partners,
            @Nullable String chatPage) {
        this.tickets = tickets;
        this.records = records;
        this.organisation = organisation;
        this.asks = asks;
        this.startables = startables;
        this.readable = readable;
        this.facts = facts;
        this.partners = partners;
        this.chatPage = chatPage;
    }

    TicketView of(Case c, Person person) {
        TicketKind kind = c.kind();
        boolean seesAll = Right.SEE.of(person);
        List<Recorded> record =
                seesAll ? records.of(c.id()).stream().map(Seal::open).toList() : List.of();
        return new TicketView(
                c.id().value(),
                kind.word(),
                c.text("title").orElse(""),
                c.state(),
                kind.movesOfPeople(c.state()).stream()
                        .sorted(Comparator.comparing(kind.states()::indexOf))
                        .toList(),
                TicketKind.ended(c.state()),
                new TreeMap<>(seesAll ? c.fields() : forRequester(c)),
                c.createdAt(),
                c.lastAt(),
                c.seq(),
                seesAll ? RunViews.of(c, tickets.runsOf(c.id()), record) : List.of(),
                asks.of(c, person),
                seesAll ? facts.of(c).orElse(null) : null,
                Right.WORK.of(person) && !TicketKind.ended(c.state()) ? startables.of(kind) : List.of(),
                Right.WORK.of(person) && readable.getAsBoolean(),
                Right.WORK.of(person) ? startables.offers(c) : List.of(),
                questions(c, person),
                seesAll ? late(c) : List.of(),
                files(c, person),
                seesAll ? links(c) : List.of(),
                seesAll ? under(c) : null,
                seesAll ? folds(c) : List.of(),
                c.test(),
                seesAll ? c.targets() : Map.of(),
                seesAll ? c.parts() : Map.of(),
                seesAll ? room(c) : null,
                seesAll ? atPartners(c) : List.of(),
                seesAll || !isRequester(c, person)
                        ? List.of()
                        : new RequesterStory(organisation, records, person).of(c.id()),
                isRequester(c, person) ? List.copyOf(Solved.open(c, asks.now())) : List.of(),
                asks.mayTakeBack(c, person),
                Right.WORK.of(person),
                Right.DESIGN.of(person),
                seesAll);
    }

    static boolean isRequester(Case c, Person person) {
        return c.text("requester").filter(person.id().value()::equals).isPresent();
    }

    /** A requester, and whoever is asked, sees the matter and its answer, not the inner workings. */
    private static Map<String, Object> forRequester(Case c) {
        Map<String, Object> fields = new LinkedHashMap<>();
        List.of("title", "description", "requester", "service", "ci", "answer", "priority")
                .forEach(f -> Optional.ofNullable(c.fields().get(f)).ifPresent(v -> fields.put(f, v)));
        return fields;
    }

    /** Open questions, for those who may answer: the requester and whoever works here. */
    static List<Views.QuestionView> questions(Case c, Person person) {
        boolean mayAnswer = Right.WORK.of(person) || isRequester(c, person);
        if (!mayAnswer) {
            return List.of();
        }
        List<Views.QuestionView> questions = new ArrayList<>();
        c.open().values().stream().flatMap(run -> run.open().values().stream()).forEach(visit -> {
            if (visit.waiting() instanceof Votes v && v.askedBack() != null) {
                questions.add(new Views.QuestionView(
                        visit.id() + "?question",
                        visit.id().value(),
                        v.name(),
                        v.askedBack().by().value(),
                        v.askedBack().at(),
                        v.askedBack().text()));
            }
        });
        return questions;
    }

    private List<Views.LinkView> links(Case c) {
        return c.links().stream()
                .flatMap(link -> tickets.row(link.other()).stream()
                        .map(row -> linked(link.kind(), link.kind().byHand(), row)))
                .toList();
    }

    private static Views.LinkView linked(LinkKind as, boolean byHand, Tickets.Row row) {
        return new Views.LinkView(as, byHand, row.number(), row.title(), row.state(), row.ended());
    }

    private Views.@Nullable LinkView under(Case c) {
        return c.under() == null
                ? null
                : tickets.row(c.under())
                        .map(row -> linked(LinkKind.CAUSED_BY, false, row))
                        .orElse(null);
    }

    private List<Views.LinkView> folds(Case c) {
        return tickets.under(c.id()).items().stream()
                .map(row -> linked(LinkKind.CAUSES, false, row))
                .toList();
    }

    private List<Views.AtPartnerView> atPartners(Case c) {
        return c.partners().values().stream()
                .map(p -> {
                    Optional<Partner> partner = partners.find(p.partner());
                    return new Views.AtPartnerView(
                            p.partner().value(),
                            partner.map(Partner::name).orElse(p.partner().value()),
                            p.id(),
                            p.link(),
                            p.theirs(),
                            p.over(),
                            p.since(),
                            p.why(),
                            partner.map(Partner::comment).isPresent(),
                            p.differences().values().stream()
                                    .map(x -> difference(c, p, x))
                                    .toList());
                })
                .toList();
    }

    private Views.DifferenceView difference(Case c, AtPartner p, AtPartner.Difference x) {
        return new Views.DifferenceView(
                c.id() + "/" + p.partner() + "/" + x.field(),
                x.field(),
                x.label(),
                x.ours(),
                x.word(),
                x.theirs(),
                x.theirs() != null,
                x.why(),
                x.asked(),
                x.at());
    }

    private Views.@Nullable RoomView room(Case c) {
        Case.Room room = c.room();
        if (room == null) {
            return null;
        }
        // A Matrix URI (of the open standard) opens the room in whatever program people use for it.
        String link = chatPage == null ? "matrix:roomid/" + room.id().replaceFirst("^!", "") : chatPage;
        return new Views.RoomView(room.name() == null ? c.id().value() : room.name(), room.keepsAll(), link);
    }

    private List<Views.LateView> late(Case c) {
        return c.late().entrySet().stream()
                .map(e -> new Views.LateView(
                        e.getKey() + "?late",
                        e.getKey().value(),
                        c.began().containsKey(e.getKey().run())
                                ? c.began().get(e.getKey().run()).name()
                                : "",
                        e.getValue().owner().value()))
                .toList();
    }

    /** A requester sees what they attached and what was meant for them. */
    private static List<Views.FileView> files(Case c, Person person) {
        return c.files().stream()
                .filter(f -> maySee(f, person))
                .map(f -> new Views.FileView(
                        f.seq(),
                        f.hash(),
                        f.name(),
                        f.type(),
                        f.size(),
                        f.by() == null ? null : f.by().value(),
                        f.at(),
                        f.toRequester()))
                .toList();
    }

    static boolean maySee(Case.FileRef file, Person person) {
        return Right.SEE.of(person) || file.toRequester() || person.id().equals(file.by());
    }
}
