package dastur.server.api;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.json.Texts;
import dastur.core.people.GroupId;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.ServiceId;
import dastur.store.Organisation;
import dastur.store.SetUp;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** CIs as CSV (RFC 4180) with a first line of column names: a column each for what every CI has and for each attribute. */
public final class CiCsv {
    private static final int MOST_ROWS = 5_000;
    private static final List<String> COLUMNS =
            List.of("id", "name", "kind", "service", "site", "address", "owner", "life");

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
            @JsonIgnore @Nullable ConfigurationItem ci) {}

    record Result(int made, int changed, int same, int wrong, List<Row> rows) {}

    private final FieldCatalogue fields;
    private final Predicate<ServiceId> service;
    private final Predicate<GroupId> group;
    private final Function<CiId, Optional<ConfigurationItem>> ci;

    private CiCsv(
            FieldCatalogue fields,
            Predicate<ServiceId> service,
            Predicate<GroupId> group,
            Function<CiId, Optional<ConfigurationItem>> ci) {
        this.fields = fields;
        this.service = service;
        this.group = group;
        this.ci = ci;
    }

    static CiCsv known(Organisation organisation) {
        Set<ServiceId> services = new HashSet<>();
        organisation.services().forEach(s -> services.add(s.id()));
        Set<GroupId> groups = new HashSet<>();
        organisation.groups().forEach(g -> groups.add(g.id()));
        return new CiCsv(organisation.fields(), services::contains, groups::contains, organisation::ci);
    }

    /** @throws Csv.Wrong when something does not fit what is declared */
    ConfigurationItem checked(ConfigurationItem given, @Nullable List<SetUp.Relation> relations) {
        bounded("name", given.name(), 200, true);
        bounded("kind", given.kind(), 60, true);
        bounded("site", given.site(), 200, false);
        bounded("address", given.address(), 300, false);
        if (!ConfigurationItem.LIVES.contains(given.life())) {
            throw new Csv.Wrong(
                    "life",
                    "A CI's life is planned, ordered, in use or retired, but was '" + Texts.clip(given.life(), 40)
                            + "'.");
        }
        if (given.service() != null && !service.test(given.service())) {
            throw new Csv.Wrong("service", "There is no service '" + given.service() + "'.");
        }
        if (given.owner() != null && !group.test(given.owner())) {
            throw new Csv.Wrong("owner", "There is no group '" + given.owner() + "'.");
        }
        given.attributes().forEach((name, value) -> {
            Field field = fields.ci().stream()
                    .filter(f -> f.name().equals(name))
                    .findFirst()
                    .orElseThrow(() -> new Csv.Wrong(
                            "attributes." + Texts.clip(name, 40),
                            "'" + Texts.clip(name, 40) + "' is not a declared attribute of CIs."));
            // What stands there already, since its kind had it once or a workflow set it, is no reason to refuse the
            // rest.
            boolean stands = ci.apply(given.id())
                    .filter(c -> value.equals(c.attributes().get(name)))
                    .isPresent();
            if (!stands && !fields.attributesOf(given.kind()).contains(field)) {
                throw new Csv.Wrong("attributes." + name, "A " + given.kind() + " has no '" + field.label() + "'.");
            }
            field.problemWith(value).ifPresent(p -> {
                throw new Csv.Wrong("attributes." + name, p);
            });
        });
        if (relations != null) {
            relations.forEach(r -> relation(given.id(), r));
        }
        return given;
    }

    private void relation(CiId from, SetUp.Relation relation) {
        bounded("relations", relation.relation(), 40, true);
        boolean known;
        try {
            known = !relation.to().equals(from.value())
                    && ci.apply(new CiId(relation.to())).isPresent();
        } catch (IllegalArgumentException e) {
            known = false;
        }
        if (!known) {
            throw new Csv.Wrong("relations", "'" + Texts.clip(relation.to(), 60) + "' is no other CI.");
        }
    }

    private static void bounded(String where, @Nullable String text, int most, boolean needed) {
        if (needed && Texts.blank(text) || text != null && (text.length() > most || !Texts.keepable(text))) {
            throw new Csv.Wrong(where, "'" + where + "' has " + (needed ? "1" : "0") + " to " + most + " characters.");
        }
    }

    public static String write(List<ConfigurationItem> cis, FieldCatalogue fields) {
        return Csv.write(
                Stream.concat(COLUMNS.stream(), fields.ci().stream().map(Field::name))
                        .toList(),
                cis.stream().map(CiCsv::row).toList());
    }

    private static Map<String, Object> row(ConfigurationItem ci) {
        Map<String, Object> row = new LinkedHashMap<>();
        ci.values().forEach((name, value) -> row.put(name, String.valueOf(value)));
        if (ci.service() != null) {
            row.put("service", ci.service().value());
        }
        return row;
    }

    /** What a file would do. A file that is no CSV ends the request. */
    Result read(String csv) {
        Set<String> seen = new HashSet<>();
        List<Row> rows = Csv.read(
                        csv,
                        MOST_ROWS,
                        c -> COLUMNS.contains(c)
                                || fields.ci().stream().anyMatch(f -> f.name().equals(c)),
                        String.join(", ", COLUMNS) + " and the declared attributes")
                .stream()
                .map(line -> row(line.number(), line.cells(), seen))
                .toList();
        return new Result(count(rows, "new"), count(rows, "changed"), count(rows, "same"), count(rows, "wrong"), rows);
    }

    private static int count(List<Row> rows, String becomes) {
        return (int) rows.stream().filter(r -> r.becomes().equals(becomes)).count();
    }

    private Row row(int line, Map<String, String> cells, Set<String> seen) {
        String id = cells.getOrDefault("id", "");
        try {
            CiId key = new CiId(id);
            if (!seen.add(id)) {
                throw new Csv.Wrong("id", "'" + id + "' stands in the file twice.");
            }
            Optional<ConfigurationItem> before = ci.apply(key);
            ConfigurationItem after = checked(merged(key, before, cells), null);
            if (before.isEmpty()) {
                return new Row(line, id, "new", after.name(), after);
            }
            String changes = changes(before.get(), after);
            return changes.isEmpty()
                    ? new Row(line, id, "same", null, after)
                    : new Row(line, id, "changed", changes, after);
        } catch (Csv.Wrong | IllegalArgumentException e) {
            return new Row(line, Texts.clip(id, 80), "wrong", e.getMessage(), null);
        }
    }

    /** A column that is not in the file leaves what is there; an empty cell clears it. */
    private ConfigurationItem merged(CiId id, Optional<ConfigurationItem> before, Map<String, String> cells) {
        Map<String, Object> attributes = new LinkedHashMap<>();
        before.ifPresent(b -> attributes.putAll(b.attributes()));
        fields.ci().stream().filter(f -> cells.containsKey(f.name())).forEach(f -> {
            String cell = cells.get(f.name());
            if (Texts.blank(cell)) {
                attributes.remove(f.name());
            } else {
                attributes.put(f.name(), typed(f, cell));
            }
        });
        String service =
                cell(cells, "service", before.map(b -> text(b.service())).orElse(null));
        String owner = cell(cells, "owner", before.map(b -> text(b.owner())).orElse(null));
        return new ConfigurationItem(
                id,
                Objects.requireNonNullElse(
                        cell(cells, "name", before.map(ConfigurationItem::name).orElse(null)), ""),
                Objects.requireNonNullElse(
                        cell(cells, "kind", before.map(ConfigurationItem::kind).orElse(null)), ""),
                service == null ? null : new ServiceId(service),
                cell(cells, "site", before.map(ConfigurationItem::site).orElse(null)),
                cell(cells, "address", before.map(ConfigurationItem::address).orElse(null)),
                owner == null ? null : new GroupId(owner),
                Objects.requireNonNullElse(
                        cell(cells, "life", before.map(ConfigurationItem::life).orElse("in use")), "in use"),
                attributes);
    }

    private static @Nullable String text(@Nullable Object value) {
        return value == null ? null : value.toString();
    }

    private static @Nullable String cell(Map<String, String> cells, String name, @Nullable String otherwise) {
        if (!cells.containsKey(name)) {
            return otherwise;
        }
        String cell = cells.get(name);
        return Texts.blank(cell) ? null : cell;
    }

    private static Object typed(Field field, String cell) {
        try {
            return switch (field.type()) {
                case WHOLE -> Long.valueOf(cell);
                case NUMBER -> Double.valueOf(cell);
                case YES_NO ->
                    switch (cell) {
                        case "true", "yes" -> true;
                        case "false", "no" -> false;
                        default -> cell;
                    };
                default -> cell;
            };
        } catch (NumberFormatException e) {
            return cell;
        }
    }

    private static String changes(ConfigurationItem before, ConfigurationItem after) {
        Map<String, Object> was = row(before);
        Map<String, Object> is = row(after);
        Set<String> names = new java.util.TreeSet<>(was.keySet());
        names.addAll(is.keySet());
        return String.join(
                "; ",
                names.stream()
                        .filter(n -> !Objects.equals(was.get(n), is.get(n)))
                        .map(n -> n + ": " + was.getOrDefault(n, "nothing") + " → " + is.getOrDefault(n, "nothing"))
                        .toList());
    }
}
