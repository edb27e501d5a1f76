package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketKind;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What starts a workflow (N30). It belongs to the workflow, not to a version: it is switched on and off without a new one.
 *
 * @param services limits it to tickets of these services; empty for all
 * @param condition an expression that must hold; null for none
 */
public record Trigger(
        TriggerId id,
        boolean on,
        When when,
        List<ServiceId> services,
        @Nullable String condition) {
    public Trigger {
        services = List.copyOf(services);
    }

    public Trigger switched(boolean nowOn) {
        return new Trigger(id, nowOn, when, services, condition);
    }

    /** A workflow's live trigger, as the engine looks at it. */
    public record Live(WorkflowKey workflow, int version, String name, Trigger trigger) {}

    /** The event a trigger listens to. */
    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
    @JsonSubTypes({
        @JsonSubTypes.Type(value = Created.class, name = "created"),
        @JsonSubTypes.Type(value = FieldReaches.class, name = "field reaches"),
        @JsonSubTypes.Type(value = ByHand.class, name = "by hand")
    })
    public sealed interface When {
        @Nullable TicketKind kind();
    }

    /** A ticket was created. */
    public record Created(@Nullable TicketKind kind) implements When {}

    /** A field of a ticket reaches a value, whoever set it. */
    public record FieldReaches(@Nullable TicketKind kind, String field, String value) implements When {}

    /** A person may start it from a ticket. */
    public record ByHand(@Nullable TicketKind kind) implements When {}
}
