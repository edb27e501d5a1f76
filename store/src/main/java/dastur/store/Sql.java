package dastur.store;

/**
 * The statements by which changes of tickets are written, in the order in which a group of them is: first what must hold,
 * then the rest by table. Every group takes its rows in this order and, within a statement, by their keys; so no two can wait
 * for each other (K2). Standard SQL only: the same text serves every database.
 */
enum Sql {
    // --- what must hold: each of these touches one row, or the change is not written
    COUNTER("update ticket_counter set last = ? where kind = ? and last = ?"),
    RAISED("insert into raised (command, ticket, at) select cast(? as varchar(120)), cast(? as varchar(80)),"
            + " cast(? as timestamp(3) with time zone) where not exists (select 1 from raised where command = ?)"),
    HEAD("update ticket_head set updated_at = ?, seq = ?, head = ?, snapshot_seq = ?, next_due = ?"
            + " where ticket = ? and head = ?"),
    HEAD_AS_SEEN("update ticket_head set next_due = ? where ticket = ? and head = ?"),
    CI(
            "update ci set name = ?, site = ?, address = ?, owner = ?, life = ?, attributes = ?, wish = ?, revision = revision + 1"
                    + " where id = ? and revision = ?"),
    CI_MADE(
            "insert into ci (id, name, kind, service, site, address, owner, life, attributes, wish, revision)"
                    + " select cast(? as varchar(80)), cast(? as varchar(200)), cast(? as varchar(80)), cast(? as varchar(80)),"
                    + " cast(? as varchar(80)), cast(? as varchar(200)), cast(? as varchar(80)), cast(? as varchar(20)),"
                    + " cast(? as varchar(1000000)), cast(? as varchar(1000000)), 0 where not exists (select 1 from ci where id = ?)"),
    CI_AS_SEEN("update ci set revision = revision where id = ? and revision = ?"),
    SIGNAL("update signal_kept set taken = ? where id = ? and taken is null"),
    SIGNAL_CLAIMED("delete from signal_due where id = ?"),
    MATTER(
            "update matter set ticket = ?, aside = ?, in_fault = ?, needs_somebody = ?, last_at = ?, judge_at = ?, body = ?,"
                    + " revision = revision + 1 where name = ? and revision = ?"),

    // --- the rest
    FIRST_HEAD(
            "insert into ticket_head (updated_at, seq, head, snapshot_seq, next_due, ticket) values (?, ?, ?, ?, ?, ?)"),
    TICKET(
            "insert into ticket (title, state, ended, priority, requester, service, ci, team, assignee, target, target_due,"
                    + " target_missed, folded, is_test, id, kind, created_at)"
                    + " values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"),
    ALARM_OVER("delete from alarm where ticket = ?"),
    ALARM("insert into alarm (ticket, due) values (?, ?)"),
    TICKET_CHANGED(
            "update ticket set title = ?, state = ?, ended = ?, priority = ?, requester = ?, service = ?, ci = ?, team = ?,"
                    + " assignee = ?, target = ?, target_due = ?, target_missed = ?, folded = ?,"
                    + " is_test = ? where id = ?"),
    ENTRY("insert into entry (ticket, seq, at, kind, sealed, hash, content, salt, command)"
            + " values (?, ?, ?, ?, ?, ?, ?, ?, ?)"),
    ENTRY_REDACTED("update entry set content = null, salt = null where ticket = ? and seq = ?"),
    SNAPSHOT("update case_snapshot set seq = ?, fold = ?, head = ?, body = ?, mac = ? where ticket = ?"),
    FIRST_SNAPSHOT("insert into case_snapshot (seq, fold, head, body, mac, ticket) values (?, ?, ?, ?, ?, ?)"),
    RUN(
            "insert into run (workflow, version, name, owner, trigger_id, parent, status, started_at, stalled_since, ended_at,"
                    + " result, ticket, id) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"),
    RUN_CHANGED("update run set version = ?, status = ?, stalled_since = ?, ended_at = ?, result = ? where id = ?"),
    ITEM(
            "insert into work_item (kind, name, workflow, due, opened_at, is_open, claimed_by, closed_at, closed_by, outcome,"
                    + " ticket, visit) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)"),
    ITEM_CHANGED(
            "update work_item set kind = ?, name = ?, workflow = ?, due = ?, opened_at = ?, is_open = ?, claimed_by = ?,"
                    + " closed_at = ?, closed_by = ?, outcome = ? where visit = ?"),
    /** Where the item may be there from before, closed. */
    ITEM_AGAIN("merge into work_item t using (select cast(? as varchar(20)) kind, cast(? as varchar(300)) name,"
            + " cast(? as varchar(200)) workflow, cast(? as timestamp(3) with time zone) due,"
            + " cast(? as timestamp(3) with time zone) opened_at, cast(? as boolean) is_open,"
            + " cast(? as varchar(80)) claimed_by, cast(? as timestamp(3) with time zone) closed_at,"
            + " cast(? as varchar(90)) closed_by, cast(? as varchar(300)) outcome, cast(? as varchar(80)) ticket,"
            + " cast(? as varchar(170)) visit) s on t.visit = s.visit"
            + " when matched then update set name = s.name, workflow = s.workflow, due = s.due, opened_at = s.opened_at,"
            + " is_open = s.is_open, claimed_by = s.claimed_by, closed_at = s.closed_at, closed_by = s.closed_by,"
            + " outcome = s.outcome"
            + " when not matched then insert (kind, name, workflow, due, opened_at, is_open, claimed_by, closed_at, closed_by,"
            + " outcome, ticket, visit) values (s.kind, s.name, s.workflow, s.due, s.opened_at, s.is_open, s.claimed_by,"
            + " s.closed_at, s.closed_by, s.outcome, s.ticket, s.visit)"),
    DONE(
            "insert into work_done (who, at, visit) select cast(? as varchar(90)), cast(? as timestamp(3) with time zone),"
                    + " cast(? as varchar(170)) where not exists (select 1 from work_done where who = ? and at = ? and visit = ?)"),
    ITEM_CAME_LATE(
            "update work_item set came_late = concat(coalesce(came_late, ''), ',', cast(? as varchar(80))) where visit = ?"),
    FOR_NO_LONGER("delete from work_for where visit = ? and who = ?"),
    FOR("insert into work_for (visit, who) values (?, ?)"),
    WAIT_OVER("delete from signal_wait where visit = ?"),
    WAIT("insert into signal_wait (visit, ticket, signal, signal_key, since) values (?, ?, ?, ?, ?)"),
    OUT_FORGOTTEN("delete from undelivered where id = ?"),
    OUT_GIVEN_UP("insert into undelivered (id, ticket, visit, message, person, purpose, payload, why, failed_at)"
            + " select id, ticket, visit, cast(? as varchar(120)), cast(? as varchar(80)), purpose, payload,"
            + " cast(? as varchar(1000)), cast(? as timestamp(3) with time zone) from outbox where id = ?"),
    OUT_AGAIN("insert into outbox (id, ticket, visit, kind, purpose, queue, payload, created_at, due, tries)"
            + " select id, ticket, visit, 'mail', purpose, concat('mail:', person), payload,"
            + " cast(? as timestamp(3) with time zone), cast(? as timestamp(3) with time zone), 0"
            + " from undelivered where id = ?"),
    OUT_SENT_AGAIN("delete from undelivered where id = ?"),
    OUT_OVER("delete from outbox where id = ?"),
    ERRAND_BACK("delete from outbox where id >= ? and id < ?"),
    OUT("insert into outbox (id, ticket, visit, kind, purpose, queue, payload, created_at, due, tries)"
            + " values (?, ?, ?, ?, ?, ?, ?, ?, ?, 0)"),
    CI_CHANGE(
            "insert into ci_change (ticket, seq, name, ci, at, before_value, after_value) values (?, ?, ?, ?, ?, ?, ?)"),
    CALL_MADE(
            "insert into call_made (ticket, seq, action, connection, made_at, said, millis) values (?, ?, ?, ?, ?, ?, ?)"),
    KEEPER_TOLD("insert into keeper_told (ticket, seq, about, told_at) values (?, ?, ?, ?)"),
    FILE("insert into file_use (ticket, seq, hash) values (?, ?, ?)"),
    FILE_REDACTED("delete from file_use where ticket = ? and seq = ?"),
    FILE_UNUSED("delete from file_bytes where hash = ? and not exists (select 1 from file_use where hash = ?)"),
    WORDS_REDACTED("delete from ticket_word where ticket = ? and seq = ?"),
    PARTNER_LOG_REDACTED(
            "update partner_log set raw = '', meant = null, why = 'It was redacted with the ticket.' where ticket = ?"),
    /** What came of theirs before there was a ticket of ours for it. */
    THEIRS_REDACTED("update partner_log set raw = '', meant = null, why = 'It was redacted with the ticket.'"
            + " where partner = ? and their_id = ?"),
    SIGNAL_ROUTED(
            "update signal set state = ?, turn = ?, sort = ?, severity = ?, matter = ?, title = ?, ci = ?, ticket = ?,"
                    + " understood = ?, why = ?, problem = ? where id = ? and state = 'received'"),
    SIGNAL_SEEN("delete from signal_due where id = ?"),
    LOG_PENDING("insert into log_pending (ticket, seq, hash) values (?, ?, ?)");

    private final String text;

    Sql(String text) {
        this.text = text;
    }

    String text() {
        return text;
    }

    /** Whether a change is only written where this touches one row. */
    boolean mustHold() {
        return compareTo(FIRST_HEAD) < 0;
    }
}
