package dastur.core.step.update;

import dastur.core.expression.Outcome;
import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.run.CannotOpen;
import dastur.core.run.Event.Change;
import dastur.core.run.FieldChanges;
import dastur.core.run.Here;
import dastur.core.run.PlannedCi;
import dastur.core.run.VisitId;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Carries out an update step: ticket fields, attributes of the CI and run variables in one entry. */
final class UpdateRules {
    private final Here here;

    UpdateRules(Here here) {
        this.here = here;
    }

    void update(VisitId visit, Update step) {
        Map<String, Object> ticket = new TreeMap<>();
        Map<String, Change> ci = new TreeMap<>();
        Map<String, Object> vars = new TreeMap<>();
        PlannedCi made = made(step);
        Optional<ConfigurationItem> item = made == null ? meant(step) : Optional.of(made.item());
        if (made != null) {
            ticket.put("ci", made.item().id().value());
        }
        for (Assignment set : step.set()) {
            if (made != null && PlannedCi.SAID.contains(set.target())) {
                continue;
            }
            Object value = value(set);
            String name = set.target().substring(set.target().indexOf('.') + 1);
            switch (set.target().substring(0, Math.max(0, set.target().indexOf('.')))) {
                case "ticket" -> ticket.put(name, value);
                case "vars" -> {
                    if (value != null) {
                        vars.put(name, value);
                    }
                }
                case "ci" -> ci.put(name, ciChange(item, name, value));
                default -> throw new CannotOpen("no field", "'" + set.target() + "' cannot be set.");
            }
        }
        ci.values().removeIf(change -> java.util.Objects.equals(change.before(), change.after()));
        if (made != null) {
            made.complete(ci, here.ticket());
        }
        item.ifPresent(i -> settle(i, ci));
        FieldChanges changes = made == null ? here.changes(ticket) : here.changes(ticket, made.item());
        if (changes.refusal() != null) {
            throw new CannotOpen("update refused", changes.refusal().message());
        }
        here.emit(
                Actor.SYSTEM,
                step.id(),
                visit,
                new Updated(
                        "done",
                        Here.way(step, "done"),
                        changes.sealed(),
                        ci.isEmpty() ? null : item.map(ConfigurationItem::id).orElse(null),
                        made != null && made.isNew() ? true : null,
                        emptyToNull(changes.texts()),
                        emptyToNull(ci),
                        vars.isEmpty() ? null : vars));
        here.tellGiven(changes.sealed().get("assignee"));
    }

    /** What was wished of it stays known when it is planned no longer: it is agreed to as it stood until now. */
    private static void settle(ConfigurationItem item, Map<String, Change> changes) {
        Optional.ofNullable(changes.get("life"))
                .flatMap(life -> item.settles(life.after()))
                .ifPresent(wish -> changes.put(
                        ConfigurationItem.WISH,
                        new Change(item.wish().isEmpty() ? null : item.wish(), Values.normal(wish))));
    }

    /** The CI whose values are set: the ticket's, or the one that the step names. */
    private Optional<ConfigurationItem> meant(Update step) {
        if (step.of() == null) {
            return here.ci();
        }
        String id =
                switch (here.evaluate(step.of())) {
                    case Outcome.Value v -> String.valueOf(v.value());
                    case Outcome.Absent a ->
                        throw new CannotOpen("no CI", "Which CI is meant cannot be said: nothing is known of it.");
                    case Outcome.Failed f ->
                        throw new CannotOpen("no CI", "Which CI is meant cannot be said: " + f.why());
                };
        try {
            Optional<ConfigurationItem> there = here.lookups().ci(new CiId(id));
            if (there.isPresent()) {
                return there;
            }
        } catch (IllegalArgumentException e) {
            throw new CannotOpen("no CI", "No CI is meant by what is named: " + e.getMessage());
        }
        throw new CannotOpen("no CI", "There is no CI '" + id + "'. Make it, or name another, then retry.");
    }

    /** The CI that the step makes; null where it makes none. */
    private @Nullable PlannedCi made(Update step) {
        Optional<Assignment> named =
                step.set().stream().filter(a -> a.target().equals(PlannedCi.ID)).findFirst();
        if (named.isEmpty()) {
            return null;
        }
        String kind = step.set().stream()
                .filter(a -> a.target().equals(PlannedCi.KIND))
                .findFirst()
                .map(this::value)
                .map(String::valueOf)
                .orElse("");
        return PlannedCi.of(value(named.get()), kind, here.lookups());
    }

    private static @Nullable Map<String, Change> emptyToNull(Map<String, Change> map) {
        return map.isEmpty() ? null : map;
    }

    private @Nullable Object value(Assignment set) {
        if (set.text() != null) {
            String text = here.render(set.text());
            return text.isBlank() ? null : text;
        }
        Outcome outcome = here.evaluate(set.value() == null ? "" : set.value());
        return switch (outcome) {
            case Outcome.Value v -> Texts.blank(v.value()) ? null : v.value();
            case Outcome.Absent a -> null;
            case Outcome.Failed f ->
                throw new CannotOpen("cannot compute", "'" + set.target() + "' cannot be set: " + f.why());
        };
    }

    private Change ciChange(Optional<ConfigurationItem> item, String name, @Nullable Object value) {
        ConfigurationItem ci = item.orElseThrow(() -> new CannotOpen(
                "no CI", "This ticket has no CI whose '" + name + "' could be set. Name one, then retry."));
        FieldCatalogue fields = here.lookups().fields();
        Field field =
                fields.ciField(name).orElseThrow(() -> new CannotOpen("no field", "CIs have no field '" + name + "'."));
        if (name.equals("id") || name.equals("kind")) {
            throw new CannotOpen("no field", "'" + name + "' of a CI cannot be set by a workflow.");
        }
        if (name.equals("life") && !ConfigurationItem.LIVES.contains(String.valueOf(value))) {
            throw new CannotOpen(
                    "wrong value", "A CI's life is one of: " + String.join(", ", ConfigurationItem.LIVES) + ".");
        }
        field.problemWith(value).ifPresent(problem -> {
            throw new CannotOpen("wrong value", problem);
        });
        return new Change(ci.values().get(name), value);
    }
}
