package dastur.core.finding;

import dastur.core.expression.Expressions;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import dastur.core.workflow.WorkflowVersion;
import java.util.regex.Pattern;

/** Checks each step by itself: its people, expressions, texts, inputs and ladders. */
final class StepChecks {
    private final WorkflowVersion version;
    private final Expressions expressions;
    private final Findings.Found found;
    private final Inspection in;

    StepChecks(WorkflowVersion version, KnownOrganisation around, Expressions expressions, Findings.Found found) {
        this.version = version;
        this.expressions = expressions;
        this.found = found;
        this.in = new Inspection(version, around, expressions, found);
    }

    void check() {
        version.body().all().forEach(this::check);
        secrets();
        results();
    }

    /** What it gives to whoever calls it is computed when it ends. */
    private void results() {
        for (WorkflowVersion.Result r : version.results()) {
            expressions
                    .problemWithTyped(r.value(), r.field().type())
                    .ifPresent(p -> found.blocks(
                            "wrong expression",
                            null,
                            "results",
                            "What this workflow gives as '" + r.field().label() + "' cannot be understood: "
                                    + p.message()));
        }
    }

    private void check(Step step) {
        if (step.name().isBlank()) {
            found.blocks("no name", step.id(), "name", "A step has no name. Say in a few words what happens there.");
        }
        if (step.name().contains("{{")) {
            found.blocks(
                    "value in a name",
                    step.id(),
                    "name",
                    "The name of '" + step.name() + "' reaches people as it stands, braces too: a name is the same for"
                            + " all tickets. Put the value into the instructions, the question or the text.");
        }
        Inspects<Step> kind = Kinds.of(step, Inspects.class);
        kind.inspect(step, in);
    }

    private static final Pattern SECRET =
            Pattern.compile("(?i)(password|passwd|secret|token|api[_-]?key)\\s*[:=]\\s*['\"]?[^\\s'\"{}]{6,}");

    /** Secrets belong into connections: whoever may read a workflow or a record would read them. */
    private void secrets() {
        version.body().all().filter(s -> s.levels().isEmpty()).forEach(s -> {
            if (SECRET.matcher(dastur.core.json.Json.write(s)).find()) {
                found.blocks(
                        "secret in a text",
                        s.id(),
                        (String) null,
                        "'" + s.name() + "' seems to hold a secret. Put it into a connection instead.");
            }
        });
    }
}
