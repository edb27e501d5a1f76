package dastur.core.workflow;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.JsonNodeFactory;
import com.fasterxml.jackson.databind.node.MissingNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.SafeXml;
import dastur.core.ticket.FieldType;
import java.io.IOException;
import java.io.StringReader;
import java.util.ArrayList;
import java.util.List;
import java.util.Optional;
import java.util.regex.Pattern;
import javax.xml.XMLConstants;
import javax.xml.xpath.XPath;
import javax.xml.xpath.XPathExpressionException;
import javax.xml.xpath.XPathFactory;
import javax.xml.xpath.XPathFactoryConfigurationException;
import javax.xml.xpath.XPathNodes;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.NamedNodeMap;
import org.w3c.dom.Node;
import org.xml.sax.InputSource;
import org.xml.sax.SAXException;

/**
 * A place in an answer that is XML: {@code xpath:} and an expression (XPath 1.0, M4). Names are those without their prefixes. Whoever
 * reads a list gets each element as a row of its attributes and its children's texts, or as its text where it has neither; whoever
 * reads a value, the one text that the expression names.
 */
public final class XmlPlace {
    public static final String BEGINS = "xpath:";

    private static final Pattern QUOTED = Pattern.compile("\"[^\"]*\"|'[^']*'");
    private static final Pattern PREFIXED = Pattern.compile("[\\w.-]:[^:]");
    private static final int MOST_CHARACTERS = 500;
    private static final int MOST_ELEMENTS = 100_000;
    private static final int MOST_DEEP = 100;

    /** The answer is no XML, or the expression names several places where one is meant. */
    public static final class Unread extends Exception {
        private static final long serialVersionUID = 1;

        Unread(String message) {
            super(message);
        }
    }

    private XmlPlace() {}

    public static boolean is(String place) {
        return place.startsWith(BEGINS);
    }

    private static XPath xpath() {
        try {
            XPathFactory factory = XPathFactory.newInstance();
            factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
            return factory.newXPath();
        } catch (XPathFactoryConfigurationException e) {
            throw new IllegalStateException("this Java has no safe XPath", e);
        }
    }

    /** Why a place cannot be read from; empty where it can. */
    public static Optional<String> problem(String place) {
        String expression = place.substring(BEGINS.length());
        if (expression.isBlank() || expression.length() > MOST_CHARACTERS) {
            return Optional.of("An XPath has 1 to " + MOST_CHARACTERS + " characters.");
        }
        if (PREFIXED.matcher(QUOTED.matcher(expression).replaceAll("")).find()) {
            return Optional.of("This XPath cannot be read: names stand without their prefixes.");
        }
        try {
            xpath().compile(expression);
            return Optional.empty();
        } catch (XPathExpressionException e) {
            Throwable cause = e.getCause() == null ? e : e.getCause();
            return Optional.of("This XPath cannot be read: " + cause.getMessage() + ".");
        }
    }

    /**
     * What stands there, in JSON's shapes.
     *
     * @return missing where nothing does
     * @throws Unread when the answer is no XML, or names several places for a value
     */
    public static JsonNode read(String xml, String place, FieldType as) throws Unread {
        Document document = parsed(xml);
        String expression = place.substring(BEGINS.length());
        try {
            XPathNodes nodes;
            try {
                nodes = xpath().evaluateExpression(expression, document, XPathNodes.class);
            } catch (XPathExpressionException noNodes) {
                // A count, a sum or a text, such as string(//name).
                return typed(xpath().evaluate(expression, document), as);
            }
            List<Node> all = new ArrayList<>();
            nodes.forEach(all::add);
            return as == FieldType.LIST ? list(all) : value(all, place, as);
        } catch (XPathExpressionException e) {
            throw new Unread("What stands at " + place + " cannot be read.");
        }
    }

    private static Document parsed(String xml) throws Unread {
        try {
            Document document = SafeXml.builder().parse(new InputSource(new StringReader(xml)));
            bare(document, document.getDocumentElement(), 0, 1);
            return document;
        } catch (SAXException | IOException e) {
            throw new Unread("The answer is no XML that can be read.");
        }
    }

    /** Takes the prefixes off. @return how many elements there are so far */
    private static int bare(Document document, Element element, int before, int deep) throws Unread {
        if (deep > MOST_DEEP) {
            throw new Unread("In the answer more than " + MOST_DEEP + " elements stand in each other.");
        }
        int count = before + 1;
        if (count > MOST_ELEMENTS) {
            throw new Unread("The answer has more than " + MOST_ELEMENTS + " elements.");
        }
        Node renamed = element.getNamespaceURI() == null
                ? element
                : document.renameNode(element, null, element.getLocalName());
        Node child = renamed.getFirstChild();
        while (child != null) {
            Node next = child.getNextSibling();
            if (child instanceof Element e) {
                count = bare(document, e, count, deep + 1);
            }
            child = next;
        }
        return count;
    }

    private static JsonNode value(List<Node> all, String place, FieldType as) throws Unread {
        if (all.size() > 1) {
            throw new Unread("At " + place + " stand " + all.size()
                    + " values, where one is read. Name one, such as the first: (" + place.substring(BEGINS.length())
                    + ")[1].");
        }
        return all.isEmpty()
                ? MissingNode.getInstance()
                : typed(all.getFirst().getTextContent().strip(), as);
    }

    /** Numbers and yes-or-no as such; what is none stays a text, and is told where it is judged. */
    private static JsonNode typed(String text, FieldType as) {
        JsonNodeFactory json = JsonNodeFactory.instance;
        boolean number = as == FieldType.NUMBER || as == FieldType.WHOLE;
        if (number && text.matches("-?\\d{1,15}(\\.\\d{1,15})?")) {
            return text.contains(".") && !text.matches(".*\\.0+")
                    ? json.numberNode(Double.parseDouble(text))
                    : json.numberNode((long) Double.parseDouble(text));
        }
        return as == FieldType.YES_NO && text.matches("true|false")
                ? json.booleanNode(text.equals("true"))
                : json.textNode(text);
    }

    private static JsonNode list(List<Node> all) {
        ArrayNode list = JsonNodeFactory.instance.arrayNode();
        all.forEach(n -> list.add(row(n)));
        return list;
    }

    private static JsonNode row(Node node) {
        ObjectNode row = JsonNodeFactory.instance.objectNode();
        if (node instanceof Element element) {
            NamedNodeMap attributes = element.getAttributes();
            for (int i = 0; i < attributes.getLength(); i++) {
                Node attribute = attributes.item(i);
                if (!attribute.getNodeName().startsWith("xmlns")) {
                    row.put(
                            attribute.getLocalName() == null ? attribute.getNodeName() : attribute.getLocalName(),
                            attribute.getNodeValue());
                }
            }
            for (Node child = element.getFirstChild(); child != null; child = child.getNextSibling()) {
                if (child instanceof Element e) {
                    row.put(e.getNodeName(), e.getTextContent().strip());
                }
            }
        }
        return row.isEmpty()
                ? JsonNodeFactory.instance.textNode(node.getTextContent().strip())
                : row;
    }
}
