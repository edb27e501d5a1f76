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
 * copy is only a cache. Each part changes by itself; what is read of a part is read from the case.
 *
 * @param seq the number of the last entry
 */
public record Case(
        TicketId id, long seq, @Nullable Instant lastAt, TicketState ticket, Runs runs, Talk talk, Ties ties) {
    /** Changes with every change of {@link Fold}; a snapshot of another number is folded anew (D24). */
    public static final int FOLD = 13;

    /**
     * What the ticket itself is.
     *
     * @param kind null for one that does not exist yet, like its time
     * @param fields its values by field name, without absent ones
     * @param targets how soon it is to be responded to and restored
     * @param promisedFor the service and priority that the targets were set for
     * @param touched whether a person has done anything here
     * @param test what makes it a test; null for a ticket in earnest
     */
    public record TicketState(
            @Nullable TicketKind kind,
            @Nullable Instant createdAt,
            Map<String, Object> fields,
            TreeMap<Promised, Target> targets,
            Map<String, Object> promisedFor,
            boolean touched,
            @Nullable Test test) {
        TicketState raised(TicketKind as, Instant at, Map<String, Object> with) {
            return new TicketState(as, at, Map.copyOf(with), targets, promisedFor, touched, test);
        }

        TicketState withFields(Map<String, Object> other) {
            return new TicketState(kind, createdAt, Map.copyOf(other), targets, promisedFor, touched, test);
        }

        TicketState withTargets(TreeMap<Promised, Target> other, Map<String, Object> of) {
            return new TicketState(kind, createdAt, fields, other, of, touched, test);
        }

        TicketState touchedByNow() {
            return new TicketState(kind, createdAt, fields, targets, promisedFor, true, test);
        }

        TicketState asTest(Test what) {
            return new TicketState(kind, createdAt, fields, targets, promisedFor, touched, what);
        }
    }

    /**
     * A ticket that tries how something goes (I4): whoever would be asked or told is the one who tries it, what would reach beyond
     * the ticket is withheld until they say so, and it ends by itself.
     *
     * @param by who tries it
     * @param until when it ends, if nobody ends it before
     */
    public record Test(PersonId by, Instant until) {}

    /**
     * What is under way on it.
     *
     * @param begun how many runs there were
     * @param began whose workflow each run is of and what it is called, also of runs that are over
     * @param late visits whose result came after their end and changed or may have changed the world, with who must
     *     look
     * @param offers what triggers propose to start, by trigger, until somebody answers or the ticket ends
     */
    public record Runs(
            int begun,
            TreeMap<RunId, Run> open,
            TreeMap<RunId, Began> began,
            TreeMap<VisitId, Late> late,
            TreeMap<String, Offer> offers) {
        Runs withOpen(TreeMap<RunId, Run> other) {
            return new Runs(begun, other, began, late, offers);
        }

        Runs withBegan(TreeMap<RunId, Began> other) {
            return new Runs(begun + 1, open, other, late, offers);
        }

        Runs withLate(TreeMap<VisitId, Late> other) {
            return new Runs(begun, open, began, other, offers);
        }

        Runs withOffers(TreeMap<String, Offer> other) {
            return new Runs(begun, open, began, late, other);
        }
    }

    /**
     * What is said and shown about it, and by whom.
     *
     * @param messages how many were queued
     * @param givenUp messages that could not be delivered, as message and person
     * @param files what is attached, in order
     * @param parts who takes part as what, by what they were called in as
     * @param room its room in chat; null while there is none
     */
    public record Talk(
            int messages,
            TreeSet<String> givenUp,
            List<FileRef> files,
            TreeMap<String, List<PersonId>> parts,
            @Nullable Room room) {
        public Talk {
            files = List.copyOf(files);
        }

        Talk withMessages(int count) {
            return new Talk(count, givenUp, files, parts, room);
        }

        Talk withGivenUp(TreeSet<String> other) {
            return new Talk(messages, other, files, parts, room);
        }

        Talk withFiles(List<FileRef> other) {
            return new Talk(messages, givenUp, other, parts, room);
        }

        Talk withParts(TreeMap<String, List<PersonId>> other) {
            return new Talk(messages, givenUp, files, other, room);
        }

        Talk withRoom(Room other) {
            return new Talk(messages, givenUp, files, parts, other);
        }
    }

    /**
     * What it has to do with elsewhere.
     *
     * @param links other tickets this one is linked with, in the order of linking
     * @param partners at whose desks it is followed, by the partner's key
     * @param matters what signals have said that it is about
     * @param under the incident under which it stands folded, as a consequence of that; null while it stands by itself
     */
    public record Ties(
            List<Link> links,
            TreeMap<String, AtPartner> partners,
            TreeSet<String> matters,
            @Nullable TicketId under) {
        public Ties {
            links = List.copyOf(links);
        }

        Ties withMatter(String matter) {
            TreeSet<String> more = new TreeSet<>(matters);
            more.add(matter);
            return new Ties(links, partners, more, under);
        }

        Ties folded(@Nullable TicketId cause) {
            return new Ties(links, partners, matters, cause);
        }
    }

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
            @Nullable PersonId by,
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
                new TicketState(null, null, Map.of(), new TreeMap<>(), Map.of(), false, null),
                new Runs(0, new TreeMap<>(), new TreeMap<>(), new TreeMap<>(), new TreeMap<>()),
                new Talk(0, new TreeSet<>(), List.of(), new TreeMap<>(), null),
                new Ties(List.of(), new TreeMap<>(), new TreeSet<>(), null));
    }

    /** With one entry more. */
    Case at(long entry, Instant when) {
        return new Case(id, entry, when, ticket, runs, talk, ties);
    }

    Case with(TicketState other) {
        return new Case(id, seq, lastAt, other, runs, talk, ties);
    }

    Case with(Runs other) {
        return new Case(id, seq, lastAt, ticket, other, talk, ties);
    }

    Case with(Talk other) {
        return new Case(id, seq, lastAt, ticket, runs, other, ties);
    }

    Case with(Ties other) {
        return new Case(id, seq, lastAt, ticket, runs, talk, other);
    }

    Case withLinks(List<Link> other) {
        return with(new Ties(other, ties.partners, ties.matters, ties.under));
    }

    Case withPartners(TreeMap<String, AtPartner> other) {
        return with(new Ties(ties.links, other, ties.matters, ties.under));
    }

    @JsonIgnore
    public boolean exists() {
        return ticket.kind != null;
    }

    public @Nullable TicketKind kind() {
        return ticket.kind;
    }

    public @Nullable Instant createdAt() {
        return ticket.createdAt;
    }

    public Map<String, Object> fields() {
        return ticket.fields;
    }

    /** What makes it a test; null for a ticket in earnest (I4). */
    public @Nullable Test test() {
        return ticket.test;
    }

    @JsonIgnore
    public String state() {
        return (String) ticket.fields.getOrDefault("state", "");
    }

    @JsonIgnore
    public Optional<String> text(String field) {
        return Optional.ofNullable((String) ticket.fields.get(field));
    }

    public TreeMap<Promised, Target> targets() {
        return ticket.targets;
    }

    public Map<String, Object> promisedFor() {
        return ticket.promisedFor;
    }

    /** Open runs. */
    public TreeMap<RunId, Run> open() {
        return runs.open;
    }

    /** An open visit. */
    public Optional<Visit> visit(VisitId visit) {
        return Optional.ofNullable(runs.open.get(visit.run()))
                .map(run -> run.open().get(visit));
    }

    public TreeMap<RunId, Began> began() {
        return runs.began;
    }

    public TreeMap<VisitId, Late> late() {
        return runs.late;
    }

    public TreeMap<String, Offer> offers() {
        return runs.offers;
    }

    public List<FileRef> files() {
        return talk.files;
    }

    public TreeMap<String, List<PersonId>> parts() {
        return talk.parts;
    }

    public @Nullable Room room() {
        return talk.room;
    }

    public List<Link> links() {
        return ties.links;
    }

    public TreeMap<String, AtPartner> partners() {
        return ties.partners;
    }

    /** What signals have said that it is about. */
    public TreeSet<String> matters() {
        return ties.matters;
    }

    /** The incident under which it stands folded; null while it stands by itself (I22). */
    public @Nullable TicketId under() {
        return ties.under;
    }
}
