package dastur.core.expression;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dev.cel.common.ast.CelConstant;
import dev.cel.common.ast.CelExpr;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;

/**
 * What must at least be so for a condition to be true: values that it compares with fixed ones, in clauses that are joined by
 * <em>and</em> (I26). A condition with a clause that is not true is not true: so of a thousand most are passed over without being
 * evaluated.
 */
final class Sifting {
    /** A path has one of these values. Numbers are kept as doubles: what differs as such differs. */
    record Equal(List<String> path, boolean whole, Set<Object> anyOf) {
        private boolean rulesOut(Object value) {
            Object plain = value instanceof Number n ? (Object) number(whole ? n.longValue() : n.doubleValue()) : value;
            boolean simple = plain instanceof String || plain instanceof Double || plain instanceof Boolean;
            return simple && !anyOf.contains(plain);
        }
    }

    /** Zero is zero, whatever its sign. */
    private static Double number(double value) {
        return value + 0.0;
    }

    private final Vocabulary vocabulary;
    private final List<Equal> found = new ArrayList<>();

    private Sifting(Vocabulary vocabulary) {
        this.vocabulary = vocabulary;
    }

    static List<Equal> of(CelExpr condition, Vocabulary vocabulary) {
        Sifting sifting = new Sifting(vocabulary);
        sifting.clause(condition);
        return List.copyOf(sifting.found);
    }

    /** Whether one of them is not so. What is of no simple kind is left to be evaluated. */
    static boolean rulesOut(List<Equal> equals, Scope scope) {
        for (Equal equal : equals) {
            Object value = Expressions.read(equal.path(), scope);
            if (value == null || equal.rulesOut(value)) {
                return true;
            }
        }
        return false;
    }

    private void clause(CelExpr expr) {
        if (expr.exprKind().getKind() != CelExpr.ExprKind.Kind.CALL) {
            equal(expr, Set.of(true));
            return;
        }
        List<CelExpr> args = expr.call().args();
        switch (expr.call().function()) {
            case "_&&_" -> args.forEach(this::clause);
            case "!_" -> equal(args.getFirst(), Set.of(false));
            case "_==_" -> {
                literal(args.get(1)).ifPresent(l -> equal(args.get(0), Set.of(l)));
                literal(args.get(0)).ifPresent(l -> equal(args.get(1), Set.of(l)));
            }
            case "@in" -> literals(args.get(1)).ifPresent(l -> equal(args.get(0), l));
            default -> {
                // Whatever else is asked is left to be evaluated.
            }
        }
    }

    private void equal(CelExpr of, Set<Object> anyOf) {
        String path = Clauses.path(of);
        boolean asksWhetherItIsThere = of.exprKind().getKind() == CelExpr.ExprKind.Kind.SELECT
                && of.select().testOnly();
        if (path == null || asksWhetherItIsThere || path.startsWith("is.")) {
            return;
        }
        vocabulary
                .field(path)
                .filter(Sifting::isPlain)
                .ifPresent(f -> found.add(new Equal(List.of(path.split("\\.")), f.type() == FieldType.WHOLE, anyOf)));
    }

    /** Whether what is kept of a field is what expressions see of it. */
    private static boolean isPlain(Field field) {
        return field.type() != FieldType.TIME && field.type() != FieldType.LIST && field.type() != FieldType.ANY;
    }

    private static Optional<Set<Object>> literals(CelExpr list) {
        if (list.exprKind().getKind() != CelExpr.ExprKind.Kind.LIST) {
            return Optional.empty();
        }
        Set<Object> all = new HashSet<>();
        for (CelExpr element : list.list().elements()) {
            Optional<Object> one = literal(element);
            if (one.isEmpty()) {
                return Optional.empty();
            }
            all.add(one.get());
        }
        return Optional.of(all);
    }

    private static Optional<Object> literal(CelExpr expr) {
        if (expr.exprKind().getKind() != CelExpr.ExprKind.Kind.CONSTANT) {
            return Optional.empty();
        }
        CelConstant constant = expr.constant();
        return switch (constant.getKind()) {
            case STRING_VALUE -> Optional.of(constant.stringValue());
            case BOOLEAN_VALUE -> Optional.of(constant.booleanValue());
            case INT64_VALUE -> Optional.of(number(constant.int64Value()));
            case DOUBLE_VALUE -> Optional.of(number(constant.doubleValue()));
            default -> Optional.empty();
        };
    }
}
