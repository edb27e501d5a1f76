package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.PersonId;
import dastur.core.run.Visit.Alarm;
import dastur.core.ticket.PriorityMatrix;
import dastur.core.workflow.Rung;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
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
        return visit.waiting() instanceof Waiting.Votes votes && votes.askedBack() != null;
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
        switch (due.alarm().kind()) {
            case RUNG -> rung(due);
            case OVERDUE -> leave(visit, "overdue", "the time was up");
            case LAPSE -> lapse(visit);
            case RETRY -> new CallRules(d).repeat(visit);
            case TIME_LIMIT -> new CallRules(d).timeLimit(visit);
            case WAIT -> leave(visit, "done", "the wait was over");
            case TIMEOUT -> timeOut(visit);
            case PAUSE -> new Brackets(d).nextRound(visit);
            case JUDGE -> judge(visit);
        }
    }

    private void judge(Visit visit) {
        try {
            new Checks(d).again(visit);
        } catch (Opening.CannotOpen cannot) {
            d.emit(Actor.CLOCK, visit, new Event.Stalled(cannot.code, cannot.getMessage()));
        }
    }

    private void timeOut(Visit visit) {
        switch (visit.waiting()) {
            case Waiting.Lines lines -> new Brackets(d).leave(visit, "gave up", "its time was up");
            case Waiting.CallIn callIn ->
                leaveOrStall(visit, "exhausted", "Nobody accepted in time, and no way leads on from 'exhausted'.");
            default ->
                leaveOrStall(
                        visit,
                        "timed out",
                        "What was waited for did not come in time, and no way leads on from 'timed out'.");
        }
    }

    private void leaveOrStall(Visit visit, String exit, String why) {
        boolean endsItem = new Brackets(d).endsItem(d.site(visit));
        if (Deciding.way(d.step(visit), exit) == null && !endsItem) {
            d.emit(Actor.CLOCK, visit, new Event.Stalled(exit, why));
            return;
        }
        leave(visit, exit, "the time was up");
        if (Deciding.way(d.version(d.run(visit.id().run())).step(visit.step()), exit) == null) {
            new Brackets(d).lineEnded(visit, exit);
        }
    }

    /** Whether a rung of a call-in asks somebody to come. */
    static boolean asks(Rung.Deed deed) {
        return deed instanceof Rung.Tell || deed instanceof Rung.Add || deed instanceof Rung.HandOver;
    }

    /** Fires a visit's next rung that asks somebody, before its time. */
    void fireNextRung(Visit visit) {
        visit.alarms().stream()
                .filter(a -> a.kind() == Visit.AlarmKind.RUNG && a.deed() != null && asks(a.deed()))
                .min(Comparator.comparing(Alarm::due))
                .ifPresent(a -> fire(new Due(d.at(), visit, a)));
    }

    private void lapse(Visit visit) {
        if (Deciding.way(d.step(visit), "lapsed") != null) {
            leave(visit, "lapsed", "the time was up");
        } else {
            d.emit(
                    Actor.CLOCK,
                    visit,
                    new Event.Stalled("lapsed", "Nobody decided in time, and no way leads on from 'lapsed'."));
        }
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
        if (visit.waiting() instanceof Waiting.CallIn callIn && deed != null && asks(deed)) {
            callIn(visit, alarm, late, Math.max(0, shift), callIn);
            return;
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
                        people().members(t.to(), d.site(visit)),
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

    /** Asks a rung's people to come. */
    private void callIn(Visit visit, Alarm alarm, boolean late, long shift, Waiting.CallIn callIn) {
        List<PersonId> more =
                switch (alarm.deed()) {
                    case Rung.Tell t -> people().members(t.to(), d.site(visit));
                    case Rung.Add a -> people().members(a.to(), d.site(visit));
                    case Rung.HandOver h -> people().members(List.of(h.to()), d.site(visit));
                    case null, default -> List.of();
                };
        fired(visit, alarm, late, shift, null, more);
        tell(visit, more, "call-in", wanted().subject("You are called in: " + callIn.name()), null);
    }

    private void fired(
            Visit visit, Alarm alarm, boolean late, long shift, @Nullable Assigned handedTo, List<PersonId> joined) {
        Rung.Deed deed = alarm.deed();
        if (deed != null) {
            Integer needed = visit.waiting() instanceof Waiting.Votes votes && !joined.isEmpty()
                    ? neededOf(visit, votes, joined)
                    : null;
            d.emit(
                    Actor.CLOCK,
                    visit,
                    new Event.RungFired(alarm.number(), deed, late, shift, handedTo, joined, needed));
        }
    }

    /** As many as the rule says of all who decide then; where one from each is needed, that stays. */
    private @Nullable Integer neededOf(Visit visit, Waiting.Votes votes, List<PersonId> joined) {
        if (votes.sets() != null) {
            return null;
        }
        int all = votes.joinedBy(joined, null).electorate().size();
        int needed = ((Step.Approval) d.step(visit)).rule().needed(all);
        return needed == votes.needed() ? null : needed;
    }

    private void add(Visit visit, Alarm alarm, boolean late, long shift, Rung.Add to) {
        List<PersonId> already =
                switch (visit.waiting()) {
                    case Waiting.Task t -> people().active(t.to());
                    case Waiting.Votes v ->
                        Stream.concat(v.electorate().stream(), v.excluded().stream())
                                .toList();
                    default -> List.of();
                };
        List<PersonId> more = people().members(to.to(), d.site(visit)).stream()
                .filter(p -> !already.contains(p))
                .toList();
        fired(visit, alarm, late, shift, null, more);
        if (visit.waiting() instanceof Waiting.Votes votes) {
            askToDecide(visit, votes, more);
        } else {
            tell(visit, more, "escalation", wanted().subject("You are asked as well: " + name(visit)), null);
        }
    }

    private void handOver(Visit visit, Alarm alarm, boolean late, long shift, Rung.HandOver to) {
        Assigned others = people().assigned(List.of(to.to()), d.site(visit));
        if (visit.waiting() instanceof Waiting.Votes votes) {
            List<PersonId> more = people().active(others).stream()
                    .filter(p -> !votes.excluded().contains(p))
                    .toList();
            fired(visit, alarm, late, shift, null, more);
            askToDecide(visit, votes, more);
        } else {
            fired(visit, alarm, late, shift, others.nobody() ? null : others, List.of());
            tell(visit, people().active(others), "escalation", wanted().subject("Handed to you: " + name(visit)), null);
        }
    }

    private void askToDecide(Visit visit, Waiting.Votes votes, List<PersonId> people) {
        new ApprovalRules(d).tell(visit.id(), (Step.Approval) d.step(visit), people, votes.round());
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
                        wanted().with(text == null ? null : people().render(text, d.site(visit)), visit));
    }

    private List<PersonId> asked(Visit visit) {
        return switch (visit.waiting()) {
            case Waiting.Task t -> t.claimedBy() == null ? people().active(t.to()) : List.of(t.claimedBy());
            case Waiting.Votes v ->
                v.electorate().stream().filter(p -> !v.cast().containsKey(p)).toList();
            default -> List.of();
        };
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
