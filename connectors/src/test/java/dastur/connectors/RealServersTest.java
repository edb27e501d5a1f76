package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dastur.core.FreePort;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Nested;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** SSH and DNS against the servers of OpenSSH and BIND, as Debian has them (N46). {@code ./dastur test} installs both. */
class RealServersTest {
    private static final Connector.Heartbeat ALIVE = () -> true;

    private static Event.Call call(String method, String path, @Nullable String body, Action.Output... outputs) {
        return new Event.Call(
                "c",
                method,
                path,
                Map.of(),
                body,
                null,
                List.of(outputs),
                List.of(new Action.OwnResult("was away", "/status", "3")),
                5);
    }

    private static Action.Output output(String name, FieldType type, String pointer) {
        return new Action.Output(Field.of(name, name, type).asRequired(), pointer);
    }

    private static Process started(Path log, int port, String... command) throws IOException {
        Process process = new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(log.toFile())
                .start();
        Instant end = Instant.now().plusSeconds(20);
        while (true) {
            try (Socket socket = new Socket(InetAddress.getLoopbackAddress(), port)) {
                assertThat(socket.isConnected()).isTrue();
                return process;
            } catch (IOException e) {
                assertThat(process.isAlive() && Instant.now().isBefore(end))
                        .as(() -> read(log))
                        .isTrue();
                LockSupport.parkNanos(20_000_000);
            }
        }
    }

    private static String read(Path file) {
        try {
            return Files.readString(file);
        } catch (IOException e) {
            return e.toString();
        }
    }

    private static String shell(String... command) throws IOException, InterruptedException {
        Process process = new ProcessBuilder(command).redirectErrorStream(true).start();
        String said = new String(process.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
        assertThat(process.waitFor(20, TimeUnit.SECONDS)).isTrue();
        return said;
    }

    private static void stop(@Nullable Process process) throws InterruptedException {
        if (process != null) {
            process.destroy();
            process.waitFor(10, TimeUnit.SECONDS);
        }
    }

    @Nested
    @TestInstance(TestInstance.Lifecycle.PER_CLASS)
    class OpenSsh {
        @TempDir
        static Path folder;

        private final Connectors connectors = new Connectors();
        private @Nullable Process server;
        private String address = "";
        private String key = "";

        @BeforeAll
        void start() throws Exception {
            assertThat(Path.of("/usr/sbin/sshd"))
                    .as("the package openssh-server")
                    .exists();
            shell("ssh-keygen", "-q", "-t", "ecdsa", "-N", "", "-f", folder + "/host");
            shell("ssh-keygen", "-q", "-t", "ecdsa", "-N", "", "-f", folder + "/own");
            key = Files.readString(folder.resolve("own"));
            int port = FreePort.any();
            Files.createDirectories(Path.of("/run/sshd"));
            Files.writeString(folder.resolve("conf"), """
                    Port %d
                    ListenAddress 127.0.0.1
                    HostKey %s/host
                    AuthorizedKeysFile %s/own.pub
                    StrictModes no
                    UsePAM no
                    PasswordAuthentication no
                    PidFile none
                    Subsystem sftp internal-sftp
                    """.formatted(port, folder, folder));
            server = started(
                    folder.resolve("log"),
                    port,
                    "/usr/sbin/sshd",
                    "-D",
                    "-e",
                    "-f",
                    folder.resolve("conf").toString());
            String print = shell("ssh-keygen", "-lf", folder + "/host.pub").split(" ")[1];
            address = "ssh://" + System.getProperty("user.name") + "@127.0.0.1:" + port + "?hostkey=" + print;
        }

        @AfterAll
        void end() throws InterruptedException {
            connectors.close();
            stop(server);
        }

        private CallOutcome run(String base, String secret, String... words) throws Connector.Abandoned {
            return run(ALIVE, base, secret, words);
        }

        private CallOutcome run(Connector.Heartbeat heartbeat, String base, String secret, String... words)
                throws Connector.Abandoned {
            return connectors.call(
                    call(
                            "RUN",
                            "/",
                            dastur.core.json.Json.write(List.of(words)),
                            output("out", FieldType.LONG_TEXT, "/out"),
                            output("lines", FieldType.LIST, "/lines")),
                    new Connection("c", "The host", base, List.of(), "key"),
                    secret,
                    heartbeat);
        }

        private CallOutcome file(String method, String path, @Nullable String body, Action.Output... outputs)
                throws Connector.Abandoned {
            return file(ALIVE, method, path, body, outputs);
        }

        private CallOutcome file(
                Connector.Heartbeat heartbeat,
                String method,
                String path,
                @Nullable String body,
                Action.Output... outputs)
                throws Connector.Abandoned {
            String root = address.replace("ssh://", "sftp://").replace("?hostkey", folder + "/files?hostkey");
            return connectors.call(
                    call(method, path, body, outputs),
                    new Connection("c", "The host", root, List.of(), "key"),
                    key,
                    heartbeat);
        }

        private static void failed(CallOutcome outcome, String why) {
            assertThat(outcome.toString()).contains(why);
            assertThat(outcome).isInstanceOfAny(CallOutcome.Failed.class, CallOutcome.Fault.class);
        }

        @Test
        void filesAreListedFetchedStoredRenamedAndRemovedBelowTheRoot() throws Exception {
            Path files = Files.createDirectories(folder.resolve("files/traces"));
            Files.writeString(files.resolve("old.trace"), "x".repeat(300));
            Files.setLastModifiedTime(
                    files.resolve("old.trace"),
                    java.nio.file.attribute.FileTime.from(Instant.now().minusSeconds(3 * 86_400 + 60)));
            assertThat(file("LIST", "/traces", null, output("files", FieldType.LIST, "/files")))
                    .isInstanceOfSatisfying(CallOutcome.Done.class, d -> assertThat(
                                    d.outputs().get("files").toString())
                            .contains("name=old.trace")
                            .contains("size=300")
                            .contains("days=3")
                            .contains("kind=file"));
            assertThat(file("STORE", "/traces/new.txt", "{\"text\":\"fare rules ⚓\"}"))
                    .isInstanceOf(CallOutcome.Done.class);
            failed(file("STORE", "/traces/new.txt", "{\"text\":\"other\"}"), "already");
            assertThat(file("FETCH", "/traces/new.txt", null, output("text", FieldType.LONG_TEXT, "/text")))
                    .isInstanceOfSatisfying(
                            CallOutcome.Done.class, d -> assertThat(d.outputs()).containsEntry("text", "fare rules ⚓"));
            assertThat(file("RENAME", "/traces/new.txt", "{\"to\":\"/traces/kept.txt\"}"))
                    .isInstanceOf(CallOutcome.Done.class);
            failed(file("FETCH", "/traces/new.txt", null), "refused it");
            for (String status : List.of("removed", "was not there")) {
                assertThat(file("REMOVE", "/traces/kept.txt", null, output("status", FieldType.TEXT, "/status")))
                        .isInstanceOfSatisfying(CallOutcome.Done.class, d -> assertThat(d.outputs())
                                .containsEntry("status", status));
            }
            try (var left = Files.list(files)) {
                assertThat(left.map(p -> p.getFileName().toString())).containsExactly("old.trace");
            }
        }

        @Test
        void nothingOutsideTheRootIsReached() throws Exception {
            Files.createDirectories(folder.resolve("files"));
            Files.writeString(folder.resolve("secret.txt"), "not for them");
            Files.deleteIfExists(folder.resolve("files/way-out"));
            Files.createSymbolicLink(folder.resolve("files/way-out"), folder);
            Files.deleteIfExists(folder.resolve("files/link.txt"));
            Files.createSymbolicLink(folder.resolve("files/link.txt"), folder.resolve("secret.txt"));
            for (String path : List.of(
                    "/../secret.txt", "/way-out/secret.txt", "/link.txt", "/way-out/..", "/../files/../secret.txt")) {
                failed(file("FETCH", path, null), "leads out of the folder");
                failed(file("REMOVE", path, null), "leads out of the folder");
            }
            failed(file("RENAME", "/link.txt", "{\"to\":\"/../taken.txt\"}"), "leads out of the folder");
            assertThat(folder.resolve("secret.txt")).exists();
        }

        @Test
        void whatIsTooLargeIsSaidAndNeverCut() throws Exception {
            Path files = Files.createDirectories(folder.resolve("files/many"));
            for (int i = 0; i <= SftpConnector.MOST_FILES; i++) {
                Files.createFile(files.resolve("f" + i));
            }
            failed(file("LIST", "/many", null), "A list is never cut");
            Files.writeString(folder.resolve("files/large"), "x".repeat(Answers.MAX_ANSWER + 1));
            failed(file("FETCH", "/large", null), "more than 1 MB");
        }

        @Test
        void whatACommandSaysIsHeardWhileItRuns() throws Connector.Abandoned {
            Path go = folder.resolve("go");
            StringBuffer heard = new StringBuffer();
            CallOutcome outcome = run(
                    new Connector.Heartbeat() {
                        @Override
                        public boolean stillMine() {
                            return true;
                        }

                        @Override
                        public void heard(String text) {
                            heard.append(text);
                            if (heard.indexOf("first ⚓") >= 0) {
                                try {
                                    Files.writeString(go, "");
                                } catch (IOException e) {
                                    throw new UncheckedIOException(e);
                                }
                            }
                        }
                    },
                    address,
                    key,
                    "sh",
                    "-c",
                    // It ends only once the first line has been heard; a character's bytes come in two writes.
                    "printf 'first \\342'; sleep 0.1; printf '\\232\\223\\n%2000s'; while [ ! -e " + go
                            + " ]; do sleep 0.05; done; echo second");
            assertThat(outcome).isInstanceOf(CallOutcome.Done.class);
            assertThat(heard.toString()).startsWith("first ⚓\n").endsWith("second\n");
        }

        @Test
        void aCommandThatIsCancelledIsNotWaitedFor() throws Connector.Abandoned {
            CallOutcome outcome = run(
                    new Connector.Heartbeat() {
                        @Override
                        public boolean stillMine() {
                            return true;
                        }

                        @Override
                        public boolean cancelled() {
                            return true;
                        }
                    },
                    address,
                    key,
                    "sleep",
                    "30");
            assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Unknown.class, u -> assertThat(u.why())
                    .contains("cancelled"));
        }

        @Test
        void aCommandRunsAndItsWordsStayWords() throws Connector.Abandoned {
            String word = "a b; echo c $(echo d) 'e' \"f\" & \\";
            CallOutcome outcome = run(address, key, "printf", "%s\\n", word, "second");
            assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, done -> {
                assertThat(done.exit()).isEqualTo("ok");
                assertThat(done.outputs()).containsEntry("lines", List.of(word, "second"));
                assertThat(done.log()).contains("status 0").doesNotContain("PRIVATE KEY");
            });
        }

        @Test
        void aStatusIsAFailureOrAResultOfItsOwn() throws Connector.Abandoned {
            assertThat(run(address, key, "sh", "-c", "echo no board >&2; exit 4"))
                    .isInstanceOfSatisfying(
                            CallOutcome.Failed.class,
                            f -> assertThat(f.why()).contains("status 4").contains("no board"));
            assertThat(run(address, key, "sh", "-c", "echo away; exit 3"))
                    .isInstanceOfSatisfying(
                            CallOutcome.Done.class, d -> assertThat(d.exit()).isEqualTo("was away"));
        }

        @Test
        void aCommandThatTakesTooLongIsUnsure() throws Connector.Abandoned {
            assertThat(run(address, key, "sleep", "30"))
                    .isInstanceOfSatisfying(
                            CallOutcome.Unknown.class, u -> assertThat(u.why()).contains("time limit"));
        }

        @Test
        void nothingIsToldToAHostWithAnotherKeyAndNobodyGetsInWithoutTheRightOne() throws Exception {
            String other = address.replaceFirst("SHA256:.*", "SHA256:" + "A".repeat(43));
            for (CallOutcome outcome : List.of(run(other, key, "true"), run(address, "not the password", "true"))) {
                assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Failed.class, f -> assertThat(f.why())
                        .contains("did not let us in"));
            }
            assertThat(run(address.replaceFirst(":\\d+\\?", ":" + FreePort.any() + "?"), key, "true"))
                    .isInstanceOfSatisfying(
                            CallOutcome.Failed.class, f -> assertThat(f.why()).contains("No connection"));
        }
    }

    @Nested
    @TestInstance(TestInstance.Lifecycle.PER_CLASS)
    class PostgreSql {
        private static final String PASSWORD = "kept-by-the-test";

        @TempDir
        static Path folder;

        private final Connectors connectors = new Connectors();
        private @Nullable Process server;
        private String address = "";

        private List<String> as(String... command) {
            boolean root = System.getProperty("user.name").equals("root");
            List<String> all = new java.util.ArrayList<>(
                    root ? List.of("setpriv", "--reuid=postgres", "--clear-groups") : List.of());
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
        private CallOutcome sql(String method, String statement, @Nullable Object... values)
                throws Connector.Abandoned {
            return sql(ALIVE, PASSWORD, method, statement, values);
        }

        private CallOutcome sql(
                Connector.Heartbeat heartbeat,
                String password,
                String method,
                String statement,
                @Nullable Object... values)
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
            done(sql("CHANGE", "delete from gate where name = ?", awkward), 1, "[]");
        }

        @Test
        void aQueryChangesNothingWhateverItSays() throws Connector.Abandoned {
            failed(sql("QUERY", "insert into gate values ('x') returning name"), "read-only");
            failed(
                    sql("QUERY", "with x as (insert into gate values ('x') returning name) select * from x"),
                    "read-only");
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
            CallOutcome outcome = sql(
                    new Connector.Heartbeat() {
                        @Override
                        public boolean stillMine() {
                            return true;
                        }

                        @Override
                        public boolean cancelled() {
                            return true;
                        }
                    },
                    PASSWORD,
                    "CHANGE",
                    "insert into gate select 'slow' from pg_sleep(4)");
            failed(outcome, "nothing was changed");
            done(sql("QUERY", "select count(*) as n from gate where name = 'slow'"), 1, "n=0");
        }
    }

    @Nested
    @TestInstance(TestInstance.Lifecycle.PER_CLASS)
    class OpenLdap {
        private static final String PASSWORD = "kept-by-the-test";

        @TempDir
        static Path folder;

        private final Connectors connectors = new Connectors();
        private @Nullable Process server;
        private String address = "";

        @BeforeAll
        void start() throws Exception {
            int port = FreePort.any();
            Files.createDirectories(folder.resolve("data"));
            Files.writeString(folder.resolve("conf"), """
                    include /etc/ldap/schema/core.schema
                    include /etc/ldap/schema/cosine.schema
                    include /etc/ldap/schema/inetorgperson.schema
                    include /etc/ldap/schema/nis.schema
                    modulepath /usr/lib/ldap
                    moduleload back_mdb
                    database mdb
                    suffix "dc=kestrel,dc=example"
                    rootdn "cn=dastur,dc=kestrel,dc=example"
                    rootpw %s
                    directory %s/data
                    """.formatted(PASSWORD, folder));
            Files.writeString(folder.resolve("start.ldif"), """
                    dn: dc=kestrel,dc=example
                    objectClass: domain
                    dc: kestrel

                    dn: ou=people,dc=kestrel,dc=example
                    objectClass: organizationalUnit
                    ou: people

                    dn: uid=aino,ou=people,dc=kestrel,dc=example
                    objectClass: inetOrgPerson
                    uid: aino
                    cn: Aino Berg
                    sn: Berg
                    userPassword: not to be read

                    dn: uid=birk,ou=people,dc=kestrel,dc=example
                    objectClass: inetOrgPerson
                    uid: birk
                    cn: Birk Berg
                    sn: Berg

                    dn: cn=roster,dc=kestrel,dc=example
                    objectClass: groupOfNames
                    cn: roster
                    member: uid=birk,ou=people,dc=kestrel,dc=example

                    dn: cn=night,dc=kestrel,dc=example
                    objectClass: posixGroup
                    cn: night
                    gidNumber: 700
                    """.stripIndent());
            shell("/usr/sbin/slapadd", "-f", folder + "/conf", "-l", folder + "/start.ldif");
            server = started(
                    folder.resolve("log"),
                    port,
                    "/usr/sbin/slapd",
                    "-d",
                    "0",
                    "-f",
                    folder + "/conf",
                    "-h",
                    "ldap://127.0.0.1:" + port);
            address =
                    "ldap://127.0.0.1:" + port + "/dc=kestrel,dc=example?bind=cn=dastur,dc=kestrel,dc=example&tls=none";
        }

        @AfterAll
        void end() throws InterruptedException {
            connectors.close();
            stop(server);
        }

        private CallOutcome ask(String method, String body, Action.Output... outputs) throws Connector.Abandoned {
            return ask(address, PASSWORD, method, body, outputs);
        }

        private CallOutcome ask(String base, String password, String method, String body, Action.Output... outputs)
                throws Connector.Abandoned {
            return connectors.call(
                    call(method, "/", body, outputs),
                    new Connection("c", "The directory", base, List.of(), "key"),
                    password,
                    ALIVE);
        }

        private void status(String method, String body, String status) throws Connector.Abandoned {
            assertThat(ask(method, body, output("status", FieldType.TEXT, "/status")))
                    .isInstanceOfSatisfying(
                            CallOutcome.Done.class, d -> assertThat(d.outputs()).containsEntry("status", status));
        }

        private void failed(CallOutcome outcome, String why) {
            assertThat(outcome).isInstanceOfAny(CallOutcome.Failed.class, CallOutcome.Fault.class);
            assertThat(outcome.toString()).contains(why).doesNotContain(PASSWORD);
        }

        private String entries(String where) throws Connector.Abandoned {
            CallOutcome found =
                    ask("SEARCH", "{\"where\":" + where + "}", output("entries", FieldType.LIST, "/entries"));
            assertThat(found).isInstanceOf(CallOutcome.Done.class);
            return ((CallOutcome.Done) found).outputs().get("entries").toString();
        }

        @Test
        void somebodyJoinsAGroupAndLeavesItAndTwiceIsAlreadySo() throws Connector.Abandoned {
            for (String group : List.of("roster", "night")) {
                String who = "{\"group\":{\"cn\":\"" + group + "\"},\"member\":{\"uid\":\"aino\"}}";
                status("JOIN", who, "joined");
                status("JOIN", who, "already so");
                assertThat(entries("{\"cn\":\"" + group + "\"}")).contains("aino");
                status("LEAVE", who, "left");
                status("LEAVE", who, "already so");
                assertThat(entries("{\"cn\":\"" + group + "\"}")).doesNotContain("aino");
            }
        }

        @Test
        void aValueNeverWidensWhatIsMeantAndWhatIsNotOneChangesNothing() throws Connector.Abandoned {
            assertThat(entries("{\"uid\":\"*\"}")).isEqualTo("[]");
            assertThat(entries("{\"uid\":\"x)(uid=*\"}")).isEqualTo("[]");
            failed(ask("SEARCH", "{\"where\":{\"uid\":\"\"}}"), "Say which entries");
            failed(ask("SEARCH", "{\"where\":{\"uid)(cn\":\"x\"}}"), "Say which entries");
            failed(ask("JOIN", "{\"group\":{\"cn\":\"roster\"},\"member\":{\"sn\":\"Berg\"}}"), "more than one member");
            failed(ask("JOIN", "{\"group\":{\"cn\":\"none\"},\"member\":{\"uid\":\"aino\"}}"), "There is no group");
            assertThat(entries("{\"cn\":\"roster\"}")).doesNotContain("aino");
        }

        @Test
        void anEntryIsCreatedOnceAndChangedAndSaysWhatItWas() throws Connector.Abandoned {
            String one =
                    "{\"named\":\"uid\",\"under\":\"ou=people\",\"attributes\":{\"objectClass\":[\"inetOrgPerson\"],"
                            + "\"uid\":\"new, one+\",\"cn\":\"New\",\"sn\":\"One\"}}";
            status("CREATE", one, "created");
            failed(ask("CREATE", one), "already");
            assertThat(ask(
                            "MODIFY",
                            "{\"entry\":{\"uid\":\"new, one+\"},\"set\":{\"cn\":\"Newer\",\"description\":\"until May\"}}",
                            output("before", FieldType.ANY, "/before")))
                    .isInstanceOfSatisfying(CallOutcome.Done.class, d -> assertThat(
                                    d.outputs().get("before").toString())
                            .isEqualTo("{cn=New}"));
            assertThat(entries("{\"cn\":\"Newer\"}")).contains("until May");
        }

        @Test
        void passwordsAreNotReadAndWhoeverIsNotLetInIsToldWhy() throws Connector.Abandoned {
            assertThat(entries("{\"uid\":\"aino\"}")).contains("Aino Berg").doesNotContain("assword");
            failed(ask(address, "wrong", "SEARCH", "{\"where\":{\"uid\":\"aino\"}}"), "invalid credentials");
            failed(
                    ask(address.replace("&tls=none", ""), PASSWORD, "SEARCH", "{\"where\":{\"uid\":\"aino\"}}"),
                    "The directory");
            failed(
                    ask(
                            address.replaceFirst(":\\d+/", ":" + FreePort.any() + "/"),
                            PASSWORD,
                            "JOIN",
                            "{\"group\":{\"cn\":\"roster\"},\"member\":{\"uid\":\"aino\"}}"),
                    "No connection");
        }
    }

    @Nested
    @TestInstance(TestInstance.Lifecycle.PER_CLASS)
    class Bind {
        private static final String KEY = "dastur.:c2VjcmV0LW9mLXRoZS16b25lLWtlc3RyZWw=";

        @TempDir
        static Path folder;

        private final Connectors connectors = new Connectors();
        private @Nullable Process server;
        private String address = "";

        @BeforeAll
        void start() throws Exception {
            assertThat(Path.of("/usr/sbin/named")).as("the package bind9").exists();
            int port = FreePort.any();
            Files.writeString(folder.resolve("zone"), """
                    $TTL 60
                    @ IN SOA ns.kestrel.example. admin.kestrel.example. 1 60 60 60 60
                    @ IN NS ns.kestrel.example.
                    ns IN A 127.0.0.1
                    wifi IN A 10.30.9.1
                    """);
            Files.writeString(folder.resolve("conf"), """
                    options { directory "%s"; listen-on port %d { 127.0.0.1; }; listen-on-v6 { none; };
                      pid-file none; session-keyfile none; recursion no; };
                    controls { };
                    key "dastur." { algorithm hmac-sha256; secret "%s"; };
                    zone "kestrel.example" { type primary; file "zone"; allow-update { key "dastur."; }; };
                    """.formatted(folder, port, KEY.split(":")[1]));
            server = started(
                    folder.resolve("log"),
                    port,
                    "/usr/sbin/named",
                    "-g",
                    "-c",
                    folder.resolve("conf").toString());
            address = "dns://127.0.0.1:" + port;
        }

        @AfterAll
        void end() throws InterruptedException {
            connectors.close();
            stop(server);
        }

        private CallOutcome dns(@Nullable String secret, String method, String path, @Nullable String body)
                throws Connector.Abandoned {
            List<Action.Output> outputs = new ArrayList<>();
            outputs.add(output("values", FieldType.LIST, "/values"));
            if (body != null) {
                outputs.add(output("before", FieldType.LIST, "/before"));
            }
            return connectors.call(
                    call(method, path, body, outputs.toArray(Action.Output[]::new)),
                    new Connection("c", "The zone", address, List.of(), secret == null ? null : "key"),
                    secret,
                    ALIVE);
        }

        private static String set(String name, String... values) {
            return "{\"zone\":\"kestrel.example\",\"name\":\"" + name + "\",\"type\":\"A\",\"ttl\":30,\"values\":"
                    + dastur.core.json.Json.write(List.of(values)) + "}";
        }

        private static Object values(CallOutcome outcome, String which) {
            assertThat(outcome).isInstanceOf(CallOutcome.Done.class);
            return ((CallOutcome.Done) outcome).outputs().get(which);
        }

        @Test
        void anUpdateIsSeenAndSaysWhatStoodThereBefore() throws Connector.Abandoned {
            assertThat(values(dns(null, "ASK", "/wifi.kestrel.example/A", null), "values"))
                    .isEqualTo(List.of("10.30.9.1"));
            CallOutcome moved = dns(KEY, "UPDATE", "/", set("wifi.kestrel.example", "10.30.9.7", "10.30.9.8"));
            assertThat(List.of(values(moved, "before"), values(moved, "values")))
                    .isEqualTo(List.of(List.of("10.30.9.1"), List.of("10.30.9.7", "10.30.9.8")));
            Object now = values(dns(null, "ASK", "/wifi.kestrel.example/A", null), "values");
            assertThat((List<?>) now)
                    .map(v -> tuple(v))
                    .containsExactlyInAnyOrder(tuple("10.30.9.7"), tuple("10.30.9.8"));
            // Again does no harm, and an empty list takes the name away.
            assertThat(dns(KEY, "UPDATE", "/", set("wifi.kestrel.example", "10.30.9.7")))
                    .isInstanceOf(CallOutcome.Done.class);
            assertThat(dns(KEY, "UPDATE", "/", set("wifi.kestrel.example"))).isInstanceOf(CallOutcome.Done.class);
            assertThat(values(dns(null, "ASK", "/wifi.kestrel.example/A", null), "values"))
                    .isEqualTo(List.of());
        }

        @Test
        void anUpdateWithoutTheKeyOrOfAnotherZoneChangesNothing() throws Connector.Abandoned {
            for (CallOutcome outcome : List.of(
                    dns(null, "UPDATE", "/", set("ns.kestrel.example", "10.30.9.9")),
                    dns("other.:" + KEY.split(":")[1], "UPDATE", "/", set("ns.kestrel.example", "10.30.9.9")),
                    dns(KEY, "UPDATE", "/", set("ns.elsewhere.example", "10.30.9.9")),
                    dns(KEY, "UPDATE", "/", set("ns.kestrel.example", "no address")),
                    dns("not a key", "UPDATE", "/", set("ns.kestrel.example", "10.30.9.9")),
                    dns(KEY, "UPDATE", "/", "{}"))) {
                // The server said no, or nothing was sent to it.
                boolean no = outcome instanceof CallOutcome.Failed
                        || outcome instanceof CallOutcome.Fault fault && !fault.sent();
                assertThat(no).as(outcome.toString()).isTrue();
                assertThat(outcome.toString()).doesNotContain("c2VjcmV0");
            }
            assertThat(values(dns(null, "ASK", "/ns.kestrel.example/A", null), "values"))
                    .isEqualTo(List.of("127.0.0.1"));
        }
    }
}
