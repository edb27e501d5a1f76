package dastur.core.ticket;

import dastur.core.json.Texts;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;

/**
 * The declared fields of this organisation.
 *
 * @param ticket the organisation's own ticket fields beside the built-in ones
 * @param ci the attributes of CIs beside the built-in ones; one that is required makes a CI without it incomplete, not wrong
 * @param kinds of which kinds of CI an attribute is, by its name; of all where nothing is said
 */
public record FieldCatalogue(List<Field> ticket, List<Field> ci, Map<String, List<String>> kinds) {
    /** As many fields as an organisation declares for tickets, and as many for CIs. */
    public static final int MOST = 100;

    private static final int MOST_CHOICES = 200;

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
        kinds = kinds == null ? Map.of() : Map.copyOf(kinds);
    }

    /** With attributes of all kinds. */
    public FieldCatalogue(List<Field> ticket, List<Field> ci) {
        this(ticket, ci, Map.of());
    }

    /** What cannot be declared, and where. */
    public record Wrong(String where, String message) {}

    /** The attributes that a kind of CI has beside the built-in ones. */
    public List<Field> attributesOf(String kind) {
        return ci.stream()
                .filter(f -> !kinds.containsKey(f.name())
                        || kinds.get(f.name()).isEmpty()
                        || kinds.get(f.name()).contains(kind))
                .toList();
    }

    /**
     * What stands against declaring other fields in place of these. A field that is declared stays, and so do its type and its choices:
     * workflows and CIs rest on them. What is said of it may change.
     */
    public Optional<Wrong> problemWith(FieldCatalogue next) {
        return problemWith("ticket", BUILT_IN, ticket, next.ticket)
                .or(() -> problemWith("ci", CI_BUILT_IN, ci, next.ci))
                .or(() -> next.ticket.stream()
                        .filter(Field::required)
                        .findFirst()
                        .map(f -> new Wrong(
                                "ticket", "'" + f.label() + "' cannot be needed: tickets are raised without it.")))
                .or(() -> next.kinds.entrySet().stream()
                        .filter(e -> next.ci.stream().noneMatch(f -> f.name().equals(e.getKey()))
                                || e.getValue().stream().anyMatch(k -> Texts.blank(k) || k.length() > 60))
                        .findFirst()
                        .map(e -> new Wrong(
                                "kinds", "A kind of CI has 1 to 60 characters, and is said of an attribute.")));
    }

    private static Optional<Wrong> problemWith(
            String where, List<Field> builtIn, List<Field> before, List<Field> next) {
        if (next.size() > MOST) {
            return Optional.of(new Wrong(where, "There are at most " + MOST + " of them."));
        }
        Set<String> names = new HashSet<>(builtIn.stream().map(Field::name).toList());
        for (Field field : next) {
            Optional<String> wrong = problemWith(field);
            if (wrong.isEmpty() && !names.add(field.name())) {
                wrong = Optional.of("There is a field '" + field.name() + "' already. Name one otherwise.");
            }
            if (wrong.isPresent()) {
                return Optional.of(new Wrong(where, wrong.get()));
            }
        }
        for (Field old : before) {
            Optional<Field> now =
                    next.stream().filter(f -> f.name().equals(old.name())).findFirst();
            if (now.isEmpty()) {
                return Optional.of(new Wrong(
                        where,
                        "'" + old.label()
                                + "' stays: workflows and records may rest on it. Name it otherwise instead."));
            }
            if (now.get().type() != old.type()) {
                return Optional.of(new Wrong(
                        where,
                        "'" + old.label() + "' is a " + old.type().word()
                                + " and stays one. Declare another field of the other type."));
            }
            if (old.choices() != null
                    && !Objects.requireNonNullElse(now.get().choices(), List.of())
                            .containsAll(old.choices())) {
                return Optional.of(
                        new Wrong(where, "Choices of '" + old.label() + "' may be added, but none is taken away."));
            }
        }
        return Optional.empty();
    }

    private static Optional<String> problemWith(Field field) {
        try {
            Texts.checkWord("field's name", field.name());
        } catch (IllegalArgumentException e) {
            return Optional.of(e.getMessage());
        }
        if (Texts.blank(field.label()) || field.label().length() > 80 || !Texts.keepable(field.label())) {
            return Optional.of("A field has a label of 1 to 80 characters.");
        }
        if (field.choices() != null && field.choices().size() > MOST_CHOICES) {
            return Optional.of("'" + field.label() + "' offers at most " + MOST_CHOICES + " choices.");
        }
        return Optional.empty();
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
