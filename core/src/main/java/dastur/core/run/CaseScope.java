package dastur.core.run;

import dastur.core.expression.Scope;
import dastur.core.people.PersonId;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Service;
import dastur.core.ticket.ServiceId;
import java.time.Instant;
import java.util.HashMap;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What expressions see of a case and one of its runs. Look-ups are made only for the roots an expression names. */
record CaseScope(
        Case c, @Nullable Run run, @Nullable Place place, Map<String, Object> measured, Lookups lookups, Instant now)
        implements Scope {
    @Override
    public Map<String, Object> root(String name) {
        return switch (name) {
            case "ticket" -> ticket();
            case "ci" -> ci().map(ConfigurationItem::values).orElse(Map.of());
            case "wished" -> ci().map(ConfigurationItem::wished).orElse(Map.of());
            case "near" ->
                c.text("ci").map(id -> lookups.beside(new CiId(id)).values()).orElse(Map.of());
            case "service" -> service().map(CaseScope::values).orElse(Map.of());
            case "requester" -> requester();
            case "run" ->
                run == null
                        ? Map.of()
                        : Map.of(
                                "id", run.id().value(),
                                "workflow", run.workflow().value(),
                                "version", (long) run.version(),
                                "startedAt", run.startedAt().toString());
            case "input" -> run == null ? Map.of() : run.inputs();
            case "vars" -> run == null ? Map.of() : run.vars();
            case "steps" -> run == null ? Map.of() : new HashMap<>(run.seen(place));
            case "measured" -> measured;
            default -> Map.of();
        };
    }

    @Override
    public Optional<Object> item(String name) {
        return run == null ? Optional.empty() : run.item(place, name);
    }

    private Map<String, Object> ticket() {
        Map<String, Object> values = new HashMap<>(c.fields());
        values.put("number", c.id().value());
        if (c.kind() != null) {
            values.put("kind", c.kind().word());
        }
        if (c.createdAt() != null) {
            values.put("createdAt", c.createdAt().toString());
        }
        if (!c.files().isEmpty()) {
            values.put(
                    "files",
                    c.files().stream()
                            .map(f -> (f.name() == null ? "" : f.name()) + " (SHA-256 " + f.hash() + ")")
                            .toList());
        }
        return values;
    }

    Optional<ConfigurationItem> ci() {
        return c.text("ci").flatMap(id -> lookups.ci(new CiId(id)));
    }

    Optional<Service> service() {
        return c.text("service").flatMap(id -> lookups.service(new ServiceId(id)));
    }

    private Map<String, Object> requester() {
        return c.text("requester")
                .flatMap(id -> lookups.person(new PersonId(id)))
                .map(p -> Map.<String, Object>of("id", p.id().value(), "name", p.name(), "mail", p.mail()))
                .orElse(Map.of());
    }

    private static Map<String, Object> values(Service service) {
        return Map.of("id", service.id().value(), "name", service.name(), "passengers", service.passengers());
    }
}
