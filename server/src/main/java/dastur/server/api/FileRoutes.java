package dastur.server.api;

import com.fasterxml.jackson.core.JsonProcessingException;
import dastur.core.bpmn.Bpmn;
import dastur.core.bpmn.Dmn;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.notation.NotationProblem;
import dastur.core.people.Right;
import dastur.core.workflow.DecisionTable;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.util.List;
import java.util.Locale;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Workflows and decision tables as files of open formats, out and in (N27). Nothing here is saved. */
final class FileRoutes {
    private static final int MAX_FILE = 900_000;

    record ReadBody(String name, String text) {}

    /**
     * What came of a file.
     *
     * @param version null when the file cannot be understood; then there are problems
     * @param adapted what became something near, with what is left to do
     */
    record ReadView(
            @Nullable WorkflowVersion version,
            List<NotationProblem> problems,
            List<String> understood,
            List<String> adapted,
            List<String> leftOut) {}

    record WriteBody(WorkflowVersion version, String format) {}

    record FileView(String name, String type, String text) {}

    record TableBody(String name, DecisionTable table) {}

    record TableReadBody(String text) {}

    private final Organisation organisation;
    private final Workflows workflows;

    private FileRoutes(Organisation organisation, Workflows workflows) {
        this.organisation = organisation;
        this.workflows = workflows;
    }

    static Stream<Route> of(Organisation organisation, Workflows workflows) {
        FileRoutes r = new FileRoutes(organisation, workflows);
        return Stream.of(
                Route.post(
                        "/api/files/workflow/read",
                        Right.DESIGN,
                        "A workflow from a file (.dastur, .json or .bpmn), with an account of what was made of it",
                        ReadBody.class,
                        ReadView.class,
                        r::read),
                Route.post(
                        "/api/files/workflow/write",
                        Right.SEE,
                        "A workflow as a file: dastur, json or bpmn",
                        WriteBody.class,
                        FileView.class,
                        r::write),
                Route.post(
                        "/api/files/table/read",
                        Right.DESIGN,
                        "A decision table from DMN",
                        TableReadBody.class,
                        Dmn.Read.class,
                        r::readTable),
                Route.post(
                        "/api/files/table/write",
                        Right.SEE,
                        "A decision table as DMN",
                        TableBody.class,
                        FileView.class,
                        r::writeTable));
    }

    private Object read(Request q) {
        ReadBody body = q.body(ReadBody.class);
        String name = Request.needed(body.name(), "name").toLowerCase(Locale.ROOT);
        String text = limited(body.text());
        if (name.endsWith(".bpmn") || name.endsWith(".xml")) {
            try {
                Bpmn.Read read =
                        Bpmn.read(text, 1, q.person().id(), NotationRoutes.names(organisation, workflows, null));
                return new ReadView(read.version(), List.of(), read.understood(), read.adapted(), read.leftOut());
            } catch (IllegalArgumentException e) {
                throw Problem.invalid("text", e.getMessage()).end();
            }
        }
        if (name.endsWith(".json")) {
            return new ReadView(json(text), List.of(), List.of(), List.of(), List.of());
        }
        if (name.endsWith(".dastur") || name.endsWith(".txt")) {
            Notation.Read read = Notation.read(text, 1, Names.NONE);
            return new ReadView(read.version(), read.problems(), List.of(), List.of(), List.of());
        }
        throw Problem.invalid("name", "A workflow comes as a file that ends in .dastur, .json or .bpmn.")
                .end();
    }

    private static WorkflowVersion json(String text) {
        try {
            return Json.mapper().readValue(text, WorkflowVersion.class);
        } catch (JsonProcessingException e) {
            var at = e.getLocation();
            throw Problem.invalid(
                            "text",
                            "The file is no workflow in JSON"
                                    + (at == null
                                            ? "."
                                            : ": line " + at.getLineNr() + ", column " + at.getColumnNr() + "."))
                    .end();
        }
    }

    private Object write(Request q) {
        WriteBody body = q.body(WriteBody.class);
        WorkflowVersion version = Request.needed(body.version(), "version");
        String base = version.key() + "-" + version.number();
        return switch (Request.needed(body.format(), "format")) {
            case "dastur" -> new FileView(base + ".dastur", "text/plain", Notation.write(version));
            case "bpmn" -> new FileView(base + ".bpmn", "application/xml", Bpmn.write(version));
            case "json" ->
                new FileView(
                        base + ".json", "application/json", Json.tree(version).toPrettyString() + "\n");
            default ->
                throw Problem.invalid("format", "A workflow is written as dastur, json or bpmn.")
                        .end();
        };
    }

    private Object readTable(Request q) {
        try {
            return Dmn.read(limited(q.body(TableReadBody.class).text()));
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("text", e.getMessage()).end();
        }
    }

    private Object writeTable(Request q) {
        TableBody body = q.body(TableBody.class);
        String name = Request.needed(body.name(), "name");
        return new FileView(
                name.toLowerCase(Locale.ROOT).replaceAll("[^a-z0-9]+", "-") + ".dmn",
                "application/xml",
                Dmn.write(name, Request.needed(body.table(), "table")));
    }

    private static String limited(@Nullable String text) {
        String given = Request.needed(text, "text");
        if (given.length() > MAX_FILE) {
            throw Problem.invalid("text", "A file of at most " + MAX_FILE + " characters can be read.")
                    .end();
        }
        return given;
    }
}
