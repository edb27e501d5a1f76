package dastur.server.auth;

import dastur.core.people.Person;
import dastur.core.ticket.TicketKind;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;

/**
 * What whoever raises a ticket may say of it, in one table. Those who ask say what is the matter; how grave it is, who has
 * it and what came of it is for those who work on it: a requester who could set it would call people in, or close it.
 */
public final class Raising {
    /**
     * A row of the table.
     *
     * @param kinds the kinds of tickets
     * @param fields the fields that may be given; null for all
     * @param forOthers whether the ticket may be raised for somebody else
     */
    private record May(Set<TicketKind> kinds, Set<String> fields, boolean forOthers) {}

    /** Who works on tickets says everything; the engine checks the values. */
    private static final May WORKS = new May(Set.of(TicketKind.values()), null, true);

    private static final May ASKS = new May(
            Set.of(TicketKind.INCIDENT, TicketKind.REQUEST), Set.of("title", "description", "service", "ci"), false);

    private Raising() {}

    /** Why something may not be said. @param where the field, or {@code kind} */
    public record No(String where, String why) {}

    /** Why a person may not raise a ticket of this kind with these fields; empty when they may. */
    public static Optional<No> problem(Person person, TicketKind kind, Map<String, ?> fields) {
        May may = Right.WORK.of(person) ? WORKS : ASKS;
        if (!may.kinds().contains(kind)) {
            return Optional.of(new No(
                    "kind",
                    "You may raise an incident or a request. A " + kind.word()
                            + " is raised by those who work on tickets."));
        }
        if (!may.forOthers()
                && fields.get("requester") != null
                && !person.id().value().equals(fields.get("requester"))) {
            return Optional.of(new No("requester", "You ask for yourself; leave 'requester' out."));
        }
        return may.fields() == null
                ? Optional.empty()
                : new TreeSet<>(fields.keySet())
                        .stream()
                                .filter(f ->
                                        !f.equals("requester") && !may.fields().contains(f))
                                .findFirst()
                                .map(f -> new No(
                                        f,
                                        "'" + dastur.core.json.Texts.clip(f, 40)
                                                + "' is set by those who work on the ticket. You say what is the matter: "
                                                + String.join(", ", new TreeSet<>(may.fields())) + "."));
    }
}
