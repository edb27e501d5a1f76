package dastur.core.ticket;

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
        Map<String, Object> attributes) {
    /** From the wish to the end. */
    public static final List<String> LIVES = List.of("planned", "ordered", "in use", "retired");

    public ConfigurationItem {
        attributes = Map.copyOf(attributes);
    }

    /** One that is planned, of which nothing else is said yet. */
    public static ConfigurationItem planned(CiId id, String kind) {
        return new ConfigurationItem(id, id.value(), kind, null, null, null, null, "planned", Map.of());
    }

    /** With other values by field name; null takes one away, but a name and a life stay. */
    public ConfigurationItem with(Map<String, @Nullable Object> other) {
        Map<String, Object> rest = new LinkedHashMap<>(attributes);
        other.forEach((name, value) -> {
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
                rest);
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
