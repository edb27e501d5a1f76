package dastur.server.api;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.partner.Partner;
import dastur.core.partner.PartnerKey;
import dastur.core.partner.Places;
import dastur.core.partner.Shared;
import dastur.core.partner.Theirs;
import dastur.core.partner.ThreeWay;
import dastur.core.people.GroupId;
import dastur.core.people.Right;
import dastur.core.run.Command;
import dastur.core.signal.Source;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketId;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import dastur.server.App;
import dastur.server.App.Design;
import dastur.server.api.Answers.Accepted;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.partners.Listing;
import dastur.store.Partners.Known;
import dastur.store.Partners.Line;
import dastur.store.Partners.Stand;
import dastur.store.Sources;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Partners' desks: how each is spoken to, what is shared, what came and went, and what people say on tickets that are followed there. */
final class PartnerRoutes {
    private static final int MOST = 50;
    private static final int SHOWN = 100;
    private static final int LOOKED_AT = 5;
    private static final Duration LOOKS_BACK = Duration.ofDays(30);

    /** @param followed how many tickets are followed there, among the latest */
    record PartnerLine(
            PartnerKey key,
            String name,
            boolean on,
            Span every,
            @Nullable Instant lookedAt,
            @Nullable Instant next,
            @Nullable Instant failingSince,
            @Nullable String problem,
            long followed) {}

    /** One of their tickets. */
    record TheirsLine(
            String id,
            String title,
            String state,
            @Nullable String ticket,
            Instant seenAt,
            @Nullable String problem) {}

    record LogLine(
            String id,
            Instant at,
            String way,
            String theirs,
            @Nullable String ticket,
            String verdict,
            String raw,
            @Nullable String meant,
            @Nullable String why) {}

    record PartnerView(
            PartnerLine line,
            Partner partner,
            Source.Otherwise otherwise,
            @Nullable String group,
            List<TheirsLine> tickets,
            List<LogLine> log,
            TakeoverRoutes.@Nullable TakeoverView takeover) {}

    record PartnerBody(
            String name,
            Boolean on,
            Span every,
            ActionKey list,
            @Nullable ActionKey raise,
            @Nullable ActionKey change,
            @Nullable ActionKey comment,
            @Nullable ActionKey read,
            Places places,
            @Nullable String ciBy,
            List<Shared> shared,
            List<Partner.Told> told,
            Source.Otherwise otherwise,
            @Nullable String group) {}

    /** A word of theirs. @param meaning what it means here; null where it means nothing */
    record WordView(String field, String word, @Nullable String meaning) {}

    /** One of their tickets as it would be read. */
    record ReadView(
            String id, String title, @Nullable String reference, List<WordView> words, int comments, String raw) {}

    /** What a look gave. @param problem why it could not be read; null where it could */
    record LookView(@Nullable String problem, int count, List<ReadView> tickets) {}

    /** @param id of theirs; null for only looking there */
    record AgainBody(@Nullable String id) {}

    record SayBody(String text) {}

    /** @param ours what was shown as ours @param word what was shown as theirs */
    record SettleBody(
            String field,
            Boolean takesTheirs,
            @Nullable String ours,
            @Nullable String word,
            @Nullable String reason) {}

    private final Design design;
    private final App.AtPartners at;
    private final Sources sources;
    private final OnTickets on;
    private final InstantSource clock;
    private final PartnerSettings checked;

    private PartnerRoutes(Design design, App.AtPartners at, Sources sources, OnTickets on, InstantSource clock) {
        this.design = design;
        this.at = at;
        this.sources = sources;
        this.on = on;
        this.clock = clock;
        this.checked = new PartnerSettings(design);
    }

    static Stream<Route> of(Design design, App.AtPartners at, Sources sources, OnTickets on, InstantSource clock) {
        PartnerRoutes r = new PartnerRoutes(design, at, sources, on, clock);
        return Stream.of(
                Route.list("/api/partners", Right.SEE, "The partners' desks", PartnerLine.class, q -> r.all()),
                Route.get(
                        "/api/partners/{key}",
                        Right.SEE,
                        "A partner's desk, with what came and went",
                        PartnerView.class,
                        r::one),
                Route.put(
                        "/api/partners/{key}",
                        Right.DESIGN,
                        "Set a partner's desk, and the source of its tickets",
                        PartnerBody.class,
                        PartnerView.class,
                        r::set),
                Route.post(
                        "/api/partners/{key}/looks",
                        Right.DESIGN,
                        "Look there once, without any effect",
                        PartnerBody.class,
                        LookView.class,
                        r::look),
                Route.post(
                        "/api/partners/{key}/again",
                        Right.WORK,
                        "Look there at once, and compare one of their tickets again",
                        AgainBody.class,
                        PartnerView.class,
                        r::again),
                Route.post(
                        "/api/tickets/{number}/partners/{key}/words",
                        Right.WORK,
                        "Say something to a partner",
                        SayBody.class,
                        Accepted.class,
                        r::say),
                Route.post(
                        "/api/tickets/{number}/partners/{key}/differences",
                        Right.WORK,
                        "Say what counts where a partner sees it otherwise",
                        SettleBody.class,
                        Accepted.class,
                        r::settle));
    }

    // --- reading

    private List<PartnerLine> all() {
        Map<PartnerKey, Stand> stands = at.partners().stands();
        return at.partners().all().stream()
                .map(p -> line(p, stands.get(p.key()), at.partners().latest(p.key(), SHOWN)))
                .toList();
    }

    private static PartnerLine line(Partner p, @Nullable Stand stand, List<Known> tickets) {
        return new PartnerLine(
                p.key(),
                p.name(),
                p.on(),
                p.every(),
                stand == null ? null : stand.lookedAt(),
                p.on() && stand != null ? stand.next() : null,
                stand == null ? null : stand.failingSince(),
                stand == null ? null : stand.problem(),
                tickets.stream()
                        .filter(t -> t.state() == dastur.store.Partners.State.FOLLOWED)
                        .count());
    }

    private Object one(Request q) {
        PartnerKey key = q.path("key", PartnerKey::new);
        return view(at.partners().find(key).orElseThrow(() -> missing().end()));
    }

    private static Problem missing() {
        return Problem.notFound("There is no partner of this name.");
    }

    private PartnerView view(Partner p) {
        Optional<Source> source = sources.find(p.key().source());
        List<Known> tickets = at.partners().latest(p.key(), SHOWN);
        return new PartnerView(
                line(p, at.partners().stands().get(p.key()), tickets),
                p,
                source.map(Source::otherwise).orElse(Source.Otherwise.KEPT),
                source.map(Source::group).orElse(null),
                tickets.stream().map(PartnerRoutes::theirs).toList(),
                at.partners().lines(p.key(), null, SHOWN).stream()
                        .map(PartnerRoutes::logLine)
                        .toList(),
                TakeoverRoutes.view(at, p.key()));
    }

    private static TheirsLine theirs(Known k) {
        return new TheirsLine(
                k.id(),
                k.title(),
                k.state().word(),
                k.ticket() == null ? null : k.ticket().value(),
                k.seenAt(),
                k.problem());
    }

    private static LogLine logLine(Line l) {
        return new LogLine(
                l.id(),
                l.at(),
                l.way(),
                l.theirs(),
                l.ticket() == null ? null : l.ticket().value(),
                l.verdict(),
                l.raw(),
                l.meant(),
                l.why());
    }

    // --- setting

    private Object set(Request q) {
        PartnerKey key = q.path("key", PartnerKey::new);
        PartnerBody body = q.body(PartnerBody.class);
        Partner partner = checked.partner(key, body);
        boolean isNew = at.partners().find(key).isEmpty();
        if (isNew && sources.find(key.source()).isPresent()) {
            throw Problem.conflict("There is a source of this name already; give the partner another.")
                    .end();
        }
        if (isNew && at.partners().all().size() >= MOST) {
            throw Problem.invalid("key", "There are at most " + MOST + " partners.")
                    .end();
        }
        if (body.group() != null && !isGroup(body.group())) {
            throw Problem.invalid("group", "There is no such group.").end();
        }
        design.setUp()
                .partner(
                        Answers.by(q, clock),
                        partner,
                        partner.source(fields(), Request.needed(body.otherwise(), "otherwise"), body.group()));
        at.exchange().wake();
        return view(partner);
    }

    private FieldCatalogue fields() {
        return design.organisation().fields();
    }

    private boolean isGroup(String group) {
        return Texts.isId(group)
                && design.organisation().group(new GroupId(group)).isPresent();
    }

    // --- trying

    private Object look(Request q) {
        Partner partner = checked.partner(q.path("key", PartnerKey::new), q.body(PartnerBody.class));
        List<Theirs> found = new ArrayList<>();
        String[] unread = {null};
        Listing.Ended ended = at.exchange().tryOut(partner, clock.instant().minus(LOOKS_BACK), (Listing.Sheet s) -> {
            found.addAll(s.tickets());
            unread[0] = s.unread();
        });
        ThreeWay threeWay = new ThreeWay(fields());
        return new LookView(
                ended.problem() == null ? unread[0] : ended.problem(),
                found.size(),
                found.stream()
                        .limit(LOOKED_AT)
                        .map(t -> read(partner, threeWay, t))
                        .toList());
    }

    private static ReadView read(Partner partner, ThreeWay threeWay, Theirs t) {
        List<WordView> words = new ArrayList<>();
        for (Shared s : partner.shared()) {
            String word = t.says().get(s.ours());
            if (word != null) {
                words.add(new WordView(s.ours(), word, threeWay.meaning(s, word).orElse(null)));
            }
        }
        t.told().forEach((name, word) -> words.add(new WordView(name, word, word)));
        return new ReadView(
                t.id(),
                t.title(),
                t.reference(),
                words,
                t.comments().size(),
                pretty(Json.read(t.raw(), JsonNode.class)));
    }

    private static String pretty(JsonNode node) {
        return node.toPrettyString();
    }

    /** At another node it is looked at in its time: so the row says that it is due. */
    private Object again(Request q) {
        PartnerKey key = q.path("key", PartnerKey::new);
        if (at.partners().find(key).isEmpty()) {
            throw missing().end();
        }
        String id = q.body(AgainBody.class).id();
        if (id != null && !at.partners().again(key, id, clock.instant())) {
            throw Problem.notFound("There is no ticket of theirs of this number.")
                    .end();
        }
        at.partners().lookNow(key, clock.instant());
        at.exchange().wake();
        return one(q);
    }

    // --- on tickets

    private Object say(Request q) {
        TicketId ticket = on.visible(q);
        return answered(on.ticket(
                q,
                ticket,
                new Command.SayToPartner(
                        q.path("key", PartnerKey::new),
                        Request.needed(q.body(SayBody.class).text(), "text"))));
    }

    private Object settle(Request q) {
        TicketId ticket = on.visible(q);
        SettleBody body = q.body(SettleBody.class);
        return answered(on.ticket(
                q,
                ticket,
                new Command.SettleDifference(
                        q.path("key", PartnerKey::new),
                        Request.needed(body.field(), "field"),
                        Request.needed(body.takesTheirs(), "takesTheirs"),
                        body.ours(),
                        body.word(),
                        body.reason())));
    }

    /** What was said goes out at once. */
    private Object answered(Object answer) {
        at.exchange().wake();
        return answer;
    }
}
