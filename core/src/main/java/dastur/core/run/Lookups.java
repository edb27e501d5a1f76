package dastur.core.run;

import dastur.core.people.Cover;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.ticket.Beside;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.PriorityMatrix;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * Immutable values by key. A key that was never loaded makes {@link Engine#decide} answer {@link Decision.Needs}; one that
 * was loaded and does not exist is empty.
 */
public final class Lookups {
    /** Thrown inside a decision only, where {@link Engine} turns it into {@link Decision.Needs}. */
    static final class Missing extends RuntimeException {
        final transient Set<LookupKey> keys;

        Missing(Set<LookupKey> keys) {
            super(null, null, false, false);
            this.keys = keys;
        }
    }

    /** Some people, in the order of their ids. */
    public record PeopleList(List<PersonId> people) {}

    /** Who acts for one person, now or later. */
    public record CoverList(List<Cover> covers) {}

    /** The triggers of live workflows. */
    public record TriggerList(List<Trigger.Live> triggers) {}

    /** How a visit ended: who did it, when, with which exit, and who has come too late since. */
    public record VisitEnd(String by, java.time.Instant at, String how, Set<PersonId> cameLate, List<Assigned> asked) {}

    /** A signal that came while nobody waited for it. */
    public record KeptSignal(String id, Map<String, Object> values) {}

    /**
     * Runs that triggers have started (I27).
     *
     * @param minute by this one within the last minute
     * @param hour by this one within the last hour
     * @param all by any within the last minute
     */
    public record RecentStarts(long minute, long hour, long all) {
        static final RecentStarts NONE = new RecentStarts(0, 0, 0);
    }

    /**
     * How an action has gone of late.
     *
     * @param calls that have gone badly since one went well, as far back as is looked
     * @param told when its keeper was last told of it, since one went well; null for not yet
     */
    public record BadInRow(int calls, java.time.@Nullable Instant told) {
        static final BadInRow NONE = new BadInRow(0, null);
    }

    private final Map<LookupKey, Optional<?>> remembered;
    private final Map<LookupKey, Optional<?>> values;

    public Lookups(Map<LookupKey, Optional<?>> values) {
        this(Map.of(), values);
    }

    /**
     * Values of one decision over those that are remembered between decisions. The remembered ones are not copied, so that
     * a decision costs the same however much is remembered.
     *
     * @param remembered keys may come to it meanwhile, but the value of a key never changes
     */
    public Lookups(Map<LookupKey, Optional<?>> remembered, Map<LookupKey, Optional<?>> values) {
        this.remembered = remembered;
        this.values = Map.copyOf(values);
    }

    /** The same with a CI as a decision has made it. */
    Lookups with(ConfigurationItem ci) {
        Map<LookupKey, Optional<?>> more = new HashMap<>(values);
        more.put(new LookupKey.OfCi(ci.id()), Optional.of(ci));
        more.replaceAll((key, value) ->
                key instanceof LookupKey.BesideCi ? value.map(b -> ((Beside) b).with(List.of(ci))) : value);
        return new Lookups(remembered, more);
    }

    public static Lookups none() {
        return new Lookups(Map.of());
    }

    private <T> Optional<T> get(LookupKey key, Class<T> type) {
        Optional<?> own = values.get(key);
        Optional<?> value = own == null ? remembered.get(key) : own;
        if (value == null) {
            throw new Missing(Set.of(key));
        }
        return value.map(type::cast);
    }

    public Optional<Person> person(PersonId id) {
        return get(new LookupKey.OfPerson(id), Person.class);
    }

    public Optional<Group> group(GroupId id) {
        return get(new LookupKey.OfGroup(id), Group.class);
    }

    public Optional<Rota> rota(RotaKey key) {
        return get(new LookupKey.OfRota(key), Rota.class);
    }

    public List<Cover> coversOf(PersonId id) {
        return get(new LookupKey.CoversOf(id), CoverList.class)
                .map(CoverList::covers)
                .orElse(List.of());
    }

    public List<PersonId> withRole(Role role) {
        return get(new LookupKey.OfRole(role), PeopleList.class)
                .map(PeopleList::people)
                .orElse(List.of());
    }

    public Optional<ConfigurationItem> ci(CiId id) {
        return get(new LookupKey.OfCi(id), ConfigurationItem.class);
    }

    /** The CIs that a CI is related to. */
    Beside beside(CiId id) {
        return get(new LookupKey.BesideCi(id), Beside.class).orElse(Beside.NOTHING);
    }

    public Optional<Service> service(ServiceId id) {
        return get(new LookupKey.OfService(id), Service.class);
    }

    public WorkingCalendar calendar(Optional<Service> service) {
        return service.map(Service::calendar)
                .flatMap(key -> get(new LookupKey.OfCalendar(key), WorkingCalendar.class))
                .or(() -> get(new LookupKey.DefaultCalendar(), WorkingCalendar.class))
                .orElse(WorkingCalendar.ALWAYS);
    }

    /** The hours of a group, where it has its own. */
    public Optional<WorkingCalendar> calendarOf(GroupId id) {
        return group(id).map(Group::calendar).flatMap(key -> get(new LookupKey.OfCalendar(key), WorkingCalendar.class));
    }

    public Optional<Ladder> ladder(LadderKey key) {
        return get(new LookupKey.OfLadder(key), Ladder.class);
    }

    public Optional<Action> action(ActionKey key) {
        return get(new LookupKey.OfAction(key), Action.class);
    }

    /** An action as a version of a workflow uses it. */
    public Optional<Action> action(ActionKey key, WorkflowVersion by) {
        return action(key, by.key(), by.number());
    }

    Optional<Action> action(ActionKey key, WorkflowKey workflow, int version) {
        return get(new LookupKey.PinnedAction(key, workflow, version), Action.class);
    }

    /** Who may use an action, and where; empty for everybody, everywhere. */
    public Optional<TermsOfUse> terms(ActionKey key) {
        return get(new LookupKey.TermsOf(key), TermsOfUse.class);
    }

    public BadInRow badInRow(ActionKey key) {
        return get(new LookupKey.BadInRow(key), BadInRow.class).orElse(BadInRow.NONE);
    }

    public Optional<WorkflowVersion> version(WorkflowKey key, int number) {
        return get(new LookupKey.OfVersion(key, number), WorkflowVersion.class);
    }

    public Optional<String> versionHash(WorkflowKey key, int number) {
        return get(new LookupKey.VersionHash(key, number), String.class);
    }

    public Optional<Integer> liveVersion(WorkflowKey key) {
        return get(new LookupKey.LiveVersion(key), Integer.class);
    }

    public List<Trigger.Live> liveTriggers() {
        return get(new LookupKey.LiveTriggers(), TriggerList.class)
                .map(TriggerList::triggers)
                .orElse(List.of());
    }

    /** How often a trigger has started its workflow of late. */
    RecentStarts recentStarts(TriggerId trigger, java.time.Instant until) {
        return get(new LookupKey.RecentStarts(trigger, until), RecentStarts.class)
                .orElse(RecentStarts.NONE);
    }

    Optional<java.time.Instant> heldBackTold(TriggerId trigger) {
        return get(new LookupKey.HeldBackTold(trigger), java.time.Instant.class);
    }

    public FieldCatalogue fields() {
        return get(new LookupKey.Fields(), FieldCatalogue.class).orElse(FieldCatalogue.PLAIN);
    }

    PriorityMatrix priorities() {
        return get(new LookupKey.Priorities(), PriorityMatrix.class).orElse(PriorityMatrix.USUAL);
    }

    public Optional<KeptSignal> keptSignal(String signal, @Nullable String key, java.time.Instant since) {
        return get(new LookupKey.KeptSignal(signal, key, since), KeptSignal.class);
    }

    /** Whether an attempt of a visit's call is sure not to have been begun. */
    public boolean isWaiting(VisitId id, int attempt) {
        return get(new LookupKey.WaitingCall(id, attempt), Boolean.class).orElse(false);
    }

    public Optional<VisitEnd> closedVisit(VisitId id) {
        return get(new LookupKey.ClosedVisit(id), VisitEnd.class);
    }
}
