package dastur.core.step.callin;

import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.run.Waiting.Asked;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/**
 * Somebody who accepts a call-in.
 *
 * @param asked everybody who was asked so far
 * @param cannot those who said that they cannot
 */
public record OpenCallIn(
        String name, @Nullable String as, String message, List<PersonId> asked, List<PersonId> cannot, Instant until)
        implements Waiting.InRoom {
    @Override
    public Optional<Asked> asks() {
        List<PersonId> open = asked.stream().filter(p -> !cannot.contains(p)).toList();
        return Optional.of(new Asked("call-in", name, new Assigned(List.of(), open), null, null, until, null));
    }

    @Override
    public boolean alive(Visit visit) {
        return !visit.alarms().isEmpty();
    }

    @Override
    public Waiting later(long seconds) {
        return new OpenCallIn(name, as, message, asked, cannot, until.plusSeconds(seconds));
    }

    @Override
    public @Nullable String words() {
        return message;
    }

    /** Those whom a rung asks to come. */
    @Override
    public OpenCallIn joinedBy(List<PersonId> more, @Nullable Integer needed) {
        return new OpenCallIn(
                name,
                as,
                message,
                java.util.stream.Stream.concat(asked.stream(), more.stream())
                        .distinct()
                        .toList(),
                cannot,
                until);
    }

    OpenCallIn without(PersonId person) {
        return new OpenCallIn(
                name,
                as,
                message,
                asked,
                java.util.stream.Stream.concat(cannot.stream(), java.util.stream.Stream.of(person))
                        .distinct()
                        .toList(),
                until);
    }
}
