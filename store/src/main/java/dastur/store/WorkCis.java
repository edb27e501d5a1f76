package dastur.store;

import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.TicketId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * The CIs that decisions on a ticket have seen, and what becomes of them. A change that sets a CI, or rests on what people
 * were shown of it, is only written while the CI is as it was seen (K1).
 */
final class WorkCis {
    private final StatelessSession session;
    private final TicketId ticket;
    private final Map<String, Optional<Rows.CiRow>> seen = new LinkedHashMap<>();
    private final Map<String, Rows.CiRow> changed = new TreeMap<>();
    /** Those that were not there before. */
    private final Map<String, Rows.CiRow> made = new TreeMap<>();

    private final Map<String, Rows.CiRow> shown = new TreeMap<>();
    private final List<Write> history = new ArrayList<>();

    WorkCis(StatelessSession session, TicketId ticket) {
        this.session = session;
        this.ticket = ticket;
    }

    /** A CI as it is with what was changed here. */
    Optional<ConfigurationItem> look(CiId id) {
        return row(id.value()).map(References::ci);
    }

    /** Those that were changed here, as they are now. */
    List<ConfigurationItem> changed() {
        return changed.values().stream().map(References::ci).toList();
    }

    private Optional<Rows.CiRow> row(String id) {
        return seen.computeIfAbsent(id, key -> Optional.ofNullable(session.get(Rows.CiRow.class, key)));
    }

    void mustBeAsSeen() {
        seen.forEach((id, row) -> row.ifPresent(r -> shown.put(id, r)));
    }

    void updated(Recorded r, Event.OfCi of) {
        if (of.makes()) {
            Rows.CiRow row = new Rows.CiRow();
            row.id = of.ci().value();
            row.name = row.id;
            row.life = "planned";
            row.attributes = "{}";
            seen.put(row.id, Optional.of(row));
            made.put(row.id, row);
        }
        row(of.ci().value()).ifPresent(ci -> {
            of.changes().forEach((name, change) -> change(ci, r, name, change));
            changed.put(ci.id, ci);
        });
    }

    private void change(Rows.CiRow ci, Recorded r, String name, Event.Change change) {
        String after = text(change.after());
        // All of its values at once stand in the entry, and are no line of the CI's history.
        boolean isWish = name.equals(ConfigurationItem.WISH);
        switch (name) {
            case ConfigurationItem.WISH -> ci.wish = change.after() == null ? null : Json.write(change.after());
            case "name" -> ci.name = after == null ? ci.name : after;
            case "kind" -> ci.kind = after == null ? ci.kind : after;
            case "service" -> ci.service = after;
            case "life" -> ci.life = after == null ? ci.life : after;
            case "site" -> ci.site = after;
            case "address" -> ci.address = after;
            case "owner" -> ci.owner = after;
            default -> {
                Map<String, Object> attributes = new TreeMap<>(Json.readMap(ci.attributes));
                if (change.after() == null) {
                    attributes.remove(name);
                } else {
                    attributes.put(name, change.after());
                }
                ci.attributes = Json.write(attributes);
            }
        }
        history.add(Write.of(
                Sql.CI_CHANGE,
                ticket + String.format(" %019d ", r.seq()) + name,
                ticket.value(),
                r.seq(),
                name,
                ci.id,
                r.at(),
                isWish ? null : text(change.before()),
                isWish ? null : after));
    }

    private static @Nullable String text(@Nullable Object value) {
        return value == null ? null : String.valueOf(value);
    }

    List<Write> writes() {
        List<Write> writes = new ArrayList<>(history);
        changed.forEach((id, ci) -> writes.add(
                made.containsKey(id)
                        ? Write.of(
                                Sql.CI_MADE,
                                id,
                                id,
                                ci.name,
                                ci.kind,
                                ci.service,
                                ci.site,
                                ci.address,
                                ci.owner,
                                ci.life,
                                ci.attributes,
                                ci.wish,
                                id)
                        : Write.of(
                                Sql.CI,
                                id,
                                ci.name,
                                ci.site,
                                ci.address,
                                ci.owner,
                                ci.life,
                                ci.attributes,
                                ci.wish,
                                id,
                                ci.revision)));
        shown.forEach((id, ci) -> {
            if (!changed.containsKey(id)) {
                writes.add(Write.of(Sql.CI_AS_SEEN, id, id, ci.revision));
            }
        });
        return writes;
    }
}
