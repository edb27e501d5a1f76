package dastur.server;

import dastur.core.bpmn.Bpmn;
import dastur.core.finding.Finding;
import dastur.core.finding.Findings;
import dastur.core.finding.KnownOrganisation;
import dastur.core.finding.Snapshot;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Group;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.Rota;
import dastur.core.people.RotaKey;
import dastur.core.rehearsal.KeptCase;
import dastur.core.run.LookupKey;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import java.io.IOException;
import java.io.PrintWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.ZoneOffset;
import java.util.Collections;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.function.Function;
import picocli.CommandLine;
import picocli.CommandLine.Command;
import picocli.CommandLine.Option;
import picocli.CommandLine.Parameters;

/**
 * Workflows as files: checked, converted and rehearsed without a server, so that they can live in version control (N27).
 * What the organisation has comes from a file saved from {@code /api/snapshot}; without it, people, groups, actions and
 * ladders are taken to exist.
 */
final class FileCommands {
    private static final Set<String> NEEDS_SNAPSHOT = Set.of(
            "unknown group",
            "unknown action",
            "unknown ladder",
            "unknown workflow",
            "nobody",
            "no trigger",
            "unknown expected exit",
            "unknown exit",
            "unknown field");
    private static final long MAX_BYTES = 2_000_000;

    private FileCommands() {}

    /** Something in a file that cannot be understood. */
    private static final class Unreadable extends IOException {
        Unreadable(String message) {
            super(message);
        }
    }

    static WorkflowVersion read(Path file) throws IOException {
        if (!Files.isRegularFile(file)) {
            throw new Unreadable("There is no file " + file + ".");
        }
        if (Files.size(file) > MAX_BYTES) {
            throw new Unreadable(file + " is larger than " + MAX_BYTES + " bytes.");
        }
        String text = Files.readString(file);
        if (file.toString().endsWith(".json")) {
            try {
                return Json.read(text, WorkflowVersion.class);
            } catch (RuntimeException e) {
                throw new Unreadable(file + " is no workflow in JSON.");
            }
        }
        if (isBpmn(file)) {
            try {
                return Bpmn.read(text, 1, new PersonId("somebody"), Names.NONE).version();
            } catch (IllegalArgumentException e) {
                throw new Unreadable(file + ": " + e.getMessage());
            }
        }
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        if (read.version() == null) {
            StringBuilder all = new StringBuilder();
            read.problems().forEach(p -> all.append(all.isEmpty() ? "" : System.lineSeparator())
                    .append(file)
                    .append(':')
                    .append(p.line())
                    .append(':')
                    .append(p.column())
                    .append(": ")
                    .append(p.message())
                    .append(p.proposal() == null ? "" : " Perhaps '" + p.proposal() + "'?"));
            throw new Unreadable(all.toString());
        }
        return read.version();
    }

    private static boolean isBpmn(Path file) {
        return file.toString().endsWith(".bpmn");
    }

    private static Optional<Snapshot> snapshot(Path file) throws IOException {
        return file == null ? Optional.empty() : Optional.of(Json.read(Files.readString(file), Snapshot.class));
    }

    /** Whatever is named exists. */
    private static KnownOrganisation anything() {
        PersonId somebody = new PersonId("somebody");
        return new KnownOrganisation(
                new FieldCatalogue(List.of(), List.of()),
                id -> Optional.of(new Group(id, id.value(), List.of(somebody))),
                id -> Optional.of(new Person(id, id.value(), "", Set.of(Role.AGENT), true)),
                key -> Optional.empty(),
                key -> Optional.empty(),
                key -> Optional.empty(),
                List.of(),
                key -> Optional.of(anyRota(key)),
                key -> List.of());
    }

    private static Rota anyRota(RotaKey key) {
        Rota.Level level = new Rota.Level(List.of());
        return new Rota(key, key.value(), ZoneOffset.UTC, Collections.nCopies(5, level), List.of());
    }

    @Command(
            name = "check",
            description = "Lists the findings of workflow files: exit 0 when nothing blocks, 1 when something does.")
    static final class Check implements Callable<Integer> {
        @Parameters(paramLabel = "FILE", arity = "1..*", description = "Workflows (.dastur, .json or .bpmn).")
        private List<Path> files;

        @Option(names = "--against", description = "What the organisation has, saved from /api/snapshot.")
        private Path against;

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() throws IOException {
            PrintWriter out = spec.commandLine().getOut();
            Optional<Snapshot> snapshot = snapshot(against);
            boolean blocked = false;
            for (Path file : files) {
                try {
                    blocked |= check(file, snapshot, out);
                } catch (Unreadable e) {
                    out.println(e.getMessage());
                    blocked = true;
                }
            }
            return blocked ? 1 : 0;
        }

        /** Fields of one's own and everything else of the organisation are taken to exist. */
        private static boolean needsSnapshot(Finding f) {
            return NEEDS_SNAPSHOT.contains(f.code()) || f.message().contains("There is no field");
        }

        private static boolean check(Path file, Optional<Snapshot> snapshot, PrintWriter out) throws IOException {
            WorkflowVersion version = read(file);
            KnownOrganisation around = snapshot.map(Snapshot::organisation).orElseGet(FileCommands::anything);
            List<Trigger> byHand =
                    List.of(new Trigger(new TriggerId("file"), true, new Trigger.ByHand(null), List.of(), null));
            List<Finding> findings = Findings.of(version, byHand, around).stream()
                    .filter(f -> snapshot.isPresent() || !needsSnapshot(f))
                    .toList();
            findings.forEach(f -> out.println(file + ": " + f.severity().word() + ": "
                    + (f.step() == null ? "" : f.step() + ": ") + f.message()));
            if (findings.isEmpty()) {
                out.println(file + ": no findings");
            }
            return findings.stream().anyMatch(Finding::blocks);
        }
    }

    @Command(name = "convert", description = "Converts a workflow between .dastur, .json and .bpmn (BPMN 2.0).")
    static final class Convert implements Callable<Integer> {
        @Parameters(index = "0", paramLabel = "IN")
        private Path in;

        @Parameters(index = "1", paramLabel = "OUT")
        private Path out;

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() throws IOException {
            WorkflowVersion version = read(in);
            Files.writeString(out, written(version));
            account();
            spec.commandLine().getOut().println(out + " written");
            return 0;
        }

        private String written(WorkflowVersion version) throws IOException {
            String name = out.toString();
            if (name.endsWith(".dastur")) {
                return Notation.write(version);
            }
            if (name.endsWith(".json")) {
                return Json.tree(version).toPrettyString() + "\n";
            }
            if (name.endsWith(".bpmn")) {
                return Bpmn.write(version);
            }
            throw new IOException(
                    "Workflows are written as .dastur, .json or .bpmn, not as " + out.getFileName() + ".");
        }

        /** What another program's file meant, where it is not the same here. */
        private void account() throws IOException {
            if (isBpmn(in)) {
                Bpmn.Read read = Bpmn.read(Files.readString(in), 1, new PersonId("somebody"), Names.NONE);
                PrintWriter told = spec.commandLine().getOut();
                read.adapted().forEach(a -> told.println(in + ": adapted: " + a));
                read.leftOut().forEach(l -> told.println(in + ": left out: " + l));
            }
        }
    }

    @Command(
            name = "rehearse",
            description = "Plays kept rehearsals of a workflow file: exit 0 when all end as expected, 1 when not.")
    static final class Rehearse implements Callable<Integer> {
        @Parameters(paramLabel = "FILE")
        private Path file;

        @Option(names = "--case", required = true, description = "Kept rehearsals, a JSON file of one or a list.")
        private List<Path> cases;

        @Option(names = "--against", required = true, description = "What the organisation has, from /api/snapshot.")
        private Path against;

        @CommandLine.Spec
        private CommandLine.Model.CommandSpec spec;

        @Override
        public Integer call() throws IOException {
            WorkflowVersion version = read(file);
            Snapshot snapshot = snapshot(against).orElseThrow();
            Function<LookupKey, Optional<?>> world = snapshot::look;
            boolean failed = false;
            for (Path path : cases) {
                for (KeptCase kept : kept(path)) {
                    KeptCase.Verdict verdict = kept.play(version, world);
                    failed |= verdict.problem() != null;
                    spec.commandLine()
                            .getOut()
                            .println(
                                    verdict.problem() == null
                                            ? kept.name() + ": ends with '" + verdict.came() + "' as expected"
                                            : "FAILED " + verdict.problem());
                }
            }
            return failed ? 1 : 0;
        }

        private static List<KeptCase> kept(Path path) throws IOException {
            String text = Files.readString(path).strip();
            return text.startsWith("[")
                    ? List.of(Json.read(text, KeptCase[].class))
                    : List.of(Json.read(text, KeptCase.class));
        }
    }
}
