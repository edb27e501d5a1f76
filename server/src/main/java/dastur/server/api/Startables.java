package dastur.server.api;

import dastur.core.run.Case;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.api.Views.Startable;
import dastur.store.Workflows;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Stream;

/** The workflows that can be started by hand on a ticket, each with what it will do. */
final class Startables {
    /** Names along the expected way before the rest is only said to follow. */
    private static final int SHOWN = 6;

    private final Function<LookupKey, Optional<?>> look;
    private final Workflows workflows;

    Startables(Function<LookupKey, Optional<?>> look, Workflows workflows) {
        this.look = look;
        this.workflows = workflows;
    }

    List<Startable> of(TicketKind kind) {
        return workflows.liveTriggers().stream()
                .filter(live -> live.trigger().on() && live.trigger().when() instanceof Trigger.ByHand)
                .map(live -> new LookupKey.OfVersion(live.workflow(), live.version()))
                .distinct()
                .map(look)
                .flatMap(Optional::stream)
                .map(WorkflowVersion.class::cast)
                .filter(v -> v.kind() == null || v.kind() == kind)
                .sorted(Comparator.comparing(WorkflowVersion::name))
                .map(this::startable)
                .toList();
    }

    /** What triggers have proposed and nobody has answered yet, each with what it asks for. */
    List<Views.OfferView> offers(Case c) {
        return c.offers().values().stream()
                .map(o -> new Views.OfferView(
                        c.id() + "/" + o.trigger(),
                        o.trigger().value(),
                        o.workflow().value(),
                        o.name(),
                        o.asked(),
                        o.at(),
                        workflows
                                .liveVersion(o.workflow())
                                .flatMap(n -> workflows.version(o.workflow(), n))
                                .map(WorkflowVersion::startForm)
                                .orElse(List.of())))
                .toList();
    }

    private Startable startable(WorkflowVersion v) {
        return new Startable(
                v.key().value(),
                v.name(),
                v.purpose() == null ? "" : v.purpose(),
                mainLine(v),
                v.body().all().flatMap(this::machine).distinct().toList(),
                v.startForm());
    }

    private static List<String> mainLine(WorkflowVersion v) {
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

    private Stream<String> machine(Step step) {
        Facts facts = Facts.of(step);
        return facts.changes() && changesWorld(facts.action()) ? Stream.of(step.name()) : Stream.of();
    }

    private boolean changesWorld(ActionKey key) {
        return look.apply(new LookupKey.OfAction(key))
                .map(Action.class::cast)
                .filter(Action::changesWorld)
                .isPresent();
    }
}
