package dastur.core.expression;

import com.google.common.collect.ImmutableCollection;
import com.google.common.collect.ImmutableList;
import com.google.common.collect.ImmutableSet;
import dastur.core.ticket.Beside;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import dev.cel.common.types.CelType;
import dev.cel.common.types.CelTypeProvider;
import dev.cel.common.types.ListType;
import dev.cel.common.types.MapType;
import dev.cel.common.types.SimpleType;
import dev.cel.common.types.StructType;
import dev.cel.common.types.StructTypeReference;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * The names an expression may use and their types: {@code ticket.*}, {@code ci.*}, {@code wished.*}, {@code near.*} for the CIs beside it,
 * {@code service.*},
 * {@code requester.*}, {@code run.*}, {@code input.*}, {@code vars.*}, {@code steps.<id>.*}, {@code measured.*} in
 * checks, {@code signal.*} where a signal starts something, {@code is.<condition>}, the item names of for each, and {@code now}. A wrong field or type is found when the expression is compiled, not when it runs.
 */
public final class Vocabulary {
    private static final List<Field> SERVICE = List.of(
            Field.of("id", "Id", FieldType.TEXT),
            Field.of("name", "Name", FieldType.TEXT),
            Field.of("passengers", "For passengers", FieldType.YES_NO));
    private static final List<Field> SIGNAL = List.of(
            Field.of("id", "Id", FieldType.TEXT),
            Field.of("source", "Source", FieldType.TEXT),
            Field.of("sort", "Sort", FieldType.TEXT),
            Field.of("severity", "Severity", FieldType.TEXT),
            Field.of("what", "What is the matter", FieldType.TEXT),
            Field.of("matter", "Matter", FieldType.TEXT),
            Field.of("key", "Key", FieldType.TEXT),
            Field.of("ci", "CI", FieldType.TEXT),
            Field.of("service", "Service", FieldType.TEXT),
            Field.of("title", "Title", FieldType.TEXT),
            Field.of("text", "Text", FieldType.TEXT),
            Field.of("link", "Link", FieldType.TEXT),
            Field.of("at", "Happened at", FieldType.TIME));
    private static final List<Field> REQUESTER = List.of(
            Field.of("id", "Id", FieldType.TEXT),
            Field.of("name", "Name", FieldType.TEXT),
            Field.of("mail", "Mail address", FieldType.TEXT));
    private static final List<Field> RUN = List.of(
            Field.of("id", "Id", FieldType.TEXT),
            Field.of("workflow", "Workflow", FieldType.TEXT),
            Field.of("version", "Version", FieldType.WHOLE),
            Field.of("startedAt", "Started at", FieldType.TIME));

    private final Map<String, Map<String, Field>> roots = new LinkedHashMap<>();
    private final Map<String, Map<String, Field>> steps = new LinkedHashMap<>();
    private final Map<String, StructType> types = new LinkedHashMap<>();
    /** Names whose values have no declared form: items of a for each. */
    private final Set<String> loose = new LinkedHashSet<>();
    /** Steps that run another workflow whose results are not declared here. */
    private final Set<String> looseSteps = new LinkedHashSet<>();

    private Map<String, String> conditions = Map.of();

    private Vocabulary() {}

    /** What conditions on a ticket outside a run may use, such as those of triggers. */
    public static Vocabulary ofTicket(FieldCatalogue fields) {
        Vocabulary v = new Vocabulary();
        List<Field> ticket = new ArrayList<>(fields.ticketFields());
        ticket.add(Field.of("number", "Number", FieldType.TEXT));
        ticket.add(Field.of("files", "Files", FieldType.LIST));
        ticket.add(Field.of("kind", "Kind", FieldType.TEXT));
        ticket.add(Field.of("createdAt", "Created at", FieldType.TIME));
        v.root("ticket", ticket);
        v.root("ci", fields.ciFields());
        v.root("wished", fields.ciFields());
        v.root("near", Beside.LISTS);
        v.root("service", SERVICE);
        v.root("requester", REQUESTER);
        v.finish();
        return v;
    }

    /**
     * What conditions on a signal may use, and texts of its mapping. There is no ticket yet, or it is not asked.
     *
     * @param own values of the source's own; where several sources are meant, of all of them
     */
    public static Vocabulary ofSignal(FieldCatalogue fields, List<Field> own) {
        Vocabulary v = new Vocabulary();
        List<Field> signal = new ArrayList<>(SIGNAL);
        signal.addAll(own);
        v.root("signal", signal);
        v.root("ci", fields.ciFields());
        v.root("service", SERVICE);
        v.finish();
        return v;
    }

    /** What a version's own expressions may use. */
    public static Vocabulary of(WorkflowVersion version, FieldCatalogue fields, Declared declared) {
        Vocabulary v = ofTicket(fields);
        v.root("run", RUN);
        v.root("input", version.startForm());
        v.root("vars", version.vars());
        List<Field> measured = new ArrayList<>();
        version.body().all().forEach(step -> {
            Yields<Step> kind = Kinds.of(step, Yields.class);
            Yield yield = new Yield();
            kind.yields(step, declared, yield);
            v.steps.put(step.id().value(), byName(yield.values()));
            v.loose.addAll(yield.items());
            measured.addAll(yield.measured());
            if (yield.givesAnything()) {
                v.looseSteps.add(step.id().value());
            }
        });
        if (!measured.isEmpty()) {
            v.root("measured", measured);
        }
        if (!version.conditions().isEmpty()) {
            v.conditions = version.conditions();
            v.root(
                    "is",
                    version.conditions().keySet().stream()
                            .map(name -> Field.of(name, name, FieldType.YES_NO))
                            .toList());
        }
        v.finish();
        return v;
    }

    /** What is declared elsewhere: actions' outputs and other workflows' results. */
    public interface Declared {
        Optional<Action> action(ActionKey key);

        /** The result fields of a workflow's live version; empty when not known, then any name is allowed. */
        Optional<List<Field>> results(WorkflowKey workflow);

        /** Knows actions only. */
        static Declared actions(Function<ActionKey, Optional<Action>> actions) {
            return new Declared() {
                @Override
                public Optional<Action> action(ActionKey key) {
                    return actions.apply(key);
                }

                @Override
                public Optional<List<Field>> results(WorkflowKey workflow) {
                    return Optional.empty();
                }
            };
        }
    }

    /** The text of a named condition. */
    Optional<String> condition(String name) {
        return Optional.ofNullable(conditions.get(name));
    }

    Set<String> looseNames() {
        return loose;
    }

    /** What an action's request texts may use: its inputs and its idempotency key. */
    public static Vocabulary ofAction(Action action) {
        Vocabulary v = new Vocabulary();
        v.root("input", action.inputs());
        v.root("call", List.of(Field.of("key", "Idempotency key", FieldType.TEXT)));
        v.finish();
        return v;
    }

    /** What a rule calls the row that it is about. */
    public static final String ROW = "row";

    /** What the rules of a watch may use: what its action gives. @param rows whether they are about each row of a list */
    public static Vocabulary ofReading(Action action, boolean rows) {
        Vocabulary v = new Vocabulary();
        v.root("read", action.outputs().stream().map(Action.Output::field).toList());
        if (rows) {
            v.loose.add(ROW);
        }
        v.finish();
        return v;
    }

    private void root(String name, List<Field> fields) {
        roots.put(name, byName(fields));
    }

    private static Map<String, Field> byName(List<Field> fields) {
        Map<String, Field> map = new LinkedHashMap<>();
        fields.forEach(f -> map.putIfAbsent(f.name(), f));
        return map;
    }

    private void finish() {
        types.clear();
        roots.forEach((name, fields) -> struct(name, fields.keySet(), f -> celType(fields.get(f))));
        steps.forEach((id, fields) -> struct("steps." + id, fields.keySet(), f -> celType(fields.get(f))));
        if (!steps.isEmpty()) {
            struct("steps", steps.keySet(), this::stepType);
        }
    }

    private @Nullable CelType stepType(String id) {
        if (looseSteps.contains(id)) {
            return MapType.create(SimpleType.STRING, SimpleType.DYN);
        }
        return steps.containsKey(id) ? StructTypeReference.create(typeName("steps." + id)) : null;
    }

    private void struct(String name, Set<String> members, Function<String, @Nullable CelType> type) {
        types.put(
                typeName(name),
                StructType.create(
                        typeName(name), ImmutableSet.copyOf(members), m -> Optional.ofNullable(type.apply(m))));
    }

    /** Types have names that no path has: else {@code steps.look} would mean the type, not the value. */
    static String typeName(String path) {
        return "dastur.types." + path.replace('.', '_');
    }

    private static @Nullable CelType celType(@Nullable Field field) {
        if (field == null) {
            return null;
        }
        return switch (field.type()) {
            case TEXT, LONG_TEXT, CHOICE, PERSON, GROUP, SERVICE, CI -> SimpleType.STRING;
            case WHOLE -> SimpleType.INT;
            case NUMBER -> SimpleType.DOUBLE;
            case YES_NO -> SimpleType.BOOL;
            case TIME -> SimpleType.TIMESTAMP;
            case LIST -> ListType.create(SimpleType.DYN);
            case ANY -> SimpleType.DYN;
        };
    }

    /** The names that begin a path. */
    Set<String> rootNames() {
        Set<String> names = new LinkedHashSet<>(roots.keySet());
        if (!steps.isEmpty()) {
            names.add("steps");
        }
        return names;
    }

    /** The declared field a path such as {@code ticket.title} or {@code steps.look.outcome} names. */
    public Optional<Field> field(String path) {
        String[] parts = path.split("\\.");
        if (parts.length == 2) {
            return Optional.ofNullable(roots.getOrDefault(parts[0], Map.of()).get(parts[1]));
        }
        if (parts.length == 3 && parts[0].equals("steps")) {
            return Optional.ofNullable(steps.getOrDefault(parts[1], Map.of()).get(parts[2]));
        }
        return Optional.empty();
    }

    /** Every path with its field, for completion and help. */
    public Map<String, Field> paths() {
        Map<String, Field> all = new LinkedHashMap<>();
        roots.forEach((root, fields) -> fields.forEach((name, field) -> all.put(root + "." + name, field)));
        steps.forEach((id, fields) -> fields.forEach((name, field) -> all.put("steps." + id + "." + name, field)));
        return all;
    }

    CelTypeProvider types() {
        return new CelTypeProvider() {
            @Override
            public ImmutableCollection<CelType> types() {
                return ImmutableList.copyOf(types.values());
            }

            @Override
            public Optional<CelType> findType(String name) {
                return Optional.ofNullable(types.get(name));
            }
        };
    }
}
