package dastur.server;

import dastur.demo.Demo;
import dastur.demo.DemoScene;
import dastur.standins.Standins;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.stream.Stream;

/** The demo's data folder, built once a test run: its weeks of history take longer to make than most tests to run. */
public final class DemoData {
    private static Path built;

    private DemoData() {}

    /** Starts the demo on a copy. @param data an empty folder, or one that is not there yet */
    public static DemoApp start(Path data, InstantSource clock, Duration callLease, Duration enrolment) {
        fill(data);
        return started(data, clock, callLease, enrolment, false);
    }

    /** The same with the relay of the Mooring Data Room. */
    public static DemoApp withRelay(Path data, InstantSource clock, Duration callLease, Duration enrolment) {
        fill(data);
        return started(data, clock, callLease, enrolment, true);
    }

    /** Starts the demo on what is in a folder. */
    public static DemoApp again(Path data, InstantSource clock, Duration callLease, Duration enrolment) {
        return started(data, clock, callLease, enrolment, false);
    }

    /** Puts a copy of the demo's database into a folder. */
    public static void fill(Path data) {
        copy(built(), data);
    }

    private static DemoApp started(
            Path data, InstantSource clock, Duration callLease, Duration enrolment, boolean relay) {
        return new DemoApp(
                new Settings(data, "127.0.0.1", 0, clock, callLease, Settings.LOCAL_MAIL).withSyslog(0),
                new DemoScene(Standins.Ports.FREE, enrolment, relay));
    }

    private static synchronized Path built() {
        if (built == null) {
            try {
                Path folder = Files.createTempDirectory("dastur-demo");
                // No stand-ins are there yet: each copy's own are to get what the live cases have to say.
                Demo.make(folder, Instant.now(), new DataFolder(folder).rowKey());
                Runtime.getRuntime().addShutdownHook(new Thread(() -> delete(folder)));
                built = folder;
            } catch (IOException e) {
                throw new UncheckedIOException(e);
            }
        }
        return built;
    }

    private static void copy(Path from, Path to) {
        try (Stream<Path> files = Files.list(from)) {
            Files.createDirectories(to);
            for (Path file : files.toList()) {
                Files.copy(file, to.resolve(file.getFileName()), StandardCopyOption.REPLACE_EXISTING);
            }
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private static void delete(Path folder) {
        try (Stream<Path> files = Files.list(folder)) {
            List<Path> all = files.toList();
            for (Path file : all) {
                Files.delete(file);
            }
            Files.delete(folder);
        } catch (IOException e) {
            // A folder of the system's temporary ones is left behind.
        }
    }
}
