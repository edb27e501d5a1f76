package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonInclude;
import dastur.core.people.GroupId;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/**
 * A configuration item: what a service is made of (N5).
 *
 * @param kind such as gate, board, kiosk
 * @param life one of {@link #LIVES}
 * @param attributes the organisation's declared attributes, without absent ones
 * @param wish all of its values as they were when it last ceased to be planned, by field name (M17); empty where it never did
 */
public record ConfigurationItem(
        CiId id,
        String name,
        String kind,
        @Nullable ServiceId service,
        @Nullable String site,
        @Nullable String address,
        @Nullable GroupId owner,
        String life,
        Map<String, Object> attributes,
        @JsonInclude(JsonInclude.Include.NON_EMPTY) Map<String, Object> wish) {
    /** From the wish to the end. */
    public static final List<String> LIVES = List.of("planned", "ordered", "in use", "retired");

    /** By what a change names the wish: no field can be called so. */
    public static final String WISH = "wished values";

    private static final String PLANNED = "planned";

    /** What is said of a CI and not wished for. */
    private static final Set<String> NOT_WISHED = Set.of("id", "kind", "life");

    public ConfigurationItem {
        attributes = Map.copyOf(attributes);
        wish = wish == null ? Map.of() : Map.copyOf(wish);
    }

    /** One of whose wish nothing is known. */
    public ConfigurationItem(
            CiId id,
            String name,
            String kind,
            @Nullable ServiceId service,
            @Nullable String site,
            @Nullable String address,
            @Nullable GroupId owner,
            String life,
            Map<String, Object> attributes) {
        this(id, name, kind, service, site, address, owner, life, attributes, Map.of());
    }

    /** One that is planned, of which nothing else is said yet. */
    public static ConfigurationItem planned(CiId id, String kind) {
        return new ConfigurationItem(id, id.value(), kind, null, null, null, null, PLANNED, Map.of());
    }

    /** What its wish becomes where its life becomes another: what it is now, where it has been planned until now. */
    public Optional<Map<String, Object>> settles(@Nullable Object life) {
        return this.life.equals(PLANNED) && life != null && !PLANNED.equals(life)
                ? Optional.of(wishable())
                : Optional.empty();
    }

    /** This, set in the place of what it was before. @param before null where it was not there */
    public ConfigurationItem inPlaceOf(@Nullable ConfigurationItem before) {
        return before == null ? this : wishing(before.settles(life).orElse(before.wish));
    }

    private ConfigurationItem wishing(Map<String, Object> wish) {
        return new ConfigurationItem(id, name, kind, service, site, address, owner, life, attributes, wish);
    }

    /** What it is wished to be, or was before it ceased to be planned, by field name: what {@code wished.*} reads. */
    public Map<String, Object> wished() {
        return life.equals(PLANNED) ? wishable() : wish;
    }

    /** What was wished of it and came otherwise; nothing while it is planned. */
    public List<Wish> unmet() {
        Map<String, Object> real = wishable();
        return wished().entrySet().stream()
                .sorted(Map.Entry.comparingByKey())
                .filter(w -> !w.getValue().equals(real.get(w.getKey())))
                .map(w -> new Wish(
                        w.getKey(),
                        String.valueOf(w.getValue()),
                        real.containsKey(w.getKey()) ? String.valueOf(real.get(w.getKey())) : null))
                .toList();
    }

    private Map<String, Object> wishable() {
        Map<String, Object> all = values();
        all.keySet().removeAll(NOT_WISHED);
        if (service != null) {
            all.put("service", service.value());
        }
        return all;
    }

    /** With other values by field name; null takes one away, but a name and a life stay. */
    public ConfigurationItem with(Map<String, @Nullable Object> other) {
        Map<String, Object> rest = new LinkedHashMap<>(attributes);
        other.forEach((name, value) -> {
            if (name.equals(WISH)) {
                return;
            }
            if (!OWN.contains(name)) {
                if (value == null) {
                    rest.remove(name);
                } else {
                    rest.put(name, value);
                }
            }
        });
        return new ConfigurationItem(
                id,
                Objects.requireNonNullElse(text(other, "name", name), name),
                kind,
                Optional.ofNullable(text(other, "service", service == null ? null : service.value()))
                        .map(ServiceId::new)
                        .orElse(null),
                text(other, "site", site),
                text(other, "address", address),
                Optional.ofNullable(text(other, "owner", owner == null ? null : owner.value()))
                        .map(GroupId::new)
                        .orElse(null),
                Objects.requireNonNullElse(text(other, "life", life), life),
                rest,
                wish(other));
    }

    private Map<String, Object> wish(Map<String, @Nullable Object> other) {
        Map<String, Object> after = new LinkedHashMap<>();
        if (other.get(WISH) instanceof Map<?, ?> values) {
            values.forEach((name, value) -> after.put(String.valueOf(name), value));
        }
        return other.containsKey(WISH) ? after : wish;
    }

    private static @Nullable String text(Map<String, @Nullable Object> other, String name, @Nullable String now) {
        Object value = other.containsKey(name) ? other.get(name) : now;
        return value == null ? null : String.valueOf(value);
    }

    private static final Set<String> OWN = Set.of("id", "name", "kind", "service", "site", "address", "owner", "life");

    /** All values by field name, without absent ones: what {@code ci.*} reads. */
    public Map<String, Object> values() {
        Map<String, Object> all = new LinkedHashMap<>(attributes);
        all.put("id", id.value());
        all.put("name", name);
        all.put("kind", kind);
        all.put("life", life);
        if (site != null) {
            all.put("site", site);
        }
        if (address != null) {
            all.put("address", address);
        }
        if (owner != null) {
            all.put("owner", owner.value());
        }
        return all;
    }
}
