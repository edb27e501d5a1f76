package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.run.Event.Change;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import java.util.Map;
import java.util.Optional;
import java.util.Set;

/**
 * A CI that an update makes by setting {@code ci.id}, or that somebody wishes for (M17): planned, until something says that it is in use. One that was
 * retired may be planned anew under its name.
 *
 * @param item as it was before: retired, or not there and with nothing said of it
 */
public record PlannedCi(ConfigurationItem item, boolean isNew) {
    public static final String ID = "ci.id";
    public static final String KIND = "ci.kind";

    /** What is said of it once, when it is made. */
    public static final Set<String> SAID = Set.of(ID, KIND);

    /** @throws CannotOpen when nothing can be made of this, or there is one already */
    public static PlannedCi of(Object said, String kind, Lookups lookups) {
        CiId id;
        try {
            id = new CiId(said == null ? "" : String.valueOf(said));
        } catch (IllegalArgumentException e) {
            throw new CannotOpen("wrong value", "No CI can be made: " + e.getMessage());
        }
        Optional<ConfigurationItem> there = lookups.ci(id);
        if (there.isEmpty()) {
            if (kind.isBlank() || kind.length() > 80 || !Texts.keepable(kind)) {
                throw new CannotOpen("wrong value", "No CI can be made: it needs a kind of 1 to 80 characters.");
            }
            return new PlannedCi(ConfigurationItem.planned(id, kind), true);
        }
        if (!there.get().life().equals("retired") || !there.get().kind().equals(kind)) {
            throw new CannotOpen(
                    "CI exists",
                    "There is a CI '" + id + "' already: " + there.get().kind() + ", "
                            + there.get().life() + ". Name another.");
        }
        return new PlannedCi(there.get(), false);
    }

    /** Adds what goes without saying: it is planned, and belongs to the ticket's service. */
    public void complete(Map<String, Change> changes, Case ticket) {
        if (isNew) {
            changes.put("kind", new Change(null, item.kind()));
            changes.putIfAbsent("name", new Change(null, item.name()));
            ticket.text("service").ifPresent(s -> changes.put("service", new Change(null, s)));
            Change life = changes.get("life");
            changes.put("life", new Change(null, life == null ? "planned" : life.after()));
            changes.computeIfPresent("name", (name, change) -> new Change(null, change.after()));
        } else {
            changes.putIfAbsent("life", new Change(item.life(), "planned"));
        }
    }
}
