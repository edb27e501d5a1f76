package dastur.core.bpmn;

import dastur.core.people.Party;
import dastur.core.time.Span;
import dastur.core.workflow.Bracket;
import dastur.core.workflow.Level;
import dastur.core.workflow.WorkflowVersion;
import java.util.Map;
import org.w3c.dom.Element;

/** Draws what is particular to one step into its element. */
public final class Pen {
    private final BpmnWriter writer;
    private final Element element;
    private final String id;
    private final Map<String, WorkflowVersion.Note> notes;

    Pen(BpmnWriter writer, Element element, String id, Map<String, WorkflowVersion.Note> notes) {
        this.writer = writer;
        this.element = element;
        this.id = id;
        this.notes = notes;
    }

    public void attribute(String name, String value) {
        element.setAttribute(name, value);
    }

    /** A further pen for an element below this one. */
    public Pen child(String tag) {
        return new Pen(writer, writer.child(element, tag), id, notes);
    }

    /** Makes the element an expression. */
    public void expression(String text) {
        expression(element, text);
    }

    /** Somebody who may carry the step out. */
    public void owner(Party party) {
        child("potentialOwner")
                .child("resourceAssignmentExpression")
                .child("formalExpression")
                .element
                .setTextContent(Xml.clean(whom(party)));
    }

    /** Waits for a signal, which is declared beside the process. */
    public void signal(String name) {
        child("signalEventDefinition").attribute("signalRef", writer.signal(name));
    }

    /** The steps inside. */
    public void inside(Level body) {
        writer.inside(element, id, body, notes);
    }

    /** Lines between two gateways. */
    public void sideBySide(Bracket.Fork fork) {
        writer.sideBySide(element, fork, notes);
    }

    static void expression(Element element, String text) {
        element.setAttributeNS(Xml.XSI, "xsi:type", "tFormalExpression");
        element.setTextContent(Xml.clean(text));
    }

    /** ISO 8601; the exact words, working hours among them, stand in the extension. */
    public static String duration(Span span) {
        return switch (span.unit()) {
            case SECOND -> "PT" + span.amount() + "S";
            case MINUTE -> "PT" + span.amount() + "M";
            case HOUR -> "PT" + span.amount() + "H";
            case DAY -> "P" + span.amount() + "D";
        };
    }

    /** Who is meant, as a lane or an owner is called. */
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
}
