package dastur.core.step.task;

import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Event.PlannedRung;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.ticket.Field;
import dastur.core.workflow.StepId;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What happens to tasks. */
public final class TaskEvents {
    private TaskEvents() {}

    /** A task was offered. */
    public record TaskOffered(
            String name,
            Assigned to,
            @Nullable Assigned overseers,
            List<String> outcomes,
            List<Field> form,
            @Nullable Instant due,
            boolean leavesWhenOverdue,
            @Nullable Boolean mayLeaveOut,
            List<PlannedRung> rungs,
            @Content @Nullable String instructions)
            implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Waiting task = new OpenTask(
                    name, instructions, to, overseers, null, outcomes, form, due, Boolean.TRUE.equals(mayLeaveOut));
            List<Visit.Alarm> alarms = new ArrayList<>(PlannedRung.alarms(rungs));
            if (due != null && leavesWhenOverdue) {
                alarms.add(new Visit.Alarm(due, Visit.AlarmKind.OVERDUE, 0, null));
            }
            return List.of(new Effect.Opens(task, alarms));
        }

        @Override
        public List<Assigned> asks() {
            return overseers == null ? List.of(to) : List.of(to, overseers);
        }
    }

    /** A task was left out, by its condition or by a person's say: a normal result. */
    public record TaskLeftOut(
            @Nullable PersonId by,
            String exit,
            @Nullable StepId to,
            @Content @Nullable String reason) implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of(new Effect.Leaves(to, r.outcome("left out")));
        }

        @Override
        public Stream<?> words() {
            return Stream.ofNullable(reason);
        }

        @Override
        public String endedBy() {
            return "left it out";
        }
    }

    /** @param stopsLadder whether its ladder stands still while somebody has it; null for no */
    public record TaskClaimed(PersonId by, @Nullable Boolean stopsLadder) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof OpenTask task)) {
                return List.of();
            }
            Visit claimed = before.waitingFor(task.claimed(by));
            return List.of(new Effect.Becomes(
                    Boolean.TRUE.equals(stopsLadder) ? claimed.without(Visit.AlarmKind.RUNG) : claimed));
        }

        @Override
        public boolean responds() {
            return true;
        }
    }

    /** @param rungs those of its ladder, planned anew; null where the ladder was not stopped */
    public record TaskHandedBack(PersonId by, @Nullable List<PlannedRung> rungs) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof OpenTask task)) {
                return List.of();
            }
            Visit free = before.waitingFor(task.claimed(null));
            return List.of(new Effect.Becomes(
                    rungs == null
                            ? free
                            : free.alarmed(Stream.concat(
                                            free.without(Visit.AlarmKind.RUNG).alarms().stream(),
                                            PlannedRung.alarms(rungs).stream())
                                    .toList())));
        }
    }

    /** Somebody took back an outcome that they had given by mistake; the task is open as before (D29). */
    public record TaskTakenBack(PersonId by, String exit) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            return List.of(new Effect.TakenBack());
        }
    }

    /** A task was passed on to others, who have it alone from now on. */
    public record TaskPassedOn(
            PersonId by, Assigned to, @Content @Nullable String reason) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof OpenTask task)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(before.waitingFor(task.handedTo(to))));
        }

        @Override
        public List<Assigned> asks() {
            return List.of(to);
        }

        @Override
        public Stream<?> words() {
            return Stream.ofNullable(reason);
        }

        @Override
        public String endedBy() {
            return "passed it on";
        }
    }

    /** A task was done with one of its outcomes. @param asOverseer whether it was not offered to them; null for no */
    public record TaskDone(
            PersonId by,
            String exit,
            @Nullable StepId to,
            @Nullable Boolean asOverseer,
            @Content @Nullable Map<String, Object> form,
            @Content @Nullable String note)
            implements OfVisit, Leaving {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            Map<String, Object> values = r.outcome(exit);
            values.put("by", by.value());
            if (form != null) {
                values.putAll(form);
            }
            if (note != null) {
                values.put("note", note);
            }
            Effect undo = before == null || to == null ? new Effect.Settled() : new Effect.MayBeTakenBack(by);
            return List.of(undo, new Effect.Leaves(to, values));
        }

        @Override
        public Stream<?> words() {
            return Stream.concat(Event.wordsOf(form), Stream.ofNullable(note));
        }

        @Override
        public boolean responds() {
            return true;
        }

        @Override
        public @Nullable Map<String, Object> brings() {
            return form;
        }
    }

    /** Somebody asked others to help with a task; they may do it too. */
    public record HelpAsked(
            PersonId by, Assigned to, @Content @Nullable String text) implements OfVisit {
        @Override
        public List<Effect> effects(@Nullable Visit before, Recorded r) {
            if (before == null || !(before.waiting() instanceof OpenTask task)) {
                return List.of();
            }
            return List.of(new Effect.Becomes(before.waitingFor(task.helpedBy(to))));
        }

        @Override
        public List<Assigned> asks() {
            return List.of(to);
        }
    }
}
