package dastur.server.api;

import dastur.core.expression.Vocabulary;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.notation.NotationProblem;
import dastur.core.people.Right;
import dastur.core.step.task.Procedure;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.stream.Collectors;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Sentences, the text form of a workflow, and procedures from documents (N27–N29). Nothing here is saved. */
final class NotationRoutes {
    private static final int MAX_SENTENCE = 4_000;
    private static final int MAX_DOCUMENT = 200_000;

    record SentenceBody(String text, WorkflowVersion version) {}

    /** @param step what the sentence makes; null when it cannot be understood (yet) */
    record SentenceView(@Nullable Step step, @Nullable NotationProblem problem, List<String> offers) {}

    record TextBody(WorkflowVersion version) {}

    record TextView(String text) {}

    record ReadBody(String text, Integer number) {}

    record ReadView(@Nullable WorkflowVersion version, List<NotationProblem> problems) {}

    /** @param under what becomes of what stands under a line; left out, its check list */
    record DocumentBody(String text, WorkflowVersion version, Procedure.@Nullable Under under) {}

    record DocumentView(List<Step> steps, Map<String, WorkflowVersion.Note> notes) {}

    private final Organisation organisation;
    private final Workflows workflows;

    private NotationRoutes(Organisation organisation, Workflows workflows) {
        this.organisation = organisation;
        this.workflows = workflows;
    }

    static Stream<Route> of(Organisation organisation, Workflows workflows) {
        NotationRoutes r = new NotationRoutes(organisation, workflows);
        return Stream.of(
                Route.post(
                        "/api/notation/sentence",
                        Right.DESIGN,
                        "Make a step of a sentence, with what could come next",
                        SentenceBody.class,
                        SentenceView.class,
                        r::sentence),
                Route.post(
                        "/api/notation/write",
                        Right.SEE,
                        "A workflow as text",
                        TextBody.class,
                        TextView.class,
                        q -> new TextView(Notation.write(
                                Request.needed(q.body(TextBody.class).version(), "version")))),
                Route.post(
                        "/api/notation/read",
                        Right.DESIGN,
                        "A workflow from its text",
                        ReadBody.class,
                        ReadView.class,
                        r::read),
                Route.post(
                        "/api/notation/document",
                        Right.DESIGN,
                        "Tasks from a pasted procedure",
                        DocumentBody.class,
                        DocumentView.class,
                        r::document));
    }

    private Object sentence(Request q) {
        SentenceBody body = q.body(SentenceBody.class);
        String text = limited(body.text(), MAX_SENTENCE);
        WorkflowVersion version = Request.needed(body.version(), "version");
        Names names = names(organisation, workflows, version);
        Notation.Sentence made = Notation.sentence(text, taken(version), names);
        return new SentenceView(made.step(), made.problem(), Notation.complete(text, names));
    }

    private Object read(Request q) {
        ReadBody body = q.body(ReadBody.class);
        Notation.Read read = Notation.read(
                Request.needed(body.text(), "text"),
                Request.needed(body.number(), "number"),
                names(organisation, workflows, null));
        return new ReadView(read.version(), read.problems());
    }

    private Object document(Request q) {
        DocumentBody body = q.body(DocumentBody.class);
        try {
            Procedure.Steps made = Procedure.read(
                    limited(body.text(), MAX_DOCUMENT),
                    body.under() == null ? Procedure.Under.CHECK_LIST : body.under(),
                    taken(Request.needed(body.version(), "version")));
            return new DocumentView(made.steps(), made.notes());
        } catch (IllegalArgumentException e) {
            throw Problem.invalid("text", e.getMessage()).end();
        }
    }

    private static String limited(@Nullable String text, int most) {
        String given = Request.needed(text, "text");
        if (given.length() > most) {
            throw Problem.invalid("text", "At most " + most + " characters can be read at once.")
                    .end();
        }
        return given;
    }

    private static Set<StepId> taken(WorkflowVersion version) {
        return version.body().all().map(Step::id).collect(Collectors.toSet());
    }

    static Names names(Organisation organisation, Workflows workflows, @Nullable WorkflowVersion version) {
        Map<String, String> fields = new LinkedHashMap<>();
        var around = OrganisationNow.of(organisation, workflows);
        Vocabulary vocabulary = version == null
                ? Vocabulary.ofTicket(around.fields())
                : Vocabulary.of(version, around.fields(), around.declared());
        vocabulary.paths().forEach((path, field) -> fields.put(path, field.label()));
        Map<String, String> groups = new LinkedHashMap<>();
        organisation.groups().forEach(g -> groups.put(g.id().value(), g.name()));
        Map<String, String> people = new LinkedHashMap<>();
        organisation.people().stream().filter(p -> p.active()).forEach(p -> people.put(p.id().value(), p.name()));
        Map<String, String> actions = new LinkedHashMap<>();
        workflows.actions().forEach(a -> actions.put(a.key().value(), a.name()));
        Map<String, String> ladders = new LinkedHashMap<>();
        workflows.ladders().forEach(l -> ladders.put(l.key().value(), l.name()));
        Map<String, String> names = new LinkedHashMap<>();
        workflows.all().stream()
                .filter(w -> w.liveVersion() != null && !w.retired())
                .forEach(w -> names.put(w.key(), w.name()));
        Map<String, String> rotas = new LinkedHashMap<>();
        organisation.rotas().forEach(r -> rotas.put(r.key().value(), r.name()));
        return new Names(groups, people, actions, ladders, names, fields, rotas);
    }
}
