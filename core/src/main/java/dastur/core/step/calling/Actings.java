package dastur.core.step.calling;

import dastur.core.expression.Literal;
import dastur.core.expression.Vocabulary;
import dastur.core.expression.Yield;
import dastur.core.finding.Inspection;
import dastur.core.finding.Reads;
import dastur.core.json.Texts;
import dastur.core.notation.Phrases;
import dastur.core.notation.Scanner;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Limit;
import java.util.LinkedHashMap;
import java.util.Map;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** What automations and measurements have in common: an action with inputs. */
final class Actings {
    private Actings() {}

    static void yields(Acting step, Vocabulary.Declared declared, Yield into) {
        Optional<Action> action = declared.action(step.action());
        action.ifPresentOrElse(
                a -> into.values(a.outputs().stream().map(Action.Output::field).toList()), into::anything);
        into.value("reference", "Reference", FieldType.TEXT).value("error", "Error", FieldType.LONG_TEXT);
    }

    // --- findings

    static void inspect(Acting s, Inspection in) {
        Optional<Action> action = NamedAction.inspect(s, "action", s.action(), "for '" + s.name() + "'", in);
        if (action.isEmpty()) {
            return;
        }
        inputs(s, action.get(), in);
        if (s.putBack() != null) {
            NamedAction.inspect(s, "putBack", s.putBack().action(), "to put '" + s.name() + "' back with", in);
        }
        boolean endsItem = in.version()
                .body()
                .all()
                .anyMatch(o ->
                        o instanceof Bracket.ForEach e && e.body().step(s.id()).isPresent());
        if (action.get().changesWorld() && !s.ways().containsKey("failed") && !endsItem) {
            in.warns(
                    "no way for failure",
                    s,
                    null,
                    "When '" + s.name()
                            + "' fails, the run stalls until somebody looks. Lead 'failed' somewhere if it should go on.");
        }
        if (s.tries() != null && (s.tries() < 1 || s.tries() > 20)) {
            in.blocks("tries", s, "tries", "'" + s.name() + "' is tried 1 to 20 times.");
        }
    }

    private static void inputs(Acting s, Action action, Inspection in) {
        for (Field input : action.inputs()) {
            String expression = s.inputs().get(input.name());
            if (!Texts.blank(expression)) {
                in.value(s, "inputs", "'" + input.label() + "' of '" + s.name() + "'", expression, input);
                beyond(action, input, expression)
                        .ifPresent(why -> in.blocks("beyond its limit", s, "inputs", "In '" + s.name() + "': " + why));
            } else if (input.required()) {
                in.blocks("input missing", s, "inputs", "'" + s.name() + "' needs '" + input.label() + "'.");
            }
        }
        s.inputs().keySet().stream()
                .filter(name -> action.inputs().stream().noneMatch(i -> i.name().equals(name)))
                .forEach(name ->
                        in.blocks("unknown input", s, "inputs", "'" + action.name() + "' takes no '" + name + "'."));
    }

    /** What is said outright can be judged at once; of a CI only whoever runs it knows what it is. */
    private static Optional<String> beyond(Action action, Field input, String expression) {
        Limit limit = action.limits() == null ? null : action.limits().get(input.name());
        return limit == null || input.type() == FieldType.CI
                ? Optional.empty()
                : Literal.of(expression).flatMap(said -> limit.problem(input, said, ci -> Optional.empty()));
    }

    static void reads(Acting s, Reads into) {
        into.expressions(s.inputs().values());
    }

    // --- text

    /** What a sentence with an action says. */
    record Read(
            ActionKey action,
            String name,
            Map<String, String> inputs,
            @Nullable Span timeLimit,
            @Nullable Integer tries) {}

    static Read read(Scanner in) {
        ActionKey action = Phrases.action(in);
        String name = in.quotedIfThere().orElse(in.names().actions().getOrDefault(action.value(), action.value()));
        Map<String, String> inputs = new LinkedHashMap<>();
        Phrases.inlineInputs(in, inputs);
        Span limit = in.spanAfter("within").orElse(null);
        Integer tries = null;
        if (in.take("at most")) {
            tries = in.number("How often it is tried");
            boolean ignored = in.take("tries") || in.take("try");
        }
        return new Read(action, name, inputs, limit, tries);
    }

    static String sentence(String head, Acting s) {
        return head + " " + s.action() + " " + Phrases.quoted(s.name()) + Phrases.within(s.timeLimit())
                + (s.tries() == null ? "" : " at most " + s.tries() + " tries");
    }
}
