package dastur.server.api;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalEvents.ApprovalAsked;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.update.Updated;
import dastur.core.ticket.TicketId;
import dastur.server.api.Views.TalkView;
import dastur.store.Organisation;
import dastur.store.Records;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** A ticket's record as its requester may know it: what concerns them, and nothing of the inner workings. */
final class RequesterStory {
    private final Organisation organisation;
    private final Records records;
    private final Person requester;
    /** What the open decisions are called, until they are closed. */
    private final Map<VisitId, String> decisions = new HashMap<>();

    private @Nullable String lastSaid;

    RequesterStory(Organisation organisation, Records records, Person requester) {
        this.organisation = organisation;
        this.records = records;
        this.requester = requester;
    }

    List<TalkView> of(TicketId ticket) {
        return records.of(ticket).stream().map(Seal::open).flatMap(this::line).toList();
    }

    private Stream<TalkView> line(Recorded r) {
        return switch (r.event()) {
            case Event.NoteAdded note
            when note.toRequester() -> {
                lastSaid = note.text();
                yield Stream.of(view(r, "said", note.text()));
            }
            // What was said is sent too; it is told once.
            case Event.MessageQueued m when m.text() != null && m.text().equals(lastSaid) -> Stream.empty();
            case Event.MessageQueued m when m.people().contains(requester.id()) -> Stream.of(view(r, "sent", text(m)));
            case ApprovalAsked a
            when r.visit() != null -> {
                decisions.put(r.visit(), a.name());
                yield Stream.empty();
            }
            case ApprovalClosed a when r.visit() != null -> Stream.of(view(r, "decided", decided(r.visit(), a)));
            case Event.CiPlanned p -> Stream.of(view(r, "wished", p.ci().value()));
            case Event.TicketChanged c -> moved(r, c.changes());
            case Updated u -> moved(r, u.changes());
            default -> Stream.empty();
        };
    }

    /** A no comes with its reason: it is what the requester needs to ask better. */
    private String decided(VisitId visit, ApprovalClosed a) {
        String name = decisions.getOrDefault(visit, "What was asked");
        return name + " — " + a.exit() + (a.exit().equals("declined") && a.comment() != null ? ": " + a.comment() : "");
    }

    private static @Nullable String text(Event.MessageQueued m) {
        return m.subject() == null && m.text() == null
                ? null
                : Stream.of(m.subject(), m.text())
                        .filter(t -> t != null && !t.isBlank())
                        .reduce((a, b) -> a + "\n" + b)
                        .orElse("");
    }

    private Stream<TalkView> moved(Recorded r, @Nullable Map<String, Event.Change> changes) {
        Event.Change state = changes == null ? null : changes.get("state");
        return state == null
                ? Stream.empty()
                : Stream.of(view(r, "moved", "It was “" + state.before() + "”, now it is “" + state.after() + "”."));
    }

    private TalkView view(Recorded r, String what, @Nullable String text) {
        PersonId by = r.actor() instanceof Actor.OfPerson p ? p.person() : null;
        String name = by == null
                ? "The desk"
                : organisation.person(by).map(Person::name).orElse(by.value());
        return new TalkView(r.seq(), what, name, requester.id().equals(by), r.at(), text);
    }
}
