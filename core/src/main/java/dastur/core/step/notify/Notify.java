package dastur.core.step.notify;

import dastur.core.people.Party;
import dastur.core.workflow.Known;
import dastur.core.workflow.Step;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/**
 * People are told something, each as they want to be reached; never blocks the run unless {@code undelivered} is
 * wired (law 8).
 *
 * @param room where it is said instead, with these people invited; null for none
 * @param invites what it invites to, by mail; null for nothing
 */
public record Notify(
        StepId id,
        String name,
        List<Party> to,
        String subject,
        String text,
        @Nullable TicketRoom room,
        @Nullable Invites invites,
        Map<String, StepId> ways,
        @Nullable String expected)
        implements Step.InRoom {
    /** To each by themselves. */
    public Notify(
            StepId id,
            String name,
            List<Party> to,
            String subject,
            String text,
            Map<String, StepId> ways,
            @Nullable String expected) {
        this(id, name, to, subject, text, null, null, ways, expected);
    }

    public Notify {
        to = List.copyOf(to);
        ways = Step.ordered(ways);
    }

    @Override
    public List<String> exits(Known known) {
        return List.of("sent");
    }

    @Override
    public List<String> optionalExits() {
        return room == null ? List.of("undelivered") : List.of();
    }
}
