package dastur.server.api;

import dastur.core.run.Case;
import dastur.core.run.LookupKey;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.api.Views.Startable;
import dastur.server.work.ByHand;
import dastur.store.Workflows;
import java.util.List;
import java.util.Optional;
import java.util.function.Function;
import java.util.stream.Stream;

/** The workflows that can be started by hand on a ticket, each with what it will do. */
final class Startables {
    private final Function<LookupKey, Optional<?>> look;
    private final Workflows workflows;

    Startables(Function<LookupKey, Optional<?>> look, Workflows workflows) {
        this.look = look;
        this.workflows = workflows;
    }

    List<Startable> of(TicketKind kind) {
        return new ByHand(look, workflows)
                .on(kind).stream().map(this::startable).toList();
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
                ByHand.mainLine(v),
                v.body().all().flatMap(this::machine).distinct().toList(),
                v.startForm());
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
