package dastur.core.bpmn;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.people.Party;
import dastur.core.time.Span;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Check;
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
        body.steps().forEach(s -> byWhom.computeIfAbsent(whom(s), w -> new ArrayList<>())
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
    private static String whom(Step step) {
        return switch (step) {
            case Step.HumanTask t -> whom(t.assignee());
            case Step.Approval a ->
                a.asked().isEmpty() ? "Dastur" : whom(a.asked().getFirst());
            default -> "Dastur";
        };
    }

    static String whom(Party party) {
        return switch (party) {
            case Party.OfGroup g -> "group " + g.group();
            case Party.OfPerson p -> "person " + p.person();
            case Party.Requester r -> "the requester";
            case Party.TicketGroup g -> "the ticket's group";
            case Party.CiOwner o -> "the CI's owner";
            case Party.OnCall o -> "on call " + o.level() + " for " + o.rota();
            case Party.OfRole r -> "role " + r.role().word();
            case Party.TakesPart t -> t.as();
            case Party.Manager m -> "the requester's manager";
            case Party.Computed c -> "whoever is " + c.expression();
        };
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
        Element element = child(parent, tag(step));
        element.setAttribute("id", id);
        element.setAttribute("name", Xml.clean(step.name()));
        String text = describes(step);
        if (text != null && !text.isBlank()) {
            documentation(element, text);
        }
        own(element, "step", settings(step).toString());
        shapes.node(container, id, shape(step), main);
        details(element, step, notes);
        seal(element);
        leave(parent, container, step, element, main);
    }

    private static Shapes.Kind shape(Step step) {
        return switch (tag(step)) {
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

    private static String tag(Step step) {
        return switch (step) {
            case Step.HumanTask t -> "userTask";
            case Step.Approval a -> "userTask";
            case Step.Escalate e -> "userTask";
            case Step.Branch b -> b.table() == null ? "exclusiveGateway" : "businessRuleTask";
            case Step.Acting a -> "serviceTask";
            case Step.Notify n -> "sendTask";
            case Step.Update u -> "scriptTask";
            case Step.Wait w -> w.within() == null ? "intermediateCatchEvent" : "receiveTask";
            case Step.Call c -> "callActivity";
            case Step.End e -> "endEvent";
            case Check c -> "businessRuleTask";
            case Bracket b -> "subProcess";
        };
    }

    private static @Nullable String describes(Step step) {
        return switch (step) {
            case Step.HumanTask t -> t.instructions();
            case Step.Approval a -> a.question();
            case Step.Notify n -> n.subject() + "\n" + n.text();
            case Step.Escalate e -> e.message();
            case Step.End e -> e.message();
            default -> null;
        };
    }

    /** The parts in which one kind differs from another, in the order the standard's schema asks for. */
    private void details(Element element, Step step, Map<String, WorkflowVersion.Note> notes) {
        switch (step) {
            case Step.HumanTask t -> owner(element, t.assignee());
            case Step.Approval a -> a.asked().forEach(p -> owner(element, p));
            case Step.Call c -> element.setAttribute("calledElement", "process." + c.workflow());
            case Step.End e -> {
                if (e.ending() == Step.Ending.RUN) {
                    child(element, "terminateEventDefinition");
                } else if (e.ending() == Step.Ending.FAILED) {
                    child(element, "errorEventDefinition");
                }
            }
            case Step.Wait w -> wait(element, w);
            case Bracket b -> bracket(element, b, notes);
            default -> {}
        }
    }

    private void owner(Element element, Party party) {
        Element expression =
                child(child(child(element, "potentialOwner"), "resourceAssignmentExpression"), "formalExpression");
        expression.setTextContent(Xml.clean(whom(party)));
    }

    private void wait(Element element, Step.Wait wait) {
        if (wait.within() != null) {
            return;
        }
        if (wait.span() != null) {
            timer(element, "timeDuration", duration(wait.span()));
        } else if (wait.until() != null) {
            timer(element, "timeDate", wait.until());
        } else if (wait.condition() != null) {
            Element condition = child(child(element, "conditionalEventDefinition"), "condition");
            expression(condition, wait.condition());
        } else if (wait.signal() != null) {
            String signal = signals.computeIfAbsent(wait.signal(), s -> "signal." + (signals.size() + 1));
            child(element, "signalEventDefinition").setAttribute("signalRef", signal);
        }
    }

    private void timer(Element element, String kind, String text) {
        expression(child(child(element, "timerEventDefinition"), kind), text);
    }

    private static void expression(Element element, String text) {
        element.setAttributeNS(Xml.XSI, "xsi:type", "tFormalExpression");
        element.setTextContent(Xml.clean(text));
    }

    /** ISO 8601; the exact words, working hours among them, stand in the extension. */
    static String duration(Span span) {
        return switch (span.unit()) {
            case SECOND -> "PT" + span.amount() + "S";
            case MINUTE -> "PT" + span.amount() + "M";
            case HOUR -> "PT" + span.amount() + "H";
            case DAY -> "P" + span.amount() + "D";
        };
    }

    // --- brackets

    private void bracket(Element element, Bracket bracket, Map<String, WorkflowVersion.Note> notes) {
        String id = bracket.id().value();
        switch (bracket) {
            case Bracket.Stage s -> inside(element, id, s.body(), notes);
            case Bracket.ForEach e -> {
                Element many = child(element, "multiInstanceLoopCharacteristics");
                many.setAttribute("isSequential", String.valueOf(e.atOnce() == 1));
                expression(child(many, "loopCardinality"), "size(" + e.list() + ")");
                inside(element, id, e.body(), notes);
            }
            case Bracket.Repeat r -> {
                Element loop = child(element, "standardLoopCharacteristics");
                loop.setAttribute("testBefore", "false");
                loop.setAttribute("loopMaximum", String.valueOf(r.rounds()));
                expression(child(loop, "loopCondition"), "!(" + r.until() + ")");
                inside(element, id, r.body(), notes);
            }
            case Bracket.Fork f -> fork(element, f, notes);
        }
    }

    private void inside(Element element, String id, Level body, Map<String, WorkflowVersion.Note> notes) {
        shapes.begin(id);
        level(element, id, body, notes);
    }

    /** Lanes stand as sub-processes between two gateways, so that each keeps its own level. */
    private void fork(Element element, Bracket.Fork fork, Map<String, WorkflowVersion.Note> notes) {
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
                expression(child(into, "conditionExpression"), lane.when());
            }
            flow(element, id, laneId, join, null, null);
        }
        part(child(element, gateway), join, "join").setAttribute("gatewayDirection", "Converging");
        shapes.node(id, join, Shapes.Kind.GATEWAY, true);
        event(element, "endEvent", end, "end");
        shapes.node(id, end, Shapes.Kind.EVENT, true);
        flow(element, id, join, end, null, null);
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
                    expression(child(flow, "conditionExpression"), condition(step, exit));
                }
            }
        }
    }

    private static String condition(Step step, String exit) {
        if (step instanceof Step.Branch b) {
            return b.cases().stream()
                    .filter(c -> c.name().equals(exit))
                    .map(Step.BranchCase::when)
                    .findFirst()
                    .orElse("steps." + step.id() + ".outcome == " + Json.write(exit));
        }
        return "steps." + step.id() + ".outcome == " + Json.write(exit);
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
            Span limit = limit(step);
            expression(child(kind, "timeDuration"), limit == null ? "PT0S" : duration(limit));
        }
        shapes.border(container, id, step.id().value());
        flow(parent, container, id, step.ways().get(exit).value(), exit, exit);
    }

    private static @Nullable Span limit(Step step) {
        return switch (step) {
            case Step.HumanTask t -> t.due();
            case Step.Approval a -> a.within();
            case Step.Wait w -> w.within();
            case Step.Escalate e -> e.within();
            default -> null;
        };
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

    private Element child(Element parent, String tag) {
        Element element = document.createElementNS(Xml.BPMN, tag);
        parent.appendChild(element);
        return element;
    }
}
