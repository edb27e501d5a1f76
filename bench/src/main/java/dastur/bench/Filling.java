package dastur.bench;

import dastur.store.Database;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;

/** Fills the database with tickets as they are after a while: with entries, runs, work items and alarms. */
final class Filling {
    private static final int ENTRIES_A_TICKET = 10;

    private final Database database;
    private int filled;

    Filling(Database database) {
        this.database = database;
    }

    void fillTo(int count) throws SQLException {
        String series = database.isShared() ? "generate_series(" : "system_range(";
        String range = " from " + series + (filled + 1) + ", " + count + ") n (x)";
        try (Connection connection = database.dataSource().getConnection();
                Statement s = connection.createStatement()) {
            s.execute("insert into ticket (id, kind, title, state, ended, priority, requester, created_at)"
                    + " select 'F-' || n.x, 'incident', 'A matter of before ' || n.x, case when mod(n.x, 20) = 0 then 'logged' else 'closed' end, mod(n.x, 20) <> 0, 'P3', 'bench',"
                    + " current_timestamp - n.x * interval '1' minute" + range);
            s.execute(
                    "insert into ticket_head (ticket, seq, head, snapshot_seq, updated_at, next_due) select 'F-' || n.x, "
                            + ENTRIES_A_TICKET + ", repeat('0', 64), " + ENTRIES_A_TICKET + ", current_timestamp,"
                            + " case when mod(n.x, 20) = 0 then current_timestamp + interval '30' day end" + range);
            s.execute("insert into alarm (ticket, due) select h.ticket, h.next_due from ticket_head h"
                    + " where h.next_due is not null and not exists (select 1 from alarm a where a.ticket = h.ticket)");
            s.execute("insert into case_snapshot (ticket, seq, fold, body) select 'F-' || n.x, " + ENTRIES_A_TICKET
                    + ", 1, repeat('s', 1500)" + range);
            s.execute(
                    "insert into entry (ticket, seq, at, kind, sealed, hash, content, salt) select 'F-' || n.x, e.x, current_timestamp, 'noteAdded', repeat('e', 400), repeat('0', 64), repeat('c', 200), repeat('0', 64)"
                            + range + " cross join " + series + "1, " + ENTRIES_A_TICKET + ") e (x)");
            s.execute(
                    "insert into run (id, ticket, workflow, version, name, owner, status, started_at) select 'F-' || n.x || '.1', 'F-' || n.x, 'bench', 1, 'Bench', 'bench', 'finished', current_timestamp"
                            + range);
            s.execute(
                    "insert into work_item (visit, ticket, kind, name, workflow, opened_at, is_open) select 'F-' || n.x || '.1.1', 'F-' || n.x, 'task', 'Look', 'Bench', current_timestamp, mod(n.x, 20) = 0"
                            + range);
            s.execute("insert into work_for (visit, who) select 'F-' || n.x || '.1.1', 'g:others'" + range
                    + " where mod(n.x, 20) = 0");
            for (String word : new String[] {
                "'matter' || n.x", "'before'", "case when mod(n.x, 10) = 0 then 'gate' else 'kiosk' end"
            }) {
                s.execute("insert into ticket_word (word, ticket, seq) select " + word + ", 'F-' || n.x, 1" + range);
            }
            connection.commit();
        }
        filled = count;
    }
}
