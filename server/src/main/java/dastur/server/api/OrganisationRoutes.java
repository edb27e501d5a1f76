package dastur.server.api;

import dastur.core.people.Group;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.record.Signing;
import dastur.server.api.Views.PeopleView;
import dastur.server.api.Views.PersonRow;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.RecordLog;
import dastur.store.TicketFilter;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.security.KeyPair;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.stream.Stream;

/** People, services, CIs, and finding things. */
final class OrganisationRoutes {
    /** Something found. @param kind ticket, workflow, person or CI */
    record Found(String kind, String id, String title, String detail) {}

    record SealKey(String algorithm, String key) {}

    /** One a minute is kept: this many reach back a week. */
    private static final int CHECKPOINTS = 10_080;

    private final RecordLog log;
    private final Organisation organisation;
    private final KeyPair signingKey;
    private final Tickets tickets;
    private final Workflows workflows;

    private OrganisationRoutes(
            RecordLog log, Organisation organisation, KeyPair signingKey, Tickets tickets, Workflows workflows) {
        this.log = log;
        this.organisation = organisation;
        this.signingKey = signingKey;
        this.tickets = tickets;
        this.workflows = workflows;
    }

    static Stream<Route> of(
            RecordLog log, Organisation organisation, KeyPair signingKey, Tickets tickets, Workflows workflows) {
        OrganisationRoutes r = new OrganisationRoutes(log, organisation, signingKey, tickets, workflows);
        return Stream.of(
                Route.get("/api/people", Right.SEE, "People and groups", PeopleView.class, r::people),
                Route.list(
                        "/api/find",
                        Right.SEE,
                        "Find tickets, workflows, people and CIs",
                        Found.class,
                        r::find,
                        "text"),
                Route.get(
                        "/api/seal/key",
                        Right.ANYBODY,
                        "The public key that signs records",
                        SealKey.class,
                        q -> new SealKey("Ed25519", Signing.publicKey(signingKey))),
                Route.list(
                        "/api/seal/checkpoints",
                        Right.SEE,
                        "How far the log over all records was signed, newest first",
                        dastur.core.record.Checkpoint.class,
                        q -> log.checkpoints(CHECKPOINTS)));
    }

    private Object people(Request q) {
        List<Group> groups = organisation.groups();
        Map<PersonId, Instant> seen = Right.ADMINISTER.of(q.person()) ? organisation.lastSeen() : Map.of();
        List<PersonRow> people = organisation.people().stream()
                .map(p -> new PersonRow(
                        p.id().value(),
                        p.name(),
                        p.mail(),
                        p.roles(),
                        p.active(),
                        p.manager() == null ? null : p.manager().value(),
                        seen.get(p.id()),
                        groups.stream()
                                .filter(g -> g.members().contains(p.id()))
                                .map(Group::id)
                                .toList()))
                .toList();
        return new PeopleView(people, groups);
    }

    /** Whatever is called by a text; what is called exactly so first, else tickets before all else. */
    private Object find(Request q) {
        String text = q.query("text").orElse("").strip();
        List<Found> found = new ArrayList<>();
        if (text.isEmpty()) {
            return found;
        }
        tickets.list(TicketFilter.all().text(text).build()).items().stream()
                .limit(8)
                .forEach(t -> found.add(new Found("ticket", t.number(), t.title(), t.state() + " · " + t.priority())));
        organisation.cis(text, 5).forEach(c -> found.add(new Found("CI", c.id().value(), c.name(), c.kind())));
        named(
                found,
                text,
                workflows.all().stream()
                        .map(w -> new Found(
                                "workflow",
                                w.key(),
                                w.name(),
                                w.liveVersion() == null ? "draft" : "version " + w.liveVersion())));
        organisation.people(text, 5).forEach(p -> found.add(new Found("person", p.id().value(), p.name(), p.mail())));
        organisation
                .groups(text, 5)
                .forEach(g -> found.add(
                        new Found("group", g.id().value(), g.name(), g.members().size() + " members")));
        named(
                found,
                text,
                organisation.services().stream().map(s -> new Found("service", s.id().value(), s.name(), "service")));
        named(
                found,
                text,
                workflows.actions().stream()
                        .map(a -> new Found("action", a.key().value(), a.name(), a.connection())));
        found.sort(Comparator.comparing(
                f -> !(f.id().equalsIgnoreCase(text) || f.title().equalsIgnoreCase(text))));
        return found;
    }

    private static void named(List<Found> found, String text, Stream<Found> all) {
        String lower = text.toLowerCase(Locale.ROOT);
        all.filter(f -> f.title().toLowerCase(Locale.ROOT).contains(lower)
                        || f.id().toLowerCase(Locale.ROOT).contains(lower))
                .limit(5)
                .forEach(found::add);
    }
}
