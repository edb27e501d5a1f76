package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.expression.Outcome;
import dastur.core.expression.Scope;
import dastur.core.expression.Vocabulary;
import dastur.core.json.Texts;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.Field;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.WorkflowVersion;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Checks a workflow's triggers. */
final class TriggerChecks {
    private final KnownOrganisation around;
    private final Findings.Found found;

    TriggerChecks(KnownOrganisation around, Findings.Found found) {
        this.around = around;
        this.found = found;
    }

    void check(WorkflowVersion version, List<Trigger> triggers) {
        Expressions ofTickets = new Expressions(Vocabulary.ofTicket(around.fields()));
        for (Trigger trigger : triggers) {
            Expressions expressions = trigger.when() instanceof Trigger.SignalComes when ? ofSignals(when) : ofTickets;
            if (!Texts.blank(trigger.condition())) {
                expressions
                        .problemWithCondition(trigger.condition())
                        .ifPresent(p -> found.blocks(
                                "wrong expression",
                                null,
                                "triggers",
                                "A trigger's condition cannot be understood: " + p.message()));
            }
            never(version, trigger, expressions);
            hidden(version, trigger);
            if (trigger.when() instanceof Trigger.SignalComes s) {
                listens(s.source());
            }
            if (trigger.when() instanceof Trigger.SignalEntered s) {
                listens(s.source());
            }
            if (trigger.when() instanceof Trigger.FieldReaches f) {
                if (around.fields().ticketField(f.field()).isEmpty()) {
                    found.blocks(
                            "unknown field",
                            null,
                            "triggers",
                            "A trigger waits for the field '" + f.field() + "', which does not exist.");
                } else if (setsItself(version, f)) {
                    found.warns(
                            "sets itself off",
                            null,
                            "triggers",
                            "This workflow itself sets '" + f.field() + "' to '" + f.value()
                                    + "'; its own change will not start it again.");
                }
            }
            if (trigger.when() instanceof Trigger.OfItself) {
                ofItself(trigger);
            }
            if (trigger.when() instanceof Trigger.TimeComes t) {
                gives(version, t, ofTickets);
            }
            version.startForm().stream()
                    .filter(Field::required)
                    .filter(f -> !given(trigger.when(), f))
                    .findFirst()
                    .ifPresent(f -> found.blocks(
                            "start form",
                            null,
                            "triggers",
                            "The start form needs '" + f.label()
                                    + "', which a trigger that starts alone cannot give."));
        }
        twice(triggers);
        if (triggers.isEmpty()) {
            found.warns(
                    "no trigger",
                    null,
                    "Nothing starts this workflow. Add a trigger, or let people start it by hand.",
                    Finding.Repair.START_BY_HAND);
        }
    }

    /** Whether what sets a trigger off gives a value of the start form. */
    private static boolean given(Trigger.When when, Field field) {
        return switch (when) {
            case Trigger.ByHand h -> true;
            case Trigger.Called c -> true;
            case Trigger.TimeComes t -> t.inputs().containsKey(field.name());
            case Trigger.Created c -> false;
            case Trigger.FieldReaches f -> false;
            case Trigger.ApprovalEnds a -> false;
            case Trigger.ClockReaches c -> false;
            case Trigger.SignalEntered s -> false;
            case Trigger.SignalComes s -> false;
        };
    }

    /** Nobody is there whom it could ask, and no ticket of which a condition could speak. */
    private void ofItself(Trigger trigger) {
        if (trigger.mode() != Trigger.Mode.STARTS
                || !Texts.blank(trigger.condition())
                || !trigger.services().isEmpty()) {
            found.blocks(
                    "never fires",
                    null,
                    "triggers",
                    "A schedule or a hook starts its workflow by itself, on a ticket of its own: it takes no condition and no"
                            + " service. Let the workflow branch on them.");
        }
    }

    /** What a schedule gives to the start form. */
    private void gives(WorkflowVersion version, Trigger.TimeComes when, Expressions expressions) {
        when.inputs().forEach((name, value) -> {
            if (version.startForm().stream().noneMatch(f -> f.name().equals(name))) {
                found.blocks(
                        "start form",
                        null,
                        "triggers",
                        "A schedule gives '" + name + "', for which the start form does not ask.");
            }
            expressions
                    .problemWith(value)
                    .ifPresent(p -> found.blocks(
                            "wrong expression",
                            null,
                            "triggers",
                            "What a schedule gives for '" + name + "' cannot be understood: " + p.message()));
        });
    }

    private Expressions ofSignals(Trigger.SignalComes when) {
        return new Expressions(Vocabulary.ofSignal(
                around.fields(),
                around.sources().stream()
                        .filter(s -> when.source() == null || s.key().equals(when.source()))
                        .flatMap(s -> s.mapping().own().stream())
                        .toList()));
    }

    /** Whether anything can come from where a trigger listens. */
    private void listens(@Nullable SourceKey from) {
        if (from == null) {
            return;
        }
        Optional<Source> source =
                around.sources().stream().filter(s -> s.key().equals(from)).findFirst();
        if (source.isEmpty()) {
            found.blocks(
                    "unknown source",
                    null,
                    "triggers",
                    "A trigger listens to the source '" + from + "', which does not exist.");
        } else if (!source.get().open()) {
            found.warns(
                    "shut source",
                    null,
                    "triggers",
                    "A trigger listens to '" + source.get().name() + "', which is shut: nothing comes from it.");
        }
    }

    /** A trigger that no ticket can ever set off. */
    private void never(WorkflowVersion version, Trigger trigger, Expressions expressions) {
        TicketKind kind = trigger.when().kind();
        if (kind != null && version.kind() != null && kind != version.kind()) {
            found.blocks(
                    "never fires",
                    null,
                    "triggers",
                    "A trigger listens to " + kind.word() + " tickets, but this workflow is for "
                            + version.kind().word() + " tickets.");
        }
        if (trigger.when() instanceof Trigger.ClockReaches c && kind == TicketKind.ROUTINE) {
            found.blocks("never fires", null, "triggers", "A trigger waits for a clock, and routines have none.");
        }
        if (trigger.when() instanceof Trigger.ClockReaches c && (c.percent() < 1 || c.percent() > 100)) {
            found.blocks(
                    "never fires",
                    null,
                    "triggers",
                    "A clock reaches 1 to 100 % of its time, not " + c.percent() + ".");
        }
        if (trigger.when() instanceof Trigger.ApprovalEnds a && !Trigger.ApprovalEnds.EXITS.contains(a.exit())) {
            found.blocks(
                    "never fires",
                    null,
                    "triggers",
                    "A trigger waits for an approval that ends as '" + a.exit()
                            + "': they end as approved or declined.");
        }
        if (trigger.when() instanceof Trigger.FieldReaches f && f.field().equals("state")) {
            if (!TicketKind.isState(kind, String.valueOf(f.value()))) {
                found.blocks(
                        "never fires",
                        null,
                        "triggers",
                        "A trigger waits for the state '" + f.value() + "', which does not exist.");
            }
        }
        boolean constant = !Texts.blank(trigger.condition())
                && expressions.problemWithCondition(trigger.condition()).isEmpty()
                && expressions.reads(trigger.condition()).isEmpty()
                && expressions.evaluate(trigger.condition(), Scope.of(Map.of(), Instant.EPOCH))
                        instanceof Outcome.Value v
                && Boolean.FALSE.equals(v.value());
        if (constant) {
            found.blocks("never fires", null, "triggers", "A trigger's condition is never true.");
        }
    }

    /** A trigger that gives way, behind one that starts something whenever it would. */
    private void hidden(WorkflowVersion version, Trigger trigger) {
        if (!trigger.givesWay()) {
            return;
        }
        for (Trigger.Live earlier : around.triggers()) {
            if (earlier.trigger().id().equals(trigger.id())) {
                return;
            }
            if (!earlier.workflow().equals(version.key()) && earlier.trigger().covers(trigger)) {
                found.warns(
                        "hidden trigger",
                        null,
                        "triggers",
                        "A trigger gives way to earlier ones, and one of '" + earlier.name()
                                + "' before it always starts first: it never starts anything.");
                return;
            }
        }
    }

    /** Two triggers of one workflow that listen to the same thing would start it twice. */
    private void twice(List<Trigger> triggers) {
        for (int i = 0; i < triggers.size(); i++) {
            for (int j = i + 1; j < triggers.size(); j++) {
                Trigger a = triggers.get(i);
                Trigger b = triggers.get(j);
                if (a.on()
                        && b.on()
                        && !(a.when() instanceof Trigger.ByHand)
                        && a.when().equals(b.when())
                        && a.services().equals(b.services())
                        && java.util.Objects.equals(a.condition(), b.condition())) {
                    found.warns(
                            "starts twice",
                            null,
                            "triggers",
                            "Two triggers listen to the same thing, so that the workflow starts twice.");
                }
            }
        }
    }

    private static boolean setsItself(WorkflowVersion version, Trigger.FieldReaches f) {
        return version.body()
                .all()
                .map(s -> Facts.of(s).sets().getOrDefault("ticket." + f.field(), Optional.empty()))
                .anyMatch(said -> said.filter(f.value()::equals).isPresent());
    }
}
