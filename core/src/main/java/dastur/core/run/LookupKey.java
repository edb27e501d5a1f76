package dastur.core.run;

import dastur.core.people.GroupId;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.people.RotaKey;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ServiceId;
import dastur.core.time.CalendarKey;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;

/** Names a value outside the case that a decision may need (D2). */
public sealed interface LookupKey {
    record OfPerson(PersonId id) implements LookupKey {}

    record OfGroup(GroupId id) implements LookupKey {}

    record OfRota(RotaKey key) implements LookupKey {}

    /** Who acts for a person, now or later. */
    record CoversOf(PersonId id) implements LookupKey {}

    /** The active people who hold a role. */
    record OfRole(Role role) implements LookupKey {}

    record OfCi(CiId id) implements LookupKey {}

    /** The CIs that a CI is related to. */
    record BesideCi(CiId id) implements LookupKey {}

    record OfService(ServiceId id) implements LookupKey {}

    record OfCalendar(CalendarKey key) implements LookupKey {}

    /** The calendar that counts where a service names none. */
    record DefaultCalendar() implements LookupKey {}

    record OfLadder(LadderKey key) implements LookupKey {}

    /** An action as it is now. */
    record OfAction(ActionKey key) implements LookupKey {}

    /**
     * An action in the version that a published version of a workflow was published with, mended as it is now; as it is now
     * for a draft (M1).
     */
    record PinnedAction(ActionKey key, WorkflowKey workflow, int version) implements LookupKey {}

    /** Who may use an action, and where. */
    record TermsOf(ActionKey key) implements LookupKey {}

    /** How many calls of an action have gone badly since one went well. */
    record BadInRow(ActionKey key) implements LookupKey {}

    record OfVersion(WorkflowKey key, int number) implements LookupKey {}

    /** SHA-256 of a published version as it is kept, in hexadecimal: a run's first entry names it (K17). */
    record VersionHash(WorkflowKey key, int number) implements LookupKey {}

    /** The number of a workflow's live version. */
    record LiveVersion(WorkflowKey key) implements LookupKey {}

    /** All triggers of live workflows, in their order. */
    record LiveTriggers() implements LookupKey {}

    /** How often a trigger has started its workflow of late, up to a moment (I27). */
    record RecentStarts(TriggerId trigger, java.time.Instant until) implements LookupKey {}

    /** When the owner of a trigger's workflow was last told that it holds starts back. */
    record HeldBackTold(TriggerId trigger) implements LookupKey {
        /** By what it is known that somebody was told. */
        public String about() {
            return "trigger " + trigger;
        }
    }

    record Fields() implements LookupKey {}

    record Priorities() implements LookupKey {}

    /** The oldest signal of a name and key that came since a moment and that nobody waited for (D12). */
    record KeptSignal(
            String signal,
            @org.jspecify.annotations.Nullable String key,
            java.time.Instant since) implements LookupKey {}

    /**
     * Whether an attempt of a visit's call still lies where it was put, and nobody has begun it; while this is asked for, nobody
     * can. Absent where it was begun, or where that cannot be said.
     */
    record WaitingCall(VisitId id, int attempt) implements LookupKey {}

    /** How a visit that is no longer open ended. */
    record ClosedVisit(VisitId id) implements LookupKey {}
}
