package dastur.server.api;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.json.Texts;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.store.Organisation;
import dastur.store.SetUp;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.HashMap;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/** Accounts as CSV (RFC 4180) with a first line of column names. Passwords are in none, and nobody signs in by a file. */
final class PeopleCsv {
    private static final int MOST_ROWS = 2_000;
    private static final List<String> COLUMNS = List.of("id", "name", "mail", "roles", "groups", "manager", "open");

    /**
     * What a row of a file would do.
     *
     * @param line in the file, counted from 1
     * @param becomes new, changed, same or wrong
     * @param detail what changes or what is wrong; null when there is nothing to say
     */
    record Row(
            int line,
            String id,
            String becomes,
            @Nullable String detail,
            @JsonIgnore SetUp.@Nullable Account account) {}

    record Result(int made, int changed, int same, int wrong, List<Row> rows) {
        /** What is new or changed, managers before whom they manage, since they must be there by then. */
        List<SetUp.Account> toSet() {
            Map<PersonId, SetUp.Account> left = new LinkedHashMap<>();
            rows.stream()
                    .filter(r -> r.account() != null && !r.becomes().equals("same"))
                    .forEach(r -> left.put(r.account().person().id(), r.account()));
            List<SetUp.Account> ordered = new ArrayList<>();
            while (!left.isEmpty()) {
                List<SetUp.Account> next = left.values().stream()
                        .filter(a -> a.person().manager() == null
                                || !left.containsKey(a.person().manager()))
                        .toList();
                // Among people who are there already a circle harms nothing.
                ordered.addAll(next.isEmpty() ? List.copyOf(left.values()) : next);
                (next.isEmpty() ? List.copyOf(left.values()) : next)
                        .forEach(a -> left.remove(a.person().id()));
            }
            return ordered;
        }
    }

    private final AccountRules rules;
    private final Map<PersonId, SetUp.Account> before = new HashMap<>();

    PeopleCsv(Organisation organisation) {
        this.rules = new AccountRules(organisation);
        all(organisation).forEach(a -> before.put(a.person().id(), a));
    }

    private static List<SetUp.Account> all(Organisation organisation) {
        List<Group> groups = organisation.groups();
        return organisation.people().stream()
                .map(p -> new SetUp.Account(
                        p,
                        groups.stream()
                                .filter(g -> g.members().contains(p.id()))
                                .map(Group::id)
                                .sorted()
                                .toList()))
                .toList();
    }

    static String write(Organisation organisation) {
        return Csv.write(
                COLUMNS, all(organisation).stream().map(PeopleCsv::cells).toList());
    }

    private static Map<String, Object> cells(SetUp.Account account) {
        Person person = account.person();
        Map<String, Object> cells = new LinkedHashMap<>();
        cells.put("id", person.id().value());
        cells.put("name", person.name());
        cells.put("mail", person.mail());
        cells.put("roles", person.roles().stream().map(Role::word).collect(Collectors.joining("; ")));
        cells.put(
                "groups", account.groups().stream().map(GroupId::value).sorted().collect(Collectors.joining("; ")));
        cells.put("manager", person.manager() == null ? "" : person.manager().value());
        cells.put("open", person.active() ? "yes" : "no");
        return cells;
    }

    /** What a file would do. A file that is no CSV ends the request. */
    Result read(String csv) {
        List<Csv.Line> lines = Csv.read(csv, MOST_ROWS, COLUMNS::contains, String.join(", ", COLUMNS));
        Map<PersonId, PersonId> managers = new HashMap<>();
        for (Csv.Line line : lines) {
            id(line.cells()).ifPresent(id -> {
                rules.announces(id);
                named(line.cells().get("manager")).ifPresent(m -> managers.put(id, m));
            });
        }
        Set<PersonId> seen = new HashSet<>();
        List<Row> rows = lines.stream().map(line -> row(line, seen, managers)).toList();
        return new Result(count(rows, "new"), count(rows, "changed"), count(rows, "same"), count(rows, "wrong"), rows);
    }

    private static int count(List<Row> rows, String becomes) {
        return (int) rows.stream().filter(r -> r.becomes().equals(becomes)).count();
    }

    private static Optional<PersonId> id(Map<String, String> cells) {
        return named(cells.get("id"));
    }

    private static Optional<PersonId> named(@Nullable String cell) {
        try {
            return Texts.blank(cell) ? Optional.empty() : Optional.of(new PersonId(cell));
        } catch (IllegalArgumentException e) {
            return Optional.empty();
        }
    }

    private Row row(Csv.Line line, Set<PersonId> seen, Map<PersonId, PersonId> managers) {
        String id = Objects.requireNonNullElse(line.cells().get("id"), "");
        try {
            PersonId key = new PersonId(id);
            if (!seen.add(key)) {
                throw new Csv.Wrong("id", "'" + id + "' stands in the file twice.");
            }
            Optional<SetUp.Account> was = Optional.ofNullable(before.get(key));
            SetUp.Account is = merged(key, was, line.cells());
            rules.checked(is.person(), is.groups());
            if (was.isEmpty() && managesItself(key, managers)) {
                throw new Csv.Wrong(
                        "manager", "'" + id + "' would be their own manager's manager, and none of them is there yet.");
            }
            rules.takes(is.person());
            if (was.isEmpty()) {
                return new Row(line.number(), id, "new", is.person().name(), is);
            }
            String changes = changes(was.get(), is);
            return changes.isEmpty()
                    ? new Row(line.number(), id, "same", null, is)
                    : new Row(line.number(), id, "changed", changes, is);
        } catch (Csv.Wrong | IllegalArgumentException e) {
            return new Row(line.number(), Texts.clip(id, 80), "wrong", e.getMessage(), null);
        }
    }

    /** Whether managers who are all new lead back to where one began. */
    private boolean managesItself(PersonId from, Map<PersonId, PersonId> managers) {
        Set<PersonId> passed = new HashSet<>();
        PersonId at = managers.get(from);
        while (at != null && !before.containsKey(at) && passed.add(at)) {
            if (at.equals(from)) {
                return true;
            }
            at = managers.get(at);
        }
        return false;
    }

    /** A column that is not in the file leaves what is there; an empty cell clears it. */
    private static SetUp.Account merged(PersonId id, Optional<SetUp.Account> was, Map<String, String> cells) {
        Map<String, Object> kept = was.map(PeopleCsv::cells)
                .orElse(Map.of(
                        "name", "", "mail", "", "roles", "requester", "groups", "", "manager", "", "open", "yes"));
        Set<Role> roles = new TreeSet<>();
        for (String word : list(cells, kept, "roles")) {
            roles.add(Role.of(word)
                    .orElseThrow(() -> new Csv.Wrong(
                            "roles",
                            "There is no role '" + Texts.clip(word, 40) + "'. There are: "
                                    + String.join(
                                            ", ", new TreeSet<>(Role.names().keySet())) + ".")));
        }
        String manager = text(cells, kept, "manager");
        Person person = new Person(
                id,
                text(cells, kept, "name"),
                text(cells, kept, "mail"),
                roles,
                isOpen(text(cells, kept, "open")),
                manager.isEmpty() ? null : new PersonId(manager));
        return new SetUp.Account(
                person,
                list(cells, kept, "groups").stream().map(GroupId::new).sorted().toList());
    }

    private static boolean isOpen(String cell) {
        return switch (cell) {
            case "yes", "true", "" -> true;
            case "no", "false" -> false;
            default -> throw new Csv.Wrong("open", "Whether an account is open is said by yes or no.");
        };
    }

    private static String text(Map<String, String> cells, Map<String, Object> kept, String name) {
        String cell = cells.containsKey(name) ? cells.get(name) : String.valueOf(kept.get(name));
        return cell == null ? "" : cell.strip();
    }

    private static Set<String> list(Map<String, String> cells, Map<String, Object> kept, String name) {
        return Arrays.stream(text(cells, kept, name).split(";"))
                .map(String::strip)
                .filter(s -> !s.isEmpty())
                .collect(Collectors.toCollection(LinkedHashSet::new));
    }

    private static String changes(SetUp.Account before, SetUp.Account after) {
        Map<String, Object> was = cells(before);
        Map<String, Object> is = cells(after);
        return COLUMNS.stream()
                .filter(c -> !Objects.equals(was.get(c), is.get(c)))
                .map(c -> c + ": " + orNothing(was.get(c)) + " → " + orNothing(is.get(c)))
                .collect(Collectors.joining("; "));
    }

    private static Object orNothing(@Nullable Object cell) {
        return cell == null || cell.equals("") ? "nothing" : cell;
    }
}
