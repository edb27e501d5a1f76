package dastur.core.bpmn;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.PersonId;
import dastur.core.workflow.StepId;
import dastur.core.workflow.WorkflowKey;
import dastur.core.workflow.WorkflowVersion;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;
import org.w3c.dom.Document;
import org.w3c.dom.Element;

/**
 * Reads BPMN: what the standard says is taken from the standard's elements (what follows what, names), everything else
 * from our extension where it stands. A file of another program's becomes a draft to go on with, and a plain list says
 * what was understood, adapted and left out.
 */
final class BpmnReader {
    private static final Set<String> SILENT = Set.of(
            "documentation",
            "extensionElements",
            "incoming",
            "outgoing",
            "laneSet",
            "sequenceFlow",
            "startEvent",
            "boundaryEvent",
            "ioSpecification",
            "dataInputAssociation",
            "dataOutputAssociation",
            "potentialOwner",
            "humanPerformer",
            "performer",
            "resourceRole",
            "multiInstanceLoopCharacteristics",
            "standardLoopCharacteristics",
            "auditing",
            "monitoring",
            "property",
            "rendering");

    final Names names;
    final List<String> understood = new ArrayList<>();
    final List<String> adapted = new ArrayList<>();
    final List<String> leftOut = new ArrayList<>();
    /** Lane names by the node they hold. */
    final Map<String, String> lanes = new HashMap<>();

    private final Map<String, StepId> ids = new HashMap<>();
    private final Set<StepId> taken = new HashSet<>();

    private BpmnReader(Names names) {
        this.names = names;
    }

    static Bpmn.Read read(String text, int number, PersonId owner, Names names) {
        BpmnReader reader = new BpmnReader(names);
        WorkflowVersion version = reader.version(Xml.parse(text), number, owner);
        return new Bpmn.Read(version, reader.understood, reader.adapted, reader.leftOut);
    }

    private WorkflowVersion version(Document document, int number, PersonId owner) {
        Element root = document.getDocumentElement();
        if (!Xml.BPMN.equals(root.getNamespaceURI()) || !"definitions".equals(root.getLocalName())) {
            throw new Xml.UnreadableXml("This is XML, but no BPMN 2.0: its first element is '" + root.getNodeName()
                    + "' and not 'definitions' of the standard's namespace.");
        }
        Element process = process(root);
        Xml.children(process, Xml.BPMN, "laneSet").forEach(this::lanes);
        reserve(process);
        ObjectNode head = own(process, "workflow");
        boolean ours = head != null;
        if (head == null) {
            head = Json.mapper().createObjectNode();
            head.put("key", key(process));
            head.putArray("startForm");
            head.putArray("vars");
            head.put("owner", owner.value());
            Xml.child(process, Xml.BPMN, "documentation")
                    .map(d -> d.getTextContent().strip())
                    .filter(t -> !t.isBlank())
                    .ifPresent(purpose(head));
        }
        head.put("number", number);
        String name = Xml.attribute(process, "name");
        if (name != null && (!ours || !same(name, head.path("name").asText()))) {
            head.put("name", Texts.clip(name.strip(), 120));
        } else if (name == null && !ours) {
            head.put("name", "From a diagram");
        }
        head.set("body", new LevelReader(this, process).level());
        try {
            return Json.mapper().treeToValue(head, WorkflowVersion.class);
        } catch (JsonProcessingException | IllegalArgumentException e) {
            throw new Xml.UnreadableXml("The file was read, but what it says makes no workflow: " + cause(e));
        }
    }

    private static String cause(Exception e) {
        Throwable cause = e;
        while (cause.getCause() != null) {
            cause = cause.getCause();
        }
        String message = String.valueOf(cause.getMessage());
        int end = message.indexOf("\n at ");
        return Texts.clip(end < 0 ? message : message.substring(0, end), 300);
    }

    private static java.util.function.Consumer<String> purpose(ObjectNode head) {
        return text -> head.put("purpose", Texts.clip(text, Texts.MAX_TEXT));
    }

    private static String key(Element process) {
        String id = String.valueOf(Xml.attribute(process, "id"));
        String word = id.replaceFirst("^process\\.", "")
                .replaceAll("[^A-Za-z0-9._-]+", "-")
                .replaceFirst("^[._-]+", "");
        try {
            return new WorkflowKey(word.toLowerCase(java.util.Locale.ROOT)).value();
        } catch (IllegalArgumentException e) {
            return "from-a-diagram";
        }
    }

    /** The process that holds the most; others are other people's. */
    private Element process(Element root) {
        List<Element> all = Xml.children(root, Xml.BPMN, "process").toList();
        if (all.isEmpty()) {
            throw new Xml.UnreadableXml("The file has no 'process', so there is nothing to make steps of.");
        }
        Element most = all.stream()
                .max(java.util.Comparator.comparingInt(p -> Xml.children(p).size()))
                .orElseThrow();
        all.stream().filter(p -> p != most).forEach(p -> leftOut.add("the other process " + called(p)));
        Xml.children(root, Xml.BPMN, "collaboration")
                .forEach(c -> Xml.children(c, Xml.BPMN, "messageFlow").forEach(m -> leftOut.add(called(m))));
        return most;
    }

    private void lanes(Element set) {
        for (Element lane : Xml.children(set, Xml.BPMN, "lane").toList()) {
            String name = Xml.attribute(lane, "name");
            Xml.children(lane, Xml.BPMN, "flowNodeRef")
                    .forEach(ref -> lanes.put(ref.getTextContent().strip(), name == null ? "" : name.strip()));
            Xml.children(lane, Xml.BPMN, "childLaneSet").forEach(this::lanes);
        }
    }

    /** Ids that can stay as they are keep their names; others are made later. */
    private void reserve(Element parent) {
        for (Element child : Xml.children(parent)) {
            ObjectNode step = own(child, "step");
            String id = Xml.attribute(child, "id");
            if (step != null && id != null) {
                StepId kept = new StepId(id);
                taken.add(kept);
                ids.put(id, kept);
            }
            if ("subProcess".equals(child.getLocalName())) {
                reserve(child);
            }
        }
    }

    /** The step's id for an element's. */
    StepId id(Element element) {
        String id = element.getAttribute("id");
        return ids.computeIfAbsent(
                id, i -> free(element.getAttribute("name").isBlank() ? i : element.getAttribute("name")));
    }

    StepId free(String wish) {
        StepId free = Notation.freeId(wish, taken);
        taken.add(free);
        return free;
    }

    /** What our extension says beside an element; null when there is none or it cannot be read. */
    @Nullable ObjectNode own(Element element, String tag) {
        return Xml.child(element, Xml.BPMN, "extensionElements")
                .flatMap(e -> Xml.child(e, Xml.OWN, tag))
                .map(e -> {
                    try {
                        return Json.parse(e.getTextContent()) instanceof ObjectNode o ? o : null;
                    } catch (JsonProcessingException bad) {
                        throw new Xml.UnreadableXml("What our extension says of '" + element.getAttribute("id")
                                + "' is no JSON that can be read.");
                    }
                })
                .orElse(null);
    }

    /** What our extension was written for; null where it does not say. */
    @Nullable String digest(Element node) {
        return Xml.child(node, Xml.BPMN, "extensionElements")
                .flatMap(e -> Xml.child(e, Xml.OWN, "step"))
                .map(e -> Xml.attribute(e, "digest"))
                .orElse(null);
    }

    static boolean silent(Element element) {
        return SILENT.contains(element.getLocalName());
    }

    /** "the user task 'Look at the gate'". */
    static String called(Element element) {
        String name = Xml.attribute(element, "name");
        return words(element.getLocalName()) + " '" + Texts.clip(name == null ? element.getAttribute("id") : name, 60)
                + "'";
    }

    /** userTask → user task. */
    static String words(String tag) {
        return tag.replaceAll("([a-z])([A-Z])", "$1 $2").toLowerCase(java.util.Locale.ROOT);
    }

    /** Whether a name of the file is ours, give or take what XML does to white space. */
    static boolean same(String read, String own) {
        return squeezed(read).equals(squeezed(Xml.clean(own)));
    }

    private static String squeezed(String text) {
        return text.replaceAll("\\s+", " ").strip();
    }

    /** A party in JSON for a name of a lane or a performer; the ticket's group where nobody is known by it. */
    ObjectNode party(@Nullable String name) {
        ObjectNode party = Json.mapper().createObjectNode();
        String word = name == null ? "" : name.strip();
        String group = named(names.groups(), word);
        String person = named(names.people(), word);
        if (group != null) {
            return party.put("is", "group").put("group", group);
        }
        if (person != null) {
            return party.put("is", "person").put("person", person);
        }
        return party.put("is", "ticketGroup");
    }

    private static @Nullable String named(Map<String, String> all, String word) {
        return all.entrySet().stream()
                .filter(e -> e.getKey().equalsIgnoreCase(word) || e.getValue().equalsIgnoreCase(word))
                .map(Map.Entry::getKey)
                .findFirst()
                .orElse(null);
    }
}
