package dastur.core.bpmn;

import dastur.core.json.Texts;
import dastur.core.workflow.Cell;
import dastur.core.workflow.DecisionTable;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Document;
import org.w3c.dom.Element;

/**
 * Decision tables as DMN 1.3 XML (OMG formal/2021-02-01). Cells are the standard's simple unary tests; hit policies first
 * and unique; one output. Input expressions are ours and marked so.
 */
public final class Dmn {
    private static final String EXPRESSIONS = "urn:dastur:cel";

    private Dmn() {}

    /**
     * What came of a file.
     *
     * @param adapted what became something near, with what is left to do
     * @param leftOut what nothing here corresponds to
     */
    public record Read(String name, DecisionTable table, List<String> adapted, List<String> leftOut) {
        public Read {
            adapted = List.copyOf(adapted);
            leftOut = List.copyOf(leftOut);
        }
    }

    public static String write(String name, DecisionTable table) {
        Document document = Xml.empty();
        Element definitions = document.createElementNS(Xml.DMN, "definitions");
        document.appendChild(definitions);
        definitions.setAttribute("id", "definitions");
        definitions.setAttribute("name", Xml.clean(name));
        definitions.setAttribute("namespace", Xml.OWN);
        definitions.setAttribute("exporter", "Dastur");
        Element decision = child(definitions, "decision", "decision");
        decision.setAttribute("name", Xml.clean(name));
        Element made = child(decision, "decisionTable", "table");
        made.setAttribute("hitPolicy", table.hit() == DecisionTable.Hit.FIRST ? "FIRST" : "UNIQUE");
        for (int i = 0; i < table.inputs().size(); i++) {
            Element input = child(made, "input", "input" + (i + 1));
            input.setAttribute("label", Xml.clean(table.inputs().get(i).label()));
            Element expression = child(input, "inputExpression", "expression" + (i + 1));
            expression.setAttribute("expressionLanguage", EXPRESSIONS);
            setText(expression, table.inputs().get(i).value());
        }
        Element output = child(made, "output", "output");
        output.setAttribute("name", "case");
        output.setAttribute("typeRef", "string");
        for (int r = 0; r < table.rows().size(); r++) {
            DecisionTable.Row row = table.rows().get(r);
            String id = "rule" + (r + 1);
            Element rule = child(made, "rule", id);
            for (int c = 0; c < row.cells().size(); c++) {
                setText(
                        child(rule, "inputEntry", id + ".in" + (c + 1)),
                        row.cells().get(c));
            }
            setText(child(rule, "outputEntry", id + ".out"), quoted(row.result()));
        }
        return Xml.write(document);
    }

    private static Element child(Element parent, String tag, String id) {
        Element element = parent.getOwnerDocument().createElementNS(Xml.DMN, tag);
        element.setAttribute("id", id);
        parent.appendChild(element);
        return element;
    }

    private static void setText(Element parent, String text) {
        Element element = parent.getOwnerDocument().createElementNS(Xml.DMN, "text");
        element.setTextContent(Xml.clean(text));
        parent.appendChild(element);
    }

    private static String quoted(String text) {
        return '"' + text.replace("\\", "\\\\").replace("\"", "\\\"") + '"';
    }

    /**
     * Reads the first decision table of a file.
     *
     * @throws IllegalArgumentException with a sentence for the reader when there is no table that can be carried over
     */
    public static Read read(String xml) {
        Element root = Xml.parse(xml).getDocumentElement();
        String namespace = String.valueOf(root.getNamespaceURI());
        if (!"definitions".equals(root.getLocalName()) || !namespace.contains("/spec/DMN/")) {
            throw new IllegalArgumentException("This is XML, but no DMN: its first element is '" + root.getNodeName()
                    + "' and not 'definitions' of the standard's namespace.");
        }
        List<String> adapted = new ArrayList<>();
        List<String> leftOut = new ArrayList<>();
        Element decision = null;
        Element table = null;
        for (Element child : Xml.children(root)) {
            Element inside = Xml.child(child, namespace, "decisionTable").orElse(null);
            if (table == null && inside != null) {
                decision = child;
                table = inside;
            } else if (!child.getLocalName().equals("DMNDI")
                    && !child.getLocalName().equals("extensionElements")) {
                leftOut.add(BpmnReader.called(child));
            }
        }
        if (decision == null || table == null) {
            throw new IllegalArgumentException("The file has no decision table.");
        }
        String name = Xml.attribute(decision, "name");
        return new Read(
                name == null ? "Decide" : Texts.clip(name, 120),
                table(table, namespace, adapted, leftOut),
                adapted,
                leftOut);
    }

    private static DecisionTable table(Element table, String namespace, List<String> adapted, List<String> leftOut) {
        List<DecisionTable.Input> inputs = new ArrayList<>();
        for (Element input : Xml.children(table, namespace, "input").toList()) {
            inputs.add(input(input, namespace, adapted));
        }
        if (Xml.children(table, namespace, "output").count() > 1) {
            leftOut.add("every output but the first");
        }
        List<DecisionTable.Row> rows = new ArrayList<>();
        for (Element rule : Xml.children(table, namespace, "rule").toList()) {
            List<String> cells = Xml.children(rule, namespace, "inputEntry")
                    .map(e -> cell(textOf(e, namespace), rows.size() + 1, adapted))
                    .toList();
            String result = Xml.child(rule, namespace, "outputEntry")
                    .map(e -> unquoted(textOf(e, namespace)))
                    .orElse("");
            rows.add(new DecisionTable.Row(cells, result.isBlank() ? "row " + (rows.size() + 1) : result));
        }
        return new DecisionTable(inputs, hit(table, adapted), rows);
    }

    private static DecisionTable.Input input(Element input, String namespace, List<String> adapted) {
        Element expression = Xml.child(input, namespace, "inputExpression").orElse(null);
        String text = expression == null ? "" : textOf(expression, namespace);
        String label = Xml.attribute(input, "label");
        boolean ours = expression != null && EXPRESSIONS.equals(expression.getAttribute("expressionLanguage"));
        if (!ours) {
            adapted.add("the input '" + (label == null ? text : label)
                    + "': say what it reads here, such as ticket.impact");
        }
        return new DecisionTable.Input(label == null ? Texts.clip(text, 80) : label, text);
    }

    private static String cell(String text, int row, List<String> adapted) {
        String cell = text.isBlank() ? "-" : text;
        try {
            Cell.parse(cell);
        } catch (IllegalArgumentException e) {
            adapted.add("row " + row + ": " + e.getMessage());
        }
        return cell;
    }

    private static DecisionTable.Hit hit(Element table, List<String> adapted) {
        String policy = Xml.attribute(table, "hitPolicy");
        if (policy == null || policy.equals("UNIQUE")) {
            return DecisionTable.Hit.UNIQUE;
        }
        if (!policy.equals("FIRST")) {
            adapted.add("the hit policy " + policy.toLowerCase(java.util.Locale.ROOT)
                    + ": the first row from above that matches is taken");
        }
        return DecisionTable.Hit.FIRST;
    }

    private static String textOf(Element parent, String namespace) {
        return Xml.child(parent, namespace, "text")
                .map(t -> t.getTextContent().strip())
                .orElse("");
    }

    private static String unquoted(@Nullable String text) {
        if (text == null || text.length() < 2 || !text.startsWith("\"") || !text.endsWith("\"")) {
            return text == null ? "" : text;
        }
        return text.substring(1, text.length() - 1).replace("\\\"", "\"").replace("\\\\", "\\");
    }
}
