package dastur.core.bpmn;

import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.bpmn.Flows.Flow;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Element;

/** Makes a level of the steps that stand in a container, and lines side by side of what lies between two gateways. */
final class LevelReader {
    private static final Set<String> OUTCOMES = Set.of("userTask", "manualTask", "task");
    private static final Set<String> SIDE_BY_SIDE = Set.of("parallelGateway", "inclusiveGateway");
    private static final Set<String> GATEWAYS =
            Set.of("exclusiveGateway", "parallelGateway", "inclusiveGateway", "eventBasedGateway", "complexGateway");

    private final BpmnReader reader;
    private final Flows flows;
    private final StepReader steps;
    /** Nodes that a step has been made of. */
    private final Set<String> done = new HashSet<>();

    LevelReader(BpmnReader reader, Element container) {
        this.reader = reader;
        this.flows = new Flows(container);
        this.steps = new StepReader(reader);
        accountFor(container);
    }

    /** The level as JSON of {@link dastur.core.workflow.Level}. */
    ObjectNode level() {
        boolean allOurs = flows.nodes.values().stream()
                .filter(e -> !BpmnReader.silent(e) && Flows.part(e).isEmpty())
                .allMatch(e -> reader.own(e, "step") != null);
        Set<String> order = new LinkedHashSet<>();
        if (!allOurs) {
            flows.nodes.values().stream()
                    .filter(e -> "startEvent".equals(e.getLocalName()))
                    .forEach(e -> walk(e.getAttribute("id"), order));
        }
        order.addAll(flows.nodes.keySet());
        return levelOf(order, null);
    }

    /** Depth first, so that a line is read to its end before the detours from it. */
    private void walk(String start, Set<String> order) {
        java.util.Deque<String> next = new java.util.ArrayDeque<>(List.of(start));
        while (!next.isEmpty()) {
            String id = next.pop();
            if (!flows.nodes.containsKey(id) || !order.add(id)) {
                continue;
            }
            List<String> further = new ArrayList<>();
            flows.from(id).forEach(f -> further.add(f.to()));
            flows.borders(id).forEach(b -> further.add(b.getAttribute("id")));
            further.reversed().forEach(next::push);
        }
    }

    /** @param stop the node where the lines meet; a way to it ends the line */
    private ObjectNode levelOf(Set<String> order, @Nullable String stop) {
        Ending ending = new Ending(stop);
        List<ObjectNode> made = new ArrayList<>();
        for (String id : order) {
            Element node = flows.nodes.get(id);
            if (node != null && !done.contains(id) && isStep(node)) {
                done.add(id);
                made.add(step(node, ending));
            }
        }
        if (ending.used != null) {
            made.add(ending.used);
        }
        ObjectNode level = Json.mapper().createObjectNode();
        ArrayNode all = level.putArray("steps");
        made.forEach(all::add);
        return level;
    }

    /** The end of a line whose lines meet again; made when the first way leads to it. */
    private final class Ending {
        private final @Nullable String stop;
        private @Nullable ObjectNode used;

        Ending(@Nullable String stop) {
            this.stop = stop;
        }

        String id() {
            if (used == null) {
                used = Json.mapper().createObjectNode();
                used.put("kind", "end").put("id", reader.free("line done").value());
                used.put("name", "Done").put("result", "done").put("ending", "line");
            }
            return used.get("id").asText();
        }
    }

    private boolean isStep(Element node) {
        if (BpmnReader.silent(node) || !Flows.part(node).isEmpty()) {
            return false;
        }
        if (reader.own(node, "step") != null) {
            return true;
        }
        String id = node.getAttribute("id");
        if (GATEWAYS.contains(node.getLocalName())) {
            return flows.from(id).size() > 1 && !decidesFor(id);
        }
        return steps.makes(node);
    }

    /** Whether a gateway only sorts the outcomes of the task before it, which is what outcomes are. */
    private boolean decidesFor(String gateway) {
        return "exclusiveGateway".equals(flows.tag(gateway))
                && flows.into(gateway) == 1
                && flows.nodes.entrySet().stream()
                        .anyMatch(n -> OUTCOMES.contains(n.getValue().getLocalName())
                                && flows.from(n.getKey()).size() == 1
                                && flows.from(n.getKey()).getFirst().to().equals(gateway));
    }

    // --- one step with its ways

    private ObjectNode step(Element node, Ending ending) {
        String id = node.getAttribute("id");
        ObjectNode own = reader.own(node, "step");
        if (own == null && SIDE_BY_SIDE.contains(node.getLocalName())) {
            ObjectNode fork = fork(node, ending);
            if (fork != null) {
                return fork;
            }
        }
        List<Flow> leaving = leaving(id);
        ObjectNode step = own != null
                ? steps.ours(node, own, leaving)
                : GATEWAYS.contains(node.getLocalName())
                        ? steps.gateway(node, leaving, flows)
                        : steps.foreign(node, leaving, flows);
        if ("subProcess".equals(node.getLocalName()) || "transaction".equals(node.getLocalName())) {
            inside(node, step);
        }
        step.put("id", reader.id(node).value());
        Map<String, String> ways = new LinkedHashMap<>();
        List<String> exits = steps.exits(step);
        for (int i = 0; i < leaving.size(); i++) {
            Flow flow = leaving.get(i);
            String exit = flow.exit() != null
                    ? flow.exit()
                    : steps.exit(step, node, flow, i < exits.size() ? exits.get(i) : null, i);
            String to = target(flow.to(), ending, new HashSet<>());
            if (exit == null) {
                reader.leftOut.add("a further way from " + BpmnReader.called(node) + " to " + calledNode(flow.to())
                        + ": only one leads on from it");
            } else if (to != null) {
                ways.putIfAbsent(exit, to);
            }
        }
        for (Element border : flows.borders(id)) {
            border(node, border, step, ways, ending);
        }
        ObjectNode made = step.putObject("ways");
        ways.forEach(made::put);
        if (step.get("kind").asText().equals("end")) {
            step.remove("ways");
        }
        return step;
    }

    private String calledNode(String id) {
        Element node = flows.nodes.get(id);
        return node == null ? "'" + id + "'" : BpmnReader.called(node);
    }

    /** The ways out of a node, those of a gateway that only sorts its outcomes included. */
    private List<Flow> leaving(String id) {
        List<Flow> own = flows.from(id);
        if (own.size() == 1) {
            String gateway = own.getFirst().to();
            Element node = flows.nodes.get(gateway);
            if (node != null
                    && (Flows.part(node).equals("out")
                            || reader.own(node, "step") == null
                                    && decidesFor(gateway)
                                    && OUTCOMES.contains(flows.tag(id)))) {
                return flows.from(gateway);
            }
        }
        return own;
    }

    /** The step that a way leads to, past whatever stands on it without being one; null where it leads nowhere. */
    private @Nullable String target(String id, Ending ending, Set<String> passed) {
        if (id.equals(ending.stop)) {
            return ending.id();
        }
        Element node = flows.nodes.get(id);
        if (node == null || !passed.add(id)) {
            return null;
        }
        if (isStep(node) || "endEvent".equals(node.getLocalName())) {
            return reader.id(node).value();
        }
        List<Flow> on = flows.from(id);
        return on.isEmpty() ? null : target(on.getFirst().to(), ending, passed);
    }

    private void border(Element node, Element border, ObjectNode step, Map<String, String> ways, Ending ending) {
        for (Flow flow : flows.from(border.getAttribute("id"))) {
            String exit = flow.exit() != null ? flow.exit() : steps.borderExit(border, step);
            String to = target(flow.to(), ending, new HashSet<>());
            if (exit == null) {
                reader.leftOut.add("the event '" + border.getAttribute("name") + "' on " + BpmnReader.called(node)
                        + ": this kind of step has no such exit");
            } else if (to != null) {
                ways.putIfAbsent(exit, to);
            }
        }
    }

    // --- brackets

    private void inside(Element node, ObjectNode step) {
        if (!step.get("kind").asText().equals("fork")) {
            step.set("body", new LevelReader(reader, node).level());
            return;
        }
        ArrayNode lanes = step.withArray("/lanes");
        List<Element> inner = Xml.children(node, Xml.BPMN, "subProcess").toList();
        for (int i = 0; i < inner.size(); i++) {
            ObjectNode lane = i < lanes.size() ? (ObjectNode) lanes.get(i) : lanes.addObject();
            String name = Xml.attribute(inner.get(i), "name");
            if (lane.get("name") == null
                    || name != null && !BpmnReader.same(name, lane.get("name").asText())) {
                lane.put("name", name == null ? "Lane " + (i + 1) : name.strip());
            }
            lane.set("body", new LevelReader(reader, inner.get(i)).level());
        }
        while (lanes.size() > inner.size()) {
            lanes.remove(lanes.size() - 1);
        }
    }

    /** Lines between a gateway and its join become lanes; null where they are not cleanly apart. */
    private @Nullable ObjectNode fork(Element gateway, Ending ending) {
        String id = gateway.getAttribute("id");
        Flows.Lines lines = flows.lines(id).orElse(null);
        if (lines == null || flows.from(id).size() > 50) {
            return null;
        }
        ObjectNode fork = Json.mapper().createObjectNode();
        fork.put("kind", "fork");
        fork.put("name", steps.name(gateway, "Side by side"));
        ArrayNode lanes = fork.putArray("lanes");
        for (int i = 0; i < lines.inside().size(); i++) {
            Flow flow = flows.from(id).get(i);
            ObjectNode lane = lanes.addObject();
            lane.put("name", Texts.clip(flow.name() != null ? flow.name() : "Line " + (i + 1), 80));
            if (flow.condition() != null && "inclusiveGateway".equals(gateway.getLocalName())) {
                lane.put("when", flow.condition());
            }
            Set<String> inner = new LinkedHashSet<>();
            walk(flow.to(), inner);
            inner.retainAll(lines.inside().get(i));
            lane.set("body", levelOf(inner, lines.join()));
        }
        fork.put("id", reader.id(gateway).value());
        ObjectNode ways = fork.putObject("ways");
        reader.understood.add(BpmnReader.called(gateway) + " as lines side by side");
        if (lines.join() != null) {
            done.add(lines.join());
            flows.from(lines.join()).stream()
                    .findFirst()
                    .map(f -> target(f.to(), ending, new HashSet<>()))
                    .ifPresent(to -> ways.put("joined", to));
        }
        return fork;
    }

    // --- the account

    /** What stands beside the flow and means nothing to a run is named, so that nobody looks for it. */
    private void accountFor(Element container) {
        for (Element child : Xml.children(container)) {
            boolean known = !Xml.BPMN.equals(child.getNamespaceURI())
                    || BpmnReader.silent(child)
                    || GATEWAYS.contains(child.getLocalName())
                    || !Flows.part(child).isEmpty()
                    || steps.makes(child)
                    || reader.own(child, "step") != null;
            if (!known) {
                reader.leftOut.add(BpmnReader.called(child));
            }
        }
        Xml.children(container, Xml.BPMN, "startEvent")
                .filter(s ->
                        Xml.children(s).stream().anyMatch(d -> d.getLocalName().endsWith("EventDefinition")))
                .forEach(s -> reader.adapted.add(
                        BpmnReader.called(s) + ": how it starts is said by a trigger, to be made beside the route"));
    }
}
