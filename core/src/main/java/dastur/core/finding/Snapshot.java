package dastur.core.finding;

import dastur.core.people.Group;
import dastur.core.people.Person;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.Service;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * An organisation as a file, so that workflows can be checked and rehearsed where no server runs. Holds no secrets and no
 * mail addresses.
 *
 * @param workflows live versions that others may call
 * @param rotas null in files of before there were any
 * @param terms null in files of before there were any
 */
public record Snapshot(
        FieldCatalogue fields,
        List<Group> groups,
        List<Person> people,
        List<Action> actions,
        List<Ladder> ladders,
        List<Service> services,
        List<ConfigurationItem> cis,
        List<WorkflowVersion> workflows,
        @Nullable List<Rota> rotas,
        @Nullable List<TermsOfUse> terms) {
    public KnownOrganisation organisation() {
        return new KnownOrganisation(
                fields,
                id -> groups.stream().filter(g -> g.id().equals(id)).findFirst(),
                id -> people.stream().filter(p -> p.id().equals(id)).findFirst(),
                key -> actions.stream().filter(a -> a.key().equals(key)).findFirst(),
                key -> ladders.stream().filter(l -> l.key().equals(key)).findFirst(),
                key -> workflows.stream().filter(w -> w.key().equals(key)).findFirst(),
                List.of(),
                this::rota,
                this::callersOf,
                List.of(),
                this::termsOf);
    }

    private Optional<TermsOfUse> termsOf(ActionKey key) {
        return Optional.ofNullable(terms)
                .flatMap(all -> all.stream().filter(t -> t.action().equals(key)).findFirst());
    }

    private List<WorkflowVersion> callersOf(WorkflowKey key) {
        return workflows.stream()
                .filter(w -> w.body().all().anyMatch(s -> key.equals(Facts.of(s).calls())))
                .toList();
    }

    private Optional<Rota> rota(RotaKey key) {
        return Optional.ofNullable(rotas)
                .flatMap(all -> all.stream().filter(r -> r.key().equals(key)).findFirst());
    }

    /** Looks a value up as a rehearsal asks for it; what a file does not hold does not exist. */
    public Optional<?> look(LookupKey key) {
        return switch (key) {
            case LookupKey.Fields k -> Optional.of(fields);
            case LookupKey.OfRota k -> rota(k.key());
            case LookupKey.OfRole k ->
                Optional.of(new Lookups.PeopleList(people.stream()
                        .filter(p -> p.active() && p.has(k.role()))
                        .map(Person::id)
                        .sorted()
                        .toList()));
            case LookupKey.OfGroup k -> organisation().groups().apply(k.id());
            case LookupKey.OfPerson k -> organisation().people().apply(k.id());
            case LookupKey.OfAction k -> organisation().actions().apply(k.key());
            case LookupKey.TermsOf k -> termsOf(k.key());
            case LookupKey.OfLadder k -> organisation().ladders().apply(k.key());
            case LookupKey.OfService k ->
                services.stream().filter(s -> s.id().equals(k.id())).findFirst();
            case LookupKey.OfCi k ->
                cis.stream().filter(c -> c.id().equals(k.id())).findFirst();
            case LookupKey.LiveVersion k ->
                organisation().workflows().apply(k.key()).map(WorkflowVersion::number);
            case LookupKey.OfVersion k ->
                organisation().workflows().apply(k.key()).filter(v -> v.number() == k.number());
            // A file holds none of these: it has no relations, no record, no calendars, priorities, triggers or
            // signals, and nobody
            // is away in it.
            case LookupKey.BesideCi k -> Optional.empty();
            case LookupKey.CoversOf k -> Optional.empty();
            case LookupKey.OfCalendar k -> Optional.empty();
            case LookupKey.DefaultCalendar k -> Optional.empty();
            case LookupKey.PinnedAction k -> Optional.empty();
            case LookupKey.VersionHash k -> Optional.empty();
            case LookupKey.LiveTriggers k -> Optional.empty();
            case LookupKey.Priorities k -> Optional.empty();
            case LookupKey.KeptSignal k -> Optional.empty();
            case LookupKey.RecentStarts k -> Optional.empty();
            case LookupKey.BadInRow k -> Optional.empty();
            case LookupKey.HeldBackTold k -> Optional.empty();
            case LookupKey.WaitingCall k -> Optional.empty();
            case LookupKey.ClosedVisit k -> Optional.empty();
        };
    }
}
