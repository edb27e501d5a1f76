package dastur.core.ticket;

import dastur.core.people.GroupId;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * A configuration item: what a service is made of (N5).
 *
 * @param kind such as gate, board, kiosk
 * @param life planned, in use or retired
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
    public ConfigurationItem {
        attributes = Map.copyOf(attributes);
    }

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
