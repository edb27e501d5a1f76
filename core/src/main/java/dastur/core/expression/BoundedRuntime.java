package dastur.core.expression;

import com.google.common.collect.ImmutableList;
import dev.cel.common.CelOptions;
import dev.cel.common.types.SimpleType;
import dev.cel.common.types.StructTypeReference;
import dev.cel.compiler.CelCompiler;
import dev.cel.compiler.CelCompilerFactory;
import dev.cel.parser.CelStandardMacro;
import dev.cel.runtime.CelEvaluationException;
import dev.cel.runtime.CelFunctionBinding;
import dev.cel.runtime.CelRuntime;
import dev.cel.runtime.CelRuntimeFactory;
import dev.cel.runtime.CelStandardFunctions;
import dev.cel.runtime.CelStandardFunctions.StandardFunction;
import dev.cel.runtime.standard.AddOperator.AddOverload;
import java.util.ArrayList;
import java.util.List;

/**
 * The CEL library within limits. The library bounds neither memory nor joined texts: {@code [t].map(x, x + x).map(…)}
 * doubles with every stage, so {@code +} on texts and lists is replaced by one that counts (D27).
 */
final class BoundedRuntime {
    static final int MAX_CODE_POINTS = 4_000;
    private static final int MAX_DEPTH = 50;
    private static final int MAX_ITERATIONS = 10_000;
    static final int MAX_TEXT = 64 * 1024;
    static final int MAX_ITEMS = 10_000;

    private static final CelOptions OPTIONS = CelOptions.current()
            .maxExpressionCodePointSize(MAX_CODE_POINTS)
            .maxParseRecursionDepth(MAX_DEPTH)
            .comprehensionMaxIterations(MAX_ITERATIONS)
            .enableHeterogeneousNumericComparisons(true)
            .populateMacroCalls(true)
            .build();

    static final CelRuntime RUNTIME = runtime();

    private BoundedRuntime() {}

    static CelCompiler compiler(Vocabulary vocabulary) {
        var builder = CelCompilerFactory.standardCelCompilerBuilder()
                .setTypeProvider(vocabulary.types())
                .setStandardMacros(CelStandardMacro.STANDARD_MACROS)
                .setOptions(OPTIONS)
                .addVar("now", SimpleType.TIMESTAMP)
                .addFunctionDeclarations(Functions.DECLARATIONS)
                .addFunctionDeclarations(Tables.DECLARATIONS);
        vocabulary
                .rootNames()
                .forEach(name -> builder.addVar(name, StructTypeReference.create(Vocabulary.typeName(name))));
        vocabulary.looseNames().forEach(name -> builder.addVar(name, SimpleType.DYN));
        return builder.build();
    }

    private static CelRuntime runtime() {
        CelStandardFunctions others = CelStandardFunctions.newBuilder()
                .filterFunctions((function, overload) -> function != StandardFunction.ADD
                        || (overload != AddOverload.ADD_STRING && overload != AddOverload.ADD_LIST))
                .build();
        return CelRuntimeFactory.standardCelRuntimeBuilder()
                .setStandardEnvironmentEnabled(false)
                .setStandardFunctions(others)
                .setOptions(OPTIONS)
                .addFunctionBindings(
                        CelFunctionBinding.from("add_string", String.class, String.class, BoundedRuntime::join),
                        CelFunctionBinding.from("add_list", List.class, List.class, BoundedRuntime::append))
                .addFunctionBindings(Functions.BINDINGS)
                .addFunctionBindings(Tables.BINDINGS)
                .build();
    }

    private static Object join(String a, String b) throws CelEvaluationException {
        if (a.length() + b.length() > MAX_TEXT) {
            throw new CelEvaluationException("text too long");
        }
        return a + b;
    }

    private static Object append(List<?> a, List<?> b) throws CelEvaluationException {
        if (a.size() + b.size() > MAX_ITEMS) {
            throw new CelEvaluationException("list too long");
        }
        List<Object> all = new ArrayList<>(a);
        all.addAll(b);
        return ImmutableList.copyOf(all);
    }
}
