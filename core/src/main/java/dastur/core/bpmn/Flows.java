package dastur.core.bpmn;

import java.util.ArrayDeque;
import java.util.ArrayList;
import java.util.Deque;
import java.util.HashMap;
import java.util.LinkedHashMap;
import java.util.LinkedHashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Element;

/** The nodes of one container and what leads from one to another. */
final class Flows {
    /**
     * A sequence flow.
     *
     * @param exit the exit it leaves by, where we wrote it
     * @param condition the text of its condition; null for none
     */
    record Flow(
            String id,
            String from,
            String to,
            @Nullable String name,
            @Nullable String exit,
            @Nullable String condition) {}

    final Map<String, Element> nodes = new LinkedHashMap<>();
    private final Map<String, List<Flow>> out = new HashMap<>();
    private final Map<String, Integer> in = new HashMap<>();
    private final Map<String, List<Element>> borders = new HashMap<>();

    Flows(Element container) {
        for (Element child : Xml.children(container)) {
            if (!Xml.BPMN.equals(child.getNamespaceURI())) {
                continue;
            }
            if ("sequenceFlow".equals(child.getLocalName())) {
                add(child);
            } else if (!child.getAttribute("id").isEmpty()) {
                nodes.put(child.getAttribute("id"), child);
                if ("boundaryEvent".equals(child.getLocalName())) {
                    borders.computeIfAbsent(child.getAttribute("attachedToRef"), i -> new ArrayList<>())
                            .add(child);
                }
            }
        }
    }

    private void add(Element flow) {
        String from = flow.getAttribute("sourceRef");
        String to = flow.getAttribute("targetRef");
        String exit = flow.getAttributeNS(Xml.OWN, "exit");
        out.computeIfAbsent(from, i -> new ArrayList<>())
                .add(new Flow(
                        flow.getAttribute("id"),
                        from,
                        to,
                        Xml.attribute(flow, "name"),
                        exit.isEmpty() ? null : exit,
                        Xml.child(flow, Xml.BPMN, "conditionExpression")
                                .map(c -> c.getTextContent().strip())
                                .orElse(null)));
        in.merge(to, 1, Integer::sum);
    }

    List<Flow> from(String id) {
        return out.getOrDefault(id, List.of());
    }

    int into(String id) {
        return in.getOrDefault(id, 0);
    }

    List<Element> borders(String id) {
        return borders.getOrDefault(id, List.of());
    }

    String tag(String id) {
        Element node = nodes.get(id);
        return node == null ? "" : node.getLocalName();
    }

    /** Our mark on elements that only serve the drawing; empty for others. */
    static String part(Element element) {
        return element.getAttributeNS(Xml.OWN, "part");
    }

    /** All that can be reached from a node, itself included, in order of distance, without passing {@code stop}. */
    Set<String> reached(String start, @Nullable String stop) {
        Set<String> seen = new LinkedHashSet<>();
        Deque<String> next = new ArrayDeque<>(List.of(start));
        while (!next.isEmpty()) {
            String id = next.poll();
            if (id.equals(stop) || !nodes.containsKey(id) || !seen.add(id)) {
                continue;
            }
            from(id).forEach(f -> next.add(f.to()));
            borders(id).forEach(b -> next.add(b.getAttribute("id")));
        }
        return seen;
    }

    /**
     * Where the lines that part at a gateway meet again.
     *
     * @param join null where they never meet
     */
    record Lines(@Nullable String join, List<Set<String>> inside) {}

    /** The lines between a parting gateway and its join; empty where they are not cleanly apart from each other. */
    Optional<Lines> lines(String split) {
        List<Flow> ways = from(split);
        List<Set<String>> all = ways.stream().map(f -> reached(f.to(), null)).toList();
        String join = all.getFirst().stream()
                .filter(id -> tag(id).equals(tag(split)) && into(id) > 1)
                .filter(id -> all.stream().allMatch(r -> r.contains(id)))
                .findFirst()
                .orElse(null);
        List<Set<String>> inside = ways.stream().map(f -> reached(f.to(), join)).toList();
        Set<String> seen = new LinkedHashSet<>();
        for (Set<String> line : inside) {
            for (String id : line) {
                if (id.equals(split) || !seen.add(id)) {
                    return Optional.empty();
                }
            }
        }
        return Optional.of(new Lines(join, inside));
    }
}
