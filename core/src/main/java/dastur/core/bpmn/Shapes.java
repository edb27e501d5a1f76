package dastur.core.bpmn;

import dastur.core.workflow.Known;
import dastur.core.workflow.Level;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Document;
import org.w3c.dom.Element;

/**
 * Where things stand in the diagram (BPMN DI). The rule of the route holds here too, turned by a quarter: the main line
 * runs straight, from left to right, and detours stand below it; each node has a column of its own, so that nothing
 * overlaps. Lengths in pixels.
 */
final class Shapes {
    private static final int GAP = 50;
    private static final int PAD = 40;

    /** What is drawn, with its size. */
    enum Kind {
        EVENT(36, 36),
        GATEWAY(50, 50),
        TASK(130, 80),
        BRACKET(0, 0);

        private final int width;
        private final int height;

        Kind(int width, int height) {
            this.width = width;
            this.height = height;
        }
    }

    private record Box(
            String id, Kind kind, boolean main, @Nullable String on) {}

    private record Line(String id, String from, String to) {}

    private record Size(int width, int height) {}

    private record Bounds(int x, int y, int width, int height) {
        int middle() {
            return y + height / 2;
        }

        int right() {
            return x + width;
        }

        int bottom() {
            return y + height;
        }
    }

    private final Map<String, List<Box>> boxes = new LinkedHashMap<>();
    private final Map<String, List<Line>> lines = new LinkedHashMap<>();
    private final Map<String, Bounds> bounds = new LinkedHashMap<>();
    private int flows;

    void begin(String container) {
        boxes.put(container, new ArrayList<>());
        lines.put(container, new ArrayList<>());
    }

    void node(String container, String id, Kind kind, boolean main) {
        boxes.get(container).add(new Box(id, kind, main, null));
    }

    /** An event on the border of a node. */
    void border(String container, String id, String on) {
        boxes.get(container).add(new Box(id, Kind.EVENT, false, on));
    }

    String flow(String container, String from, String to) {
        String id = "flow." + ++flows;
        lines.get(container).add(new Line(id, from, to));
        return id;
    }

    /** The steps that follow each other by their expected exits. */
    static List<StepId> mainLine(Level level) {
        List<StepId> line = new ArrayList<>();
        Step step = level.steps().isEmpty() ? null : level.steps().getFirst();
        while (step != null && !line.contains(step.id())) {
            line.add(step.id());
            String exit = step.expected() != null
                    ? step.expected()
                    : step.exits(Known.NOTHING).stream().findFirst().orElse("");
            StepId next = step.ways().get(exit);
            step = next == null ? null : level.step(next).orElse(null);
        }
        return line;
    }

    // --- drawing

    void draw(Document document, Element definitions, String process) {
        place(process, PAD, PAD);
        Element diagram = child(document, definitions, Xml.BPMN_DI, "bpmndi:BPMNDiagram");
        diagram.setAttribute("id", "diagram");
        Element plane = child(document, diagram, Xml.BPMN_DI, "bpmndi:BPMNPlane");
        plane.setAttribute("id", "plane");
        plane.setAttribute("bpmnElement", process);
        boxes.values().forEach(all -> all.forEach(box -> shape(document, plane, box)));
        lines.values().forEach(all -> all.forEach(line -> edge(document, plane, line)));
    }

    private void shape(Document document, Element plane, Box box) {
        Bounds at = bounds.get(box.id());
        Element shape = child(document, plane, Xml.BPMN_DI, "bpmndi:BPMNShape");
        shape.setAttribute("id", "shape." + box.id());
        shape.setAttribute("bpmnElement", box.id());
        if (box.kind() == Kind.BRACKET) {
            shape.setAttribute("isExpanded", "true");
        }
        Element where = child(document, shape, Xml.DC, "dc:Bounds");
        where.setAttribute("x", String.valueOf(at.x()));
        where.setAttribute("y", String.valueOf(at.y()));
        where.setAttribute("width", String.valueOf(at.width()));
        where.setAttribute("height", String.valueOf(at.height()));
    }

    private void edge(Document document, Element plane, Line line) {
        Bounds from = bounds.get(line.from());
        Bounds to = bounds.get(line.to());
        if (from == null || to == null) {
            return;
        }
        Element edge = child(document, plane, Xml.BPMN_DI, "bpmndi:BPMNEdge");
        edge.setAttribute("id", "edge." + line.id());
        edge.setAttribute("bpmnElement", line.id());
        boolean back = to.x() <= from.x();
        if (back) {
            int over = Math.min(from.y(), to.y()) - GAP / 2;
            points(
                    document,
                    edge,
                    from.x() + from.width() / 2,
                    from.y(),
                    from.x() + from.width() / 2,
                    over,
                    to.x() + to.width() / 2,
                    over,
                    to.x() + to.width() / 2,
                    to.y());
        } else if (from.middle() == to.middle()) {
            points(document, edge, from.right(), from.middle(), to.x(), to.middle());
        } else {
            int bend = to.x() - GAP / 2;
            points(
                    document,
                    edge,
                    from.right(),
                    from.middle(),
                    bend,
                    from.middle(),
                    bend,
                    to.middle(),
                    to.x(),
                    to.middle());
        }
    }

    private static void points(Document document, Element edge, int... xy) {
        for (int i = 0; i < xy.length; i += 2) {
            Element point = child(document, edge, Xml.DI, "di:waypoint");
            point.setAttribute("x", String.valueOf(xy[i]));
            point.setAttribute("y", String.valueOf(xy[i + 1]));
        }
    }

    private static Element child(Document document, Element parent, String namespace, String name) {
        Element element = document.createElementNS(namespace, name);
        parent.appendChild(element);
        return element;
    }

    // --- placing

    private Size size(String container) {
        int width = PAD;
        int main = 0;
        int below = 0;
        for (Box box : boxes.getOrDefault(container, List.of())) {
            if (box.on() == null) {
                Size size = sizeOf(box);
                width += size.width() + GAP;
                main = box.main() ? Math.max(main, size.height()) : main;
                below = box.main() ? below : Math.max(below, size.height());
            }
        }
        return new Size(Math.max(width, 2 * PAD), 2 * PAD + main + (below == 0 ? 0 : below + GAP));
    }

    private Size sizeOf(Box box) {
        return box.kind() == Kind.BRACKET ? size(box.id()) : new Size(box.kind().width, box.kind().height);
    }

    private void place(String container, int left, int top) {
        List<Box> all = boxes.getOrDefault(container, List.of());
        int main = all.stream()
                .filter(b -> b.main() && b.on() == null)
                .mapToInt(b -> sizeOf(b).height())
                .max()
                .orElse(0);
        int below = all.stream()
                .filter(b -> !b.main() && b.on() == null)
                .mapToInt(b -> sizeOf(b).height())
                .max()
                .orElse(0);
        int x = left + PAD;
        for (Box box : all) {
            if (box.on() == null) {
                Size size = sizeOf(box);
                int middle = box.main() ? top + PAD + main / 2 : top + PAD + main + GAP + below / 2;
                bounds.put(box.id(), new Bounds(x, middle - size.height() / 2, size.width(), size.height()));
                if (box.kind() == Kind.BRACKET) {
                    place(box.id(), x, middle - size.height() / 2);
                }
                x += size.width() + GAP;
            }
        }
        Map<String, Integer> used = new LinkedHashMap<>();
        for (Box box : all) {
            Bounds on = box.on() == null ? null : bounds.get(box.on());
            if (on != null) {
                int nth = used.merge(box.on(), 1, Integer::sum);
                bounds.put(box.id(), new Bounds(on.right() - nth * 42, on.bottom() - 18, 36, 36));
            }
        }
    }
}
