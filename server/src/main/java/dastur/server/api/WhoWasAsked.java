package dastur.server.api;

import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.server.App;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Whether a person was ever asked something, by what the record says: then they may know what became of it. */
final class WhoWasAsked {
    private final App app;
    private final PersonId person;

    WhoWasAsked(App app, PersonId person) {
        this.app = app;
        this.person = person;
    }

    /** @param item as on the Desk: a visit, what stands beside one, or a proposal */
    boolean isAmong(List<Recorded> record, String item) {
        return record.stream()
                .filter(r -> about(r, item))
                .flatMap(r -> asked(r.event()))
                .anyMatch(this::isOneOf);
    }

    private static boolean about(Recorded r, String item) {
        return r.event() instanceof Event.StartOffered e
                ? item.endsWith("/" + e.trigger())
                : r.visit() != null && (item.equals(r.visit().value()) || item.startsWith(r.visit() + "?"));
    }

    private boolean isOneOf(@Nullable Assigned assigned) {
        return assigned != null && Covering.isOneOf(app, person, assigned);
    }

    private static Stream<@Nullable Assigned> asked(Event event) {
        return switch (event) {
            case Event.StartOffered e -> Stream.of(e.asked());
            case Event.TaskOffered e -> Stream.of(e.to(), e.overseers());
            case Event.TaskPassedOn e -> Stream.of(e.to());
            case Event.HelpAsked e -> Stream.of(e.to());
            case Event.ReviewAsked e -> Stream.of(e.to());
            case Event.ApprovalAsked e -> Stream.of(new Assigned(List.of(), e.electorate()));
            case Event.RungFired e -> Stream.of(e.handedTo(), new Assigned(List.of(), e.joined()));
            default -> Stream.empty();
        };
    }
}
