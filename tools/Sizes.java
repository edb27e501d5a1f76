import com.sun.source.tree.ClassTree;
import com.sun.source.tree.CompilationUnitTree;
import com.sun.source.tree.MethodTree;
import com.sun.source.util.JavacTask;
import com.sun.source.util.SourcePositions;
import com.sun.source.util.TreeScanner;
import com.sun.source.util.Trees;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Map;
import java.util.TreeMap;
import java.util.stream.Stream;
import javax.tools.ToolProvider;

/** Says how large files, methods and packages of the application are: {@code java tools/Sizes.java [ROOT]}. Tests are not counted. */
final class Sizes {
    private record Method(long lines, String name, String file) {}

    public static void main(String[] arguments) throws Exception {
        Path root = Path.of(arguments.length > 0 ? arguments[0] : ".");
        List<Path> files;
        try (Stream<Path> all = Files.walk(root)) {
            files = all.filter(p -> p.toString().matches(".*/src/main/java/.*\\.java") && !p.toString().contains("/bench/"))
                    .toList();
        }
        var compiler = ToolProvider.getSystemJavaCompiler();
        var manager = compiler.getStandardFileManager(null, null, null);
        JavacTask task = (JavacTask) compiler.getTask(
                null, manager, d -> {}, List.of("-proc:none"), null, manager.getJavaFileObjectsFromPaths(files));
        List<Method> methods = new ArrayList<>();
        Map<String, Integer> packages = new TreeMap<>();
        List<Method> large = new ArrayList<>();
        SourcePositions positions = Trees.instance(task).getSourcePositions();
        for (CompilationUnitTree unit : task.parse()) {
            String file = Path.of(unit.getSourceFile().getName()).getFileName().toString();
            long lines = unit.getSourceFile().getCharContent(true).toString().lines().count();
            packages.merge(String.valueOf(unit.getPackageName()), 1, Integer::sum);
            if (lines > 350) {
                large.add(new Method(lines, "", file));
            }
            new TreeScanner<Void, Void>() {
                @Override
                public Void visitMethod(MethodTree method, Void nothing) {
                    if (method.getBody() != null && positions.getStartPosition(unit, method.getBody()) >= 0) {
                        long from = unit.getLineMap().getLineNumber(positions.getStartPosition(unit, method.getBody()));
                        long to = unit.getLineMap().getLineNumber(positions.getEndPosition(unit, method.getBody()));
                        methods.add(new Method(Math.max(1, to - from - 1), method.getName().toString(), file));
                    }
                    return super.visitMethod(method, nothing);
                }
            }.scan(unit, null);
        }
        System.out.printf("%d files, %d over 350 lines (%.1f %% under)%n", files.size(), large.size(),
                100.0 * (files.size() - large.size()) / files.size());
        large.stream().sorted(Comparator.comparing(Method::lines).reversed()).limit(8)
                .forEach(m -> System.out.println("  " + m.lines() + " " + m.file()));
        long over = methods.stream().filter(m -> m.lines() > 25).count();
        System.out.printf("%d methods, %d over 25 lines (%.1f %% at most), %d over 60%n", methods.size(), over,
                100.0 * (methods.size() - over) / methods.size(), methods.stream().filter(m -> m.lines() > 60).count());
        methods.stream().filter(m -> m.lines() > 60).sorted(Comparator.comparing(Method::lines).reversed())
                .forEach(m -> System.out.println("  " + m.lines() + " " + m.name() + " in " + m.file()));
        packages.entrySet().stream().sorted(Map.Entry.<String, Integer>comparingByValue().reversed()).limit(4)
                .forEach(e -> System.out.println(e.getValue() + " files in " + e.getKey()));
    }
}
