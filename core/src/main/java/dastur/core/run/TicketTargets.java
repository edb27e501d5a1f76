package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.ticket.Promised;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Trigger;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * The clocks of a ticket: how soon its service promises to respond and to restore, by priority, in the calendar of the
 * service. They stand still while the ticket waits for somebody outside.
 */
final class TicketTargets {
    private static final String WAITING = "waiting";

    private final Deciding d;

    TicketTargets(Deciding d) {
        this.d = d;
    }

    // --- the clock

    /** Says of targets that have passed that they were missed, once, and tells whoever has the ticket. */
    void ring() {
        d.now().targets().forEach((kind, target) -> {
            Instant due = target.due();
            if (target.rings() && due != null && !due.isAfter(d.context.now())) {
                d.emit(Actor.CLOCK, null, null, null, new Event.TargetMissed(kind, due));
                tell(kind);
            }
        });
        d.now().targets().forEach((kind, target) -> target.ahead().forEach((percent, at) -> {
            if (!at.isAfter(d.context.now())) {
                d.emit(Actor.CLOCK, null, null, null, new Event.ClockReached(kind, percent));
            }
        }));
    }

    private void tell(Promised kind) {
        List<PersonId> people = d.now()
                .text("assignee")
                .map(PersonId::new)
                .map(List::of)
                .orElseGet(() -> d.now()
                        .text("group")
                        .map(g -> new Parties(d).active(new Assigned(List.of(new GroupId(g)), List.of())))
                        .orElse(List.of()));
        if (!people.isEmpty()) {
            new Deliveries(d)
                    .queue(
                            null,
                            null,
                            null,
                            Actor.CLOCK,
                            "escalation",
                            people,
                            d.now().id() + " is late: the time to " + kind.word() + " is over",
                            d.now().text("title").orElse(""));
        }
    }

    // --- changes of the ticket

    /** Sets, stops and runs on as the ticket as it is now asks for. */
    void settle() {
        TicketKind of = d.now().kind();
        if (of == null || !of.isWeighed() || d.now().test() != null) {
            return;
        }
        Map<Promised, Target> before = d.now().targets();
        boolean anew = !d.before.exists()
                || changed("service") && !same("service", d.now())
                || changed("priority") && !same("priority", d.now());
        if (before.isEmpty() && !anew) {
            return;
        }
        Map<Promised, Target> after = new TreeMap<>(before);
        String why = anew ? promised(after) : "";
        if (d.now().state().equals("cancelled")) {
            // Nothing is promised any more; what was met or missed stays as it was.
            after.values().removeIf(t -> t.metAt() == null && !t.missed());
        }
        for (Promised kind : Promised.values()) {
            Target target = after.get(kind);
            if (target != null) {
                after.put(kind, marked(kind, before.get(kind), moved(kind, target)));
            }
        }
        if (!after.equals(before)) {
            d.emit(
                    Actor.SYSTEM,
                    null,
                    null,
                    null,
                    new Event.TargetsSet(after, why.isEmpty() ? why(before, after) : why));
        }
    }

    /**
     * Sets when the parts of it are reached at which triggers listen. They are worked out anew only where the clock or what is
     * listened to has changed: rounded to minutes, they would else move each time.
     */
    private Target marked(Promised kind, @Nullable Target before, Target now) {
        List<Integer> passed = before == null || before.marks() == null
                ? List.of()
                : before.marks().passed();
        Set<Integer> wanted = now.runs() ? listenedTo(kind) : new TreeSet<>();
        wanted.removeAll(passed);
        if (wanted.isEmpty()) {
            return now.marked(passed.isEmpty() ? null : new Target.Marks(new TreeMap<>(), passed));
        }
        boolean stands = before != null
                && before.runs()
                && Objects.equals(before.due(), now.due())
                && before.ahead().keySet().equals(wanted);
        if (stands) {
            return now.marked(before.marks());
        }
        TreeMap<Integer, Instant> ahead = new TreeMap<>();
        wanted.forEach(percent -> ahead.put(percent, reached(now, percent)));
        return now.marked(new Target.Marks(ahead, passed));
    }

    private Set<Integer> listenedTo(Promised kind) {
        Set<Integer> percents = new TreeSet<>();
        for (Trigger.Live live : d.lookups().liveTriggers()) {
            if (live.trigger().on()
                    && live.trigger().when() instanceof Trigger.ClockReaches when
                    && when.clock() == kind
                    && (when.kind() == null || when.kind() == d.now().kind())) {
                percents.add(when.percent());
            }
        }
        return percents;
    }

    /** When so much of what was promised will be over; now, where it is already. */
    private Instant reached(Target target, int percent) {
        Instant due = Objects.requireNonNull(target.due());
        Span promise = target.promise();
        if (promise == null || percent >= 100) {
            return due;
        }
        Duration last = length(promise).multipliedBy(100 - percent).dividedBy(100);
        Duration until = calendar().between(d.at(), due, target.working()).minus(last);
        if (until.isZero() || until.isNegative()) {
            return d.at();
        }
        return target.working() ? calendar().after(d.at(), minutes(until, true)).orElse(due) : due.minus(last);
    }

    private boolean changed(String field) {
        return !Objects.equals(d.before.fields().get(field), d.now().fields().get(field));
    }

    /** Whether the targets as they stand were set for this value already, in this same decision. */
    private boolean same(String field, Case c) {
        return Objects.equals(c.promisedFor().get(field), c.fields().get(field));
    }

    private String why(Map<Promised, Target> before, Map<Promised, Target> after) {
        boolean only = before.keySet().equals(after.keySet())
                && after.entrySet().stream().allMatch(t -> t.getValue()
                        .marked(null)
                        .equals(before.get(t.getKey()).marked(null)));
        if (only) {
            return "what starts at a part of the time has changed";
        }
        String state = d.now().state();
        return state.equals(WAITING) ? "it waits" : "it is '" + state + "'";
    }

    /** What the service promises for the priority, counted from when the ticket was raised; waiting does not count. */
    private String promised(Map<Promised, Target> targets) {
        Optional<Service> service = service();
        String priority = d.now().text("priority").orElse("P4");
        Service.Promise promise = service.map(s -> s.targets().get(priority)).orElse(new Service.Promise(null, null));
        put(targets, Promised.RESPOND, promise.respond());
        put(targets, Promised.RESTORE, promise.restore());
        return service.map(s -> "promised by " + s.name() + " for " + priority).orElse("nothing is promised");
    }

    private void put(Map<Promised, Target> targets, Promised kind, @Nullable Span promise) {
        Target before = targets.get(kind);
        if (before != null && before.metAt() != null) {
            return;
        }
        if (promise == null) {
            targets.remove(kind);
            return;
        }
        Duration waited = before == null ? Duration.ZERO : waited(before, promise.working());
        Optional<Instant> due = calendar()
                .after(
                        Objects.requireNonNull(d.now().createdAt()),
                        waited.isZero() ? promise : minutes(length(promise).plus(waited), promise.working()));
        if (due.isEmpty()) {
            targets.remove(kind);
        } else {
            targets.put(kind, new Target(due.get(), null, promise.working(), null, false, promise));
        }
    }

    private static Span minutes(Duration time, boolean working) {
        return new Span((time.toSeconds() + 59) / 60, Span.Unit.MINUTE, working);
    }

    /** How long a promise is from when the ticket was raised: a working day has the hours of its day. */
    private Duration length(Span promise) {
        Instant raised = Objects.requireNonNull(d.now().createdAt());
        return calendar()
                .after(raised, promise)
                .map(end -> calendar().between(raised, end, promise.working()))
                .orElse(Duration.ZERO);
    }

    /**
     * How long a target has stood still: what it has run and what is left of it make more than was promised. Waiting is
     * given back in the measure in which it was kept only; office hours and the clock's cannot be turned into each other.
     */
    private Duration waited(Target target, boolean working) {
        Span promise = target.promise();
        if (promise == null || target.working() != working) {
            return Duration.ZERO;
        }
        Instant raised = Objects.requireNonNull(d.now().createdAt());
        Instant until = target.due() == null ? d.at() : target.due();
        Duration left = target.rest() == null || target.due() != null
                ? Duration.ZERO
                : Duration.ofSeconds(target.rest().roughSeconds());
        Duration more = calendar().between(raised, until, working).plus(left).minus(length(promise));
        return more.isNegative() ? Duration.ZERO : more;
    }

    private Target moved(Promised kind, Target target) {
        if (kind == Promised.RESPOND && target.metAt() != null) {
            // Whoever has responded once has responded, whatever becomes of the ticket.
            return target;
        }
        boolean met = kind == Promised.RESPOND ? isResponded() : isRestored();
        if (met && target.metAt() == null) {
            return new Target(target.due(), left(target), target.working(), d.at(), target.missed(), target.promise());
        }
        boolean stands = d.now().state().equals(WAITING);
        if (!met && stands && target.due() != null) {
            return new Target(null, left(target), target.working(), null, target.missed(), target.promise());
        }
        boolean runsOn = !met && !stands && target.rest() != null;
        return runsOn ? runningOn(target) : target;
    }

    private Target runningOn(Target target) {
        Span rest = Objects.requireNonNull(target.rest());
        Instant due = calendar().after(d.at(), rest).orElse(d.at());
        return new Target(due, null, target.working(), null, target.missed() && rest.amount() == 0, target.promise());
    }

    private @Nullable Span left(Target target) {
        if (target.due() == null) {
            return target.rest();
        }
        Duration left = calendar().between(d.at(), target.due(), target.working());
        return minutes(left, target.working());
    }

    /** Somebody has it, it has left its first state, or somebody has just taken up or done a task of it. */
    private boolean isResponded() {
        TicketKind kind = Objects.requireNonNull(d.now().kind());
        return d.now().text("assignee").isPresent()
                || !d.now().state().equals(kind.firstState())
                || d.events().stream().anyMatch(r -> r.event() instanceof Event.OfVisit e && e.responds());
    }

    private boolean isRestored() {
        TicketKind kind = Objects.requireNonNull(d.now().kind());
        return d.now().state().equals(kind.solvedState())
                || TicketKind.ended(d.now().state());
    }

    private Optional<Service> service() {
        return d.now().text("service").map(ServiceId::new).flatMap(d.lookups()::service);
    }

    private WorkingCalendar calendar() {
        Function<Optional<Service>, WorkingCalendar> of = d.lookups()::calendar;
        return of.apply(service());
    }
}
