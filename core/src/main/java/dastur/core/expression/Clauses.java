package dastur.core.expression;

import dev.cel.common.ast.CelExpr;
import java.util.ArrayList;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Set;
import java.util.function.Consumer;
import org.jspecify.annotations.Nullable;

/** Walks an expression's tree: its clauses, the paths it reads, the names it begins with. */
final class Clauses {
    private Clauses() {}

    /** Gives each clause that stands between and, or and not. */
    static void split(CelExpr expr, Consumer<CelExpr> leaf) {
        if (expr.exprKind().getKind() == CelExpr.ExprKind.Kind.CALL) {
            switch (expr.call().function()) {
                case "_&&_", "_||_", "!_" -> {
                    expr.call().args().forEach(arg -> split(arg, leaf));
                    return;
                }
                default -> {}
            }
        }
        leaf.accept(expr);
    }

    static List<String> paths(CelExpr expr, Vocabulary vocabulary) {
        Set<String> found = new LinkedHashSet<>();
        walk(expr, e -> {
            String path = path(e);
            if (path != null && vocabulary.field(path).isPresent()) {
                found.add(path);
            }
        });
        return new ArrayList<>(found);
    }

    /** Every path read as far as it is written, without those whose presence is asked for somewhere in the expression. */
    static Set<String> reads(CelExpr expr) {
        Set<String> found = new LinkedHashSet<>();
        Set<String> asked = new LinkedHashSet<>();
        Set<String> own = new LinkedHashSet<>();
        walk(expr, e -> {
            if (e.exprKind().getKind() == CelExpr.ExprKind.Kind.COMPREHENSION) {
                // The name that stands for each element inside filter, map and the like.
                own.add(e.comprehension().iterVar());
            }
            if (e.exprKind().getKind() == CelExpr.ExprKind.Kind.SELECT) {
                String path = path(e);
                if (path != null) {
                    (e.select().testOnly() ? asked : found).add(path);
                }
            }
        });
        found.removeIf(p -> own.contains(p.split("\\.")[0]));
        found.removeIf(
                p -> asked.stream().anyMatch(a -> p.equals(a) || p.startsWith(a + ".") || a.startsWith(p + ".")));
        return found;
    }

    static Set<String> roots(CelExpr expr, Set<String> names) {
        Set<String> found = new LinkedHashSet<>();
        walk(expr, e -> {
            if (e.exprKind().getKind() == CelExpr.ExprKind.Kind.IDENT) {
                String name = e.ident().name();
                if (names.contains(name) || name.equals("now")) {
                    found.add(name);
                }
            }
        });
        return found;
    }

    /** The path that an expression is; null where it is something else. */
    static @Nullable String path(CelExpr expr) {
        return switch (expr.exprKind().getKind()) {
            case IDENT -> expr.ident().name();
            case SELECT -> {
                String operand = path(expr.select().operand());
                yield operand == null ? null : operand + "." + expr.select().field();
            }
            default -> null;
        };
    }

    private static void walk(CelExpr expr, Consumer<CelExpr> visit) {
        visit.accept(expr);
        switch (expr.exprKind().getKind()) {
            case SELECT -> walk(expr.select().operand(), visit);
            case CALL -> {
                expr.call().target().ifPresent(t -> walk(t, visit));
                expr.call().args().forEach(a -> walk(a, visit));
            }
            case LIST -> expr.list().elements().forEach(e -> walk(e, visit));
            case MAP ->
                expr.map().entries().forEach(e -> {
                    walk(e.key(), visit);
                    walk(e.value(), visit);
                });
            case STRUCT -> expr.struct().entries().forEach(e -> walk(e.value(), visit));
            case COMPREHENSION -> {
                walk(expr.comprehension().iterRange(), visit);
                walk(expr.comprehension().accuInit(), visit);
                walk(expr.comprehension().loopCondition(), visit);
                walk(expr.comprehension().loopStep(), visit);
                walk(expr.comprehension().result(), visit);
            }
            default -> {}
        }
    }
}
