package dastur.connectors.walk;

import dastur.connectors.Carriers;
import dastur.core.json.Texts;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.InputStreamReader;
import java.io.UncheckedIOException;
import java.nio.charset.StandardCharsets;
import java.nio.file.FileVisitResult;
import java.nio.file.Files;
import java.nio.file.LinkOption;
import java.nio.file.Path;
import java.nio.file.SimpleFileVisitor;
import java.nio.file.attribute.BasicFileAttributes;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * The program that drives a browser (W3C WebDriver), started for one walk and ended with it: with a folder of its own that is gone
 * afterwards, and never as root, so that the browser keeps its own walls.
 */
final class Driver implements AutoCloseable {
    private static final String PROGRAM = "chromedriver";
    private static final Pattern STARTED = Pattern.compile("started successfully on port (\\d+)");
    private static final int TRIES = 3;
    private static final Duration STARTS_WITHIN = Duration.ofSeconds(20);
    /** How its folder is called, before the number of the process that made it. */
    static final String FOLDER = "dastur-walk-";

    private static final Pattern OF = Pattern.compile(FOLDER + "(\\d+)-.*");
    /** Who it is started as where this process is root's. */
    private static final String NOBODY = "nobody";

    private final Process process;
    private final Path folder;
    private final int port;

    private Driver(Process process, Path folder, int port) {
        this.process = process;
        this.folder = folder;
        this.port = port;
    }

    /** Where the program is; empty where there is none, and no walk can be made. */
    static Optional<Path> program() {
        return onPath(PROGRAM);
    }

    private static Optional<Path> onPath(String name) {
        String path = System.getenv().getOrDefault("PATH", "") + ":/usr/bin:/usr/local/bin";
        return Stream.of(path.split(":"))
                .filter(p -> !p.isBlank())
                .map(p -> Path.of(p, name))
                .filter(Files::isExecutable)
                .findFirst();
    }

    /** @throws IOException when it cannot be started; the message says why */
    static Driver start() throws IOException {
        Path program =
                program().orElseThrow(() -> new IOException("There is no browser here: install " + PROGRAM + "."));
        sweep();
        return start(program);
    }

    /** One that ends at once is started again: it may have met another for the number of its port, and nothing was asked of it yet. */
    static Driver start(Path program) throws IOException {
        for (int i = 1; ; i++) {
            try {
                return once(program);
            } catch (Ended e) {
                if (i == TRIES) {
                    throw e;
                }
            }
        }
    }

    /** It ended before it could be asked anything. */
    private static final class Ended extends IOException {
        Ended(String said) {
            super("The browser's driver ended at once"
                    + (said.isBlank() ? "." : ", saying: " + Texts.clip(said.strip(), 300)));
        }
    }

    private static Driver once(Path program) throws IOException {
        Path folder = Files.createTempDirectory(FOLDER + ProcessHandle.current().pid() + "-");
        Process process = null;
        try {
            List<String> command = new ArrayList<>();
            if (System.getProperty("user.name").equals("root")) {
                Files.setOwner(
                        folder,
                        folder.getFileSystem().getUserPrincipalLookupService().lookupPrincipalByName(NOBODY));
                Path as = onPath("setpriv")
                        .orElseThrow(
                                () -> new IOException(
                                        "A browser is not started as root. Start Dastur as a user of its own, or install setpriv."));
                command.addAll(List.of(as.toString(), "--reuid=" + NOBODY, "--regid=nogroup", "--clear-groups"));
            }
            // The path of its log tells afterwards whose it was.
            command.addAll(List.of(program.toString(), "--port=0", "--log-path=" + folder.resolve("log")));
            ProcessBuilder builder = new ProcessBuilder(command);
            // Nothing that this process knows goes along: keys and passwords may stand in its environment.
            builder.environment().clear();
            builder.environment()
                    .putAll(Map.of(
                            "PATH",
                            "/usr/bin:/bin",
                            "HOME",
                            folder.toString(),
                            "TMPDIR",
                            folder.toString(),
                            "LANG",
                            "C.UTF-8"));
            process =
                    builder.directory(folder.toFile()).redirectErrorStream(true).start();
            return new Driver(process, folder, port(process));
        } catch (IOException | RuntimeException e) {
            end(process, folder);
            throw e;
        }
    }

    /** Ends what is left of walks whose own process was killed, and clears away their folders. */
    private static void sweep() throws IOException {
        List<Path> old;
        try (Stream<Path> all = Files.list(Path.of(System.getProperty("java.io.tmpdir")))) {
            old = all.filter(Driver::isOrphaned).toList();
        }
        for (Path folder : old) {
            kill(of(folder));
            clear(folder);
        }
    }

    /** What runs in a folder: a browser whose driver was killed belongs to nobody any more. */
    private static Stream<ProcessHandle> of(Path folder) {
        return ProcessHandle.allProcesses()
                .filter(p -> p.info().commandLine().orElse("").contains(folder + "/"));
    }

    private static void kill(Stream<ProcessHandle> processes) {
        List<ProcessHandle> all = processes.distinct().toList();
        all.forEach(ProcessHandle::destroyForcibly);
        all.forEach(p -> p.onExit().completeOnTimeout(p, 5, TimeUnit.SECONDS).join());
    }

    /** One of ours, of a process that is gone. Others may put into this folder what they like. */
    private static boolean isOrphaned(Path folder) {
        Matcher of = OF.matcher(folder.getFileName().toString());
        if (!of.matches()
                || !Files.isDirectory(folder, LinkOption.NOFOLLOW_LINKS)
                || ProcessHandle.of(Long.parseLong(of.group(1)))
                        .filter(ProcessHandle::isAlive)
                        .isPresent()) {
            return false;
        }
        try {
            String owner = Files.getOwner(folder, LinkOption.NOFOLLOW_LINKS).getName();
            return owner.equals(System.getProperty("user.name")) || owner.equals(NOBODY);
        } catch (IOException e) {
            return false;
        }
    }

    /** Reads on, so that the program never waits for somebody to read what it says. */
    private static int port(Process process) throws IOException {
        CompletableFuture<Integer> port = new CompletableFuture<>();
        Carriers.apart("walk-driver", () -> {
            StringBuilder first = new StringBuilder();
            try (BufferedReader said =
                    new BufferedReader(new InputStreamReader(process.getInputStream(), StandardCharsets.UTF_8))) {
                for (String line = said.readLine(); line != null; line = said.readLine()) {
                    Matcher started = STARTED.matcher(line);
                    if (started.find()) {
                        port.complete(Integer.parseInt(started.group(1)));
                    }
                    if (first.length() < 1_000) {
                        first.append(line).append(' ');
                    }
                }
            } catch (IOException e) {
                // It has ended; said below.
            }
            port.completeExceptionally(new Ended(first.toString()));
        });
        try {
            return port.get(STARTS_WITHIN.toMillis(), TimeUnit.MILLISECONDS);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new IOException("It was interrupted.", e);
        } catch (TimeoutException e) {
            throw new IOException(
                    "The browser could not be started within " + STARTS_WITHIN.toSeconds() + " seconds.", e);
        } catch (ExecutionException e) {
            throw e.getCause() instanceof IOException ended
                    ? ended
                    : new IOException("The browser could not be started.", e);
        }
    }

    int port() {
        return port;
    }

    /** The browser's own folder. */
    Path profile() {
        return folder.resolve("profile");
    }

    boolean isAlive() {
        return process.isAlive();
    }

    @Override
    public void close() {
        end(process, folder);
    }

    private static void end(@Nullable Process process, Path folder) {
        if (process != null) {
            kill(Stream.of(process.descendants(), Stream.of(process.toHandle()), of(folder))
                    .flatMap(p -> p));
        }
        clear(folder);
    }

    private static void clear(Path folder) {
        try {
            Files.walkFileTree(folder, new SimpleFileVisitor<>() {
                @Override
                public FileVisitResult visitFile(Path file, BasicFileAttributes of) throws IOException {
                    Files.deleteIfExists(file);
                    return FileVisitResult.CONTINUE;
                }

                @Override
                public FileVisitResult visitFileFailed(Path file, IOException e) {
                    return FileVisitResult.CONTINUE;
                }

                @Override
                public FileVisitResult postVisitDirectory(Path dir, @Nullable IOException e) throws IOException {
                    Files.deleteIfExists(dir);
                    return FileVisitResult.CONTINUE;
                }
            });
        } catch (IOException e) {
            throw new UncheckedIOException("What a walk left behind could not be cleared away.", e);
        }
    }
}
