package dastur.core.step.task;

import dastur.core.people.Cover;
import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.run.Waiting.Asked;
import dastur.core.ticket.Field;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** A person's outcome. */
public record OpenTask(
        String name,
        @Nullable String instructions,
        Assigned to,
        @Nullable Assigned overseers,
        @Nullable PersonId claimedBy,
        List<String> outcomes,
        List<Field> form,
        @Nullable Instant due,
        boolean mayLeaveOut)
        implements Waiting.InRoom {
    @Override
    public Optional<Asked> asks() {
        return Optional.of(new Asked("task", name, to, overseers, claimedBy, due, Cover.Scope.TASKS));
    }

    @Override
    public boolean coveredBy(Cover cover) {
        return cover.scope().meets(Cover.Scope.TASKS)
                && (to.people().contains(cover.person()) || cover.person().equals(claimedBy));
    }

    @Override
    public boolean alive(Visit visit) {
        return !to.nobody();
    }

    @Override
    public Waiting later(long seconds) {
        return due == null ? this : dueAt(due.plusSeconds(seconds));
    }

    @Override
    public boolean untouched() {
        return claimedBy == null;
    }

    @Override
    public @Nullable String words() {
        return instructions;
    }

    private OpenTask dueAt(Instant other) {
        return new OpenTask(name, instructions, to, overseers, claimedBy, outcomes, form, other, mayLeaveOut);
    }

    OpenTask claimed(@Nullable PersonId by) {
        return new OpenTask(name, instructions, to, overseers, by, outcomes, form, due, mayLeaveOut);
    }

    /** Others are asked for help, beside those who have it. */
    OpenTask helpedBy(Assigned others) {
        List<GroupId> groups =
                Stream.concat(to.groups().stream(), others.groups().stream()).toList();
        List<PersonId> people =
                Stream.concat(to.people().stream(), others.people().stream()).toList();
        return new OpenTask(
                name,
                instructions,
                new Assigned(groups, people),
                overseers,
                claimedBy,
                outcomes,
                form,
                due,
                mayLeaveOut);
    }

    @Override
    public OpenTask handedTo(Assigned others) {
        return new OpenTask(name, instructions, others, overseers, null, outcomes, form, due, mayLeaveOut);
    }

    /** Offered to these as well; whoever has claimed it keeps it. */
    @Override
    public OpenTask joinedBy(List<PersonId> more, @Nullable Integer needed) {
        List<PersonId> people = java.util.stream.Stream.concat(to.people().stream(), more.stream())
                .distinct()
                .toList();
        return new OpenTask(
                name,
                instructions,
                new Assigned(to.groups(), people),
                overseers,
                claimedBy,
                outcomes,
                form,
                due,
                mayLeaveOut);
    }
}
