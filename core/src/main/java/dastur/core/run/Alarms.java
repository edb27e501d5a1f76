package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Visit.Alarm;
import dastur.core.ticket.PriorityMatrix;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;

/** Fires what has come due, in the order of (due, visit, number) (D5), and treats what an outage made late (D6). */
final class Alarms {
    /** How long people have after an outage before something is taken from them. */
    private static final Duration GRACE = Duration.ofMinutes(5);

    private final Deciding d;

    Alarms(Deciding d) {
        this.d = d;
    }

    private record Due(Instant due, Visit visit, Alarm alarm) {}

    void fire() {
        Optional<Due> next = next();
        while (next.isPresent()) {
            fire(next.get());
            next = next();
        }
    }

    private Optional<Due> next() {
        return d.now().open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .filter(v -> !standsStill(v))
                .flatMap(v -> v.alarms().stream().map(a -> new Due(effectiveDue(v, a, d.context.upSince()), v, a)))
                .filter(due -> !due.due().isAfter(d.context.now()))
                .min(Comparator.comparing(Due::due)
                        .thenComparing(due -> due.visit().id())
                        .thenComparing(due -> due.alarm().number()));
    }

    /** Whether a visit's clocks stand still: while a question of somebody who decides is open. */
    static boolean standsStill(Visit visit) {
        return visit.waiting().openQuestion().isPresent();
    }

    /**
     * When an alarm fires. What only tells keeps its time. What takes something away and was missed while the
     * application was down fires five minutes after it came up, and later ones keep their distance from it.
     */
    static Instant effectiveDue(Visit visit, Alarm alarm, Instant upSince) {
        if (alarm.harmless()) {
            return alarm.due();
        }
        Optional<Instant> firstMissed = visit.alarms().stream()
                .filter(a -> !a.harmless() && a.due().isBefore(upSince))
                .map(Alarm::due)
                .min(Comparator.naturalOrder());
        return firstMissed
                .map(missed -> upSince.plus(GRACE).plus(Duration.between(missed, alarm.due())))
                .orElse(alarm.due());
    }

    private void fire(Due due) {
        Visit visit = due.visit();
        if (due.alarm().kind() == Visit.AlarmKind.RUNG) {
            rung(due);
            return;
        }
        Step step = d.step(visit);
        try {
            Rings<Step> kind = Kinds.of(step, Rings.class);
            kind.rang(step, visit, due.alarm(), new Here(d, d.position(visit)));
        } catch (CannotOpen cannot) {
            d.emit(Actor.CLOCK, visit, new Event.Stalled(cannot.code(), cannot.getMessage()));
        }
    }

    void leaveOrStall(Visit visit, String exit, String why) {
        boolean endsItem = new Brackets(d).endsItem(d.position(visit));
        if (Deciding.way(d.step(visit), exit) == null && !endsItem) {
            d.emit(Actor.CLOCK, visit, new Event.Stalled(exit, why));
            return;
        }
        leave(visit, exit, "the time was up");
        if (Deciding.way(d.version(d.run(visit.id().run())).step(visit.step()), exit) == null) {
            new Brackets(d).lineEnded(visit, exit);
        }
    }

    /** Fires a visit's next rung of a sort, before its time. */
    void fireNextRung(Visit visit, Predicate<Rung.Deed> sort) {
        visit.alarms().stream()
                .filter(a -> a.kind() == Visit.AlarmKind.RUNG && a.deed() != null && sort.test(a.deed()))
                .min(Comparator.comparing(Alarm::due))
                .ifPresent(a -> fire(new Due(d.at(), visit, a)));
    }

    private void leave(Visit visit, String exit, String why) {
        StepId to = Deciding.way(d.step(visit), exit);
        d.emit(Actor.CLOCK, visit, new Event.Left(exit, to, why));
    }

    private void rung(Due due) {
        Visit visit = due.visit();
        Alarm alarm = due.alarm();
        boolean late = alarm.due().isBefore(d.context.upSince());
        long shift = due.due().getEpochSecond() - alarm.due().getEpochSecond();
        Rung.Deed deed = alarm.deed();
        Step step = d.step(visit);
        if (deed != null && Kinds.plays(step, Climbs.class)) {
            Climbs<Step> kind = Kinds.of(step, Climbs.class);
            boolean done = kind.climbs(
                    step,
                    visit,
                    deed,
                    new Here(d, d.position(visit)),
                    // Fired before its time it shifts nothing.
                    (joined, needed) -> fired(visit, alarm, late, Math.max(0, shift), null, joined, needed));
            if (done) {
                return;
            }
        }
        switch (deed) {
            case Rung.Remind r -> {
                fired(visit, alarm, late, shift, null, List.of());
                new Deliveries(d)
                        .ask(
                                visit,
                                Actor.CLOCK,
                                "reminder",
                                asked(visit),
                                wanted().subject("Reminder: " + name(visit)),
                                wanted().of(visit));
            }
            case Rung.Tell t -> {
                fired(visit, alarm, late, shift, null, List.of());
                tell(
                        visit,
                        people().members(t.to(), d.position(visit)),
                        "escalation",
                        wanted().subject("Waiting: " + name(visit)),
                        t.text());
            }
            case Rung.Add a -> add(visit, alarm, late, shift, a);
            case Rung.HandOver h -> handOver(visit, alarm, late, shift, h);
            case Rung.RaisePriority r -> {
                fired(visit, alarm, late, shift, null, List.of());
                raisePriority(visit);
            }
            case Rung.Decide decide -> {
                fired(visit, alarm, late, shift, null, List.of());
                leave(visit, decide.exit(), "rung " + alarm.number() + " decided");
            }
            case null -> throw new IllegalStateException("a rung without a deed");
        }
    }

    private void fired(
            Visit visit, Alarm alarm, boolean late, long shift, @Nullable Assigned handedTo, List<PersonId> joined) {
        fired(visit, alarm, late, shift, handedTo, joined, null);
    }

    private void fired(
            Visit visit,
            Alarm alarm,
            boolean late,
            long shift,
            @Nullable Assigned handedTo,
            List<PersonId> joined,
            @Nullable Integer needed) {
        Rung.Deed deed = alarm.deed();
        if (deed != null) {
            d.emit(
                    Actor.CLOCK,
                    visit,
                    new Event.RungFired(alarm.number(), deed, late, shift, handedTo, joined, needed));
        }
    }

    private void add(Visit visit, Alarm alarm, boolean late, long shift, Rung.Add to) {
        Set<PersonId> already = new HashSet<>(visit.waiting().notAnew());
        visit.waiting().asks().map(Waiting.Asked::to).map(people()::active).ifPresent(already::addAll);
        List<PersonId> more = people().members(to.to(), d.position(visit)).stream()
                .filter(p -> !already.contains(p))
                .toList();
        fired(visit, alarm, late, shift, null, more);
        tell(visit, more, "escalation", wanted().subject("You are asked as well: " + name(visit)), null);
    }

    private void handOver(Visit visit, Alarm alarm, boolean late, long shift, Rung.HandOver to) {
        Assigned others = people().assigned(List.of(to.to()), d.position(visit));
        fired(visit, alarm, late, shift, others.nobody() ? null : others, List.of());
        tell(visit, people().active(others), "escalation", wanted().subject("Handed to you: " + name(visit)), null);
    }

    private void raisePriority(Visit visit) {
        String before = d.now().text("priority").orElse("P4");
        String after = PriorityMatrix.raised(before);
        if (!after.equals(before)) {
            d.emit(
                    Actor.CLOCK,
                    visit,
                    new Event.TicketChanged(
                            Map.of("priority", new Event.Change(before, after)),
                            null,
                            "raised by the ladder of '" + name(visit) + "'"));
        }
    }

    private void tell(Visit visit, List<PersonId> to, String purpose, String subject, @Nullable String text) {
        new Deliveries(d)
                .queue(
                        visit.id().run(),
                        visit.step(),
                        visit.id(),
                        Actor.CLOCK,
                        purpose,
                        to,
                        subject,
                        wanted().with(text == null ? null : people().render(text, d.position(visit)), visit));
    }

    private List<PersonId> asked(Visit visit) {
        return visit.waiting()
                .asks()
                .map(a -> a.claimedBy() == null ? people().active(a.to()) : List.of(a.claimedBy()))
                .orElse(List.of());
    }

    private String name(Visit visit) {
        return d.step(visit).name();
    }

    private Wanted wanted() {
        return new Wanted(d);
    }

    private Parties people() {
        return new Parties(d);
    }
}
