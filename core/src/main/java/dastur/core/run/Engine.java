package dastur.core.run;

import dastur.core.expression.Expressions;
import dastur.core.expression.Vocabulary;
import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Visit.Alarm;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.Collections;
import java.util.Comparator;
import java.util.IdentityHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.concurrent.ConcurrentHashMap;
import java.util.stream.Stream;

/**
 * Decides and folds. The same case, command and context give the same events (law 1); nothing is thrown for what a user
 * did wrong. Compiled expressions are kept between calls, which changes no answer.
 */
public final class Engine {
    /** Visits opened in one decision before the rest waits for a {@link Command.Tick} (D1). */
    static final int MAX_VISITS_A_DECISION = 200;

    private static final int MAX_KEPT = 500;

    private record VersionKey(WorkflowVersion version, FieldCatalogue fields, List<Action> actions) {}

    /** What was compiled last for a version, and with what. */
    private record Compiled(
            FieldCatalogue fields, List<ActionKey> keys, List<Action> actions, Expressions expressions) {
        boolean fits(FieldCatalogue fieldsNow, WorkflowVersion version, Lookups lookups) {
            return fields.equals(fieldsNow) && actions.equals(found(keys, version, lookups));
        }
    }

    /**
     * By the very object a version is: to find it by what it says would read the whole workflow at every decision. A
     * version loaded anew is found in {@link #ofVersions}.
     */
    private final Map<WorkflowVersion, Compiled> lastUsed = Collections.synchronizedMap(new IdentityHashMap<>());

    private final Map<VersionKey, Expressions> ofVersions = new ConcurrentHashMap<>();
    private final Map<FieldCatalogue, Expressions> ofTickets = new ConcurrentHashMap<>();
    private final Map<Action, Expressions> ofActions = new ConcurrentHashMap<>();

    /**
     * Decides a command: first fires what is due, then treats the command, then goes on until every token waits.
     *
     * @param id the command's id, kept as the cause on every event
     */
    public Decision decide(Case before, String id, Actor actor, Command command, Context context) {
        try {
            Deciding deciding = new Deciding(this, before, id, actor, context);
            Optional<Refusal> refused = deciding.treat(command);
            return refused.<Decision>map(r -> new Decision.Refused(r, deciding.events(), deciding.now()))
                    .orElseGet(() -> new Decision.Accepted(deciding.events(), deciding.now()));
        } catch (Lookups.Missing missing) {
            return new Decision.Needs(missing.keys);
        }
    }

    /** Folds one event. */
    public static Case apply(Case before, Recorded event) {
        return Fold.apply(before, event);
    }

    /** Folds a whole record from nothing. */
    public static Case fold(dastur.core.ticket.TicketId ticket, Iterable<Recorded> record) {
        Case c = Case.none(ticket);
        for (Recorded event : record) {
            c = Fold.apply(c, event);
        }
        return c;
    }

    /** When the case next needs a {@link Command.Tick}; empty when nothing is due ever. */
    public static Optional<Instant> nextAlarm(Case c, Instant upSince) {
        if (c.open().values().stream().anyMatch(Run::goesOn)) {
            return Optional.ofNullable(c.lastAt());
        }
        Stream<Instant> targets = c.targets().values().stream()
                .flatMap(t ->
                        Stream.concat(t.rings() ? Stream.of(t.due()) : Stream.empty(), t.ahead().values().stream()));
        Stream<Instant> alarms = c.open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .filter(v -> !Alarms.standsStill(v))
                .flatMap(v -> v.alarms().stream().map(a -> Alarms.effectiveDue(v, a, upSince)));
        return Stream.of(targets, alarms, Tests.ends(c).stream())
                .flatMap(times -> times)
                .min(Comparator.naturalOrder());
    }

    /** An open visit's alarms as they will really fire, in order: what happens if nobody acts. */
    public static List<Alarm> alarms(Visit visit, Instant upSince) {
        return visit.alarms().stream()
                .map(a -> new Alarm(Alarms.effectiveDue(visit, a, upSince), a.kind(), a.number(), a.deed()))
                .sorted(Comparator.comparing(Alarm::due))
                .toList();
    }

    /** Of which tasks a person may still take back the outcome: nothing has followed from it (D29). */
    public static List<VisitId> mayTakeBack(Case c, PersonId person, Instant now) {
        return c.open().values().stream()
                .filter(run -> run.lastDone() != null
                        && TakingBack.refused(run, run.lastDone(), person, now).isEmpty())
                .map(run -> run.lastDone().visit().id())
                .toList();
    }

    /** What expressions see of a ticket outside any run, for trying them on it. */
    public static dastur.core.expression.Scope scope(
            Case c, java.util.function.Function<LookupKey, Optional<?>> look, Instant now) {
        java.util.Map<LookupKey, Optional<?>> values = new java.util.HashMap<>();
        java.util.function.BiConsumer<String, java.util.function.Function<String, LookupKey>> load =
                (field, key) -> c.text(field).map(key).ifPresent(k -> values.put(k, look.apply(k)));
        load.accept("ci", id -> new LookupKey.OfCi(new dastur.core.ticket.CiId(id)));
        load.accept("ci", id -> new LookupKey.BesideCi(new dastur.core.ticket.CiId(id)));
        load.accept("service", id -> new LookupKey.OfService(new dastur.core.ticket.ServiceId(id)));
        load.accept("requester", id -> new LookupKey.OfPerson(new dastur.core.people.PersonId(id)));
        return new CaseScope(c, null, null, Map.of(), new Lookups(values), now);
    }

    Expressions expressions(WorkflowVersion version, Lookups lookups) {
        FieldCatalogue fields = lookups.fields();
        Compiled last = lastUsed.get(version);
        if (last != null && last.fits(fields, version, lookups)) {
            return last.expressions();
        }
        List<ActionKey> keys = version.body()
                .all()
                .map(s -> Facts.of(s).action())
                .filter(Objects::nonNull)
                .distinct()
                .toList();
        List<Action> actions = found(keys, version, lookups);
        Expressions expressions = kept(
                ofVersions,
                new VersionKey(version, fields, actions),
                k -> new Expressions(Vocabulary.of(version, fields, Vocabulary.Declared.actions(key -> actions.stream()
                        .filter(a -> a.key().equals(key))
                        .findFirst()))));
        if (lastUsed.size() > MAX_KEPT) {
            lastUsed.clear();
        }
        lastUsed.put(version, new Compiled(fields, keys, actions, expressions));
        return expressions;
    }

    private static List<Action> found(List<ActionKey> keys, WorkflowVersion version, Lookups lookups) {
        return keys.stream()
                .map(key -> lookups.action(key, version))
                .flatMap(Optional::stream)
                .toList();
    }

    Expressions ticketExpressions(FieldCatalogue fields) {
        return kept(ofTickets, fields, f -> new Expressions(Vocabulary.ofTicket(f)));
    }

    Expressions actionExpressions(Action action) {
        return kept(ofActions, action, a -> new Expressions(Vocabulary.ofAction(a)));
    }

    private static <K, V> V kept(Map<K, V> map, K key, java.util.function.Function<K, V> make) {
        if (map.size() > MAX_KEPT) {
            map.clear();
        }
        return map.computeIfAbsent(key, make);
    }
}
