package dastur.core.step.call;

import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Step;
import java.util.Map;

/**
 * A ticket raised for it. Requester, service and CI are those of this ticket unless given.
 *
 * @param fields an expression for each field that is given
 */
public record NewTicket(TicketKind raises, Map<String, String> fields) implements Elsewhere {
    public NewTicket {
        fields = Step.ordered(fields);
    }
}
