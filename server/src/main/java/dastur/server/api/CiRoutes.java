package dastur.server.api;

import dastur.core.people.GroupId;
import dastur.core.people.Right;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.Wish;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.Organisation;
import dastur.store.SetUp;
import dastur.store.TicketFilter;
import dastur.store.Tickets;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Configuration items: found, shown, set, taken along as CSV (N5). */
final class CiRoutes {
    /** @param unmet what was wished of it and came otherwise */
    record CiPage(
            ConfigurationItem ci,
            List<Organisation.Relation> relations,
            List<Organisation.Further> further,
            List<Organisation.CiChange> changes,
            List<Wish> unmet,
            List<Tickets.Row> tickets) {}

    record CiHit(
            String id,
            String name,
            String kind,
            @Nullable String service,
            @Nullable String site) {}

    /** @param relations those that lead from it; null leaves them as they are */
    record CiBody(
            String name,
            String kind,
            @Nullable ServiceId service,
            @Nullable String site,
            @Nullable String address,
            @Nullable GroupId owner,
            String life,
            Map<String, Object> attributes,
            @Nullable List<SetUp.Relation> relations) {}

    record ImportBody(String csv, boolean dryRun) {}

    private static final int MOST_AT_ONCE = 20_000;

    private final Organisation organisation;
    private final SetUp setUp;
    private final Tickets tickets;
    private final InstantSource clock;

    private CiRoutes(Organisation organisation, SetUp setUp, Tickets tickets, InstantSource clock) {
        this.organisation = organisation;
        this.setUp = setUp;
        this.tickets = tickets;
        this.clock = clock;
    }

    static Stream<Route> of(Organisation organisation, SetUp setUp, Tickets tickets, InstantSource clock) {
        CiRoutes r = new CiRoutes(organisation, setUp, tickets, clock);
        return Stream.of(
                Route.list("/api/cis", Right.SIGNED_IN, "CIs by a text", CiHit.class, r::cis, "text"),
                Route.get("/api/cis/{id}", Right.SEE, "One CI", CiPage.class, r::ci),
                Route.put("/api/cis/{id}", Right.DESIGN, "Set a CI", CiBody.class, null, r::put),
                Route.get("/api/files/cis", Right.SEE, "All CIs as CSV (RFC 4180)", String.class, r::export),
                Route.post(
                        "/api/files/cis",
                        Right.DESIGN,
                        "Take CIs from CSV over, or see what that would do",
                        ImportBody.class,
                        CiCsv.Result.class,
                        r::take));
    }

    private Object cis(Request q) {
        return organisation.cis(q.query("text").orElse(""), 20).stream()
                .map(c -> new CiHit(
                        c.id().value(),
                        c.name(),
                        c.kind(),
                        c.service() == null ? null : c.service().value(),
                        c.site()))
                .toList();
    }

    private Object ci(Request q) {
        CiId id = q.path("id", CiId::new);
        ConfigurationItem ci = organisation.ci(id).orElseThrow(() -> Problem.notFound("There is no CI " + id + ".")
                .end());
        List<Organisation.Relation> relations = organisation.relationsOf(id);
        return new CiPage(
                ci,
                relations,
                organisation.furtherFrom(id, relations),
                organisation.changesOf(id),
                ci.unmet(),
                tickets.list(TicketFilter.all().ci(id.value()).build()).items());
    }

    private Object put(Request q) {
        CiId id = q.path("id", CiId::new);
        CiBody body = q.body(CiBody.class);
        ConfigurationItem ci;
        try {
            ci = CiCsv.known(organisation)
                    .checked(
                            new ConfigurationItem(
                                    id,
                                    SetUpRoutes.name(body.name()),
                                    body.kind() == null ? "" : body.kind(),
                                    body.service(),
                                    body.site(),
                                    body.address(),
                                    body.owner(),
                                    body.life() == null ? "" : body.life(),
                                    body.attributes() == null ? Map.of() : body.attributes()),
                            body.relations());
        } catch (Csv.Wrong wrong) {
            throw Problem.invalid(wrong.where, wrong.getMessage()).end();
        }
        setUp.cis(Answers.by(q, clock), List.of(ci), body.relations());
        return null;
    }

    private Object export(Request q) {
        q.context().header("Content-Disposition", "attachment; filename=\"cis.csv\"");
        return new WebServer.Raw(
                "text/csv; charset=utf-8", CiCsv.write(organisation.cis("", MOST_AT_ONCE), organisation.fields()));
    }

    private Object take(Request q) {
        ImportBody body = q.body(ImportBody.class);
        CiCsv.Result result = CiCsv.known(organisation).read(Request.needed(body.csv(), "csv"));
        if (!body.dryRun()) {
            Csv.takesAll(result.wrong());
            setUp.cis(
                    Answers.by(q, clock),
                    result.rows().stream()
                            .filter(r -> r.ci() != null && !r.becomes().equals("same"))
                            .map(CiCsv.Row::ci)
                            .toList(),
                    null);
        }
        return result;
    }
}
