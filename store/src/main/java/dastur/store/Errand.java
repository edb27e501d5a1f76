package dastur.store;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.people.Actor;
import dastur.core.run.Event;
import dastur.core.run.RunId;
import dastur.core.run.VisitId;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.TicketId;
import java.util.Map;

/** What one ticket has to tell another: goes through the outbox, since a transaction changes one ticket (D11). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Errand.Send.class, name = "send"),
    @JsonSubTypes.Type(value = Errand.Answer.class, name = "answer"),
    @JsonSubTypes.Type(value = Errand.Recall.class, name = "recall"),
    @JsonSubTypes.Type(value = Errand.Link.class, name = "link")
})
public sealed interface Errand {
    /** A workflow is to begin on another ticket. @param from the visit that waits for it */
    record Send(VisitId from, Event.WorkflowSent sent) implements Errand {}

    /** A run has ended, and a visit of another ticket waits for that. */
    record Answer(VisitId to, RunId run, String result, boolean stopped, Map<String, Object> results)
            implements Errand {}

    /** A run on another ticket is no longer waited for. */
    record Recall(RunId run, String why) implements Errand {}

    /** A link was made, or taken away; the other ticket follows. */
    record Link(TicketId other, LinkKind as, Actor by, boolean made) implements Errand {}
}
