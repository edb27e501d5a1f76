package dastur.store;

import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.partner.Partner;
import dastur.core.partner.PartnerKey;
import dastur.core.partner.ThreeWay;
import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** Partners' desks: where each stands, their tickets as they came last, and what came in and went out (I15, I16). */
public final class Partners {
    /** So long it is listed what came and went. */
    public static final Duration KEPT = Duration.ofDays(30);

    /** What has not come for so long is asked for by itself. */
    public static final Duration ASKED_AFTER = Duration.ofHours(1);

    /** The longest ticket of theirs that is kept, in characters. */
    public static final int LONGEST = 300_000;

    static final String KIND = "partner";
    private static final int MOST_LOGGED = 20_000;
    private static final int MOST_HEEDED = 1_000;

    /**
     * Where a partner stands.
     *
     * @param mark up to when, by our clock, it was read in full; null before the first time
     * @param failures looks in a row that failed
     * @param ahead how far their clock is ahead of ours; null where nobody can tell
     */
    public record Stand(
            @Nullable Instant mark,
            @Nullable Instant lookedAt,
            Instant next,
            int failures,
            @Nullable Instant failingSince,
            @Nullable String problem,
            @Nullable Duration ahead) {}

    /** What one of their tickets is to us. */
    public enum State {
        /** Not looked at yet. */
        NEW("new"),
        /** A signal has told of it; no ticket of ours is about it. */
        TOLD("told"),
        FOLLOWED("followed"),
        /** Followed no longer. */
        OVER("over");

        private final String word;

        State(String word) {
            this.word = word;
        }

        public String word() {
            return word;
        }

        static State of(String word) {
            for (State s : values()) {
                if (s.word.equals(word)) {
                    return s;
                }
            }
            throw new IllegalStateException("no state '" + word + "'");
        }
    }

    /**
     * One of their tickets.
     *
     * @param hash of its body; what is equal came before
     * @param ours the entry of our ticket up to which both were compared
     * @param told the entry up to which what was said here was sent
     * @param next not before then; it is tried again
     */
    public record Known(
            PartnerKey partner,
            String id,
            String hash,
            String body,
            String title,
            Instant seenAt,
            State state,
            @Nullable TicketId ticket,
            ThreeWay.Memory memory,
            long ours,
            long told,
            boolean due,
            Instant next,
            int failures,
            @Nullable String problem) {
        /** One that came for the first time. */
        static Known fresh(PartnerKey partner, Came one, Instant now, boolean due) {
            return new Known(
                    partner,
                    one.id(),
                    one.hash(),
                    one.body(),
                    one.title(),
                    now,
                    State.NEW,
                    null,
                    ThreeWay.Memory.NONE,
                    0,
                    0,
                    due,
                    now,
                    0,
                    null);
        }

        /** The same, with what became of it. */
        public Known with(
                State other,
                @Nullable TicketId of,
                ThreeWay.Memory remembered,
                long upto,
                long toldUpto,
                boolean again,
                Instant when,
                int tries,
                @Nullable String why) {
            return new Known(
                    partner,
                    id,
                    hash,
                    body,
                    title,
                    seenAt,
                    other,
                    of,
                    remembered,
                    upto,
                    toldUpto,
                    again,
                    when,
                    tries,
                    why);
        }

        /** The same, done with until it changes. */
        public Known settled(Instant now, @Nullable String why) {
            return with(state, ticket, memory, ours, told, false, now, 0, why);
        }
    }

    /**
     * One that is asked for by itself.
     *
     * @param due since when
     * @param gone since when they say that it is gone there; null where they do not
     */
    public record ToAsk(
            PartnerKey partner,
            String id,
            Instant due,
            @Nullable TicketId ticket,
            State state,
            @Nullable Instant gone) {}

    /** One of their tickets as it came. */
    public record Came(String id, String hash, String body, String title) {}

    /** What came in or went out. @param way {@code in} or {@code out} @param meant what was understood of it, as JSON */
    public record Line(
            String id,
            Instant at,
            String way,
            String theirs,
            @Nullable TicketId ticket,
            String verdict,
            String raw,
            @Nullable String meant,
            @Nullable String why) {}

    private final Database database;

    public Partners(Database database) {
        this.database = database;
    }

    public List<Partner> all() {
        return database.read(session -> References.documents(session, KIND, Partner.class));
    }

    public Optional<Partner> find(PartnerKey key) {
        return database.read(session -> References.document(session, KIND, key.value(), Partner.class));
    }

    /** Sets one up without a line in the journal; for filling an empty database. */
    public void put(Partner partner) {
        database.run(
                session -> References.putDocument(session, KIND, partner.key().value(), partner));
    }

    // --- where each stands

    public Map<PartnerKey, Stand> stands() {
        return database.read(session -> session.doReturningWork(c -> {
            Map<PartnerKey, Stand> all = new HashMap<>();
            Jdbc.query(
                    c,
                    "select partner, mark, looked_at, next_at, failures, failing_since, problem, ahead_millis"
                            + " from partner_stand",
                    r -> all.put(
                            new PartnerKey(r.getString(1)),
                            new Stand(
                                    instant(r, 2),
                                    instant(r, 3),
                                    needed(r, 4),
                                    r.getInt(5),
                                    instant(r, 6),
                                    r.getString(7),
                                    r.getObject(8) == null ? null : Duration.ofMillis(r.getLong(8)))));
            return all;
        }));
    }

    private static @Nullable Instant instant(ResultSet r, int column) throws SQLException {
        OffsetDateTime at = r.getObject(column, OffsetDateTime.class);
        return at == null ? null : at.toInstant();
    }

    static Instant needed(ResultSet r, int column) throws SQLException {
        return r.getObject(column, OffsetDateTime.class).toInstant();
    }

    public void stand(PartnerKey key, Stand stand) {
        database.run(session -> session.doWork(c -> {
            Jdbc.update(c, "delete from partner_stand where partner = ?", key.value());
            Jdbc.update(
                    c,
                    "insert into partner_stand (partner, mark, looked_at, next_at, failures, failing_since, problem,"
                            + " ahead_millis) values (?, ?, ?, ?, ?, ?, ?, ?)",
                    key.value(),
                    stand.mark(),
                    stand.lookedAt(),
                    stand.next(),
                    stand.failures(),
                    stand.failingSince(),
                    stand.problem() == null ? null : Texts.clip(stand.problem(), 1_000),
                    stand.ahead() == null ? null : stand.ahead().toMillis());
        }));
    }

    /** Has a partner's desk looked at without waiting for its time. */
    public void lookNow(PartnerKey key, Instant now) {
        database.run(session -> session.doWork(
                c -> Jdbc.update(c, "update partner_stand set next_at = ? where partner = ?", now, key.value())));
    }

    /** Has it looked at by a moment, or before. */
    public void lookBy(PartnerKey key, Instant latest) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update partner_stand set next_at = ? where partner = ? and next_at > ?",
                latest,
                key.value(),
                latest)));
    }

    // --- their tickets

    private static final String COLUMNS = "partner, their_id, body_hash, body, title, seen_at, state, ticket, memory,"
            + " ours_seq, told_seq, due, next_at, failures, problem";

    static final String SELECT = "select " + COLUMNS + " from partner_ticket";

    static Known known(ResultSet r) throws SQLException {
        String ticket = r.getString(8);
        return new Known(
                new PartnerKey(r.getString(1)),
                r.getString(2),
                r.getString(3),
                r.getString(4),
                r.getString(5),
                needed(r, 6),
                State.of(r.getString(7)),
                ticket == null ? null : new TicketId(ticket),
                Json.read(r.getString(9), ThreeWay.Memory.class),
                r.getLong(10),
                r.getLong(11),
                r.getBoolean(12),
                needed(r, 13),
                r.getInt(14),
                r.getString(15));
    }

    /** Keeps a page of theirs: what came as it stands already is nothing new. Returns the ids of what is new or has changed. */
    public List<String> came(PartnerKey key, List<Came> page, Instant now) {
        return database.write(session -> session.doReturningWork(c -> {
            List<String> changed = new java.util.ArrayList<>();
            for (Came one : page) {
                if (came(c, key, one, now)) {
                    changed.add(one.id());
                }
            }
            return changed;
        }));
    }

    private static boolean came(Connection c, PartnerKey key, Came one, Instant now) throws SQLException {
        List<String> hash = Jdbc.query(
                c,
                // One that was gone has come back, whether it is as it was or not.
                "select case when gone_at is null then body_hash else '' end from partner_ticket"
                        + " where partner = ? and their_id = ?",
                r -> r.getString(1),
                key.value(),
                one.id());
        if (hash.isEmpty()) {
            insert(c, Known.fresh(key, one, now, true));
            return true;
        }
        if (hash.getFirst().equals(one.hash())) {
            return false;
        }
        Jdbc.update(
                c,
                "update partner_ticket set body_hash = ?, body = ?, title = ?, seen_at = ?, due = true, next_at = ?,"
                        + " state = case when state = 'over' and gone_at is not null then 'new' else state end,"
                        + " gone_at = null, ask_at = case when state = 'followed' then cast(? as timestamp(3) with time zone)"
                        + " else null end where partner = ? and their_id = ?",
                one.hash(),
                one.body(),
                Texts.clip(one.title(), 300),
                now,
                now,
                now.plus(ASKED_AFTER),
                key.value(),
                one.id());
        return true;
    }

    static void insert(Connection c, Known k) throws SQLException {
        Jdbc.update(
                c,
                "insert into partner_ticket (" + COLUMNS + ") values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                k.partner().value(),
                k.id(),
                k.hash(),
                k.body(),
                Texts.clip(k.title(), 300),
                k.seenAt(),
                k.state().word(),
                k.ticket() == null ? null : k.ticket().value(),
                Json.write(k.memory()),
                k.ours(),
                k.told(),
                k.due(),
                k.next(),
                k.failures(),
                k.problem());
    }

    /**
     * Marks what is followed and has changed here since this was last asked: it is to be compared. What it costs grows with what has
     * changed, not with what is followed. One that fails waits for its time.
     */
    public void heed(PartnerKey key, Instant now) {
        database.run(session -> session.doWork(c -> {
            List<Long> before =
                    Jdbc.query(c, "select upto from partner_heed where partner = ?", r -> r.getLong(1), key.value());
            if (before.isEmpty()) {
                Jdbc.update(
                        c,
                        "insert into partner_heed (partner, upto) select ?, coalesce(max(number), -1) from log_leaf",
                        key.value());
                return;
            }
            Set<String> changed = new TreeSet<>();
            List<Long> places = Jdbc.query(
                    c,
                    "select number, ticket from log_leaf where number > ? order by number fetch first ? rows only",
                    r -> {
                        changed.add(r.getString(2));
                        return r.getLong(1);
                    },
                    before.getFirst(),
                    MOST_HEEDED);
            if (places.isEmpty()) {
                return;
            }
            Jdbc.batch(
                    c,
                    "update partner_ticket set due = true, next_at = case when failures = 0 then cast(? as timestamp(3)"
                            + " with time zone) else next_at end where ticket = ? and partner = ? and state = 'followed'",
                    changed.stream()
                            .map(ticket -> new Object[] {now, ticket, key.value()})
                            .toList());
            Jdbc.update(c, "update partner_heed set upto = ? where partner = ?", places.getLast(), key.value());
        }));
    }

    /** What is to be compared: theirs that have changed, and those whose ticket here has. What waits to be taken over is no such. */
    public List<Known> due(PartnerKey key, Instant now, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                SELECT + " where partner = ? and due = true and next_at <= ?"
                        + " and take_at is null order by seen_at, their_id fetch first ? rows only",
                Partners::known,
                key.value(),
                now,
                most)));
    }

    /** What is followed and has not come for long, or is asked for, the longest first. */
    public List<ToAsk> toAsk(PartnerKey key, Instant now, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select their_id, ticket, state, gone_at, ask_at from partner_ticket where partner = ? and ask_at <= ?"
                        + " order by ask_at, their_id fetch first ? rows only",
                r -> new ToAsk(
                        key,
                        r.getString(1),
                        needed(r, 5),
                        r.getString(2) == null ? null : new TicketId(r.getString(2)),
                        State.of(r.getString(3)),
                        instant(r, 4)),
                key.value(),
                now,
                most)));
    }

    /**
     * One was asked for. What a person has wanted to be asked meanwhile is still to be asked.
     *
     * @param again when next; null for not by itself
     * @param gone since when they say that it is gone
     */
    public void asked(ToAsk one, @Nullable Instant again, @Nullable Instant gone) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update partner_ticket set ask_at = ?, gone_at = ? where partner = ? and their_id = ? and ask_at = ?",
                again,
                gone,
                one.partner().value(),
                one.id(),
                one.due())));
    }

    /** One is followed no longer, since it is gone there. */
    public void gone(PartnerKey key, String id, String why) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update partner_ticket set state = 'over', due = false, ask_at = null, problem = ?"
                        + " where partner = ? and their_id = ? and gone_at is not null",
                Texts.clip(why, 1_000),
                key.value(),
                id)));
    }

    /** Writes what became of one, unless it has changed meanwhile: then only what was agreed counts, and it stays due. */
    public void compared(Known k) {
        database.run(session -> session.doWork(c -> compared(c, k)));
    }

    static void compared(Connection c, Known k) throws SQLException {
        Jdbc.update(
                c,
                "update partner_ticket set state = ?, ticket = ?, memory = ?, ours_seq = ?, told_seq = ?,"
                        + " due = case when body_hash = ? then ? else true end, next_at = ?, failures = ?, problem = ?,"
                        + " ask_at = case when cast(? as varchar(20)) = 'followed'"
                        + " then coalesce(ask_at, cast(? as timestamp(3) with time zone))"
                        + " when gone_at is null then null else ask_at end where partner = ? and their_id = ?",
                k.state().word(),
                k.ticket() == null ? null : k.ticket().value(),
                Json.write(k.memory()),
                k.ours(),
                k.told(),
                k.hash(),
                k.due(),
                k.next(),
                k.failures(),
                k.problem() == null ? null : Texts.clip(k.problem(), 1_000),
                k.state().word(),
                k.seenAt().plus(ASKED_AFTER),
                k.partner().value(),
                k.id());
    }

    /** Has one looked at again at once; one that is followed no longer is met anew, if it is still there. Returns whether there is such a one. */
    public boolean again(PartnerKey key, String id, Instant now) {
        return database.write(session -> session.doReturningWork(c -> Jdbc.update(
                        c,
                        "update partner_ticket set due = true, next_at = ?, failures = 0,"
                                + " state = case when state = 'over' and gone_at is null then 'new' else state end,"
                                + " ask_at = case when state = 'followed' or gone_at is not null"
                                + " then cast(? as timestamp(3) with time zone) else ask_at end"
                                + " where partner = ? and their_id = ?",
                        now,
                        now,
                        key.value(),
                        id)
                == 1));
    }

    public Optional<Known> known(PartnerKey key, String id) {
        return database.read(session -> session.doReturningWork(c ->
                Jdbc.query(c, SELECT + " where partner = ? and their_id = ?", Partners::known, key.value(), id).stream()
                        .findFirst()));
    }

    /** Theirs that ours is followed as, or was. */
    public Optional<Known> ofTicket(PartnerKey key, TicketId ticket) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        SELECT + " where partner = ? and ticket = ? order by seen_at desc fetch first 1 rows only",
                        Partners::known,
                        key.value(),
                        ticket.value())
                .stream()
                .findFirst()));
    }

    /** Their tickets, what came last first. */
    public List<Known> latest(PartnerKey key, int most) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                SELECT + " where partner = ? order by seen_at desc, their_id fetch first ? rows only",
                Partners::known,
                key.value(),
                most)));
    }

    // --- what was said there

    public boolean hasComment(PartnerKey key, String id, String comment) {
        return database.read(session -> session.doReturningWork(c -> !Jdbc.query(
                        c,
                        "select 1 from partner_comment where partner = ? and their_id = ? and comment_id = ?",
                        r -> 1,
                        key.value(),
                        id,
                        comment)
                .isEmpty()));
    }

    /** Notes that they stand here. */
    public void comments(PartnerKey key, String id, List<String> comments) {
        database.run(session -> session.doWork(c -> {
            for (String comment : comments) {
                Jdbc.update(
                        c,
                        "delete from partner_comment where partner = ? and their_id = ? and comment_id = ?",
                        key.value(),
                        id,
                        comment);
                Jdbc.update(
                        c,
                        "insert into partner_comment (partner, their_id, comment_id) values (?, ?, ?)",
                        key.value(),
                        id,
                        comment);
            }
        }));
    }

    // --- what came and went

    public void log(PartnerKey key, Line line) {
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "insert into partner_log (id, partner, at, way, their_id, ticket, verdict, raw, meant, why)"
                        + " values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?)",
                line.id(),
                key.value(),
                line.at(),
                line.way(),
                line.theirs(),
                line.ticket() == null ? null : line.ticket().value(),
                line.verdict(),
                Texts.clip(line.raw(), MOST_LOGGED),
                line.meant() == null ? null : Texts.clip(line.meant(), MOST_LOGGED),
                line.why() == null ? null : Texts.clip(line.why(), 1_000))));
    }

    /** What came and went, the latest first. @param before older than this line; null for the latest */
    public List<Line> lines(PartnerKey key, @Nullable String before, int most) {
        String upto = before == null ? "" : " and id < ?";
        Object[] values = before == null ? new Object[] {key.value(), most} : new Object[] {key.value(), before, most};
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                c,
                "select id, at, way, their_id, ticket, verdict, raw, meant, why from partner_log where partner = ?"
                        + upto + " order by id desc fetch first ? rows only",
                Partners::line,
                values)));
    }

    private static Line line(ResultSet r) throws SQLException {
        String ticket = r.getString(5);
        return new Line(
                r.getString(1),
                needed(r, 2),
                r.getString(3),
                r.getString(4),
                ticket == null ? null : new TicketId(ticket),
                r.getString(6),
                r.getString(7),
                r.getString(8),
                r.getString(9));
    }

    /** How often one of theirs was changed by either side since a moment. */
    public long changes(PartnerKey key, String id, Instant since) {
        return database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select count(*) from partner_log where partner = ? and their_id = ? and at >= ?"
                                + " and verdict in ('taken', 'sent')",
                        r -> r.getLong(1),
                        key.value(),
                        id,
                        since)
                .getFirst()));
    }

    /** Forgets what came and went before a moment. */
    public void forgetBefore(Instant moment) {
        database.run(session -> session.doWork(c -> Jdbc.update(c, "delete from partner_log where at < ?", moment)));
    }
}
