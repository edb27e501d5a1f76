package dastur.store;

import jakarta.persistence.Column;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EmbeddedId;
import jakarta.persistence.Entity;
import jakarta.persistence.Id;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * The rows of the database. They hold no behaviour: what they mean is said by the core's types, which the public classes
 * of this package translate to and from.
 */
final class Rows {
    static final List<Class<?>> ALL = List.of(
            PersonRow.class,
            TeamRow.class,
            TeamMemberRow.class,
            CoverRow.class,
            ActAsGrantRow.class,
            FormDrafts.Row.class,
            SessionRow.class,
            ApiTokenRow.class,
            ServiceRow.class,
            CiRow.class,
            CiRelationRow.class,
            CiChangeRow.class,
            DocumentRow.class,
            RevisionRow.class,
            WorkflowRow.class,
            WorkflowVersionRow.class,
            WorkflowTriggerRow.class,
            TicketRow.class,
            HeadRow.class,
            AlarmRow.class,
            DoneRow.class,
            SnapshotRow.class,
            EntryRow.class,
            RaisedRow.class,
            CounterRow.class,
            RunRow.class,
            WorkItemRow.class,
            WorkForRow.class,
            OutboxRow.class,
            SignalWaitRow.class,
            SignalKeptRow.class,
            Journal.Row.class,
            Files.BytesRow.class,
            Files.UseRow.class,
            Words.Row.class,
            Undelivered.Row.class,
            KnownAnswers.Row.class,
            SavedViews.Row.class,
            Chats.ReachRow.class,
            Chats.RoomRow.class,
            Chats.AskRow.class,
            Chats.TicketRoomRow.class,
            MailAsks.Row.class,
            Chats.HeardRow.class);

    private Rows() {}

    @Entity(name = "PersonRow")
    @Table(name = "person")
    static class PersonRow {
        @Id
        String id;

        String name;

        String mail;

        String roles;

        boolean active;

        @Nullable String password;

        @Column(name = "last_seen")
        @Nullable Instant lastSeen;

        @Nullable String manager;
    }

    @Entity(name = "TeamRow")
    @Table(name = "team")
    static class TeamRow {
        @Id
        String id;

        String name;

        @Nullable String calendar;
    }

    @Entity(name = "TeamMemberRow")
    @Table(name = "team_member")
    static class TeamMemberRow {
        @EmbeddedId
        TeamMemberKey key;
    }

    @Embeddable
    record TeamMemberKey(String team, String person) implements Serializable {}

    @Entity(name = "CoverRow")
    @Table(name = "cover")
    static class CoverRow {
        @EmbeddedId
        CoverKey key;

        String cover;

        @Column(name = "from_at")
        Instant fromAt;

        @Column(name = "until_at")
        Instant untilAt;
    }

    @Embeddable
    record CoverKey(String person, String scope) implements Serializable {}

    @Entity(name = "ActAsGrantRow")
    @Table(name = "act_as_grant")
    static class ActAsGrantRow {
        @Id
        String person;

        String grantee;

        @Column(name = "until_at")
        Instant untilAt;
    }

    @Entity(name = "SessionRow")
    @Table(name = "session")
    static class SessionRow {
        @Id
        @Column(name = "token_hash")
        String tokenHash;

        String person;

        String csrf;

        @Column(name = "expires_at")
        Instant expiresAt;

        /** As whom the person looks at the application; null as themselves. */
        @Column(name = "sees_as")
        @Nullable String seesAs;

        /** Shows that the application wrote it. */
        String mac;
    }

    @Entity(name = "ApiTokenRow")
    @Table(name = "api_token")
    static class ApiTokenRow {
        @Id
        String id;

        @Column(name = "token_hash")
        String tokenHash;

        String person;

        String name;

        @Column(name = "created_at")
        Instant createdAt;

        String scope;

        @Column(name = "expires_at")
        Instant expiresAt;

        /** Shows that the application wrote it; null where an earlier release did. */
        @Nullable String mac;
    }

    @Entity(name = "ServiceRow")
    @Table(name = "service")
    static class ServiceRow {
        @Id
        String id;

        String name;

        boolean passengers;

        @Nullable String owner;

        @Nullable String calendar;

        String targets;
    }

    @Entity(name = "CiRow")
    @Table(name = "ci")
    static class CiRow {
        @Id
        String id;

        String name;

        String kind;

        @Nullable String service;

        @Nullable String site;

        @Nullable String address;

        @Nullable String owner;

        String life;

        String attributes;

        /** All values as they were when it last ceased to be planned; null where it never did. */
        @Nullable String wish;

        /** Counts its changes: a decision that rests on a CI is only written while this is as it was seen. */
        long revision;
    }

    @Entity(name = "CiRelationRow")
    @Table(name = "ci_relation")
    static class CiRelationRow {
        @EmbeddedId
        CiRelationKey key;
    }

    @Embeddable
    record CiRelationKey(
            @Column(name = "from_ci") String fromCi,
            String relation,
            @Column(name = "to_ci") String toCi) implements Serializable {}

    @Entity(name = "CiChangeRow")
    @Table(name = "ci_change")
    static class CiChangeRow {
        @EmbeddedId
        CiChangeKey key;

        String ci;

        Instant at;

        @Column(name = "before_value")
        @Nullable String beforeValue;

        @Column(name = "after_value")
        @Nullable String afterValue;
    }

    @Embeddable
    record CiChangeKey(String ticket, long seq, String name) implements Serializable {}

    @Entity(name = "DocumentRow")
    @Table(name = "document")
    static class DocumentRow {
        @EmbeddedId
        DocumentKey key;

        String body;
    }

    @Embeddable
    record DocumentKey(String kind, String name) implements Serializable {}

    @Entity(name = "RevisionRow")
    @Table(name = "revision")
    static class RevisionRow {
        @Id
        int id;

        long number;
    }

    @Entity(name = "WorkflowRow")
    @Table(name = "workflow")
    static class WorkflowRow {
        @Id
        String id;

        String name;

        String owner;

        @Column(name = "live_version")
        @Nullable Integer liveVersion;

        boolean retired;

        @Nullable String draft;

        @Column(name = "draft_revision")
        long draftRevision;

        @Column(name = "draft_by")
        @Nullable String draftBy;

        @Column(name = "draft_at")
        @Nullable Instant draftAt;
    }

    @Entity(name = "WorkflowVersionRow")
    @Table(name = "workflow_version")
    static class WorkflowVersionRow {
        @EmbeddedId
        WorkflowVersionKey key;

        String body;

        @Column(name = "published_at")
        Instant publishedAt;

        @Column(name = "published_by")
        String publishedBy;
    }

    @Embeddable
    record WorkflowVersionKey(String workflow, int number) implements Serializable {}

    @Entity(name = "WorkflowTriggerRow")
    @Table(name = "workflow_trigger")
    static class WorkflowTriggerRow {
        @Id
        String id;

        String workflow;

        int position;

        int place;

        String body;
    }

    @Entity(name = "TicketRow")
    @Table(name = "ticket")
    static class TicketRow {
        @Id
        String id;

        String kind;

        String title;

        String state;

        boolean ended;

        String priority;

        @Nullable String requester;

        @Nullable String service;

        @Nullable String ci;

        @Nullable String team;

        @Nullable String assignee;

        @Column(name = "created_at")
        Instant createdAt;

        /** The target that is due next. */
        @Nullable String target;

        @Column(name = "target_due")
        @Nullable Instant targetDue;

        @Column(name = "target_missed")
        boolean targetMissed;

        /** The incident under which it stands folded. */
        @Nullable String folded;

        /** Whether it only tries how something goes. */
        @Column(name = "is_test")
        boolean isTest;

        /** When a target is due, far away when none is: made by the database, so that it can be walked in order. */
        @Column(name = "burns_at", insertable = false, updatable = false)
        Instant burnsAt;
    }

    /** Where a ticket's record ends: what every step changes. */
    @Entity(name = "HeadRow")
    @Table(name = "ticket_head")
    static class HeadRow {
        @Id
        String ticket;

        long seq;

        String head;

        @Column(name = "snapshot_seq")
        long snapshotSeq;

        @Column(name = "updated_at")
        Instant updatedAt;

        /** When the clock rings next; the same as the row of its alarm says. */
        @Column(name = "next_due")
        @Nullable Instant nextDue;
    }

    @Entity(name = "AlarmRow")
    @Table(name = "alarm")
    static class AlarmRow {
        @Id
        String ticket;

        Instant due;

        @Column(name = "leased_until")
        @Nullable Instant leasedUntil;
    }

    /** That somebody closed an item; whether that still counts says the item. */
    @Entity(name = "DoneRow")
    @Table(name = "work_done")
    static class DoneRow {
        @EmbeddedId
        DoneKey key;
    }

    @Embeddable
    record DoneKey(String who, Instant at, String visit) implements Serializable {}

    @Entity(name = "SnapshotRow")
    @Table(name = "case_snapshot")
    static class SnapshotRow {
        @Id
        String ticket;

        long seq;

        int fold;

        /** Of the entry it was made after; null where an earlier release made it. */
        @Nullable String head;

        String body;

        /** Shows that it was written by whoever has the key. */
        @Nullable String mac;
    }

    @Entity(name = "EntryRow")
    @Table(name = "entry")
    static class EntryRow {
        @EmbeddedId
        EntryKey key;

        Instant at;

        String kind;

        String sealed;

        String hash;

        @Nullable String content;

        @Nullable String salt;

        @Nullable String command;
    }

    @Embeddable
    record EntryKey(String ticket, long seq) implements Serializable {}

    @Entity(name = "RaisedRow")
    @Table(name = "raised")
    static class RaisedRow {
        @Id
        String command;

        String ticket;

        Instant at;
    }

    @Entity(name = "CounterRow")
    @Table(name = "ticket_counter")
    static class CounterRow {
        @Id
        String kind;

        /** The number that was given last. */
        @Column(name = "last")
        long last;
    }

    @Entity(name = "RunRow")
    @Table(name = "run")
    static class RunRow {
        @Id
        String id;

        String ticket;

        String workflow;

        int version;

        String name;

        String owner;

        @Column(name = "trigger_id")
        @Nullable String triggerId;

        @Nullable String parent;

        String status;

        @Column(name = "started_at")
        Instant startedAt;

        @Column(name = "ended_at")
        @Nullable Instant endedAt;

        @Column(name = "stalled_since")
        @Nullable Instant stalledSince;

        @Nullable String result;
    }

    @Entity(name = "WorkItemRow")
    @Table(name = "work_item")
    static class WorkItemRow {
        @Id
        String visit;

        String ticket;

        String kind;

        String name;

        String workflow;

        @Nullable Instant due;

        @Column(name = "opened_at")
        Instant openedAt;

        @Column(name = "is_open")
        boolean isOpen;

        @Column(name = "claimed_by")
        @Nullable String claimedBy;

        @Column(name = "closed_at")
        @Nullable Instant closedAt;

        @Column(name = "closed_by")
        @Nullable String closedBy;

        @Nullable String outcome;

        @Column(name = "came_late")
        @Nullable String cameLate;
    }

    @Entity(name = "WorkForRow")
    @Table(name = "work_for")
    static class WorkForRow {
        @EmbeddedId
        WorkForKey key;
    }

    @Embeddable
    record WorkForKey(String visit, String who) implements Serializable {}

    @Entity(name = "OutboxRow")
    @Table(name = "outbox")
    static class OutboxRow {
        @Id
        String id;

        String ticket;

        @Nullable String visit;

        String kind;

        String purpose;

        String queue;

        String payload;

        @Column(name = "created_at")
        Instant createdAt;

        Instant due;

        @Column(name = "leased_until")
        @Nullable Instant leasedUntil;

        @Nullable String lease;

        int tries;
    }

    @Entity(name = "SignalWaitRow")
    @Table(name = "signal_wait")
    static class SignalWaitRow {
        @Id
        String visit;

        String ticket;

        String signal;

        @Column(name = "signal_key")
        @Nullable String signalKey;

        Instant since;
    }

    @Entity(name = "SignalKeptRow")
    @Table(name = "signal_kept")
    static class SignalKeptRow {
        @Id
        String id;

        String signal;

        @Column(name = "signal_key")
        @Nullable String signalKey;

        String body;

        @Column(name = "came_at")
        Instant cameAt;

        /** The visit that took it; null while it waits for one. */
        @Nullable String taken;
    }
}
