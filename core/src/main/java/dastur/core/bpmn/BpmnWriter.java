package dastur.core.bpmn;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.time.Span;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Facts;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Known;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Document;
import org.w3c.dom.Element;

/**
 * Writes a workflow with the standard's own elements; what the standard has no word for stands in our extension beside
 * them. Ids of ours hold a dot, which no step's id does.
 */
final class BpmnWriter {
    /** How an exit leaves by an event on the step's border. */
    private static final Map<String, String> BORDER = Map.of(
            "failed", "errorEventDefinition",
            "undelivered", "errorEventDefinition",
            "stopped", "errorEventDefinition",
            "short", "errorEventDefinition",
            "overdue", "timerEventDefinition",
            "lapsed", "timerEventDefinition",
            "timed out", "timerEventDefinition",
            "exhausted", "escalationEventDefinition");

    private final Document document = Xml.empty();
    private final Shapes shapes = new Shapes();

    /** Signals have to be declared before the process that waits for them, errors likewise. */
    private final Map<String, String> signals = new LinkedHashMap<>();

    static String write(WorkflowVersion version) {
        return new BpmnWriter().document(version);
    }

    private String document(WorkflowVersion version) {
        Element definitions = document.createElementNS(Xml.BPMN, "definitions");
        document.appendChild(definitions);
        for (String[] prefix : new String[][] {
            {"bpmndi", Xml.BPMN_DI}, {"dc", Xml.DC}, {"di", Xml.DI}, {"xsi", Xml.XSI}, {"dastur", Xml.OWN}
        }) {
            definitions.setAttributeNS("http://www.w3.org/2000/xmlns/", "xmlns:" + prefix[0], prefix[1]);
        }
        definitions.setAttribute("id", "definitions." + version.key());
        definitions.setAttribute("targetNamespace", Xml.OWN);
        definitions.setAttribute("expressionLanguage", "urn:dastur:cel");
        definitions.setAttribute("exporter", "Dastur");
        Element process = child(definitions, "process");
        String id = "process." + version.key();
        process.setAttribute("id", id);
        process.setAttribute("name", Xml.clean(version.name()));
        process.setAttribute("isExecutable", "true");
        if (version.purpose() != null) {
            documentation(process, version.purpose());
        }
        ObjectNode head = (ObjectNode) Json.tree(version);
        head.remove("body");
        own(process, "workflow", head.toString());
        lanes(process, version.body());
        shapes.begin(id);
        level(process, id, version.body(), version.notes());
        signals.forEach((name, signal) -> {
            Element element = document.createElementNS(Xml.BPMN, "signal");
            element.setAttribute("id", signal);
            element.setAttribute("name", Xml.clean(name));
            definitions.insertBefore(element, process);
        });
        shapes.draw(document, definitions, id);
        return Xml.write(document);
    }

    // --- lanes

    private void lanes(Element process, Level body) {
        Map<String, List<String>> byWhom = new LinkedHashMap<>();
        body.steps().forEach(s -> byWhom.computeIfAbsent(doer(s), w -> new ArrayList<>())
                .add(s.id().value()));
        if (body.steps().isEmpty()) {
            return;
        }
        Element set = child(process, "laneSet");
        set.setAttribute("id", "lanes.by");
        int number = 0;
        for (var lane : byWhom.entrySet()) {
            Element element = child(set, "lane");
            element.setAttribute("id", "lane." + ++number);
            element.setAttribute("name", Xml.clean(lane.getKey()));
            lane.getValue().forEach(id -> child(element, "flowNodeRef").setTextContent(id));
        }
    }

    /** Who carries a step out, as the lane's name. */
    private static String doer(Step step) {
        return drawing(step).doers().stream().findFirst().map(Pen::whom).orElse("Dastur");
    }

    private static Drawing drawing(Step step) {
        Draws<Step> kind = Kinds.of(step, Draws.class);
        return kind.drawing(step);
    }

    // --- levels

    private void level(Element parent, String container, Level level, Map<String, WorkflowVersion.Note> notes) {
        if (level.steps().isEmpty()) {
            return;
        }
        String first = level.steps().getFirst().id().value();
        String start = container + ".start";
        event(parent, "startEvent", start, null);
        shapes.node(container, start, Shapes.Kind.EVENT, true);
        flow(parent, container, start, first, null, null);
        List<StepId> main = Shapes.mainLine(level);
        for (Step step : level.steps()) {
            step(parent, container, step, main.contains(step.id()), notes);
        }
    }

    private void step(
            Element parent, String container, Step step, boolean main, Map<String, WorkflowVersion.Note> notes) {
        String id = step.id().value();
        Drawing drawing = drawing(step);
        Element element = child(parent, drawing.tag());
        element.setAttribute("id", id);
        element.setAttribute("name", Xml.clean(step.name()));
        String text = drawing.text();
        if (text != null && !text.isBlank()) {
            documentation(element, text);
        }
        own(element, "step", settings(step).toString());
        shapes.node(container, id, shape(drawing.tag()), main);
        drawing.details().accept(new Pen(this, element, id, notes));
        seal(element);
        leave(parent, container, step, element, main);
    }

    private static Shapes.Kind shape(String tag) {
        return switch (tag) {
            case "exclusiveGateway" -> Shapes.Kind.GATEWAY;
            case "endEvent", "intermediateCatchEvent" -> Shapes.Kind.EVENT;
            case "subProcess" -> Shapes.Kind.BRACKET;
            default -> Shapes.Kind.TASK;
        };
    }

    /** What the step is besides its id's place, its ways and what is inside it. */
    private static ObjectNode settings(Step step) {
        ObjectNode tree = (ObjectNode) Json.tree(step);
        tree.remove("ways");
        tree.remove("body");
        if (tree.get("lanes") != null) {
            tree.get("lanes").forEach(lane -> ((ObjectNode) lane).remove("body"));
        }
        return tree;
    }

    /** What stands inside an element, as a level of its own. */
    void inside(Element element, String id, Level body, Map<String, WorkflowVersion.Note> notes) {
        shapes.begin(id);
        level(element, id, body, notes);
    }

    /** Lanes stand as sub-processes between two gateways, so that each keeps its own level. */
    void sideBySide(Element element, Bracket.Fork fork, Map<String, WorkflowVersion.Note> notes) {
        String id = fork.id().value();
        shapes.begin(id);
        boolean some = fork.lanes().stream().anyMatch(l -> l.when() != null);
        String gateway = some ? "inclusiveGateway" : "parallelGateway";
        String start = id + ".start";
        String split = id + ".split";
        String join = id + ".join";
        String end = id + ".end";
        event(element, "startEvent", start, null);
        shapes.node(id, start, Shapes.Kind.EVENT, true);
        part(child(element, gateway), split, "split").setAttribute("gatewayDirection", "Diverging");
        shapes.node(id, split, Shapes.Kind.GATEWAY, true);
        flow(element, id, start, split, null, null);
        int number = 0;
        for (Bracket.Lane lane : fork.lanes()) {
            String laneId = id + ".lane" + ++number;
            Element inner = part(child(element, "subProcess"), laneId, "lane");
            inner.setAttribute("name", Xml.clean(lane.name()));
            shapes.node(id, laneId, Shapes.Kind.BRACKET, number == 1);
            inside(inner, laneId, lane.body(), notes);
            Element into = flow(element, id, split, laneId, null, null);
            if (lane.when() != null) {
                Pen.expression(child(into, "conditionExpression"), lane.when());
            }
            flow(element, id, laneId, join, null, null);
        }
        part(child(element, gateway), join, "join").setAttribute("gatewayDirection", "Converging");
        shapes.node(id, join, Shapes.Kind.GATEWAY, true);
        event(element, "endEvent", end, "end");
        shapes.node(id, end, Shapes.Kind.EVENT, true);
        flow(element, id, join, end, null, null);
    }

    /** The id under which a signal is declared. */
    String signal(String name) {
        return signals.computeIfAbsent(name, s -> "signal." + (signals.size() + 1));
    }

    // --- ways

    private void leave(Element parent, String container, Step step, Element element, boolean main) {
        String id = step.id().value();
        List<String> plain = new ArrayList<>();
        for (String exit : step.ways().keySet()) {
            String event = BORDER.get(exit);
            boolean border = event != null
                    && !"exclusiveGateway".equals(element.getLocalName())
                    && step.optionalExits().contains(exit);
            if (border) {
                border(parent, container, step, exit, event);
            } else {
                plain.add(exit);
            }
        }
        boolean decides = element.getLocalName().equals("exclusiveGateway");
        String from = id;
        Element gateway = element;
        if (plain.size() > 1 && !decides) {
            from = id + ".out";
            gateway = part(child(parent, "exclusiveGateway"), from, "out");
            shapes.node(container, from, Shapes.Kind.GATEWAY, main);
            flow(parent, container, id, from, null, null);
        }
        String expected = step.expected() != null
                ? step.expected()
                : step.exits(Known.NOTHING).stream().findFirst().orElse(null);
        for (String exit : plain) {
            Element flow = flow(parent, container, from, step.ways().get(exit).value(), exit, exit);
            if (plain.size() > 1 || decides) {
                if (decides ? exit.equals("otherwise") : exit.equals(expected)) {
                    gateway.setAttribute("default", flow.getAttribute("id"));
                } else {
                    String when = Facts.of(step).cases().get(exit);
                    Pen.expression(
                            child(flow, "conditionExpression"),
                            when != null ? when : "steps." + step.id() + ".outcome == " + Json.write(exit));
                }
            }
        }
    }

    private void border(Element parent, String container, Step step, String exit, String definition) {
        String id = step.id() + "." + exit.replace(' ', '-');
        Element event = child(parent, "boundaryEvent");
        event.setAttribute("id", id);
        event.setAttribute("name", exit);
        event.setAttribute("attachedToRef", step.id().value());
        event.setAttribute("cancelActivity", "true");
        event.setAttributeNS(Xml.OWN, "dastur:part", "border");
        Element kind = child(event, definition);
        if (definition.equals("timerEventDefinition")) {
            Span limit = drawing(step).limit();
            Pen.expression(child(kind, "timeDuration"), limit == null ? "PT0S" : Pen.duration(limit));
        }
        shapes.border(container, id, step.id().value());
        flow(parent, container, id, step.ways().get(exit).value(), exit, exit);
    }

    // --- elements

    private Element flow(
            Element parent, String container, String from, String to, @Nullable String name, @Nullable String exit) {
        Element flow = child(parent, "sequenceFlow");
        String id = shapes.flow(container, from, to);
        flow.setAttribute("id", id);
        flow.setAttribute("sourceRef", from);
        flow.setAttribute("targetRef", to);
        if (name != null) {
            flow.setAttribute("name", Xml.clean(name));
        }
        if (exit != null) {
            flow.setAttributeNS(Xml.OWN, "dastur:exit", Xml.clean(exit));
        }
        return flow;
    }

    private void event(Element parent, String tag, String id, @Nullable String part) {
        part(child(parent, tag), id, part == null ? "start" : part);
    }

    private static Element part(Element element, String id, String part) {
        element.setAttribute("id", id);
        element.setAttributeNS(Xml.OWN, "dastur:part", part);
        return element;
    }

    private void documentation(Element element, String text) {
        child(element, "documentation").setTextContent(Xml.clean(Texts.clip(text, Texts.MAX_TEXT)));
    }

    private void own(Element element, String tag, String json) {
        Element extension =
                Xml.child(element, Xml.BPMN, "extensionElements").orElseGet(() -> child(element, "extensionElements"));
        Element own = document.createElementNS(Xml.OWN, "dastur:" + tag);
        own.setTextContent(json);
        extension.appendChild(own);
    }

    /** What the extension was written for, so that a change made elsewhere is noticed. */
    private static void seal(Element element) {
        Xml.child(element, Xml.BPMN, "extensionElements")
                .flatMap(e -> Xml.child(e, Xml.OWN, "step"))
                .ifPresent(own -> own.setAttribute("digest", Xml.digest(element)));
    }

    Element child(Element parent, String tag) {
        Element element = document.createElementNS(Xml.BPMN, tag);
        parent.appendChild(element);
        return element;
    }
}
