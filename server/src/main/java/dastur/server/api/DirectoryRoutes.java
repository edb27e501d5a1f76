package dastur.server.api;

import dastur.core.people.Person;
import dastur.core.people.Right;
import dastur.core.ticket.TicketKind;
import dastur.server.api.Views.Directory;
import dastur.server.api.Views.GroupName;
import dastur.server.api.Views.PersonName;
import dastur.server.api.Views.RotaName;
import dastur.server.api.Views.ServiceName;
import dastur.server.api.Views.SourceName;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.http.Tagged;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What things are called, for every page; made once for each state of the organisation and sent where it has changed (decision 57). */
final class DirectoryRoutes {
    private record Kept(long revision, Tagged directory) {}

    private final Organisation organisation;
    private final Workflows workflows;
    /** For all who see everything: they are told the same. */
    private volatile @Nullable Kept kept;

    private DirectoryRoutes(Organisation organisation, Workflows workflows) {
        this.organisation = organisation;
        this.workflows = workflows;
    }

    static Stream<Route> of(Organisation organisation, Workflows workflows) {
        DirectoryRoutes r = new DirectoryRoutes(organisation, workflows);
        return Stream.of(Route.get(
                "/api/directory",
                Right.SIGNED_IN,
                "Names for ids; with If-None-Match 304 to who has them already",
                Directory.class,
                r::directory));
    }

    /** A requester gets the names they need to ask, not the whole organisation. */
    private Object directory(Request q) {
        return Right.SEE.of(q.person()) ? whole() : Tagged.of(of(List.of(q.person()), false));
    }

    private Tagged whole() {
        // First: what is read afterwards is of this state or of a later one.
        long revision = organisation.revision();
        Kept before = kept;
        if (before != null && before.revision() == revision) {
            return before.directory();
        }
        Tagged now = Tagged.of(of(organisation.people(), true));
        kept = new Kept(revision, now);
        return now;
    }

    private Directory of(List<Person> people, boolean all) {
        Map<String, List<String>> states = new TreeMap<>();
        for (TicketKind kind : TicketKind.values()) {
            states.put(kind.word(), kind.states());
        }
        return new Directory(
                people.stream()
                        .map(p -> new PersonName(p.id().value(), p.name(), p.active()))
                        .toList(),
                all ? groups() : List.of(),
                organisation.services().stream()
                        .map(s -> new ServiceName(s.id().value(), s.name()))
                        .toList(),
                all ? rotas() : List.of(),
                all ? sources() : List.of(),
                states,
                organisation.fields().ticketFields(),
                organisation.fields().ciFields(),
                organisation.fields().kinds(),
                organisation.priorities().rows(),
                all ? organisation.parts() : List.of());
    }

    private List<GroupName> groups() {
        return organisation.groups().stream()
                .map(g -> new GroupName(
                        g.id().value(),
                        g.name(),
                        g.members().stream().map(Object::toString).toList()))
                .toList();
    }

    private List<RotaName> rotas() {
        return organisation.rotas().stream()
                .map(r -> new RotaName(r.key().value(), r.name(), r.levels().size()))
                .toList();
    }

    private List<SourceName> sources() {
        return workflows.sources().stream()
                .map(s -> new SourceName(s.key().value(), s.name()))
                .toList();
    }
}
