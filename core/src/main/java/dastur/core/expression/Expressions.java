package dastur.core.expression;

import dastur.core.ticket.FieldType;
import dev.cel.common.CelAbstractSyntaxTree;
import dev.cel.common.CelErrorCode;
import dev.cel.common.CelIssue;
import dev.cel.common.CelSource;
import dev.cel.common.CelValidationException;
import dev.cel.common.ast.CelExpr;
import dev.cel.common.types.CelKind;
import dev.cel.common.types.CelType;
import dev.cel.compiler.CelCompiler;
import dev.cel.parser.CelUnparser;
import dev.cel.parser.CelUnparserFactory;
import dev.cel.runtime.CelEvaluationException;
import dev.cel.runtime.CelRuntime;
import dev.cel.runtime.CelUnknownSet;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import org.jspecify.annotations.Nullable;

/**
 * Compiles and evaluates expressions over one {@link Vocabulary}. Compiled programs are kept; the same text, scope and
 * moment always give the same outcome. Messages of the library never leave this class: they may hold values (D27).
 */
public final class Expressions {
    /** How many programs one generation keeps: above what thousands of triggers need. */
    private static final int MAX_KEPT = 8_000;

    private final Vocabulary vocabulary;
    private final CelCompiler compiler;
    /** What was used of late, and what was before: a full generation grows old, and what is used of it comes along. */
    private volatile Map<String, Compiled> kept = new ConcurrentHashMap<>();

    private volatile Map<String, Compiled> older = Map.of();

    private sealed interface Compiled {
        record Ready(
                CelAbstractSyntaxTree ast,
                CelRuntime.Program program,
                Set<String> roots,
                List<Leaf> leaves,
                List<Sifting.Equal> equals)
                implements Compiled {}

        record Wrong(ExpressionProblem problem) implements Compiled {}
    }

    /** A clause of a condition: its text and the paths it reads. */
    private record Leaf(String text, List<String> paths) {}

    public Expressions(Vocabulary vocabulary) {
        this.vocabulary = vocabulary;
        this.compiler = BoundedRuntime.compiler(vocabulary);
    }

    public Vocabulary vocabulary() {
        return vocabulary;
    }

    /** What is wrong with an expression of any type; empty when it compiles. */
    public Optional<ExpressionProblem> problemWith(String text) {
        return compiled(text) instanceof Compiled.Wrong wrong ? Optional.of(wrong.problem()) : Optional.empty();
    }

    /** What is wrong with a condition: it must compile and be true or false. */
    public Optional<ExpressionProblem> problemWithCondition(String text) {
        return problemWithTyped(text, FieldType.YES_NO);
    }

    /** What is wrong with an expression that must give a value for a field of a type. */
    public Optional<ExpressionProblem> problemWithTyped(String text, FieldType wanted) {
        return switch (compiled(text)) {
            case Compiled.Wrong wrong -> Optional.of(wrong.problem());
            case Compiled.Ready ready ->
                fits(ready.ast().getResultType(), wanted)
                        ? Optional.empty()
                        : Optional.of(new ExpressionProblem(
                                "This gives " + word(ready.ast().getResultType()) + ", but " + wantedWord(wanted)
                                        + " is needed.",
                                1));
        };
    }

    /**
     * The paths an expression reads without asking first whether they are there: {@code steps.look.seen} or
     * {@code vars.count}; what stands in {@code has()} is asked, and so may be absent. Empty when it does not compile.
     */
    public Set<String> reads(String text) {
        return compiled(text) instanceof Compiled.Ready ready
                ? Clauses.reads(ready.ast().getExpr())
                : Set.of();
    }

    /** Evaluates an expression. Never throws for what a writer or the data did wrong. */
    public Outcome evaluate(String text, Scope scope) {
        return switch (compiled(text)) {
            case Compiled.Wrong wrong -> new Outcome.Failed(wrong.problem().message());
            case Compiled.Ready ready -> run(ready, scope);
        };
    }

    /** Evaluates a condition and takes it apart, clause by clause, with the values seen (N33). */
    public Clause.Explained explain(String condition, Scope scope) {
        return switch (compiled(condition)) {
            case Compiled.Wrong wrong ->
                new Clause.Explained(
                        condition,
                        Verdict.CANNOT_SAY,
                        List.of(new Clause(
                                condition,
                                Verdict.CANNOT_SAY,
                                Map.of(),
                                List.of(wrong.problem().message()))));
            case Compiled.Ready ready -> {
                List<Clause> clauses =
                        ready.leaves().stream().map(leaf -> clause(leaf, scope)).toList();
                yield new Clause.Explained(condition, verdict(run(ready, scope)), clauses);
            }
        };
    }

    /**
     * Whether a condition cannot be true, since something that it compares with a fixed value has another (I26). It costs a
     * hundredth of evaluating it. False says nothing.
     */
    public boolean rulesOut(String condition, Scope scope) {
        return compiled(condition) instanceof Compiled.Ready ready && Sifting.rulesOut(ready.equals(), scope);
    }

    /** Whether a condition compares something with a fixed value, so that it can be passed over without being evaluated. */
    public boolean isSifted(String condition) {
        return compiled(condition) instanceof Compiled.Ready ready
                && !ready.equals().isEmpty();
    }

    private Clause clause(Leaf leaf, Scope scope) {
        Map<String, Object> seen = new LinkedHashMap<>();
        List<String> absent = new ArrayList<>();
        for (String path : leaf.paths()) {
            Optional<Object> value = read(path, scope);
            value.ifPresentOrElse(v -> seen.put(path, v), () -> absent.add(path));
        }
        return new Clause(leaf.text(), verdict(evaluate(leaf.text(), scope)), seen, absent);
    }

    /** The value at a path such as {@code ticket.impact}, in JSON form; empty when absent. */
    public static Optional<Object> read(String path, Scope scope) {
        return Optional.ofNullable(read(List.of(path.split("\\.")), scope));
    }

    /** The same, of a path in its parts; null when absent. */
    static @Nullable Object read(List<String> path, Scope scope) {
        Object value = scope.root(path.getFirst());
        for (int i = 1; i < path.size() && value != null; i++) {
            value = value instanceof Map<?, ?> map ? map.get(path.get(i)) : null;
        }
        return value;
    }

    private static Verdict verdict(Outcome outcome) {
        return outcome instanceof Outcome.Value v && v.value() instanceof Boolean b
                ? Verdict.of(b)
                : Verdict.CANNOT_SAY;
    }

    private Outcome run(Compiled.Ready ready, Scope scope) {
        Map<String, Object> activation = new LinkedHashMap<>();
        for (String root : ready.roots()) {
            value(root, ready, scope).ifPresent(v -> activation.put(root, v));
        }
        try {
            Object result = ready.program().eval(activation);
            // An item that is not in scope is not in the activation, so what depends on it is unknown.
            return result instanceof CelUnknownSet
                    ? new Outcome.Absent(missing(ready, scope))
                    : new Outcome.Value(Forms.plain(result));
        } catch (CelEvaluationException e) {
            return e.getErrorCode() == CelErrorCode.ATTRIBUTE_NOT_FOUND
                            || e.getErrorCode() == CelErrorCode.INDEX_OUT_OF_BOUNDS
                    ? new Outcome.Absent(missing(ready, scope))
                    : new Outcome.Failed(reason(e.getErrorCode()));
        } catch (Forms.TooLarge e) {
            return new Outcome.Failed("The result is too large.");
        }
    }

    private Optional<Object> value(String root, Compiled.Ready ready, Scope scope) {
        if (root.equals("now")) {
            return Optional.of(scope.now());
        }
        if (vocabulary.looseNames().contains(root)) {
            return scope.item(root).map(Forms::loose);
        }
        return Optional.of(
                root.equals("is") ? conditions(ready, scope) : Forms.typed(root, scope.root(root), vocabulary));
    }

    /** The named conditions that an expression reads; one that cannot say is absent. A name never reads itself. */
    private Map<String, Object> conditions(Compiled.Ready ready, Scope scope) {
        Map<String, Object> values = new LinkedHashMap<>();
        for (Leaf leaf : ready.leaves()) {
            for (String path : leaf.paths()) {
                named(path).flatMap(name -> vocabulary.condition(name)).ifPresent(text -> {
                    boolean nested = compiled(text) instanceof Compiled.Ready r
                            && r.roots().contains("is");
                    if (!nested && evaluate(text, scope) instanceof Outcome.Value v) {
                        values.put(named(path).orElseThrow(), v.value());
                    }
                });
            }
        }
        return values;
    }

    private static Optional<String> named(String path) {
        return path.startsWith("is.") ? Optional.of(path.substring(3)) : Optional.empty();
    }

    private String missing(Compiled.Ready ready, Scope scope) {
        return ready.leaves().stream()
                .flatMap(l -> l.paths().stream())
                .filter(p -> read(p, scope).isEmpty())
                .findFirst()
                .orElse("a value");
    }

    private static String reason(CelErrorCode code) {
        return switch (code) {
            case DIVIDE_BY_ZERO -> "It divides by zero.";
            case NUMERIC_OVERFLOW -> "A number in it is too large.";
            case BAD_FORMAT, INVALID_ARGUMENT -> "A value in it has the wrong form.";
            case ITERATION_BUDGET_EXCEEDED -> "It takes too many steps.";
            default -> "It cannot be computed from these values.";
        };
    }

    private Compiled compiled(String text) {
        Map<String, Compiled> young = kept;
        Compiled known = young.get(text);
        if (known != null) {
            return known;
        }
        if (young.size() >= MAX_KEPT) {
            young = grow(young);
        }
        Compiled before = older.get(text);
        return young.computeIfAbsent(text, t -> before != null ? before : compile(t));
    }

    /** Begins a generation, unless another has just done so. */
    private synchronized Map<String, Compiled> grow(Map<String, Compiled> full) {
        if (kept == full) {
            older = full;
            kept = new ConcurrentHashMap<>();
        }
        return kept;
    }

    private Compiled compile(String text) {
        if (text.isBlank()) {
            return new Compiled.Wrong(new ExpressionProblem("An expression is needed here.", 1));
        }
        if (text.codePointCount(0, text.length()) > BoundedRuntime.MAX_CODE_POINTS) {
            return new Compiled.Wrong(new ExpressionProblem("An expression has at most 4000 characters.", 1));
        }
        try {
            CelAbstractSyntaxTree ast = compiler.compile(text).getAst();
            Set<String> roots = new LinkedHashSet<>();
            List<Leaf> leaves = new ArrayList<>();
            Clauses.split(ast.getExpr(), leaf -> leaves.add(leaf(leaf, ast)));
            leaves.forEach(l -> l.paths().forEach(p -> roots.add(p.split("\\.")[0])));
            roots.addAll(Clauses.roots(ast.getExpr(), vocabulary.rootNames()));
            roots.addAll(Clauses.roots(ast.getExpr(), vocabulary.looseNames()));
            return new Compiled.Ready(
                    ast,
                    BoundedRuntime.RUNTIME.createProgram(ast),
                    roots,
                    leaves,
                    Sifting.of(ast.getExpr(), vocabulary));
        } catch (CelValidationException e) {
            return new Compiled.Wrong(problem(e.getErrors().getFirst()));
        } catch (CelEvaluationException e) {
            return new Compiled.Wrong(new ExpressionProblem("This cannot be computed.", 1));
        }
    }

    private Leaf leaf(CelExpr expr, CelAbstractSyntaxTree whole) {
        CelUnparser unparser = CelUnparserFactory.newUnparser();
        CelSource source = CelSource.newBuilder("")
                .addAllMacroCalls(whole.getSource().getMacroCalls())
                .build();
        return new Leaf(
                unparser.unparse(CelAbstractSyntaxTree.newParsedAst(expr, source)), Clauses.paths(expr, vocabulary));
    }

    private ExpressionProblem problem(CelIssue issue) {
        return new ExpressionProblem(
                Wording.of(issue.getMessage(), vocabulary),
                Math.max(1, issue.getSourceLocation().getColumn() + 1));
    }

    private static boolean fits(CelType type, FieldType wanted) {
        if (type.kind() == CelKind.DYN || wanted == FieldType.ANY) {
            return true;
        }
        return switch (wanted) {
            case TEXT, LONG_TEXT, CHOICE, PERSON, GROUP, SERVICE, CI -> type.kind() == CelKind.STRING;
            case WHOLE -> type.kind() == CelKind.INT;
            case NUMBER -> type.kind() == CelKind.DOUBLE || type.kind() == CelKind.INT;
            case YES_NO -> type.kind() == CelKind.BOOL;
            case TIME -> type.kind() == CelKind.TIMESTAMP;
            case LIST -> type.kind() == CelKind.LIST;
            case ANY -> true;
        };
    }

    private static String wantedWord(FieldType wanted) {
        return switch (wanted) {
            case YES_NO -> "a condition that is true or false";
            case WHOLE -> "a whole number";
            case NUMBER -> "a number";
            case TIME -> "a time";
            case LIST -> "a list";
            default -> "a text";
        };
    }

    static String word(CelType type) {
        return switch (type.kind()) {
            case STRING -> "a text";
            case INT, UINT -> "a whole number";
            case DOUBLE -> "a number";
            case BOOL -> "yes or no";
            case TIMESTAMP -> "a time";
            case DURATION -> "a length of time";
            case LIST -> "a list";
            case MAP, STRUCT -> "a group of values";
            default -> "another kind of value";
        };
    }
}
