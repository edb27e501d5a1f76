package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.run.Event.Change;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketKind;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;

/** CIs that people wish for inside requests and changes (M17): planned there, so that what is agreed to stands on both. */
final class Planning {
    private static final int MOST_VALUES = 100;

    /** What nobody wishes for: what it is called and is said beside, what follows from the ticket, and who answers for it. */
    private static final Set<String> NOT_WISHED = Set.of("id", "kind", "life", "owner");

    private final Deciding d;

    Planning(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> plan(Command.PlanCi c) {
        if (d.now().test() != null) {
            return Optional.of(Refusal.invalid("ticket", "This is a test: CIs are planned on tickets in earnest."));
        }
        TicketKind kind = Objects.requireNonNull(d.now().kind());
        if (kind != TicketKind.REQUEST && kind != TicketKind.CHANGE) {
            return Optional.of(Refusal.invalid(
                    "id", "A CI is planned inside a request or a change, where somebody says yes to it."));
        }
        if (TicketKind.ended(d.now().state())) {
            return Optional.of(Refusal.invalid("id", d.now().id() + " has ended. Plan the CI on another ticket."));
        }
        Optional<Refusal> wrong = problem(c);
        if (wrong.isPresent()) {
            return wrong;
        }
        try {
            return planned(c, PlannedCi.of(c.id(), c.kind(), d.lookups()));
        } catch (CannotOpen e) {
            return Optional.of(Refusal.invalid("id", e.getMessage()));
        }
    }

    private Optional<Refusal> problem(Command.PlanCi c) {
        if (c.values().size() > MOST_VALUES) {
            return Optional.of(Refusal.invalid("values", "A CI has at most " + MOST_VALUES + " values."));
        }
        FieldCatalogue fields = d.lookups().fields();
        for (Map.Entry<String, Object> value : new TreeMap<>(c.values()).entrySet()) {
            String name = value.getKey();
            boolean ofKind =
                    FieldCatalogue.CI_BUILT_IN.stream().anyMatch(f -> f.name().equals(name))
                            || fields.attributesOf(c.kind()).stream()
                                    .anyMatch(f -> f.name().equals(name));
            Optional<Field> field = fields.ciField(name).filter(f -> ofKind && !NOT_WISHED.contains(name));
            if (field.isEmpty()) {
                return Optional.of(Refusal.invalid(
                        "values." + Texts.clip(name, 40),
                        "A " + Texts.clip(c.kind(), 40) + " has no '" + Texts.clip(name, 40)
                                + "' that could be wished for."));
            }
            Optional<String> problem = new TicketRules(d).problemWith(field.get(), value.getValue());
            if (problem.isPresent()) {
                return Optional.of(Refusal.invalid("values." + name, problem.get()));
            }
        }
        return Optional.empty();
    }

    private Optional<Refusal> planned(Command.PlanCi c, PlannedCi made) {
        ConfigurationItem item = made.item();
        Map<String, Change> wished = new TreeMap<>();
        c.values().forEach((name, value) -> {
            if (!Texts.blank(value)) {
                wished.put(name, new Change(item.values().get(name), Values.normal(value)));
            }
        });
        wished.values().removeIf(change -> Objects.equals(change.before(), change.after()));
        made.complete(wished, d.now());
        FieldChanges changes = d.knowing(
                item, () -> new TicketRules(d).changes(Map.of("ci", item.id().value())));
        if (changes.refusal() != null) {
            return Optional.of(changes.refusal());
        }
        d.emitTicket(new Event.CiPlanned(item.id(), made.isNew() ? true : null, changes.sealed(), wished));
        return Optional.empty();
    }
}
