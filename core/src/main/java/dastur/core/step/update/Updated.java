package dastur.core.step.update;

import dastur.core.run.Content;
import dastur.core.run.Effect;
import dastur.core.run.Event;
import dastur.core.run.Event.Change;
import dastur.core.run.Event.Leaving;
import dastur.core.run.Event.OfVisit;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.ticket.CiId;
import dastur.core.workflow.StepId;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Fields, CI attributes and run variables were set, in one entry. */
public record Updated(
        String exit,
        @Nullable StepId to,
        Map<String, Change> changes,
        @Nullable CiId ci,
        @Nullable Boolean makes,
        @Content @Nullable Map<String, Change> texts,
        @Content @Nullable Map<String, Change> ciChanges,
        @Content @Nullable Map<String, Object> vars)
        implements OfVisit, Leaving {
    @Override
    public List<Effect> effects(@Nullable Visit before, Recorded r) {
        return List.of(new Effect.Sets(changes, texts, vars), new Effect.Leaves(to, r.outcome(exit)));
    }

    @Override
    public Stream<?> words() {
        return Event.after(texts);
    }

    @Override
    public @Nullable String outcome() {
        return "the ticket ended";
    }

    @Override
    public @Nullable OfCi changesCi() {
        return ci == null || ciChanges == null ? null : new OfCi(ci, makes != null, ciChanges);
    }

    @Override
    public Set<String> setsFields() {
        Set<String> all = new HashSet<>(changes.keySet());
        if (texts != null) {
            all.addAll(texts.keySet());
        }
        return all;
    }
}
