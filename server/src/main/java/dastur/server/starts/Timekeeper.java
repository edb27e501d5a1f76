package dastur.server.starts;

import dastur.core.json.Json;
import dastur.core.people.Actor;
import dastur.core.record.Seal;
import dastur.core.run.Cause;
import dastur.core.run.Command;
import dastur.core.start.Timetable;
import dastur.core.ticket.TicketId;
import dastur.core.time.CalendarKey;
import dastur.core.time.WorkingCalendar;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.server.work.CommandService;
import dastur.server.work.Repeatedly;
import dastur.store.Hooks;
import dastur.store.Nodes;
import dastur.store.Organisation;
import dastur.store.Schedules;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.HashSet;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.BooleanSupplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Starts what its time has come for (I10). One node does this at a time; two that think they do start each time once all the same,
 * since what a time starts goes by the time's own id.
 */
public final class Timekeeper implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Timekeeper.class);
    private static final Duration LOOKS_EVERY = Duration.ofSeconds(1);
    private static final Duration FORGETS_EVERY = Duration.ofHours(1);

    /**
     * What it works with.
     *
     * @param held whether nothing may be started, since the database was restored
     */
    public record Uses(
            Schedules schedules,
            Hooks hooks,
            Workflows workflows,
            Organisation organisation,
            CommandService commands,
            Nodes nodes,
            BooleanSupplier held,
            InstantSource clock) {}

    private final Uses means;
    private final Repeatedly rounds;
    private Instant lastForgot = Instant.MIN;

    public Timekeeper(Uses means) {
        this.means = means;
        this.rounds = new Repeatedly("timekeeper", LOOKS_EVERY, this::round);
    }

    public void start() {
        rounds.start();
    }

    /** Looks at once: the clock was moved. */
    public void wake() {
        rounds.wake();
    }

    private void round() {
        if (means.nodes().has(Nodes.Duty.STARTS) && !means.held().getAsBoolean()) {
            look();
        }
    }

    private void look() {
        Instant now = means.clock().instant();
        Map<TriggerId, Schedules.Stand> stands = means.schedules().stand();
        Set<TriggerId> on = new HashSet<>();
        for (Trigger.Live live : means.workflows().liveTriggers()) {
            if (live.trigger().on() && live.trigger().when() instanceof Trigger.TimeComes when) {
                on.add(live.trigger().id());
                try {
                    look(live, when, stands.get(live.trigger().id()), now);
                } catch (RuntimeException e) {
                    // One that hurts does not keep the others waiting; its time is not over, and is tried again.
                    LOG.warn(
                            "the schedule {} could not be looked at",
                            live.trigger().id(),
                            e);
                }
            }
        }
        stands.keySet().stream().filter(id -> !on.contains(id)).forEach(means.schedules()::end);
        if (lastForgot.isBefore(now.minus(FORGETS_EVERY))) {
            lastForgot = now;
            means.schedules().forgetBefore(now.minus(Schedules.KEPT));
            means.hooks().forgetBefore(now.minus(Hooks.KEPT));
        }
    }

    private void look(Trigger.Live live, Trigger.TimeComes when, Schedules.@Nullable Stand stand, Instant now) {
        TriggerId id = live.trigger().id();
        WorkingCalendar days = days(means.organisation(), when.rhythm().openDaysOf());
        String asSet = Json.write(when.rhythm())
                + (days == null ? "" : " " + Seal.hash(Json.write(days)).substring(0, 16));
        if (stand == null || !stand.rhythm().equals(asSet)) {
            Timetable.Mark first = when.rhythm()
                    .next(now, days)
                    .map(at -> new Timetable.Mark(at, false))
                    .orElse(null);
            means.schedules().begin(new Schedules.Stand(id, asSet, first));
            return;
        }
        Timetable.Mark mark = stand.mark();
        if (mark == null || mark.next().isAfter(now)) {
            return;
        }
        Timetable.Turn turn = Timetable.turn(when, mark, now, means.schedules().underWay(id), days);
        if (mark.equals(turn.then())) {
            return;
        }
        Schedules.Begun begun = turn.starts() == null ? null : begin(live, when, turn.starts(), turn.late());
        means.schedules().turned(id, mark, turn, begun);
    }

    /** The days on which something goes; null for all. A calendar that is not there any more shuts none out. */
    public static @Nullable WorkingCalendar days(Organisation organisation, @Nullable CalendarKey key) {
        return Optional.ofNullable(key)
                .flatMap(k -> organisation.calendars().stream()
                        .filter(c -> c.key().equals(k))
                        .findFirst())
                .orElse(null);
    }

    private Schedules.Begun begin(Trigger.Live live, Trigger.TimeComes when, Instant planned, @Nullable String late) {
        TriggerId id = live.trigger().id();
        Command raise = new Command.RaiseByCause(new Cause.TimeCame(id, planned, late), live, title(live), Map.of());
        return switch (means.commands().raise(when.kind(), "schedule." + id + "." + planned, Actor.CLOCK, raise)) {
            case CommandService.Outcome.Done done -> new Schedules.Begun(planned, new TicketId(done.ticket()), late);
            case CommandService.Outcome.Refused refused -> {
                LOG.warn(
                        "the schedule {} could not start: {}",
                        id,
                        refused.refusal().message());
                yield new Schedules.Begun(planned, null, refused.refusal().message());
            }
        };
    }

    /** What the ticket is called that a trigger opens. */
    public static String title(Trigger.Live live) {
        String own = live.trigger().when() instanceof Trigger.OfItself when
                ? switch (when) {
                    case Trigger.TimeComes time -> time.title();
                    case Trigger.Called called -> called.title();
                }
                : null;
        return own == null ? live.name() : own;
    }

    /** Ends when what it is at is done. */
    @Override
    public void close() {
        rounds.close();
    }
}
