package dastur.server.api;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.people.Actor;
import dastur.core.people.Group;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Case;
import dastur.core.run.Intervention;
import dastur.core.run.RuleSeen;
import dastur.core.run.Solved;
import dastur.core.run.Target;
import dastur.core.run.VisitId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.Field;
import dastur.core.ticket.LinkKind;
import dastur.core.ticket.Promised;
import dastur.core.workflow.Rung;
import dastur.server.http.Shape;
import dastur.store.Neighbours;
import dastur.store.Organisation;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import org.jspecify.annotations.Nullable;

/** What the ticket routes answer with. */
final class Views {
    private Views() {}

    /**
     * A ticket in full.
     *
     * @param moves states it can go to
     * @param under the incident under which it stands folded; null while it stands by itself
     * @param folds open incidents that stand folded under it, the first of them
     * @param test who tries something by it, and until when; null for a ticket in earnest
     * @param maySay what the viewer, as its requester, may say of what is said to be done
     * @param mayTakeBack whose outcomes the viewer may still take back
     */
    record TicketView(
            String number,
            String kind,
            String title,
            String state,
            List<String> moves,
            boolean ended,
            Map<String, Object> fields,
            Instant createdAt,
            Instant updatedAt,
            long seq,
            List<RunView> runs,
            List<Ask> asks,
            @Nullable CiView ci,
            List<Startable> startable,
            boolean readable,
            List<OfferView> offers,
            List<QuestionView> questions,
            List<LateView> late,
            List<FileView> files,
            List<LinkView> links,
            @Nullable LinkView under,
            List<LinkView> folds,
            Case.@Nullable Test test,
            Map<Promised, Target> targets,
            Map<String, List<PersonId>> parts,
            @Nullable RoomView room,
            List<AtPartnerView> partners,
            List<TalkView> talk,
            List<Solved.Said> maySay,
            List<VisitId> mayTakeBack,
            boolean mayWork,
            boolean mayIntervene,
            boolean mayReadRecord) {}

    /** What somebody who decides wants to know first. */
    record QuestionView(
            String id,
            String visit,
            String about,
            String by,
            Instant at,
            @Nullable String text) {}

    /** A result that came after its step was over, for somebody to look at. */
    record LateView(String id, String visit, String workflow, String owner) {}

    /**
     * Something that the requester may know of: what was said between them and those who help, what was sent to them, what was
     * decided, and where the ticket stands since.
     *
     * @param what {@code said}, {@code sent}, {@code decided} or {@code moved}
     * @param by a name
     * @param text null when it was redacted
     */
    record TalkView(
            long seq,
            String what,
            String by,
            boolean mine,
            Instant at,
            @Nullable String text) {}

    /** Another ticket that one has to do with. @param byHand whether people made the link and may take it away */
    record LinkView(LinkKind as, boolean byHand, String number, String title, String state, boolean ended) {}

    /**
     * That a ticket is followed at a partner's desk.
     *
     * @param name of the partner; its key where it is gone
     * @param since when it is followed, or no longer
     * @param why it is no longer
     */
    record AtPartnerView(
            String partner,
            String name,
            String id,
            @Nullable String link,
            boolean theirs,
            boolean over,
            Instant since,
            @Nullable String why,
            boolean speaks,
            List<DifferenceView> differences) {}

    /** What a partner sees otherwise. @param id as on the Desk @param label of the field @param takeable whether theirs means something here */
    record DifferenceView(
            String id,
            String field,
            String label,
            @Nullable String ours,
            @Nullable String word,
            @Nullable Object theirs,
            boolean takeable,
            String why,
            dastur.core.run.Assigned asked,
            Instant at) {}

    /** A ticket's room in chat. @param link where it opens; a Matrix URI, or a page of the demo */
    record RoomView(String name, boolean keepsAll, String link) {}

    /** An attached file. @param name null when it was redacted @param by null where a call of the ticket's own made it */
    record FileView(
            long seq,
            String hash,
            @Nullable String name,
            String type,
            long size,
            @Nullable String by,
            Instant at,
            boolean toRequester) {}

    /**
     * A workflow that a trigger proposes to start.
     *
     * @param asked those on whose desk it stands; nobody where it is only offered
     * @param startForm what its start asks for
     */
    record OfferView(
            String id,
            String trigger,
            String workflow,
            String name,
            dastur.core.run.Assigned asked,
            Instant at,
            List<Field> startForm) {}

    /**
     * @param visits the open and past passages, in order
     * @param offForNow what it has switched off for a time and not yet put back
     */
    record RunView(
            String id,
            String workflow,
            int version,
            String name,
            String status,
            @Nullable String trigger,
            Instant startedAt,
            @Nullable Instant endedAt,
            @Nullable String result,
            List<VisitView> visits,
            List<String> offForNow) {}

    /** A passage through a step. @param exit how it ended; null while it is open */
    record VisitView(
            String id,
            String step,
            Instant openedAt,
            @Nullable Instant endedAt,
            @Nullable String exit,
            @Nullable String stalled) {}

    /**
     * Something that waits, and for whom.
     *
     * @param mine whether the caller may act on it
     * @param overseeing whether only because they oversee it: it is offered to others
     * @param heldSince since when the run is on hold and takes no answer; null while it goes on
     * @param item the item of a for each that it is about; null when it is about none
     */
    record Ask(
            String visit,
            String run,
            String workflow,
            String step,
            String kind,
            String name,
            @Nullable String item,
            boolean mine,
            boolean overseeing,
            @Nullable String coverFor,
            @Nullable Instant heldSince,
            Instant openedAt,
            @Nullable Instant due,
            @Nullable String text,
            @Nullable TaskAsk task,
            @Nullable ApprovalAsk approval,
            @Nullable ReviewAsk review,
            @Nullable CallInAsk callIn,
            @Nullable StallView stall,
            List<Next> ifNobodyActs) {
        /** The same as it is asked of whoever acts for a person. */
        Ask coveredFor(String person) {
            return new Ask(
                    visit,
                    run,
                    workflow,
                    step,
                    kind,
                    name,
                    item,
                    mine,
                    overseeing,
                    person,
                    heldSince,
                    openedAt,
                    due,
                    text,
                    task,
                    approval,
                    review,
                    callIn,
                    stall,
                    ifNobodyActs);
        }
    }

    /** @param draft what the viewer has filled in and not yet given */
    record TaskAsk(
            Assigned to,
            @Nullable Assigned overseers,
            @Nullable String claimedBy,
            List<String> outcomes,
            List<Field> form,
            boolean mayLeaveOut,
            Map<String, Object> draft) {}

    /** A check that somebody is to look at. */
    record ReviewAsk(Assigned to, List<RuleSeen> rules, List<String> verdicts) {}

    /** People are called in. */
    record CallInAsk(List<String> asked, List<String> cannot) {}

    /**
     * @param others what else is open on the CI
     * @param endings how the last runs of the workflow ended
     */
    record ApprovalAsk(
            int round,
            String digest,
            @Nullable String setsOff,
            String rule,
            int needed,
            List<String> electorate,
            List<String> excluded,
            Map<String, Boolean> cast,
            List<Shown> shown,
            boolean commentOnDecline,
            boolean commentAlways,
            boolean mayAddConditions,
            List<String> turn,
            List<String> veto,
            Map<String, String> conditions,
            boolean questionOpen,
            long otherOpenOnCi,
            long recentOnCi,
            List<Neighbours.Other> others,
            List<Neighbours.Ending> endings) {}

    record Shown(String path, String label, @Nullable Object value) {}

    /** @param sameInputs whether trying again sends what was sent before; else inputs are taken anew */
    record StallView(String code, String why, List<Intervention> remedies, List<String> exits, boolean sameInputs) {}

    /** What the clock will do. @param deed what a rung does; null when the time itself is up */
    record Next(Instant at, String kind, Rung.@Nullable Deed deed) {}

    /** @param others what else is open on it, as far as there is room */
    record CiView(
            ConfigurationItem ci,
            List<Organisation.Relation> relations,
            long otherOpen,
            long recent,
            List<Neighbours.Other> others) {}

    /**
     * A workflow that can be started by hand.
     *
     * @param mainLine the names of its first steps along the expected way
     * @param machines the names of automated steps anywhere in it that change something outside
     */
    record Startable(
            String workflow,
            String name,
            String purpose,
            List<String> mainLine,
            List<String> machines,
            List<Field> startForm) {}

    /**
     * One entry as JSON.
     *
     * @param stepName of the step it is about, as the run's version then had it
     * @param labels how people call what stands in its content under short names
     */
    @Shape.ByKind
    record EntryView(
            long seq,
            Instant at,
            @Shape.Of(Actor.class) JsonNode actor,
            String kind,
            @Nullable String run,
            @Nullable String step,
            @Nullable String stepName,
            @Nullable String visit,
            JsonNode body,
            @Nullable JsonNode content,
            @Nullable Map<String, String> labels,
            boolean redacted,
            String hash) {}

    /**
     * A part of a record with the seal's verdict on the whole.
     *
     * @param more whether entries follow: ask again after the last one
     * @param total how many entries there are
     * @param brokenAt the first entry that does not hold; null when all do
     */
    record RecordView(
            List<EntryView> entries,
            boolean more,
            long total,
            boolean unbroken,
            @Nullable Long brokenAt,
            @Nullable String why,
            long anchored) {}

    /** What is asked of somebody for whom the viewer acts. */
    record CoveredItem(String person, Tickets.WorkItem item) {}

    /**
     * @param own which of the items are asked of the viewer by name, or claimed by them
     * @param tickets open tickets that the viewer has
     */
    record DeskView(
            List<Tickets.WorkItem> items,
            List<String> own,
            List<CoveredItem> covered,
            List<Tickets.RunRow> stalled,
            List<Tickets.Row> tickets,
            List<Workflows.Forgotten> drafts,
            Instant now,
            long openTickets,
            long stalledRuns,
            long undelivered,
            long needingSignals) {}

    /** Names for ids, kept by the web application. */
    record Directory(
            List<PersonName> people,
            List<GroupName> groups,
            List<ServiceName> services,
            List<RotaName> rotas,
            List<SourceName> sources,
            Map<String, List<String>> states,
            List<Field> fields,
            List<Field> ciFields,
            Map<String, List<String>> ciKinds,
            List<List<Integer>> priorities,
            List<String> parts) {}

    record PersonName(String id, String name, boolean active) {}

    record GroupName(String id, String name, List<String> members) {}

    record ServiceName(String id, String name) {}

    /** A source of signals. */
    record SourceName(String key, String name) {}

    /** @param levels how many there are */
    record RotaName(String key, String name, int levels) {}

    record PersonView(Person person, List<GroupName> groups) {}

    record PeopleView(List<PersonRow> people, List<Group> groups) {}

    record PersonRow(
            String id,
            String name,
            String mail,
            Set<dastur.core.people.Role> roles,
            boolean active,
            @Nullable String manager,
            @Nullable Instant lastSeen,
            List<GroupId> groups) {}
}
