package dastur.core.bpmn;

import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.bpmn.Flows.Flow;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.time.Span;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.StepKind;
import java.time.Duration;
import java.time.format.DateTimeParseException;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Element;

/** Makes one step of one element: ours from what we wrote beside it, others from what the standard says of them. */
final class StepReader {
    private static final Set<String> MAKES = Set.of(
            "task",
            "userTask",
            "manualTask",
            "sendTask",
            "receiveTask",
            "serviceTask",
            "scriptTask",
            "businessRuleTask",
            "callActivity",
            "subProcess",
            "transaction",
            "intermediateCatchEvent",
            "intermediateThrowEvent",
            "endEvent");

    private final BpmnReader reader;

    StepReader(BpmnReader reader) {
        this.reader = reader;
    }

    /** Whether a step comes of such an element. */
    boolean makes(Element node) {
        String tag = node.getLocalName();
        return MAKES.contains(tag)
                && !(tag.equals("intermediateThrowEvent") && definition(node).isEmpty());
    }

    // --- ours

    /** What we wrote, with the name that stands in the file now. */
    ObjectNode ours(Element node, ObjectNode own, List<Flow> leaving) {
        String name = Xml.attribute(node, "name");
        if (name != null && !BpmnReader.same(name, own.path("name").asText())) {
            reader.adapted.add(BpmnReader.called(node) + ": was called '"
                    + Texts.clip(own.path("name").asText(), 60) + "' when it left here");
            own.put("name", name.strip());
        }
        String digest = reader.digest(node);
        if (digest != null && !digest.equals(Xml.digest(node))) {
            reader.adapted.add(BpmnReader.called(node)
                    + ": another program changed its text, its people or its times; what stood here before was kept");
        }
        if (kind(own) instanceof Adopts kind) {
            kind.adopt(
                    own,
                    leaving.stream()
                            .map(f -> new Adopts.Way(f.exit() != null ? f.exit() : f.name(), f.condition()))
                            .toList());
        }
        reader.understood.add(BpmnReader.called(node));
        return own;
    }

    private static @Nullable StepKind<?> kind(ObjectNode step) {
        return Kinds.named(step.path("kind").asText()).orElse(null);
    }

    // --- others'

    ObjectNode foreign(Element node, List<Flow> leaving, Flows flows) {
        String tag = node.getLocalName();
        return switch (tag) {
            case "userTask", "manualTask", "task" -> understood(node, task(node, outcomes(leaving), flows));
            case "sendTask", "intermediateThrowEvent" ->
                adapted(node, notice(node), "it tells the ticket's group; say whom it should tell");
            case "serviceTask", "scriptTask", "businessRuleTask" ->
                adapted(node, task(node, List.of("Done"), flows), "a person does it until an action is chosen");
            case "receiveTask" ->
                adapted(node, waitForSignal(node), "it waits for a signal; say which one, and who sends it");
            case "callActivity" -> call(node);
            case "intermediateCatchEvent" -> waiting(node);
            case "endEvent" -> understood(node, end(node));
            default -> bracket(node);
        };
    }

    private ObjectNode understood(Element node, ObjectNode step) {
        reader.understood.add(BpmnReader.called(node));
        many(node);
        return step;
    }

    private ObjectNode adapted(Element node, ObjectNode step, String how) {
        reader.adapted.add(BpmnReader.called(node) + ": " + how);
        many(node);
        return step;
    }

    /** A loop on a single task has no word here; a bracket around it has. */
    private void many(Element node) {
        boolean loops =
                Xml.children(node).stream().anyMatch(e -> e.getLocalName().endsWith("LoopCharacteristics"));
        if (loops && !node.getLocalName().equals("subProcess")) {
            reader.leftOut.add(
                    "the loop of " + BpmnReader.called(node) + ": put the step into a 'for each' or 'repeat'");
        }
    }

    private static ObjectNode step(String kind) {
        return Json.mapper().createObjectNode().put("kind", kind);
    }

    String name(Element node, String otherwise) {
        String name = Xml.attribute(node, "name");
        return Texts.clip(name == null ? otherwise : name.strip().replaceAll("\\s+", " "), 120);
    }

    private ObjectNode task(Element node, List<String> outcomes, Flows flows) {
        ObjectNode task = step("task").put("name", name(node, "Do it"));
        documentation(node).ifPresent(text -> task.put("instructions", text));
        task.set("assignee", reader.party(doer(node)));
        ArrayNode all = task.putArray("outcomes");
        outcomes.forEach(all::add);
        task.put("mayLeaveOut", false);
        flows.borders(node.getAttribute("id")).stream()
                .flatMap(b -> duration(b).stream())
                .findFirst()
                .ifPresent(due -> task.put("due", due.toString()));
        return task;
    }

    private @Nullable String doer(Element node) {
        return Xml.children(node).stream()
                .filter(e ->
                        Set.of("potentialOwner", "humanPerformer", "performer").contains(e.getLocalName()))
                .map(e -> e.getTextContent().strip())
                .filter(t -> !t.isEmpty())
                .findFirst()
                .orElse(reader.lanes.get(node.getAttribute("id")));
    }

    private static Optional<String> documentation(Element node) {
        return Xml.child(node, Xml.BPMN, "documentation")
                .map(d -> Texts.clip(d.getTextContent().strip(), Texts.MAX_TEXT))
                .filter(t -> !t.isEmpty());
    }

    private static List<String> outcomes(List<Flow> leaving) {
        if (leaving.size() < 2) {
            return List.of(
                    leaving.isEmpty() || leaving.getFirst().name() == null
                            ? "Done"
                            : clip(leaving.getFirst().name()));
        }
        List<String> names = new ArrayList<>();
        for (int i = 0; i < leaving.size(); i++) {
            names.add(wayName(leaving.get(i), i));
        }
        return names.stream().distinct().toList();
    }

    private static String wayName(Flow flow, int index) {
        if (flow.name() != null) {
            return clip(flow.name());
        }
        return flow.condition() != null && !flow.condition().isBlank() ? clip(flow.condition()) : "Way " + (index + 1);
    }

    private static String clip(String text) {
        return Texts.clip(text.strip().replaceAll("\\s+", " "), 80);
    }

    private ObjectNode notice(Element node) {
        String name = name(node, "Tell");
        ObjectNode notice = step("notify").put("name", name);
        notice.putArray("to").addObject().put("is", "ticketGroup");
        return notice.put("subject", name).put("text", documentation(node).orElse(name));
    }

    private ObjectNode waitForSignal(Element node) {
        String name = name(node, "signal");
        String word = name.toLowerCase(java.util.Locale.ROOT)
                .replaceAll("[^a-z0-9]+", "-")
                .replaceAll("^-|-$", "");
        return step("wait").put("name", name).put("signal", word.isEmpty() ? "signal" : Texts.clip(word, 60));
    }

    private ObjectNode call(Element node) {
        String called = String.valueOf(Xml.attribute(node, "calledElement")).replaceFirst("^process\\.", "");
        ObjectNode call = step("call").put("name", name(node, "Call"));
        call.put("workflow", called.toLowerCase(java.util.Locale.ROOT).replaceAll("[^a-z0-9._-]+", "-"));
        call.putObject("inputs");
        return adapted(
                node, call, "it calls the workflow '" + call.get("workflow").asText() + "', which has to exist");
    }

    private ObjectNode waiting(Element node) {
        ObjectNode wait = step("wait").put("name", name(node, "Wait"));
        Optional<Span> span = duration(node);
        if (span.isPresent()) {
            return understood(node, wait.put("span", span.get().toString()));
        }
        String kind = definition(node).map(Element::getLocalName).orElse("");
        String text = definition(node).map(d -> d.getTextContent().strip()).orElse("");
        return switch (kind) {
            case "timerEventDefinition" ->
                adapted(node, wait.put("until", text), "say the moment as an expression: '" + clip(text) + "'");
            case "conditionalEventDefinition" ->
                adapted(node, wait.put("condition", text), "write its condition anew: '" + clip(text) + "'");
            default -> adapted(node, waitForSignal(node), "it waits for a signal; say which one, and who sends it");
        };
    }

    private static ObjectNode end(Element node) {
        String name = Xml.attribute(node, "name");
        String result = name == null ? "done" : clip(name);
        String kind = definition(node).map(Element::getLocalName).orElse("");
        ObjectNode end = step("end").put("name", name == null ? "Done" : result).put("result", result);
        boolean inside = !"process".equals(node.getParentNode().getLocalName());
        return end.put(
                "ending",
                kind.equals("terminateEventDefinition")
                        ? "run"
                        : kind.equals("errorEventDefinition") && inside ? "failed" : "line");
    }

    private ObjectNode bracket(Element node) {
        String name = name(node, "Stage");
        Optional<Element> many = Xml.child(node, Xml.BPMN, "multiInstanceLoopCharacteristics");
        if (many.isPresent()) {
            ObjectNode each =
                    step("for each").put("name", name).put("item", "item").put("stopAtFirst", false);
            each.put("atOnce", many.get().getAttribute("isSequential").equals("true") ? 1 : 10);
            String list = many.get().getTextContent().strip();
            return adapted(node, each.put("list", list.isEmpty() ? "[]" : list), "say the list it goes through");
        }
        Optional<Element> loop = Xml.child(node, Xml.BPMN, "standardLoopCharacteristics");
        if (loop.isPresent()) {
            ObjectNode repeat = step("repeat").put("name", name);
            String most = loop.get().getAttribute("loopMaximum");
            repeat.put("rounds", most.matches("[1-9]\\d{0,3}") ? Integer.parseInt(most) : 10);
            String condition = loop.get().getTextContent().strip();
            repeat.put("until", condition.isEmpty() ? "true" : "!(" + condition + ")");
            return adapted(node, repeat, "write the condition anew until which it repeats");
        }
        return understood(node, step("stage").put("name", name));
    }

    /** A gateway that stands for itself: on data a branch, on anything else a person's word. */
    ObjectNode gateway(Element node, List<Flow> leaving, Flows flows) {
        if (!"exclusiveGateway".equals(node.getLocalName())) {
            return adapted(
                    node,
                    task(node, outcomes(leaving), flows).put("name", name(node, "How does it go on?")),
                    "its lines could not be told apart or depend on what comes first, so a person says how it goes on");
        }
        ObjectNode branch = step("branch").put("name", name(node, "Decide"));
        ArrayNode cases = branch.putArray("cases");
        String otherwise = node.getAttribute("default");
        boolean open = false;
        for (int i = 0; i < leaving.size(); i++) {
            Flow flow = leaving.get(i);
            if (!flow.id().equals(otherwise)) {
                String condition = flow.condition() == null ? "" : flow.condition();
                cases.addObject().put("name", wayName(flow, i)).put("when", condition);
                open |= !condition.isEmpty();
            }
        }
        return adapted(
                node,
                branch,
                open ? "its conditions are in another language; write them anew" : "give its cases conditions");
    }

    // --- exits

    /** The exits that a step made here has, in order. */
    List<String> exits(ObjectNode step) {
        List<String> all = new ArrayList<>();
        step.path("outcomes").forEach(o -> all.add(o.asText()));
        if (all.isEmpty()) {
            all.add(kind(step) instanceof Draws<?> kind ? kind.usualExit() : "done");
        }
        return all;
    }

    /** The exit of a way that does not say it; null where the step has none left. */
    @Nullable String exit(ObjectNode step, Element node, Flow flow, @Nullable String nth, int index) {
        if (step.get("kind").asText().equals("branch")) {
            return flow.id().equals(node.getAttribute("default")) ? "otherwise" : wayName(flow, index);
        }
        if (step.get("kind").asText().equals("task") && step.get("outcomes").size() > 1) {
            return wayName(flow, index);
        }
        return nth;
    }

    /** The exit that an event on a step's border means; null where that kind of step has none. */
    @Nullable String borderExit(Element border, ObjectNode step) {
        String definition = definition(border).map(Element::getLocalName).orElse("");
        return kind(step) instanceof Draws<?> kind ? kind.borderExits().get(definition) : null;
    }

    private static Optional<Element> definition(Element event) {
        return Xml.children(event).stream()
                .filter(e -> e.getLocalName().endsWith("EventDefinition"))
                .findFirst();
    }

    private static Optional<Span> duration(Element event) {
        return definition(event)
                .flatMap(d -> Xml.child(d, Xml.BPMN, "timeDuration"))
                .flatMap(t -> span(t.getTextContent().strip()));
    }

    /** A length of time from ISO 8601, in the largest unit that says it exactly. */
    static Optional<Span> span(String iso) {
        try {
            long seconds = Duration.parse(iso).toSeconds();
            if (seconds < 0 || seconds > 999_999L * 60) {
                return Optional.empty();
            }
            if (seconds > 0 && seconds % 86_400 == 0) {
                return Optional.of(new Span(seconds / 86_400, Span.Unit.DAY, false));
            }
            if (seconds > 0 && seconds % 3_600 == 0) {
                return Optional.of(new Span(seconds / 3_600, Span.Unit.HOUR, false));
            }
            return Optional.of(
                    seconds % 60 == 0
                            ? new Span(seconds / 60, Span.Unit.MINUTE, false)
                            : new Span(Math.min(seconds, 999_999), Span.Unit.SECOND, false));
        } catch (DateTimeParseException | ArithmeticException e) {
            return Optional.empty();
        }
    }
}
