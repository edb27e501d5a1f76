package dastur.server.work;

import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import dastur.store.Workflows;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;

/** The workflows that people can start on a ticket (I13). */
public final class ByHand {
    /** Names along the expected way before the rest is only said to follow. */
    private static final int SHOWN = 6;

    private final Function<LookupKey, Optional<?>> look;
    private final Workflows workflows;

    public ByHand(Function<LookupKey, Optional<?>> look, Workflows workflows) {
        this.look = look;
        this.workflows = workflows;
    }

    /** Their live versions, by name. */
    public List<WorkflowVersion> on(TicketKind kind) {
        return workflows.liveTriggers().stream()
                .filter(live -> live.trigger().on() && live.trigger().when() instanceof Trigger.ByHand)
                .map(live -> new LookupKey.OfVersion(live.workflow(), live.version()))
                .distinct()
                .map(look)
                .flatMap(Optional::stream)
                .map(WorkflowVersion.class::cast)
                .filter(v -> v.kind() == null || v.kind() == kind)
                .sorted(Comparator.comparing(WorkflowVersion::name))
                .toList();
    }

    /** What a version is to do, by the names of the steps along its expected way; "…" where more follow. */
    public static List<String> mainLine(WorkflowVersion v) {
        List<String> names = new ArrayList<>();
        Set<Step> seen = new LinkedHashSet<>();
        Optional<Step> step = v.body().steps().stream().findFirst();
        while (step.isPresent() && !(step.get() instanceof Step.End) && seen.add(step.get())) {
            if (names.size() == SHOWN) {
                names.add("…");
                break;
            }
            names.add(step.get().name());
            step = next(v, step.get());
        }
        return names;
    }

    private static Optional<Step> next(WorkflowVersion v, Step step) {
        String exit = step.expected() != null
                ? step.expected()
                : step.exits(Known.NOTHING).stream().findFirst().orElse("");
        return Optional.ofNullable(step.ways().get(exit)).flatMap(v::find);
    }
}
