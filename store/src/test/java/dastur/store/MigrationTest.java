package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.Statement;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import org.flywaydb.core.Flyway;
import org.junit.jupiter.api.Test;

/** Databases of earlier releases, brought up to date with what is in them. */
class MigrationTest {
    private static final String URL = "jdbc:h2:mem:migration;DB_CLOSE_DELAY=-1";

    @Test
    void recordsSnapshotsDesksAndOutboxStayWhenTheirTablesAreMadeAnew() throws Exception {
        Flyway.configure().dataSource(URL, "dastur", "").target("9").load().migrate();
        try (Connection connection = DriverManager.getConnection(URL, "dastur", "");
                Statement s = connection.createStatement()) {
            s.execute("insert into ticket (id, kind, title, state, ended, priority, created_at, updated_at, seq, head,"
                    + " anchored_seq, fold, snapshot) values ('I-1', 'incident', 'Gate', 'logged', false, 'P2',"
                    + " current_timestamp, current_timestamp, 7, 'h7', 0, 1, '{\"id\":\"I-1\"}')");
            s.execute("insert into entry (ticket, seq, at, kind, sealed, hash, content, salt, command) values"
                    + " ('I-1', 7, current_timestamp, 'noteAdded', '{\"seq\":7}', 'h7', '{}', 's7', 'c7')");
            s.execute("insert into work_item (visit, ticket, kind, name, workflow, opened_at, is_open) values"
                    + " ('I-1.1.1', 'I-1', 'task', 'Look', 'Gate', current_timestamp, true)");
            s.execute("insert into work_for (visit, who) values ('I-1.1.1', 'p:runa')");
            s.execute("insert into outbox (id, ticket, visit, kind, purpose, queue, payload, created_at, due, tries)"
                    + " values ('m.runa', 'I-1', null, 'mail', 'told', 'mail:runa', '{}', current_timestamp,"
                    + " current_timestamp, 0)");
        }

        try (Database database = Database.inMemory("migration")) {
            Rows.SnapshotRow snapshot = database.read(session -> session.get(Rows.SnapshotRow.class, "I-1"));
            assertThat(snapshot.seq).isEqualTo(7);
            assertThat(snapshot.body).isEqualTo("{\"id\":\"I-1\"}");
            assertThat(database.read(session -> session.get(Rows.HeadRow.class, "I-1")).snapshotSeq)
                    .isEqualTo(7);
            Rows.EntryRow entry =
                    database.read(session -> session.get(Rows.EntryRow.class, new Rows.EntryKey("I-1", 7)));
            assertThat(List.of(entry.sealed, entry.hash, entry.content, entry.salt, entry.command))
                    .containsExactly("{\"seq\":7}", "h7", "{}", "s7", "c7");
            assertThat(new Tickets(database).workFor("runa"))
                    .extracting(Tickets.WorkItem::name)
                    .containsExactly("Look");
            assertThat(new Outbox(database)
                            .take("mail", 5, Instant.now().plusSeconds(60), Duration.ofMinutes(1), "worker"))
                    .extracting(Outbox.Taken::id)
                    .containsExactly("m.runa");
        }
    }
}
