package dastur.standins;

import java.io.IOException;
import java.io.RandomAccessFile;
import java.io.UncheckedIOException;
import java.nio.file.AccessDeniedException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.attribute.FileTime;
import java.time.Duration;
import java.time.Instant;
import java.util.Comparator;
import java.util.List;
import java.util.stream.Stream;
import org.apache.sshd.common.file.virtualfs.VirtualFileSystemFactory;
import org.apache.sshd.server.SshServer;
import org.apache.sshd.server.session.ServerSession;
import org.apache.sshd.sftp.server.SftpEventListener;
import org.apache.sshd.sftp.server.SftpSubsystemFactory;

/**
 * Trace files of the rostering server, over SFTP below {@code /hosts/roster-1}: seven are large and old, one of which is in use and
 * cannot be removed; others are new or small. They hold nothing, and take no room where a disk knows files with holes.
 */
public final class TraceFiles implements AutoCloseable {
    private static final String IN_USE = "roster-sync.4.trace";
    private static final long MB = 1_000_000;

    private final Path root;

    TraceFiles(SshServer server) {
        try {
            root = Files.createTempDirectory("dastur-traces");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        SftpSubsystemFactory files = new SftpSubsystemFactory();
        files.addSftpEventListener(new SftpEventListener() {
            @Override
            public void removing(ServerSession session, Path path, boolean folder) throws IOException {
                if (path.getFileName().toString().equals(IN_USE)) {
                    throw new AccessDeniedException(path.toString(), null, "the file is in use");
                }
            }
        });
        server.setSubsystemFactories(List.of(files));
        server.setFileSystemFactory(new VirtualFileSystemFactory(root));
        fill();
    }

    private Path folder() {
        return root.resolve("hosts").resolve("roster-1");
    }

    /** Puts all of them there again. */
    public void fill() {
        try {
            Files.createDirectories(folder());
            for (int i = 1; i <= 7; i++) {
                file("roster-sync." + i + ".trace", 260 + 20L * i, 2 + i);
            }
            file("roster-sync.0.trace", 310, 0);
            file("crew-app.1.trace", 40, 12);
            file("crew-app.2.trace", 90, 5);
            file("start.log", 1, 30);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    private void file(String name, long megabytes, long days) throws IOException {
        Path file = folder().resolve(name);
        try (RandomAccessFile holes = new RandomAccessFile(file.toFile(), "rw")) {
            holes.setLength(megabytes * MB);
        }
        Files.setLastModifiedTime(
                file, FileTime.from(Instant.now().minus(Duration.ofDays(days)).minusSeconds(600)));
    }

    /** Their names. */
    public List<String> names() {
        try (Stream<Path> files = Files.list(folder())) {
            return files.map(f -> f.getFileName().toString()).sorted().toList();
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
    }

    @Override
    public void close() {
        try (Stream<Path> all = Files.walk(root)) {
            for (Path one : all.sorted(Comparator.reverseOrder()).toList()) {
                Files.delete(one);
            }
        } catch (IOException e) {
            // A folder of the system's temporary ones is left behind.
        }
    }
}
