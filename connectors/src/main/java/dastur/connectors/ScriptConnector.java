package dastur.connectors;

import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.connectors.relay.Allowed;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileSystems;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.nio.file.attribute.PosixFilePermissions;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import org.jspecify.annotations.Nullable;

/**
 * Runs a script out of one folder (M14): by its name, with its arguments as separate values and no shell between, and without
 * anything of this process's surroundings. What runs is a private copy of what was hashed, so that the hash on the record is that of
 * what was done; where the folder is a clone of a repository, its revision stands there too.
 */
public final class ScriptConnector implements Connector {
    private static final Duration LOOKS_UP_EVERY = Duration.ofMillis(200);
    private static final Duration GIT = Duration.ofSeconds(5);
    private static final int LONGEST_OF_GIT = 10_000;
    private static final long LONGEST_SCRIPT = 1_000_000;
    private static final int TRIES = 5;

    private final Path scripts;
    private final Path copies;

    /** @param copies a folder of this process's own */
    public ScriptConnector(Path scripts, Path copies) {
        this.scripts = scripts;
        this.copies = copies;
    }

    /** What is run. @param revision of the folder; null where it is no clone */
    private record Fixed(
            Path copy, String name, String hash, @Nullable String revision) {
        String told() {
            return "script " + name + " (SHA-256 " + hash.substring(0, 16) + "…"
                    + (revision == null ? "" : ", revision " + revision) + ")";
        }
    }

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        long started = System.nanoTime();
        var scrub = Answers.scrub(secret);
        try {
            List<String> arguments = call.body() == null
                    ? List.of()
                    : Allowed.texts(call.body())
                            .orElseThrow(() -> Definite.ours("The arguments are no JSON list of texts."));
            Fixed fixed = fixed(Allowed.script(call));
            heartbeat.heard(fixed.told() + "\n");
            ObjectNode answer = run(fixed, arguments, Duration.ofSeconds(call.limitSeconds()), secret, heartbeat);
            answer.putObject("script").put("sha256", fixed.hash()).put("revision", fixed.revision());
            heartbeat.answered(scrub.apply(answer.toString()));
            Answers.checkStatus(call, answer);
            long millis = (System.nanoTime() - started) / 1_000_000;
            String log = fixed.told() + " → status 0 in " + millis + " ms\n"
                    + Texts.clip(answer.get("out").asText(), Answers.MAX_LOGGED);
            return Answers.done(call, answer, scrub, log, millis, 0);
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        } catch (IOException e) {
            return new CallOutcome.Fault("The script could not be begun: " + Texts.clip(e.getMessage(), 200), false);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new Abandoned();
        }
    }

    /** Takes a private copy of a script, so that what runs is what was hashed. */
    private Fixed fixed(String name) throws IOException, Definite, InterruptedException {
        Path script = scripts.resolve(name);
        if (!name.matches("[a-z0-9][a-z0-9._-]{0,79}")
                || !Files.isRegularFile(script, LinkOption.NOFOLLOW_LINKS)
                || !Files.isExecutable(script)
                || Files.size(script) > LONGEST_SCRIPT) {
            throw Definite.ours("There is no script '" + Texts.clip(name, 80)
                    + "' in the relay's folder: a file of its own, executable, of at most 1 MB.");
        }
        byte[] bytes = Files.readAllBytes(script);
        String hash = hash(bytes);
        Path copy = copies.resolve(hash + "-" + name);
        if (!Files.exists(copy) || !hash(Files.readAllBytes(copy)).equals(hash)) {
            Files.createDirectories(copies);
            Path half = Files.createTempFile(copies, "half", "");
            Files.write(half, bytes);
            if (FileSystems.getDefault().supportedFileAttributeViews().contains("posix")) {
                Files.setPosixFilePermissions(half, PosixFilePermissions.fromString("r-x------"));
            }
            Files.move(half, copy, StandardCopyOption.ATOMIC_MOVE, StandardCopyOption.REPLACE_EXISTING);
        }
        return new Fixed(copy, name, hash, revision(name).orElse(null));
    }

    private static String hash(byte[] bytes) {
        try {
            return HexFormat.of().formatHex(MessageDigest.getInstance("SHA-256").digest(bytes));
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    /** The revision that the folder is at; said to be changed where the script differs from it. Empty where it is no clone. */
    private Optional<String> revision(String name) throws InterruptedException {
        if (!Files.isDirectory(scripts.resolve(".git"))) {
            return Optional.empty();
        }
        Optional<String> head = git("rev-parse", "HEAD").filter(h -> h.matches("[0-9a-f]{40,64}"));
        Optional<String> changed = git("status", "--porcelain", "--", name);
        return Optional.of(head.map(h -> h.substring(0, 12)).orElse("unknown")
                + (changed.isEmpty() || !changed.get().isBlank() ? ", changed since" : ""));
    }

    private Optional<String> git(String... words) throws InterruptedException {
        List<String> command = new ArrayList<>(List.of(
                "git", "-c", "core.fsmonitor=false", "-c", "core.hooksPath=/dev/null", "-C", scripts.toString()));
        command.addAll(List.of(words));
        try {
            ProcessBuilder builder = bare(command, null);
            builder.redirectError(ProcessBuilder.Redirect.DISCARD);
            Process git = builder.start();
            try {
                String said = Carriers.await(
                        () -> new String(git.getInputStream().readNBytes(LONGEST_OF_GIT), StandardCharsets.UTF_8), GIT);
                return git.waitFor(GIT.toMillis(), TimeUnit.MILLISECONDS) && git.exitValue() == 0
                        ? Optional.of(said.strip())
                        : Optional.empty();
            } finally {
                end(git);
            }
        } catch (IOException | ExecutionException | TimeoutException e) {
            return Optional.empty();
        }
    }

    private ProcessBuilder bare(List<String> command, @Nullable String secret) {
        ProcessBuilder builder = new ProcessBuilder(command)
                .directory(scripts.toFile())
                .redirectInput(ProcessBuilder.Redirect.from(new java.io.File("/dev/null")));
        builder.environment().clear();
        builder.environment().put("PATH", "/usr/local/sbin:/usr/local/bin:/usr/sbin:/usr/bin:/sbin:/bin");
        builder.environment().put("LANG", "C.UTF-8");
        builder.environment().put("HOME", copies.toString());
        if (secret != null) {
            builder.environment().put("DASTUR_SECRET", secret);
        }
        return builder;
    }

    private ObjectNode run(
            Fixed fixed, List<String> arguments, Duration limit, @Nullable String secret, Heartbeat heartbeat)
            throws IOException, InterruptedException, Doubtful, Abandoned {
        List<String> command = new ArrayList<>(List.of(fixed.copy().toString()));
        command.addAll(arguments);
        Process process = start(bare(command, secret));
        Heard out = new Heard(new Scrubbing(secret, heartbeat::heard));
        Heard err = new Heard(new Scrubbing(secret, heartbeat::heard));
        Thread outs = Carriers.apart("script-out", () -> pour(process.getInputStream(), out));
        Thread errs = Carriers.apart("script-err", () -> pour(process.getErrorStream(), err));
        long deadline = System.nanoTime() + limit.toNanos();
        while (!process.waitFor(LOOKS_UP_EVERY.toMillis(), TimeUnit.MILLISECONDS)) {
            boolean late = System.nanoTime() > deadline;
            if (late || heartbeat.cancelled() || !heartbeat.stillMine()) {
                end(process);
                if (!heartbeat.stillMine()) {
                    throw new Abandoned();
                }
                throw new Doubtful(
                        late
                                ? "The script was not done within the time limit, and was ended."
                                : "It was cancelled while the script ran, and ended.");
            }
        }
        // What the script has left behind may hold its output open; it is not waited for.
        outs.join(Duration.ofSeconds(1));
        errs.join(Duration.ofSeconds(1));
        end(process);
        out.end();
        err.end();
        return Answers.ofCommand(process.exitValue(), out, err);
    }

    /** Just after it was written, a file may be held open for a moment by a process that begins at the same time. */
    private static Process start(ProcessBuilder builder) throws IOException, InterruptedException {
        for (int i = 1; ; i++) {
            try {
                return builder.start();
            } catch (IOException e) {
                if (i == TRIES || !String.valueOf(e.getMessage()).contains("error=26")) {
                    throw e;
                }
                Thread.sleep(20L * i);
            }
        }
    }

    /** With all that it has begun. */
    private static void end(Process process) {
        process.descendants().forEach(ProcessHandle::destroyForcibly);
        process.destroyForcibly();
    }

    private static void pour(InputStream from, OutputStream to) {
        try (from) {
            from.transferTo(to);
        } catch (IOException e) {
            // It was ended.
        }
    }
}
