package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.run.Command;
import dastur.core.run.Engine;
import dastur.core.ticket.TicketKind;
import dastur.server.auth.Secrets;
import dastur.server.work.CommandService;
import dastur.store.Cases;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.PgServer;
import java.io.PrintWriter;
import java.io.StringWriter;
import java.nio.file.Files;
import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;
import picocli.CommandLine;

/** As an operator: auditing, rebuilding, exporting and taking over a copy, on a database server (K7, K10). */
class OnServerCommandsTest {
    private static final PersonId ADA = new PersonId("ada");

    @TempDir
    Path folder;

    private Database.Server server;

    private record Said(int exit, String words) {}

    private Said run(Object command, String... arguments) {
        StringWriter words = new StringWriter();
        CommandLine line =
                new CommandLine(command).setOut(new PrintWriter(words)).setErr(new PrintWriter(words));
        line.setExecutionExceptionHandler((e, c, parsed) -> {
            words.write(String.valueOf(e.getMessage()));
            return 1;
        });
        String[] all = new String[arguments.length + 6];
        System.arraycopy(arguments, 0, all, 0, arguments.length);
        String[] where = {
            "--data", folder.resolve("data").toString(), "--database", server.url(), "--database-user", server.user()
        };
        System.arraycopy(where, 0, all, arguments.length, 6);
        return new Said(line.execute(all), words.toString());
    }

    private Database open() {
        return Database.onServer(server, new DataFolder(folder.resolve("data")).rowKey());
    }

    private void write() {
        try (Database database = open()) {
            new Organisation(database)
                    .putPerson(new Person(ADA, "Ada Brandvold", "ada@kestrel.example", Set.of(Role.AGENT), true), null);
            CommandService commands = new CommandService(
                    new Cases(database, Secrets::randomBytes),
                    new Engine(),
                    InstantSource.system(),
                    Instant.now(),
                    (before, events, after) -> {});
            for (int i = 0; i < 3; i++) {
                assertThat(commands.raise(
                                TicketKind.INCIDENT,
                                UUID.randomUUID().toString(),
                                Actor.of(ADA),
                                new Command.RaiseTicket(
                                        TicketKind.INCIDENT,
                                        Map.of("title", "Gate stands open", "requester", "ada"),
                                        null)))
                        .isInstanceOf(CommandService.Outcome.Done.class);
            }
        }
    }

    private void alter(String sql) throws SQLException {
        try (Database database = open();
                Connection c = database.dataSource().getConnection();
                Statement s = c.createStatement()) {
            assertThat(s.executeUpdate(sql)).isPositive();
            c.commit();
        }
    }

    @Test
    void eachDoesOnAServerWhatItDoesOnAFile() throws Exception {
        server = PgServer.shared().database();
        Path data = Files.createDirectories(folder.resolve("data"));
        Files.writeString(data.resolve("secrets.properties"), "database=" + server.password() + "\n");
        write();
        assertThat(run(new KeepingCommands.AuditAll()))
                .isEqualTo(new Said(0, run(new KeepingCommands.AuditAll()).words()))
                .satisfies(s -> assertThat(s.words()).contains("3 tickets").contains("all as written"));
        Said exported =
                run(new KeepingCommands.ExportAll(), folder.resolve("out").toString());
        assertThat(exported.words()).contains("Written: 3 records");
        try (var files = Files.walk(folder.resolve("out"))) {
            assertThat(files.filter(f -> f.toString().endsWith(".ndjson"))).hasSizeGreaterThanOrEqualTo(3);
        }

        alter("update ticket set title = 'Nothing' where title = 'Gate stands open'");
        assertThat(run(new KeepingCommands.AuditAll()).exit()).isEqualTo(1);
        assertThat(run(new KeepingCommands.Rebuild()).words()).contains("from 3 records");
        assertThat(run(new KeepingCommands.AuditAll()).exit()).isZero();

        // A copy of the server's own was brought back: without a word it does not extend what was signed last.
        alter("delete from checkpoint");
        alter("update log_state set size = size - 1");
        alter("delete from log_leaf where number = (select max(number) from log_leaf)");
        assertThat(run(new KeepingCommands.AuditAll()).exit()).isEqualTo(1);

        Files.writeString(data.resolve("secrets.properties"), "database=wrong\n");
        Said refused = run(new KeepingCommands.AuditAll());
        assertThat(refused.exit()).isEqualTo(1);
        assertThat(refused.words()).doesNotContain("wrong");
    }

    @Test
    void whoeverBroughtACopyBackSaysSoAndNothingGoesOut() throws Exception {
        server = PgServer.shared().database();
        Path data = Files.createDirectories(folder.resolve("data"));
        Files.writeString(data.resolve("secrets.properties"), "database=" + server.password() + "\n");
        write();
        assertThat(run(new KeepingCommands.AuditAll()).exit()).isZero();
        assertThat(run(new KeepingCommands.Restored(), "--by", "Halvard Quist").words())
                .contains("goes on as epoch 2");
        assertThat(run(new KeepingCommands.AuditAll()).exit()).isZero();
        try (Database database = open()) {
            assertThat(new dastur.store.Keeping(database).heldSince()).isPresent();
        }
    }
}
