package dastur.core.rehearsal;

import dastur.core.run.Case;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.workflow.StepId;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * How far a rehearsal has come. Immutable, so that exploring can go on from it in several directions.
 *
 * @param cis CIs as steps have made or changed them, in this rehearsal alone
 * @param refused why the last answer was not taken; null when it was
 */
public record Played(
        Case ticket,
        List<Recorded> record,
        Instant now,
        @Nullable String refused,
        Map<CiId, ConfigurationItem> cis) {
    /** With another moment and word of what was refused. */
    Played at(Instant moment, @Nullable String why) {
        return new Played(ticket, record, moment, why, cis);
    }

    /** The result of the rehearsed run; empty while it is open. */
    public Optional<String> ended() {
        return events(Event.RunEnded.class)
                .map(Event.RunEnded::result)
                .reduce((first, second) -> second)
                .filter(r -> ticket.open().isEmpty());
    }

    /** Why it cannot go on; empty when it can. */
    public Optional<String> stalled() {
        return ticket.open().values().stream()
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() != null)
                .findFirst()
                .map(v -> v.step() + ": " + v.stall().why());
    }

    /** How long the run has taken so far. */
    public Duration took() {
        return record.stream()
                .filter(r -> r.event() instanceof Event.RunStarted)
                .findFirst()
                .map(r -> Duration.between(r.at(), record.getLast().at()))
                .orElse(Duration.ZERO);
    }

    /** The steps that were opened, in order, each as often as it was. */
    public List<StepId> path() {
        return record.stream()
                .filter(r -> r.visit() != null && r.step() != null)
                .map(r -> java.util.Map.entry(r.visit(), r.step()))
                .distinct()
                .map(java.util.Map.Entry::getValue)
                .toList();
    }

    <T extends Event> Stream<T> events(Class<T> type) {
        return record.stream().map(Recorded::event).filter(type::isInstance).map(type::cast);
    }
}
