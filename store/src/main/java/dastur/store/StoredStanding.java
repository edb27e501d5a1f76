package dastur.store;

import dastur.core.run.Case;
import dastur.core.run.Standing;
import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Timestamp;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.SortedSet;
import java.util.TreeMap;
import java.util.TreeSet;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** The standing rows of a ticket in words, as they are stored and as its case gives them: for comparing the two (K5). */
final class StoredStanding {
    /** How many words a ticket's row begins with; what is true of few is told by itself. */
    private static final int LISTED = 12;

    private StoredStanding() {}

    static Map<String, String> expected(Case c) {
        Map<String, String> rows = new TreeMap<>();
        List<@Nullable Object> standing = Work.standing(c);
        rows.put("ticket", joined(standing.subList(0, LISTED).toArray()));
        if (c.under() != null) {
            rows.put("under", c.under().value());
        }
        if (c.test() != null) {
            rows.put("test", "");
        }
        rows.put("head", joined(c.lastAt(), c.seq()));
        Standing.changes(Case.none(c.id()), c, new Standing.Changes() {
            @Override
            public void run(Standing.@Nullable RunLine before, Standing.@Nullable RunLine r) {
                if (r != null) {
                    rows.put(
                            "run " + r.id(),
                            joined(
                                    r.workflow(),
                                    r.version(),
                                    r.name(),
                                    r.owner(),
                                    r.trigger(),
                                    r.parent(),
                                    r.status(),
                                    r.startedAt(),
                                    r.stalledSince()));
                }
            }

            @Override
            public void item(Standing.@Nullable Item before, Standing.@Nullable Item i) {
                if (i != null) {
                    rows.put(
                            "item " + i.id(),
                            joined(i.kind(), i.name(), i.workflow(), i.due(), i.openedAt(), i.claimedBy(), i.who()));
                }
            }

            @Override
            public void wait(Standing.@Nullable Wait before, Standing.@Nullable Wait w) {
                if (w != null) {
                    rows.put("wait " + w.visit(), joined(w.signal(), w.key(), w.since()));
                }
            }

            @Override
            public void call(Standing.@Nullable Call before, Standing.@Nullable Call w) {
                if (w != null) {
                    rows.put("call " + w.id(), "");
                }
            }
        });
        return rows;
    }

    static Map<String, String> of(StatelessSession session, TicketId ticket) {
        return session.doReturningWork(c -> {
            Map<String, String> rows = new TreeMap<>();
            for (List<String> row : Jdbc.query(
                    c,
                    "select title, state, ended, priority, requester, service, ci, team, assignee, target, target_due,"
                            + " target_missed from ticket where id = ?",
                    r -> values(r, LISTED),
                    ticket.value())) {
                rows.put("ticket", joined(row.toArray()));
            }
            Jdbc.query(
                            c,
                            "select folded from ticket where id = ? and folded is not null",
                            r -> r.getString(1),
                            ticket.value())
                    .forEach(cause -> rows.put("under", cause));
            Jdbc.query(c, "select id from ticket where id = ? and is_test = true", r -> "", ticket.value())
                    .forEach(is -> rows.put("test", is));
            for (List<String> row : Jdbc.query(
                    c, "select updated_at, seq from ticket_head where ticket = ?", r -> values(r, 2), ticket.value())) {
                rows.put("head", joined(row.toArray()));
            }
            add(
                    rows,
                    c,
                    "run ",
                    9,
                    "select id, workflow, version, name, owner, trigger_id, parent, status, started_at, stalled_since"
                            + " from run where ticket = ? and ended_at is null",
                    ticket.value());
            for (List<String> item : Jdbc.query(
                    c,
                    "select visit, kind, name, workflow, due, opened_at, claimed_by from work_item"
                            + " where ticket = ? and is_open = true",
                    r -> values(r, 7),
                    ticket.value())) {
                SortedSet<String> who = new TreeSet<>(Jdbc.query(
                        c, "select who from work_for where visit = ?", r -> r.getString(1), item.getFirst()));
                List<Object> all = new ArrayList<>(item.subList(1, item.size()));
                all.add(who);
                rows.put("item " + item.getFirst(), joined(all.toArray()));
            }
            add(
                    rows,
                    c,
                    "wait ",
                    3,
                    "select visit, signal, signal_key, since from signal_wait where ticket = ?",
                    ticket.value());
            Jdbc.query(
                            c,
                            "select id from outbox where ticket = ? and kind = 'call'",
                            r -> r.getString(1),
                            ticket.value())
                    .forEach(id -> rows.put("call " + id, ""));
            return rows;
        });
    }

    private static void add(Map<String, String> rows, Connection c, String kind, int columns, String sql, String ticket)
            throws SQLException {
        for (List<String> row : Jdbc.query(c, sql, r -> values(r, columns + 1), ticket)) {
            rows.put(kind + row.getFirst(), joined(row.subList(1, row.size()).toArray()));
        }
    }

    private static List<String> values(ResultSet row, int count) throws SQLException {
        List<String> values = new ArrayList<>();
        for (int i = 1; i <= count; i++) {
            values.add(
                    switch (row.getObject(i)) {
                        case OffsetDateTime at -> text(at.toInstant());
                        case Timestamp at -> text(at.toInstant());
                        case null, default -> text(row.getObject(i));
                    });
        }
        return values;
    }

    private static String joined(@Nullable Object... values) {
        List<String> texts = new ArrayList<>();
        for (Object value : values) {
            texts.add(text(value));
        }
        return String.join(" · ", texts);
    }

    private static String text(@Nullable Object value) {
        return value == null ? "–" : value instanceof Instant at ? at.toString() : value.toString();
    }
}
