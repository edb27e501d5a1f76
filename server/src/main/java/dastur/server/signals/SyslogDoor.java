package dastur.server.signals;

import dastur.core.json.Json;
import dastur.core.signal.Envelope;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Syslog;
import dastur.store.Busy;
import dastur.store.Database;
import dastur.store.Incoming.Arrival;
import dastur.store.Sources;
import io.github.bucket4j.Bucket;
import java.io.EOFException;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.locks.LockSupport;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * The door for syslog over TCP (RFC 5424; framed by octet counting or by lines, RFC 6587). A sender is known by the address that
 * it sends from and by nothing else. The protocol has no answer: a line is safe once it is kept, and what is on its way when the
 * server dies is lost (I2). Where too much comes at once, less is read: the sender waits.
 */
public final class SyslogDoor implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(SyslogDoor.class);
    private static final int MOST_LINES = 200;
    private static final int CONNECTIONS = 500;
    private static final int CONNECTIONS_OF_ONE = 50;
    /** A line that has begun is over within this. */
    private static final Duration WITHIN = Duration.ofSeconds(30);

    private static final Duration IDLE = Duration.ofMinutes(10);
    private static final Duration BUSY_PAUSE = Duration.ofMillis(200);
    private static final int LINES_A_SECOND = 2_000;

    private final Sources sources;
    private final Intake intake;
    private final Refusals refusals;
    private final InstantSource clock;
    private final ServerSocket server;
    private final Set<Socket> open = ConcurrentHashMap.newKeySet();
    private final Map<SourceKey, Bucket> rates = new ConcurrentHashMap<>();
    private final Thread thread;
    private volatile boolean closed;

    /**
     * Begins to listen.
     *
     * @param port 0 for any that is free
     * @throws IOException when it cannot, such as where another program has the port
     */
    public SyslogDoor(Sources sources, Intake intake, Refusals refusals, InstantSource clock, String host, int port)
            throws IOException {
        this.sources = sources;
        this.intake = intake;
        this.refusals = refusals;
        this.clock = clock;
        this.server = new ServerSocket();
        server.bind(new InetSocketAddress(host, port));
        this.thread = Thread.ofPlatform().daemon().name("dastur-syslog").start(this::accept);
    }

    public int port() {
        return server.getLocalPort();
    }

    private void accept() {
        while (!closed) {
            try {
                Socket socket = server.accept();
                if (open.size() >= CONNECTIONS || of(socket.getInetAddress()) >= CONNECTIONS_OF_ONE) {
                    LOG.warn("{} is sent away: as many as may be do send syslog", socket.getInetAddress());
                    socket.close();
                    continue;
                }
                open.add(socket);
                Thread.ofVirtual().name("syslog").start(() -> serve(socket));
            } catch (IOException e) {
                if (!closed) {
                    LOG.warn("a sender of syslog could not be let in", e);
                    LockSupport.parkNanos(BUSY_PAUSE.toNanos());
                }
            }
        }
    }

    private long of(InetAddress address) {
        return open.stream().filter(s -> address.equals(s.getInetAddress())).count();
    }

    private void serve(Socket socket) {
        try (socket) {
            socket.setSoTimeout((int) WITHIN.toMillis());
            read(socket);
        } catch (IOException e) {
            LOG.debug("a sender of syslog has gone", e);
        } catch (RuntimeException e) {
            LOG.warn("syslog from {} could not be kept", socket.getInetAddress(), e);
        } finally {
            open.remove(socket);
        }
    }

    private void read(Socket socket) throws IOException {
        InetAddress address = socket.getInetAddress();
        if (source(address).isEmpty()) {
            return;
        }
        SyslogFrames frames = new SyslogFrames(socket.getInputStream(), WITHIN, System::nanoTime);
        List<String> lines = new ArrayList<>();
        long last = System.nanoTime();
        try {
            while (!closed && System.nanoTime() - last < IDLE.toNanos()) {
                Optional<String> line = frames.next(lines.isEmpty());
                if (line.isPresent()) {
                    lines.add(line.get());
                    last = System.nanoTime();
                }
                if (!lines.isEmpty() && (line.isEmpty() || lines.size() == MOST_LINES)) {
                    keep(address, lines);
                    lines.clear();
                }
            }
        } catch (SyslogFrames.Broken e) {
            keep(address, lines);
            source(address).ifPresent(s -> refuse(s, e.reason(), String.valueOf(e.getMessage())));
        } catch (EOFException e) {
            keep(address, lines);
        }
    }

    private Optional<Source> source(InetAddress address) {
        return sources.all().stream()
                .filter(s -> s.proof() == Source.Proof.ADDRESS)
                .filter(s -> s.from().stream().anyMatch(n -> n.contains(address)))
                .findFirst();
    }

    private void keep(InetAddress address, List<String> lines) throws IOException {
        if (lines.isEmpty()) {
            return;
        }
        Optional<Source> source = source(address);
        if (source.isEmpty()) {
            throw new IOException("no source takes syslog from " + address.getHostAddress());
        }
        if (!source.get().open()) {
            refuse(source.get(), "shut", "'" + source.get().name() + "' is shut at this moment; nothing was taken.");
            throw new IOException("the source is shut");
        }
        List<Arrival> arrivals = new ArrayList<>();
        Instant now = clock.instant();
        for (String line : lines) {
            try {
                String raw = Json.write(Syslog.read(line));
                // Nothing says that a line was sent twice: the same words twice are two signals.
                arrivals.add(intake.arrival(source.get().key(), now, null, "{}", raw));
            } catch (Envelope.Unreadable e) {
                refuse(source.get(), "not readable", String.valueOf(e.getMessage()));
            }
        }
        if (!arrivals.isEmpty()) {
            // As much as over HTTP, by however many connections: what is more waits at the sender.
            rates.computeIfAbsent(source.get().key(), k -> rate()).asBlocking().consumeUninterruptibly(arrivals.size());
            untilKept(arrivals);
        }
    }

    private static Bucket rate() {
        return Bucket.builder()
                .addLimit(l -> l.capacity(LINES_A_SECOND).refillGreedy(LINES_A_SECOND, Duration.ofSeconds(1)))
                .build();
    }

    private void untilKept(List<Arrival> arrivals) throws IOException {
        while (!closed) {
            try {
                intake.keep(arrivals);
                return;
            } catch (RuntimeException e) {
                if (!(e instanceof Busy) && !Database.isUnreachable(e)) {
                    throw e;
                }
                LockSupport.parkNanos(BUSY_PAUSE.toNanos());
            }
        }
        throw new IOException("the server is stopping");
    }

    private void refuse(Source source, String reason, String words) {
        SourceKey key = source.key();
        refusals.count(key, reason, words, clock.instant());
    }

    @Override
    public void close() {
        closed = true;
        try {
            server.close();
        } catch (IOException e) {
            LOG.debug("the door for syslog was closed already", e);
        }
        open.forEach(socket -> {
            try {
                socket.close();
            } catch (IOException e) {
                LOG.debug("a sender of syslog has gone", e);
            }
        });
        thread.interrupt();
    }
}
