package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.json.Values;
import dastur.core.people.Actor;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Event.Change;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import org.jspecify.annotations.Nullable;

/** Raising and editing tickets, notes, and the rules their fields obey (N1, N7, N9). */
final class TicketRules {
    private static final List<String> NEEDED_TO_CLOSE = List.of("cause", "done", "answer");

    /** What a priority is computed from: it can be changed, not taken away. */
    private static final Set<String> WEIGHTS = Set.of("impact", "urgency");

    /** More than that belongs into a document store, with a link. */
    private static final int MAX_FILES = 200;

    private static final int KEPT_FOR_PEOPLE = 50;

    private final Deciding d;

    TicketRules(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> raise(Command.RaiseTicket c) {
        if (d.before.exists()) {
            return Optional.of(Refusal.invalid("number", "There is already a ticket " + d.before.id() + "."));
        }
        Map<String, Object> fields = Values.withoutBlank(c.fields());
        if (fields.containsKey("state")) {
            return Optional.of(Refusal.invalid(
                    "state", "A new ticket begins as '" + c.kind().firstState() + "'; leave 'state' out."));
        }
        fields.put("state", c.kind().firstState());
        if (c.kind().isWeighed()) {
            fields.putIfAbsent("impact", 3L);
            fields.putIfAbsent("urgency", 3L);
        }
        Optional<Refusal> wrong = problemWith(fields, fields);
        if (wrong.isPresent()) {
            return wrong;
        }
        if (Texts.blank(fields.get("title"))) {
            return Optional.of(
                    Refusal.invalid("title", "A ticket needs a title: one line that says what is the matter."));
        }
        fillServiceFromCi(fields);
        if (c.kind().isWeighed()) {
            String computed = priority(fields);
            Object wanted = fields.get("priority");
            if (wanted != null && !wanted.equals(computed) && Texts.blank(c.priorityReason())) {
                return Optional.of(priorityNeedsReason(computed));
            }
            fields.putIfAbsent("priority", computed);
        }
        Map<String, Object> sealed = new TreeMap<>();
        Map<String, Object> texts = new TreeMap<>();
        fields.forEach((name, value) -> (FieldCatalogue.isContent(name) ? texts : sealed).put(name, value));
        d.emitTicket(new Event.TicketRaised(
                c.kind(), sealed, texts, Texts.blank(c.priorityReason()) ? null : c.priorityReason()));
        new Wanted(d).tellGiven(sealed.get("assignee") == null ? null : new Change(null, sealed.get("assignee")));
        return Optional.empty();
    }

    private void fillServiceFromCi(Map<String, Object> fields) {
        if (!fields.containsKey("service") && fields.get("ci") instanceof String id) {
            d.lookups()
                    .ci(new CiId(id))
                    .map(ConfigurationItem::service)
                    .ifPresent(s -> fields.put("service", s.value()));
        }
    }

    private static Refusal priorityNeedsReason(String computed) {
        return Refusal.invalid(
                "priorityReason", "Impact and urgency give " + computed + ". To set another priority, say why.");
    }

    private String priority(Map<String, Object> fields) {
        return d.lookups().priorities().priority((long) fields.get("impact"), (long) fields.get("urgency"));
    }

    Optional<Refusal> edit(Command.EditTicket c) {
        FieldChanges changes = changes(c.fields());
        if (changes.refusal() != null) {
            return Optional.of(changes.refusal());
        }
        Change priority = changes.sealed().get("priority");
        if (priority != null && c.fields().containsKey("priority") && Texts.blank(c.reason())) {
            Map<String, Object> after = after(c.fields());
            String computed = priority(after);
            if (!computed.equals(priority.after())) {
                return Optional.of(priorityNeedsReason(computed));
            }
        }
        if (c.reason() != null && c.reason().length() > Texts.MAX_TEXT) {
            return Optional.of(Refusal.invalid("reason", "A reason has at most " + Texts.MAX_TEXT + " characters."));
        }
        if (!changes.nothing()) {
            d.emitTicket(new Event.TicketChanged(
                    changes.sealed(),
                    changes.texts().isEmpty() ? null : changes.texts(),
                    Texts.blank(c.reason()) ? null : c.reason()));
            new Wanted(d).tellGiven(changes.sealed().get("assignee"));
        }
        return Optional.empty();
    }

    private Map<String, Object> after(Map<String, Object> fields) {
        Map<String, Object> after = new HashMap<>(d.now().fields());
        fields.forEach((name, value) -> {
            if (Texts.blank(value)) {
                after.remove(name);
            } else {
                after.put(name, Values.normal(value));
            }
        });
        return after;
    }

    Optional<Refusal> note(Command.AddNote c) {
        if (Texts.blank(c.text())) {
            return Optional.of(Refusal.invalid("text", "Write something first."));
        }
        if (c.text().length() > Texts.MAX_TEXT || !Texts.keepable(c.text())) {
            return Optional.of(Refusal.invalid("text", "A note has at most " + Texts.MAX_TEXT + " characters."));
        }
        d.emitTicket(new Event.NoteAdded(c.toRequester(), c.text()));
        if (c.toRequester()) {
            tellOtherSide(c.text());
        }
        d.principal().ifPresent(by -> d.written(by, c.text()));
        return Optional.empty();
    }

    /** What is read changes nothing here: it is only told. */
    Optional<Refusal> reading(Command.KeepReading c) {
        d.emitTicket(new Event.ReadByHand(
                c.action(),
                c.name(),
                c.read(),
                c.inputs(),
                c.outputs(),
                c.why() == null ? null : Texts.clip(c.why(), Texts.MAX_TEXT)));
        return Optional.empty();
    }

    /** The requester hears of what is meant for them; what they say, whoever has the ticket hears. */
    private void tellOtherSide(String text) {
        Optional<PersonId> requester = d.now().text("requester").map(PersonId::new);
        boolean fromRequester = requester.isPresent() && requester.equals(d.principal());
        Optional<PersonId> to = fromRequester ? d.now().text("assignee").map(PersonId::new) : requester;
        new Deliveries(d)
                .queue(
                        null,
                        null,
                        null,
                        d.actor,
                        "notice",
                        to.stream().toList(),
                        "About " + d.now().id() + ": " + d.now().text("title").orElse(""),
                        text);
    }

    Optional<Refusal> attach(Command.AttachFile c) {
        if (Texts.blank(c.name()) || c.name().length() > 200 || !Texts.keepable(c.name())) {
            return Optional.of(Refusal.invalid("name", "A file's name has 1 to 200 characters."));
        }
        if (!c.hash().matches("[0-9a-f]{64}") || c.size() < 1) {
            return Optional.of(Refusal.invalid("file", "There is nothing in the file."));
        }
        // What machines leave behind never takes the last places: people have something to show too.
        int most = d.actor instanceof Actor.OfAction ? MAX_FILES - KEPT_FOR_PEOPLE : MAX_FILES;
        if (d.now().files().size() >= most) {
            return Optional.of(Refusal.invalid("file", "A ticket holds at most " + most + " files."));
        }
        Optional<Visit> visit =
                Optional.ofNullable(c.visit()).flatMap(v -> d.now().visit(v));
        Optional<PersonId> person = d.person();
        boolean called = d.actor instanceof Actor.OfAction && c.visit() != null;
        if (person.isEmpty() && !called) {
            return Optional.of(Refusal.notYours("Only a person, or a call of the ticket's own, can attach a file."));
        }
        Event event =
                new Event.FileAttached(person.orElse(null), c.hash(), c.size(), c.type(), c.toRequester(), c.name());
        if (visit.isPresent()) {
            d.emit(d.actor, visit.get(), event);
        } else {
            d.emitTicket(event);
        }
        return Optional.empty();
    }

    /** The changes that new values make to the ticket as it stands, checked against every rule. Null and blank clear. */
    FieldChanges changes(Map<String, Object> values) {
        Map<String, Object> current = d.now().fields();
        Map<String, Object> after = after(values);
        Optional<Refusal> wrong = problemWith(values, after);
        if (wrong.isEmpty()) {
            wrong = problemWithMove(current, after);
        }
        if (wrong.isPresent()) {
            return FieldChanges.refused(wrong.get());
        }
        TicketKind kind = Objects.requireNonNull(d.now().kind());
        if (!kind.isWeighed()) {
            Optional<String> weighs = values.keySet().stream()
                    .filter(f -> WEIGHTS.contains(f) || f.equals("priority"))
                    .findFirst();
            if (weighs.isPresent()) {
                return FieldChanges.refused(
                        Refusal.invalid(weighs.get(), "A " + kind.word() + " has no " + weighs.get() + "."));
            }
            return between(current, after);
        }
        boolean weighedAnew = !Objects.equals(current.get("impact"), after.get("impact"))
                || !Objects.equals(current.get("urgency"), after.get("urgency"));
        if (weighedAnew && !values.containsKey("priority") || Texts.blank(after.get("priority"))) {
            // A priority that is taken away is the one the weights give.
            after.put("priority", priority(after));
        }
        return between(current, after);
    }

    private static FieldChanges between(Map<String, Object> current, Map<String, Object> after) {
        Map<String, Change> sealed = new TreeMap<>();
        Map<String, Change> texts = new TreeMap<>();
        Change.between(current, after)
                .forEach((name, change) -> (FieldCatalogue.isContent(name) ? texts : sealed).put(name, change));
        return new FieldChanges(sealed, texts, null);
    }

    private Optional<Refusal> problemWithMove(Map<String, Object> before, Map<String, Object> after) {
        String from = (String) before.get("state");
        String to = (String) after.get("state");
        if (Objects.equals(from, to)) {
            return Optional.empty();
        }
        TicketKind kind = Objects.requireNonNull(d.now().kind());
        if (to == null || !kind.movesFrom(from).contains(to)) {
            String may =
                    String.join(", ", kind.movesFrom(from).stream().sorted().toList());
            return Optional.of(Refusal.invalid(
                    "state",
                    "This " + kind.word() + " is '" + from + "' and cannot become '" + to + "'. "
                            + (may.isEmpty() ? "It has ended." : "It can become: " + may + ".")));
        }
        if (d.person().isPresent() && !kind.movesOfPeople(from).contains(to)) {
            return Optional.of(
                    Refusal.invalid("state", "A routine ends as its runs do. You may stop it: set it to 'stopped'."));
        }
        if (to.equals("closed")) {
            Optional<String> missing = NEEDED_TO_CLOSE.stream()
                    .filter(f -> Texts.blank(after.get(f)))
                    .findFirst();
            return missing.map(f -> Refusal.invalid(
                    f,
                    "Closing asks for the cause, what was done and the answer to the requester; '" + f
                            + "' is missing."));
        }
        return Optional.empty();
    }

    /** Checks given values one by one, and what they name. */
    private Optional<Refusal> problemWith(Map<String, Object> given, Map<String, Object> after) {
        FieldCatalogue fields = d.lookups().fields();
        for (String name : new java.util.TreeSet<>(given.keySet())) {
            Optional<Field> field = fields.ticketField(name);
            if (field.isEmpty()) {
                return Optional.of(
                        Refusal.invalid(Texts.clip(name, 40), "Tickets have no field '" + Texts.clip(name, 40) + "'."));
            }
            Object value = after.get(name);
            Optional<String> problem = value == null && WEIGHTS.contains(name)
                    ? Optional.of("A ticket always has its " + name + ": a number from 1 (highest) to 4.")
                    : field.get().problemWith(value);
            if (problem.isEmpty() && value != null) {
                problem = problemWithReference(field.get(), value).or(() -> problemWithRange(name, value));
            }
            if (problem.isPresent()) {
                return Optional.of(Refusal.invalid(name, problem.get()));
            }
        }
        return Optional.empty();
    }

    /** What is wrong with a value of a field: its type, its limits, and whether what it names is there. */
    Optional<String> problemWith(Field field, @Nullable Object value) {
        return field.problemWith(value)
                .or(() -> Texts.blank(value) ? Optional.empty() : problemWithReference(field, value));
    }

    /** Whether what a value names is there. */
    private Optional<String> problemWithReference(Field field, Object value) {
        try {
            return switch (field.type()) {
                case PERSON ->
                    unknown(
                            d.lookups().person(new PersonId((String) value)).filter(Person::active),
                            "active person",
                            value);
                case GROUP -> unknown(d.lookups().group(new GroupId((String) value)), "group", value);
                case SERVICE -> unknown(d.lookups().service(new ServiceId((String) value)), "service", value);
                case CI -> unknown(d.lookups().ci(new CiId((String) value)), "CI", value);
                case TEXT, LONG_TEXT, WHOLE, NUMBER, YES_NO, CHOICE, TIME, LIST, ANY -> Optional.empty();
            };
        } catch (IllegalArgumentException notAnId) {
            return unknown(Optional.empty(), field.type().word(), value);
        }
    }

    private static Optional<String> problemWithRange(String name, Object value) {
        return switch (name) {
            case "impact", "urgency" ->
                (long) value >= 1 && (long) value <= 4
                        ? Optional.empty()
                        : Optional.of("'" + name + "' is a number from 1 (highest) to 4.");
            case "priority" ->
                List.of("P1", "P2", "P3", "P4").contains(value)
                        ? Optional.empty()
                        : Optional.of("A priority is P1, P2, P3 or P4.");
            default -> Optional.empty();
        };
    }

    private static Optional<String> unknown(Optional<?> found, String what, @Nullable Object value) {
        return found.isPresent()
                ? Optional.empty()
                : Optional.of("There is no " + what + " '" + Texts.clip(String.valueOf(value), 60) + "'.");
    }
}
