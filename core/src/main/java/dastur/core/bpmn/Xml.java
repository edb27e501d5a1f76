package dastur.core.bpmn;

import dastur.core.json.SafeXml;
import java.io.IOException;
import java.io.StringReader;
import java.io.StringWriter;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.stream.Stream;
import javax.xml.XMLConstants;
import javax.xml.transform.OutputKeys;
import javax.xml.transform.Transformer;
import javax.xml.transform.TransformerException;
import javax.xml.transform.TransformerFactory;
import javax.xml.transform.dom.DOMSource;
import javax.xml.transform.stream.StreamResult;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Document;
import org.w3c.dom.Element;
import org.w3c.dom.Node;
import org.xml.sax.InputSource;
import org.xml.sax.SAXException;
import org.xml.sax.SAXParseException;

/** Reads and writes XML safely: no document type, no entities, nothing fetched, bounded in size and number of elements. */
final class Xml {
    static final String BPMN = "http://www.omg.org/spec/BPMN/20100524/MODEL";
    static final String BPMN_DI = "http://www.omg.org/spec/BPMN/20100524/DI";
    static final String DMN = "https://www.omg.org/spec/DMN/20191111/MODEL/";
    static final String DC = "http://www.omg.org/spec/DD/20100524/DC";
    static final String DI = "http://www.omg.org/spec/DD/20100524/DI";
    static final String XSI = XMLConstants.W3C_XML_SCHEMA_INSTANCE_NS_URI;
    /** Our own extension namespace. */
    static final String OWN = "urn:dastur:workflow:1";

    static final int MAX_CHARACTERS = 2_000_000;
    private static final int MAX_ELEMENTS = 40_000;

    private Xml() {}

    /** @throws UnreadableXml with a sentence for the writer, and the line where there is one */
    static Document parse(String text) {
        if (text.length() > MAX_CHARACTERS) {
            throw new UnreadableXml("The file is longer than " + MAX_CHARACTERS + " characters.");
        }
        try {
            Document document = SafeXml.builder().parse(new InputSource(new StringReader(text)));
            int count = count(document.getDocumentElement());
            if (count > MAX_ELEMENTS) {
                throw new UnreadableXml("The file has " + count + " elements; " + MAX_ELEMENTS + " is the most.");
            }
            return document;
        } catch (SAXParseException e) {
            throw new UnreadableXml("Line " + e.getLineNumber() + ", column " + e.getColumnNumber()
                    + ": this is no XML that can be read: " + e.getMessage());
        } catch (SAXException | IOException e) {
            throw new UnreadableXml("This is no XML that can be read.");
        }
    }

    /** How deep elements may stand in each other is bounded by the parser itself. */
    private static int count(Element element) {
        return 1 + children(element).stream().mapToInt(Xml::count).sum();
    }

    static Document empty() {
        return SafeXml.builder().newDocument();
    }

    static String write(Document document) {
        try {
            TransformerFactory factory = TransformerFactory.newInstance();
            factory.setFeature(XMLConstants.FEATURE_SECURE_PROCESSING, true);
            Transformer transformer = factory.newTransformer();
            transformer.setOutputProperty(OutputKeys.INDENT, "yes");
            transformer.setOutputProperty("{http://xml.apache.org/xslt}indent-amount", "2");
            transformer.setOutputProperty(OutputKeys.OMIT_XML_DECLARATION, "yes");
            StringWriter out = new StringWriter();
            out.write("<?xml version=\"1.0\" encoding=\"UTF-8\"?>\n");
            transformer.transform(new DOMSource(document), new StreamResult(out));
            return out.toString();
        } catch (TransformerException e) {
            throw new IllegalStateException("XML cannot be written", e);
        }
    }

    static List<Element> children(Element parent) {
        List<Element> all = new ArrayList<>();
        for (Node node = parent.getFirstChild(); node != null; node = node.getNextSibling()) {
            if (node instanceof Element e) {
                all.add(e);
            }
        }
        return all;
    }

    static Stream<Element> children(Element parent, String namespace, String name) {
        return children(parent).stream()
                .filter(e -> namespace.equals(e.getNamespaceURI()) && name.equals(e.getLocalName()));
    }

    static Optional<Element> child(Element parent, String namespace, String name) {
        return children(parent, namespace, name).findFirst();
    }

    /** An attribute without a namespace; null when it is absent or blank. */
    static @Nullable String attribute(Element element, String name) {
        String value = element.getAttribute(name);
        return value.isBlank() ? null : value;
    }

    /**
     * A digest of what the standard's elements say of a node besides its name and its ways: its kind, documentation, who
     * does it, and its event or loop.
     */
    static String digest(Element node) {
        StringBuilder all = new StringBuilder(node.getLocalName()).append(node.getAttribute("calledElement"));
        for (Element child : children(node)) {
            String tag = child.getLocalName();
            if (tag.equals("documentation")
                    || tag.equals("potentialOwner")
                    || tag.endsWith("Definition")
                    || tag.endsWith("LoopCharacteristics")) {
                all.append('|').append(tag).append(child.getTextContent().replaceAll("\\s+", ""));
            }
        }
        try {
            byte[] hash =
                    MessageDigest.getInstance("SHA-256").digest(all.toString().getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash, 0, 8);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException("this Java has no SHA-256", e);
        }
    }

    /** What XML 1.0 cannot carry is left out. */
    static String clean(String text) {
        StringBuilder clean = new StringBuilder();
        text.codePoints()
                .filter(c -> c == 9
                        || c == 10
                        || c == 13
                        || c >= 0x20 && c <= 0xD7FF
                        || c >= 0xE000 && c <= 0xFFFD
                        || c >= 0x10000)
                .forEach(clean::appendCodePoint);
        return clean.toString();
    }

    /** A file that cannot be read at all. */
    static final class UnreadableXml extends IllegalArgumentException {
        private static final long serialVersionUID = 1L;

        UnreadableXml(String message) {
            super(message);
        }
    }

    /** The parser's own handler prints to the console. */
}
