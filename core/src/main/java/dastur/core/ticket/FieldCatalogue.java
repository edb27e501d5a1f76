package dastur.core.ticket;

import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;

/**
 * The declared fields of this organisation.
 *
 * @param ticket the organisation's own ticket fields beside the built-in ones
 * @param ci the attributes of CIs beside the built-in ones
 */
public record FieldCatalogue(List<Field> ticket, List<Field> ci) {
    /** The ticket's built-in fields, in the order people read them. */
    public static final List<Field> BUILT_IN = List.of(
            Field.of("title", "Title", FieldType.TEXT).asRequired(),
            Field.of("description", "Description", FieldType.LONG_TEXT),
            Field.of("state", "State", FieldType.TEXT),
            Field.of("requester", "Requester", FieldType.PERSON),
            Field.of("service", "Service", FieldType.SERVICE),
            Field.of("ci", "CI", FieldType.CI),
            Field.of("impact", "Impact", FieldType.WHOLE),
            Field.of("urgency", "Urgency", FieldType.WHOLE),
            Field.of("priority", "Priority", FieldType.TEXT),
            Field.of("major", "Major", FieldType.YES_NO),
            Field.of("category", "Category", FieldType.TEXT),
            Field.of("group", "Group", FieldType.GROUP),
            Field.of("assignee", "Assignee", FieldType.PERSON),
            Field.of("plannedStart", "Planned start", FieldType.TIME),
            Field.of("plannedEnd", "Planned end", FieldType.TIME),
            Field.of("cause", "Cause", FieldType.LONG_TEXT),
            Field.of("done", "What was done", FieldType.LONG_TEXT),
            Field.of("answer", "Answer to the requester", FieldType.LONG_TEXT));

    /** What every CI has. */
    public static final List<Field> CI_BUILT_IN = List.of(
            Field.of("id", "Id", FieldType.TEXT),
            Field.of("name", "Name", FieldType.TEXT),
            Field.of("kind", "Kind", FieldType.TEXT),
            Field.of("site", "Site", FieldType.TEXT),
            Field.of("address", "Address", FieldType.TEXT),
            Field.of("owner", "Owner", FieldType.GROUP),
            Field.of("life", "Life", FieldType.TEXT));

    public static final FieldCatalogue PLAIN = new FieldCatalogue(List.of(), List.of());

    public FieldCatalogue {
        ticket = List.copyOf(ticket);
        ci = List.copyOf(ci);
    }

    public List<Field> ticketFields() {
        return joined(BUILT_IN, ticket);
    }

    public List<Field> ciFields() {
        return joined(CI_BUILT_IN, ci);
    }

    public Optional<Field> ticketField(String name) {
        return ticketFields().stream().filter(f -> f.name().equals(name)).findFirst();
    }

    public Optional<Field> ciField(String name) {
        return ciFields().stream().filter(f -> f.name().equals(name)).findFirst();
    }

    /** Whether values of a ticket field are free text that is kept beside the sealed line (D22). */
    public static boolean isContent(String field) {
        return switch (field) {
            case "state",
                    "requester",
                    "service",
                    "ci",
                    "impact",
                    "urgency",
                    "priority",
                    "major",
                    "group",
                    "assignee",
                    "plannedStart",
                    "plannedEnd" -> false;
            default -> true;
        };
    }

    private static List<Field> joined(List<Field> first, List<Field> second) {
        Map<String, Field> byName = new LinkedHashMap<>();
        first.forEach(f -> byName.put(f.name(), f));
        second.forEach(f -> byName.putIfAbsent(f.name(), f));
        return new ArrayList<>(byName.values());
    }
}
