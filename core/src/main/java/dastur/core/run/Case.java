package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonIgnore;
import dastur.core.people.PersonId;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.Promised;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * A ticket with its open runs: the unit the engine decides on. It is what the events of the record fold to; a stored
 * copy is only a cache.
 *
 * @param seq the number of the last entry
 * @param fields the ticket's values by field name, without absent ones
 * @param runs how many runs there were
 * @param messages how many messages were queued
 * @param offers what triggers propose to start, by trigger, until somebody answers or the ticket ends
 * @param files what is attached, in order
 * @param began whose workflow each run is of and what it is called, also of runs that are over
 * @param late visits whose result came after their end and changed or may have changed the world, with who must look
 * @param givenUp messages that could not be delivered, as message and person
 * @param targets how soon it is to be responded to and restored
 * @param promisedFor the service and priority that the targets were set for
 * @param room its room in chat; null while there is none
 * @param parts who takes part as what, by what they were called in as
 * @param links other tickets this one is linked with, in the order of linking
 * @param partners at whose desks it is followed, by the partner's key
 */
public record Case(
        TicketId id,
        long seq,
        @Nullable Instant lastAt,
        @Nullable TicketKind kind,
        @Nullable Instant createdAt,
        Map<String, Object> fields,
        int runs,
        int messages,
        TreeMap<RunId, Run> open,
        TreeMap<String, Offer> offers,
        List<FileRef> files,
        TreeMap<RunId, Began> began,
        TreeMap<VisitId, Late> late,
        TreeSet<String> givenUp,
        List<Link> links,
        TreeMap<Promised, Target> targets,
        Map<String, Object> promisedFor,
        TreeMap<String, List<PersonId>> parts,
        @Nullable Room room,
        TreeMap<String, AtPartner> partners) {
    /** Changes with every change of {@link Fold}; a snapshot of another number is folded anew (D24). */
    public static final int FOLD = 9;

    /**
     * A workflow that a trigger proposes to start instead of starting it.
     *
     * @param asked those who are asked; nobody where it is only offered
     * @param heldBack whether it would have started by itself, had it not started so often of late; null for no
     */
    public record Offer(
            TriggerId trigger,
            WorkflowKey workflow,
            String name,
            Assigned asked,
            Instant at,
            @Nullable Boolean heldBack) {
        boolean isHeldBack() {
            return heldBack != null;
        }
    }

    /** An attached file. @param hash SHA-256 of its bytes, in hex; the name is absent when it was redacted */
    public record FileRef(
            long seq,
            String hash,
            @Nullable String name,
            String type,
            long size,
            boolean toRequester,
            PersonId by,
            Instant at) {}

    /** A room in chat. @param name absent when it was redacted */
    public record Room(
            String id, boolean keepsAll, @Nullable String name) {}

    /** A run that was started once. @param name of its workflow then */
    public record Began(PersonId owner, String name) {}

    /** A result that came too late, and who must look at it since when. */
    public record Late(PersonId owner, Instant at) {}

    /** Another ticket that this one has to do with. */
    public record Link(TicketId other, LinkKind kind) {}

    /** A ticket that does not exist yet. */
    public static Case none(TicketId id) {
        return new Case(
                id,
                0,
                null,
                null,
                null,
                Map.of(),
                0,
                0,
                new TreeMap<>(),
                new TreeMap<>(),
                List.of(),
                new TreeMap<>(),
                new TreeMap<>(),
                new TreeSet<>(),
                List.of(),
                new TreeMap<>(),
                Map.of(),
                new TreeMap<>(),
                null,
                new TreeMap<>());
    }

    public Case {
        offers = offers == null ? new TreeMap<>() : offers;
        files = files == null ? List.of() : List.copyOf(files);
        began = began == null ? new TreeMap<>() : began;
        late = late == null ? new TreeMap<>() : late;
        givenUp = givenUp == null ? new TreeSet<>() : givenUp;
        links = links == null ? List.of() : List.copyOf(links);
        targets = targets == null ? new TreeMap<>() : targets;
        promisedFor = promisedFor == null ? Map.of() : promisedFor;
        parts = parts == null ? new TreeMap<>() : parts;
        partners = partners == null ? new TreeMap<>() : partners;
    }

    Case withPartners(TreeMap<String, AtPartner> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                other);
    }

    Case withFields(Map<String, Object> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                Map.copyOf(other),
                runs,
                messages,
                open,
                offers,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withOpen(int runCount, TreeMap<RunId, Run> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runCount,
                messages,
                other,
                offers,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withMessages(int count) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                count,
                open,
                offers,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withOffers(TreeMap<String, Offer> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                other,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withFiles(List<FileRef> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                other,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withBegan(TreeMap<RunId, Began> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                other,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withLate(TreeMap<VisitId, Late> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                began,
                other,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withGivenUp(TreeSet<String> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                began,
                late,
                other,
                links,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withLinks(List<Link> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                began,
                late,
                givenUp,
                other,
                targets,
                promisedFor,
                parts,
                room,
                partners);
    }

    Case withTargets(TreeMap<Promised, Target> other, Map<String, Object> of) {
        return new Case(
                id, seq, lastAt, kind, createdAt, fields, runs, messages, open, offers, files, began, late, givenUp,
                links, other, of, parts, room, partners);
    }

    Case withParts(TreeMap<String, List<PersonId>> other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                other,
                room,
                partners);
    }

    Case withRoom(Room other) {
        return new Case(
                id,
                seq,
                lastAt,
                kind,
                createdAt,
                fields,
                runs,
                messages,
                open,
                offers,
                files,
                began,
                late,
                givenUp,
                links,
                targets,
                promisedFor,
                parts,
                other,
                partners);
    }

    @JsonIgnore
    public boolean exists() {
        return kind != null;
    }

    @JsonIgnore
    public String state() {
        return (String) fields.getOrDefault("state", "");
    }

    /** An open visit. */
    public Optional<Visit> visit(VisitId visit) {
        return Optional.ofNullable(open.get(visit.run())).map(run -> run.open().get(visit));
    }

    @JsonIgnore
    public Optional<String> text(String field) {
        return Optional.ofNullable((String) fields.get(field));
    }
}
