package dastur.demo;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.record.Checkpoint;
import dastur.server.DataFolder;
import dastur.server.DemoData;
import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.Rebuilding;
import dastur.store.RecordLog;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Thirty days of every kind of step: what stands beside their records is what the records give (K5), and all of it is proved. */
class KeptTest {
    @TempDir
    Path folder;

    private Database database;
    private RecordLog log;

    @BeforeEach
    void open() {
        DemoData.fill(folder);
        DataFolder data = new DataFolder(folder);
        database = Database.inFolder(folder, Durability.PROCESS, data.rowKey());
        log = new RecordLog(database, data.signer());
        log.catchUp();
        log.sign(Instant.now());
    }

    @AfterEach
    void close() {
        database.close();
    }

    private Audit.Report audit() {
        return new Audit(database, log).run(done -> {});
    }

    private void alter(String sql) throws SQLException {
        try (Connection connection = database.dataSource().getConnection();
                Statement statement = connection.createStatement()) {
            assertThat(statement.executeUpdate(sql)).as(sql).isPositive();
            connection.commit();
        }
    }

    private Set<String> rows(String sql) throws SQLException {
        try (Connection connection = database.dataSource().getConnection();
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(sql)) {
            Set<String> found = new TreeSet<>();
            while (rows.next()) {
                StringBuilder row = new StringBuilder();
                for (int i = 1; i <= rows.getMetaData().getColumnCount(); i++) {
                    row.append(rows.getString(i)).append(" | ");
                }
                found.add(row.toString());
            }
            return found;
        }
    }

    private Map<String, Set<String>> everything() throws SQLException {
        Map<String, Set<String>> all = new TreeMap<>();
        for (String table :
                List.of("ticket", "run", "work_item", "work_for", "signal_wait", "outbox", "file_use", "call_made")) {
            all.put(table, rows("select * from " + table));
        }
        return all;
    }

    @Test
    void thePastIsProvedAndRebuildingChangesNothing() throws SQLException {
        Audit.Report report = audit();
        assertThat(report.findings()).isEmpty();
        assertThat(report.tickets()).isGreaterThan(140);
        assertThat(report.leaves()).isGreaterThan(report.tickets());
        Map<String, Set<String>> before = everything();
        assertThat(new Rebuilding(database).all(done -> {})).isEqualTo(report.tickets());
        assertThat(everything()).isEqualTo(before);
    }

    @Test
    void whatWasAlteredBesideARecordIsFoundAndMadeAnew() throws SQLException {
        Map<String, Set<String>> before = everything();
        String visit = rows("select visit from work_item where is_open = true")
                .iterator()
                .next()
                .split(" ")[0];
        String ticket = rows("select ticket from work_item where visit = '" + visit + "'")
                .iterator()
                .next()
                .split(" ")[0];
        alter("update work_item set name = 'Nothing to do' where visit = '" + visit + "'");
        alter("delete from work_for where visit = '" + visit + "'");
        alter("update ticket set priority = 'P4', title = 'Nothing' where id = '" + ticket + "'");
        List<Audit.Finding> findings = audit().findings();
        assertThat(findings).hasSize(2).allSatisfy(f -> assertThat(f.where()).isEqualTo(ticket));
        assertThat(findings.toString()).contains("Nothing to do").contains("ticket stands as Nothing");
        new Rebuilding(database).all(done -> {});
        assertThat(everything()).isEqualTo(before);
        assertThat(audit().findings()).isEmpty();
    }

    @Test
    void aDeletedTicketAndARewrittenLogAreFound() throws SQLException {
        for (String table : List.of("entry", "case_snapshot", "work_item", "run")) {
            String of = table.equals("work_item") ? "delete from work_for where visit like 'C-301.%'" : null;
            if (of != null
                    && !rows("select 1 from work_for where visit like 'C-301.%'")
                            .isEmpty()) {
                alter(of);
            }
            if (!rows("select 1 from " + table + " where ticket = 'C-301'").isEmpty()) {
                alter("delete from " + table + " where ticket = 'C-301'");
            }
        }
        alter("delete from ticket_head where ticket = 'C-301'");
        alter("delete from ticket where id = 'C-301'");
        assertThat(audit().findings())
                .containsExactly(
                        new Audit.Finding("C-301", 0, "the log knows it, but it is not there: it was deleted"));
        alter("delete from log_leaf where ticket = 'C-301'");
        assertThat(audit().findings().getFirst().what()).contains("was taken out");
        alter("delete from checkpoint");
        assertThat(audit().findings()).isNotEmpty();
    }

    /** Runs name the version they began with, and CIs are what tickets made them: whoever alters either past all of it is found. */
    @Test
    void whatRunsBeganWithAndWhatTicketsSetIsCompared() throws SQLException {
        alter("update workflow_version set body = replace(body, 'Gate', 'Door')"
                + " where workflow = 'gate-lane-stuck-open'");
        List<Audit.Finding> findings = audit().findings();
        assertThat(findings.toString()).contains("is not what line").contains("the run began with another version");
        assertThat(findings).anySatisfy(f -> assertThat(f.where()).startsWith("I-"));
        String ci = rows("select ci from ci_change where name = 'lane'")
                .iterator()
                .next()
                .split(" ")[0];
        alter("update ci set attributes = replace(attributes, 'lane', 'lain') where id = '" + ci + "'");
        assertThat(audit().findings().toString()).contains("CI " + ci).contains("past the application");
    }

    /** K13: whoever holds database, keys and what was signed last rewrites the log, and it holds; a witness knows another. */
    @Test
    void aWitnessKnowsWhatSomebodyWithAllKeysRewrote() throws Exception {
        Audit audit = new Audit(database, log);
        List<Checkpoint> kept = log.checkpoints(10);
        assertThat(audit.against(kept)).isEmpty();
        alter("update log_leaf set hash = '" + "0".repeat(64) + "' where number = 3");
        alter("update log_tile set bytes = (select bytes from log_tile where level = 0 and number = 0)"
                + " where level = 1 and number = 0");
        assertThat(audit.against(kept).getFirst().what()).contains("a witness was told of");
        assertThat(audit.against(List.of(new Checkpoint(1, 1, 9_999_999L, "00", Instant.EPOCH, "{}", "", "")))
                        .getFirst()
                        .what())
                .contains("not signed by this key");
    }
}
