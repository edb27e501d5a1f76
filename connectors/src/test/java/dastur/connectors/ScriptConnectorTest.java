package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.PosixFilePermissions;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Scripts of a relay's folder (M14), with real processes. */
class ScriptConnectorTest {
    @TempDir
    Path folder;

    private final StringBuilder heard = new StringBuilder();
    private final AtomicBoolean cancelled = new AtomicBoolean();

    private void script(String name, String text) throws IOException {
        Path file = Files.createDirectories(folder.resolve("scripts")).resolve(name);
        Files.writeString(file, "#!/bin/sh\n" + text + "\n");
        Files.setPosixFilePermissions(file, PosixFilePermissions.fromString("rwxr-x---"));
    }

    private CallOutcome run(String name, String arguments, String secret, long seconds, Action.Output... outputs)
            throws Connector.Abandoned {
        return new ScriptConnector(folder.resolve("scripts"), folder.resolve("copies"))
                .call(
                        new Event.Call(
                                "c",
                                "START",
                                "/" + name,
                                Map.of(),
                                arguments,
                                null,
                                List.of(outputs),
                                List.of(),
                                seconds),
                        new Connection("scripts", "Scripts", "", List.of(), null),
                        secret,
                        new Listener(cancelled::get, heard::append));
    }

    private static Action.Output out(String pointer) {
        return new Action.Output(Field.of("it", "It", FieldType.LONG_TEXT).asRequired(), pointer);
    }

    @Test
    void argumentsAreValuesWhateverStandsInThem() throws Exception {
        script("say", "for a in \"$@\"; do printf '[%s]' \"$a\"; done");
        List<String> awkward = List.of("it's", "a \"b\"", "x\ny", "$(touch pwned)", "`id`", "; reboot", "*");
        assertThat(run("say", Json.write(awkward), null, 10, out("/out")))
                .isInstanceOfSatisfying(
                        CallOutcome.Done.class, d -> assertThat(d.outputs().get("it"))
                                .isEqualTo("[it's][a \"b\"][x\ny][$(touch pwned)][`id`][; reboot][*]"));
        assertThat(folder.resolve("scripts/pwned")).doesNotExist();
    }

    @Test
    void nothingOfThisProcessIsThereButItsOwnSecretAndThatIsNeverTold() throws Exception {
        script("env", "env | cut -d= -f1 | sort | tr '\\n' ' '; echo \"got $DASTUR_SECRET\"");
        CallOutcome outcome = run("env", null, "very-secret-word", 10, out("/out"));
        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, d -> {
            assertThat(d.outputs().get("it").toString())
                    .contains("DASTUR_SECRET HOME LANG PATH PWD")
                    .doesNotContain("JAVA", "very-secret-word");
            assertThat(d.log()).contains("SHA-256").doesNotContain("very-secret-word");
        });
        assertThat(heard).contains("got").doesNotContain("very-secret-word");
    }

    @Test
    void onlyFilesOfTheFolderItself() throws Exception {
        Files.createDirectories(folder.resolve("scripts"));
        Files.createSymbolicLink(folder.resolve("scripts/link"), Path.of("/bin/true"));
        Files.writeString(folder.resolve("scripts/text"), "#!/bin/sh\n");
        for (String name : List.of("link", "text", "none", "../scripts/none", "a/b", ".hidden")) {
            assertThat(run(name, null, null, 10))
                    .as(name)
                    .isInstanceOfSatisfying(
                            CallOutcome.Fault.class, f -> assertThat(f.sent()).isFalse());
        }
    }

    @Test
    void aStatusThatIsNotZeroIsAFailureThatSaysWhy() throws Exception {
        script("fails", "echo 'disk full' >&2; exit 3");
        assertThat(run("fails", null, null, 10)).isEqualTo(new CallOutcome.Failed("It ended with status 3: disk full"));
    }

    @Test
    void pastItsTimeItIsEndedWithAllThatItBegan() throws Exception {
        script("slow", "sleep 300 & echo $!; wait");
        assertThat(run("slow", null, null, 1)).isInstanceOf(CallOutcome.Unknown.class);
        long child = Long.parseLong(heard.toString().lines().toList().getLast().strip());
        assertGone(child);
    }

    @Test
    void whatNobodyWantsAnyMoreIsEnded() throws Exception {
        cancelled.set(true);
        script("slow", "sleep 300");
        assertThat(run("slow", null, null, 60))
                .isInstanceOfSatisfying(
                        CallOutcome.Unknown.class, u -> assertThat(u.why()).contains("cancelled"));
    }

    private static void assertGone(long process) throws Exception {
        Optional<ProcessHandle> there = ProcessHandle.of(process);
        if (there.isPresent()) {
            there.get().onExit().get(5, java.util.concurrent.TimeUnit.SECONDS);
        }
    }

    @Test
    void aFloodOfOutputIsBorneAndCut() throws Exception {
        script("flood", "head -c 50000000 /dev/zero | tr '\\0' x; echo end >&2");
        CallOutcome outcome = run("flood", null, null, 60, out("/err"));
        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, d -> {
            assertThat(d.outputs()).containsEntry("it", "end\n");
            assertThat(d.log().length()).isLessThan(3_000);
        });
    }

    /** What stands on the record is what ran: the revision, and whether the script differs from it. */
    @Test
    void theRevisionOfAClonedFolderIsTold() throws Exception {
        script("look", "echo seen");
        git("init", "-q");
        git("add", "look");
        git("-c", "user.name=n", "-c", "user.email=n@kestrel.example", "commit", "-qm", "first");
        assertThat(run("look", null, null, 10, out("/script/revision")))
                .isInstanceOfSatisfying(
                        CallOutcome.Done.class,
                        d -> assertThat(d.outputs().get("it").toString()).matches("[0-9a-f]{12}"));
        script("look", "echo changed");
        assertThat(run("look", null, null, 10, out("/script/revision")))
                .isInstanceOfSatisfying(
                        CallOutcome.Done.class,
                        d -> assertThat(d.outputs().get("it").toString()).matches("[0-9a-f]{12}, changed since"));
    }

    /** A clone whose files cannot be read: the revision is not known, and the script runs. */
    @Test
    void aCloneThatDoesNotAnswerIsNotWaitedFor() throws Exception {
        script("look", "echo here");
        Files.createDirectories(folder.resolve("scripts/.git/refs"));
        Files.createDirectories(folder.resolve("scripts/.git/objects"));
        // Whoever opens a pipe that nobody writes to waits.
        for (String file : List.of("config", "HEAD")) {
            assertThat(new ProcessBuilder(
                                    "mkfifo",
                                    folder.resolve("scripts/.git/" + file).toString())
                            .start()
                            .waitFor())
                    .isZero();
        }

        assertThat(run("look", null, null, 10, out("/script/revision")))
                .isInstanceOfSatisfying(
                        CallOutcome.Done.class,
                        d -> assertThat(d.outputs().get("it")).asString().startsWith("unknown"));
    }

    private void git(String... words) throws Exception {
        List<String> command = new java.util.ArrayList<>(
                List.of("git", "-C", folder.resolve("scripts").toString()));
        command.addAll(List.of(words));
        assertThat(new ProcessBuilder(command).inheritIO().start().waitFor()).isZero();
    }
}
