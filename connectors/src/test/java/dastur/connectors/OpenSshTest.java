package dastur.connectors;

import static dastur.connectors.RealServer.ALIVE;
import static dastur.connectors.RealServer.call;
import static dastur.connectors.RealServer.output;
import static dastur.connectors.RealServer.shell;
import static dastur.connectors.RealServer.started;
import static dastur.connectors.RealServer.stop;
import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.FreePort;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** SSH and SFTP against the server of OpenSSH, as Debian has it (N46, M9). {@code ./dastur test} installs it. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class OpenSshTest {
    @TempDir
    static Path folder;

    private final Connectors connectors = new Connectors();
    private @Nullable Process server;
    private String address = "";
    private String key = "";

    @BeforeAll
    void start() throws Exception {
        assertThat(Path.of("/usr/sbin/sshd")).as("the package openssh-server").exists();
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
            Connector.Heartbeat heartbeat, String method, String path, @Nullable String body, Action.Output... outputs)
            throws Connector.Abandoned {
        String root = address.replace("ssh://", "sftp://").replace("?hostkey", folder + "/files?hostkey");
        return connectors.call(
                call(method, path, body, outputs),
                new Connection("c", "The host", root, List.of(), "key"),
                key,
                heartbeat);
    }

    /** M4: what reads a list would judge by a part of it, so it is told nothing of it; that the command has ended well is known. */
    @Test
    void whatSaysMoreThanIsReadHasEndedWellAndGivesNothingOfIt() throws Exception {
        long[] told = {0};
        Connector.Heartbeat counts = Listener.hearing(text -> told[0] += text.length());
        assertThat(run(counts, address, key, "seq", "1", "300000"))
                .isInstanceOfSatisfying(CallOutcome.Done.class, d -> {
                    assertThat(d.outputs()).isEmpty();
                    assertThat(d.log()).contains("“lines” is left out: 1988895 bytes were said, more than are read.");
                });
        assertThat(told[0]).isEqualTo(1_988_895);
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
                    .isInstanceOfSatisfying(
                            CallOutcome.Done.class, d -> assertThat(d.outputs()).containsEntry("status", status));
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
                Listener.hearing(text -> {
                    heard.append(text);
                    if (heard.indexOf("first ⚓") >= 0) {
                        try {
                            Files.writeString(go, "");
                        } catch (IOException e) {
                            throw new UncheckedIOException(e);
                        }
                    }
                }),
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
        CallOutcome outcome = run(Listener.cancelling(), address, key, "sleep", "30");
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

    @Test
    void aTestSignsInAndRunsNothing() {
        Event.Call run = call("RUN", "/", "[\"touch\",\"" + folder.resolve("run") + "\"]");
        Greeted said = connectors.greet(new Connection("c", "The host", address, List.of(), "key"), key, List.of(run));
        assertThat(said.letIn()).isEqualTo(Greeted.Says.YES);
        assertThat(said.given()).extracting(Greeted.Given::says).containsExactly(Greeted.Says.CANNOT_SAY);
        assertThat(folder.resolve("run")).doesNotExist();
        assertThat(connectors
                        .greet(new Connection("c", "The host", address, List.of(), "key"), "guess", List.of(run))
                        .letIn())
                .isEqualTo(Greeted.Says.NO);
        String files = address.replace("ssh://", "sftp://").replace("?hostkey", folder + "?hostkey");
        Greeted below = connectors.greet(
                new Connection("c", "The files", files, List.of(), "key"),
                key,
                List.of(call("LIST", "/", null), call("STORE", "/x", "{\"text\":\"x\"}")));
        assertThat(below.given())
                .extracting(Greeted.Given::says)
                .containsExactly(Greeted.Says.YES, Greeted.Says.CANNOT_SAY);
        assertThat(connectors
                        .greet(
                                new Connection("c", "F", files.replace("?hostkey", "/no?hostkey"), List.of(), "key"),
                                key,
                                List.of(call("LIST", "/", null)))
                        .given())
                .extracting(Greeted.Given::says)
                .containsExactly(Greeted.Says.NO);
    }
}
