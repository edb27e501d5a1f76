package dastur.connectors;

import static dastur.connectors.RealServer.ALIVE;
import static dastur.connectors.RealServer.call;
import static dastur.connectors.RealServer.output;
import static dastur.connectors.RealServer.read;
import static dastur.connectors.RealServer.shell;
import static dastur.connectors.RealServer.started;
import static dastur.connectors.RealServer.stop;
import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.FreePort;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** SQL against PostgreSQL, as Debian has it (M9). {@code ./dastur test} installs it. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class PostgreSqlTest {
    private static final String PASSWORD = "kept-by-the-test";

    @TempDir
    static Path folder;

    private final Connectors connectors = new Connectors();
    private @Nullable Process server;
    private String address = "";

    private List<String> as(String... command) {
        boolean root = System.getProperty("user.name").equals("root");
        List<String> all =
                new java.util.ArrayList<>(root ? List.of("setpriv", "--reuid=postgres", "--clear-groups") : List.of());
        all.addAll(List.of(command));
        return all;
    }

    private static String program(String name) throws IOException {
        try (var versions = Files.list(Path.of("/usr/lib/postgresql"))) {
            return versions.map(v -> v.resolve("bin").resolve(name))
                    .filter(Files::exists)
                    .findFirst()
                    .orElseThrow()
                    .toString();
        }
    }

    @BeforeAll
    void start() throws Exception {
        int port = FreePort.any();
        Files.writeString(folder.resolve("password"), PASSWORD);
        if (System.getProperty("user.name").equals("root")) {
            shell("chmod", "711", folder.getParent().toString());
            shell("chown", "-R", "postgres", folder.toString());
        }
        shell(as(
                        program("initdb"),
                        "--no-sync",
                        "--auth=scram-sha-256",
                        "--encoding=UTF8",
                        "--locale=C.UTF-8",
                        "--username=dastur",
                        "--pwfile=" + folder + "/password",
                        "--pgdata=" + folder + "/data")
                .toArray(String[]::new));
        server = started(
                folder.resolve("log"),
                port,
                as(
                                program("postgres"),
                                "-D",
                                folder + "/data",
                                "-c",
                                "port=" + port,
                                "-c",
                                "listen_addresses=127.0.0.1",
                                "-c",
                                "unix_socket_directories=" + folder)
                        .toArray(String[]::new));
        address = "postgresql://dastur@127.0.0.1:" + port + "/postgres?tls=none";
        Instant end = Instant.now().plusSeconds(20);
        // The port is open a moment before the server takes anybody.
        while (!(sql("CHANGE", "create table gate (name text primary key, expires timestamptz, fare numeric)")
                instanceof CallOutcome.Done)) {
            assertThat(Instant.now()).as(() -> read(folder.resolve("log"))).isBefore(end);
            LockSupport.parkNanos(50_000_000);
        }
    }

    @AfterAll
    void end() throws InterruptedException {
        connectors.close();
        stop(server);
    }

    /** As it goes out when it was composed; what makes tables is for this test only. */
    private CallOutcome sql(String method, String statement, @Nullable Object... values) throws Connector.Abandoned {
        return sql(ALIVE, PASSWORD, method, statement, values);
    }

    private CallOutcome sql(
            Connector.Heartbeat heartbeat, String password, String method, String statement, @Nullable Object... values)
            throws Connector.Abandoned {
        String body = dastur.core.json.Json.write(
                new dastur.core.workflow.SqlStatement.Sent(statement, java.util.Arrays.asList(values), null));
        return connectors.call(
                call(
                        method,
                        "/",
                        body,
                        output("rows", FieldType.LIST, "/rows"),
                        output("count", FieldType.WHOLE, "/count")),
                new Connection("c", "The register", address, List.of(), "key"),
                password,
                heartbeat);
    }

    private static void done(CallOutcome outcome, long count, String rows) {
        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, d -> {
            assertThat(d.outputs().get("count")).isEqualTo(count);
            assertThat(d.outputs().get("rows").toString()).contains(rows);
        });
    }

    private static void failed(CallOutcome outcome, String why) {
        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Failed.class, f -> assertThat(f.why())
                .contains(why));
    }

    @Test
    void aTableIsReadAndAChangeIsCountedAndValuesStayValues() throws Connector.Abandoned {
        String awkward = "a'); drop table gate; --";
        done(sql("CHANGE", "insert into gate values (?, ?, ?)", awkward, "2026-11-23T14:30:00Z", 7.5), 1, "[]");
        done(
                sql("QUERY", "select name, expires, fare, fare > 7 as dear from gate where name = ?", awkward),
                1,
                "expires=2026-11-23T14:30:00Z, fare=7.5, dear=true");
        done(sql("QUERY", "select 1 where false"), 0, "[]");
        done(sql("QUERY", "select count(*) as n from gate where name = any(?)", List.of(awkward, "GNQ-G1")), 1, "n=1");
        done(sql("CHANGE", "delete from gate where name = ?", awkward), 1, "[]");
    }

    @Test
    void aQueryChangesNothingWhateverItSays() throws Connector.Abandoned {
        failed(sql("QUERY", "insert into gate values ('x') returning name"), "read-only");
        failed(sql("QUERY", "with x as (insert into gate values ('x') returning name) select * from x"), "read-only");
        done(sql("QUERY", "select count(*) as n from gate where name = 'x'"), 1, "n=0");
    }

    @Test
    void whatIsRefusedOrTooLargeOrTooSlowChangesNothing() throws Connector.Abandoned {
        failed(sql("CHANGE", "insert into gate values (null)"), "refused it");
        failed(sql("QUERY", "select * from generate_series(1, 2001)"), "A table is never cut");
        failed(sql("QUERY", "select repeat('x', 2000000)"), "A table is never cut");
        failed(sql("QUERY", "select pg_sleep(30)"), "timeout");
        failed(sql(ALIVE, "wrong", "QUERY", "select 1"), "password");
        String open = address;
        try {
            address = open.replace("?tls=none", "");
            failed(sql("QUERY", "select 1"), "SSL");
        } finally {
            address = open;
        }
        done(sql("QUERY", "select * from generate_series(1, 2000)"), 2000, "generate_series=2000");
    }

    @Test
    void aStatementThatIsCancelledIsStoppedAtTheServer() throws Connector.Abandoned {
        CallOutcome outcome =
                sql(Listener.cancelling(), PASSWORD, "CHANGE", "insert into gate select 'slow' from pg_sleep(4)");
        failed(outcome, "nothing was changed");
        done(sql("QUERY", "select count(*) as n from gate where name = 'slow'"), 1, "n=0");
    }

    private Greeted greet(String user, String password, int port, String... statements) {
        List<Event.Call> calls = java.util.Arrays.stream(statements)
                .map(s -> call(
                        "QUERY",
                        "/",
                        dastur.core.json.Json.write(new dastur.core.workflow.SqlStatement.Sent(
                                s, java.util.Collections.nCopies(s.split("\\?", -1).length - 1, null), null))))
                .toList();
        String at = "postgresql://" + user + "@127.0.0.1:" + port + "/postgres?tls=none";
        return connectors.greet(new Connection("c", "The register", at, List.of(), "key"), password, calls);
    }

    /** M6: a reader is told what it may not do before it tries to, and nothing is done. */
    @Test
    void aTestTellsWhatEachStatementMayDoAndDoesNothing() throws Connector.Abandoned {
        sql("CHANGE", "insert into gate values ('GNQ-G2', now(), 3)");
        sql("CHANGE", "create role reader login password '" + PASSWORD + "'");
        sql("CHANGE", "grant select on gate to reader");
        int port = java.net.URI.create(address).getPort();

        Greeted said = greet(
                "reader",
                PASSWORD,
                port,
                "select name from gate where name = ? and fare > ?",
                "delete from gate where name = ?",
                "select * from nothing",
                "update gate set fare = ? where name = ?",
                "show timezone");
        assertThat(said.letIn()).isEqualTo(Greeted.Says.YES);
        assertThat(said.given())
                .extracting(Greeted.Given::says)
                .containsExactly(
                        Greeted.Says.YES, Greeted.Says.NO, Greeted.Says.NO, Greeted.Says.NO, Greeted.Says.CANNOT_SAY);
        assertThat(said.given().get(1).why()).contains("permission denied for table gate");
        assertThat(greet("dastur", PASSWORD, port, "delete from gate where name = ?")
                        .given())
                .containsExactly(Greeted.Given.YES);
        done(sql("QUERY", "select count(*) as n from gate where name = 'GNQ-G2'"), 1, "n=1");

        Greeted refused = greet("reader", "guess", port, "select 1");
        assertThat(refused.reached()).isEqualTo(Greeted.Says.YES);
        assertThat(refused.letIn()).isEqualTo(Greeted.Says.NO);
        assertThat(refused.given()).extracting(Greeted.Given::says).containsExactly(Greeted.Says.CANNOT_SAY);
        assertThat(greet("reader", PASSWORD, FreePort.any(), "select 1").reached())
                .isEqualTo(Greeted.Says.NO);
    }
}
