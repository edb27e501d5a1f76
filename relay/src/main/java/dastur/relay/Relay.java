package dastur.relay;

import dastur.connectors.Connector;
import dastur.connectors.relay.Lines;
import dastur.connectors.relay.SignedText;
import dastur.connectors.relay.Work;
import dastur.connectors.relay.WorkDone;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import java.io.IOException;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicReference;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Asks its server for work, makes it, and tells what became of it (M13, M15). What it began when the line is cut it finishes, and it
 * hands in afterwards what came of it. Whatever happens to the line, nothing is begun twice.
 */
public final class Relay implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Relay.class);
    private static final int AT_ONCE = 16;
    private static final Duration TELLS_EVERY = Duration.ofSeconds(5);
    private static final Duration SPEAKS_EVERY = Duration.ofMillis(500);
    private static final Duration LONGEST_PAUSE = Duration.ofSeconds(15);
    private static final Duration ENDS_WITHIN = Duration.ofSeconds(10);
    private static final int MOST_SAID = 60_000;
    private static final int MOST_ANSWER = 100_000;
    /** As long as a result may be: a request has at most a million bytes, and quotes in it count twice. */
    private static final int MOST_RESULT = 200_000;

    private static final int RESULTS = 20;

    private final Folder folder;
    private final Folder.Server server;
    private final KeyPair key;
    private final Folder.Read file;
    private final Journal journal;
    private final Doing doing;
    private final Line line;
    private final InstantSource clock;
    private final String boot = UUID.randomUUID().toString();
    private final Semaphore places = new Semaphore(AT_ONCE);
    private final Semaphore something = new Semaphore(0);
    private final Semaphore results = new Semaphore(0);
    private final Map<String, UnderWay> underWay = new ConcurrentHashMap<>();
    private final CountDownLatch over = new CountDownLatch(1);
    private final AtomicReference<@Nullable String> ended = new AtomicReference<>();
    private final List<Thread> threads = new ArrayList<>();
    private volatile boolean closing;
    private volatile boolean welcome;
    private long turn;

    private static final class UnderWay {
        private final StringBuilder said = new StringBuilder();
        private volatile boolean cancelled;
        private volatile @Nullable String answer;

        synchronized void heard(String text) {
            if (said.length() < MOST_SAID) {
                said.append(Texts.clip(text, MOST_SAID));
            }
        }

        /** What was said since, at most so much of it; the rest is told next. */
        synchronized String take(int most) {
            String some = said.substring(0, Math.min(most, said.length()));
            said.delete(0, some.length());
            return some;
        }

        synchronized void back(String text) {
            said.insert(0, text);
        }
    }

    /**
     * A relay with its folder.
     *
     * @throws IOException when the folder cannot be used; the message says why
     */
    public Relay(Path at, InstantSource clock) throws IOException {
        this.clock = clock;
        try {
            folder = new Folder(at);
            server = folder.server();
            key = folder.key();
            file = folder.allowed();
        } catch (Folder.Unusable | GeneralSecurityException e) {
            throw new IOException(e.getMessage(), e);
        }
        if (!file.allowed().zone().equals(server.zone())) {
            throw new IOException("allowed.json is for the zone '"
                    + file.allowed().zone() + "', but this relay is in '" + server.zone() + "'.");
        }
        line = new Line(server.address(), clock);
        journal = new Journal(folder.journal(), clock.instant());
        doing = new Doing(folder, file.allowed());
    }

    /** Begins to work. */
    public void start() throws IOException {
        for (String work : journal.begun()) {
            // Ended in the middle of it: nobody can know.
            done(work, new CallOutcome.Unknown("The relay was ended while this was under way."), 0, null);
        }
        // What an earlier process could not tell is told as soon as there is a line.
        something.release();
        threads.add(Thread.ofPlatform().name("relay-take").start(() -> again(this::takes)));
        threads.add(Thread.ofPlatform().name("relay-tell").start(this::tellsOn));
    }

    /** Waits until it ends for good. Returns why; null where it was closed. */
    public @Nullable String untilOver() throws InterruptedException {
        over.await();
        return ended.get();
    }

    private interface Turn {
        void take() throws IOException, InterruptedException, Line.Refused;
    }

    /** Goes on until it is closed or the server says that it is over; after a fault with growing pauses. */
    private void again(Turn turnOf) {
        long pause = SPEAKS_EVERY.toMillis();
        while (!closing && ended.get() == null) {
            try {
                turnOf.take();
                pause = SPEAKS_EVERY.toMillis();
            } catch (Line.Refused e) {
                if (e.forGood()) {
                    ended.compareAndSet(null, e.getMessage());
                    return;
                }
                LOG.warn("the server says: {}", e.getMessage());
                // It may not know any more that this process was let in: it is asked anew.
                welcome = welcome && !e.greetFirst();
                pause = paused(pause);
            } catch (IOException e) {
                LOG.warn("the line to {} is cut: {}; what is under way goes on", line.address(), e.getMessage());
                pause = paused(pause);
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException e) {
                LOG.error("a fault of the relay's own", e);
                pause = paused(pause);
            }
        }
    }

    /** Tells until the end; where the server says that it is over, also what comes of what was under way then. */
    private void tellsOn() {
        again(this::tells);
        while (!closing && !underWay.isEmpty()) {
            paused(SPEAKS_EVERY.toMillis());
        }
        if (ended.get() != null) {
            tellAtTheEnd();
            over.countDown();
        }
    }

    private void tellAtTheEnd() {
        try {
            tell();
        } catch (Line.Refused e) {
            LOG.info("the server was told at the end, and said: {}", e.getMessage());
        } catch (IOException e) {
            LOG.info("the server could not be told at the end; it is told when the relay works again");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private long paused(long pause) {
        try {
            Thread.sleep(pause);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        return Math.min(pause * 2, LONGEST_PAUSE.toMillis());
    }

    // --- asking for work

    private void takes() throws IOException, InterruptedException, Line.Refused {
        if (!welcome) {
            List<String> may = new ArrayList<>();
            if (file.writable()) {
                may.add("this file can be changed by the relay's own user: make it another's");
            }
            may.addAll(file.allowed().told());
            Lines.Welcome said = line.ask(
                    "hello",
                    new Lines.Hello(boot, Lines.PROTOCOL, version(), file.hash(), may),
                    Lines.Welcome.class,
                    server.relay(),
                    key);
            welcome = said.in();
            if (!welcome) {
                LOG.info("waits to be let in to '{}'; the key of this relay is {}", said.zoneName(), fingerprint());
                Thread.sleep(2_000);
                return;
            }
            LOG.info("works in '{}'", said.zoneName());
        }
        // Nothing is taken for which there is no place: it would lie here while another relay could do it.
        places.acquire();
        places.release();
        Lines.Given given = line.ask(
                "take",
                new Lines.Take(boot, ++turn, places.availablePermits(), has()),
                Lines.Given.class,
                server.relay(),
                key);
        for (SignedText came : given.work()) {
            accept(came);
        }
    }

    /** What it has: anything else that the server gave was lost on the line, and is given again. */
    private List<String> has() {
        List<String> has = new ArrayList<>(underWay.keySet());
        journal.untold().forEach(d -> has.add(work(d)));
        return has;
    }

    private static String work(SignedText done) {
        return Json.read(done.text(), WorkDone.class).work();
    }

    private static String version() {
        return Optional.ofNullable(Relay.class.getPackage().getImplementationVersion())
                .orElse("built from source");
    }

    /** By what people compare this relay's key with the one on the page of its zone. */
    public String fingerprint() {
        return Lines.read(dastur.core.record.Signing.publicKey(key));
    }

    private void accept(SignedText came) throws IOException {
        Work work;
        try {
            work = Work.open(came, server.key());
        } catch (Work.Unfit e) {
            LOG.error("refused: {}", e.getMessage());
            return;
        }
        if (!work.zone().equals(server.zone()) || !work.relay().equals(server.relay())) {
            LOG.error("refused: work {} is for another relay", work.id());
            return;
        }
        Instant now = clock.instant();
        Optional<String> unfit = work.unfitFor(server.zone(), server.relay(), now);
        if (!journal.begin(work.id(), now)) {
            LOG.warn("refused: work {} came before", work.id());
            return;
        }
        if (unfit.isPresent()) {
            done(work.id(), new CallOutcome.Failed(unfit.get() + " Nothing was done."), 0, null);
            return;
        }
        places.acquireUninterruptibly();
        UnderWay own = new UnderWay();
        underWay.put(work.id(), own);
        Thread.ofVirtual().name("work-" + work.id()).start(() -> {
            try {
                make(work, own);
            } finally {
                underWay.remove(work.id());
                places.release();
            }
        });
    }

    private void make(Work work, UnderWay own) {
        long began = System.nanoTime();
        CallOutcome outcome;
        try {
            outcome = doing.make(work, heartbeat(own));
        } catch (Connector.Abandoned e) {
            // Closed in the middle: the next process says that it is unsure.
            return;
        } catch (RuntimeException e) {
            LOG.error("work {} failed through a fault of the relay's own", work.id(), e);
            outcome = new CallOutcome.Fault(
                    "The relay itself failed while it made this call; it may have gone out.", true);
        }
        try {
            done(work.id(), outcome, (System.nanoTime() - began) / 1_000_000, own.answer);
        } catch (IOException e) {
            LOG.error("what became of work {} cannot be kept: {}", work.id(), e.getMessage());
        }
    }

    private void done(String work, CallOutcome outcome, long millis, @Nullable String answer) throws IOException {
        Instant now = clock.instant();
        String shown = answer == null || answer.length() > MOST_ANSWER ? null : answer;
        WorkDone done = WorkDone.of(work, server.relay(), outcome, millis, shown, now);
        SignedText signed = done.signed(key);
        if (signed.text().length() > MOST_RESULT) {
            // Never cut, since a check on it would lie; and never so long that the line refuses it for ever.
            CallOutcome tooMuch =
                    new CallOutcome.Unknown("It said yes, but what it gave is too much to be told over the line: "
                            + signed.text().length() + " characters, of which " + MOST_RESULT + " are borne.");
            signed = WorkDone.of(work, server.relay(), tooMuch, millis, null, now)
                    .signed(key);
        }
        journal.done(work, signed, now);
        results.release();
        something.release();
    }

    private Connector.Heartbeat heartbeat(UnderWay own) {
        return new Connector.Heartbeat() {
            @Override
            public boolean stillMine() {
                return !closing;
            }

            @Override
            public boolean cancelled() {
                return own.cancelled;
            }

            @Override
            public void heard(String text) {
                own.heard(text);
                something.release();
            }

            @Override
            public void answered(String json) {
                own.answer = json;
            }
        };
    }

    // --- telling

    private void tells() throws IOException, InterruptedException, Line.Refused {
        something.tryAcquire(TELLS_EVERY.toMillis(), TimeUnit.MILLISECONDS);
        // What is said in one go is told in one go; a result waits for nothing.
        results.tryAcquire(SPEAKS_EVERY.dividedBy(5).toMillis(), TimeUnit.MILLISECONDS);
        results.drainPermits();
        something.drainPermits();
        if (welcome) {
            tell();
        } else {
            something.release();
            Thread.sleep(SPEAKS_EVERY);
        }
    }

    private void tell() throws IOException, InterruptedException, Line.Refused {
        List<SignedText> untold = journal.untold();
        List<SignedText> now = bounded(untold);
        Map<String, String> said = new HashMap<>();
        int[] left = {MOST_SAID};
        underWay.forEach((work, own) -> {
            String text = own.take(left[0]);
            left[0] -= text.length();
            said.put(work, text);
        });
        Lines.Told told;
        try {
            told = line.ask(
                    "tell",
                    new Lines.Tell(
                            boot,
                            List.copyOf(underWay.keySet()),
                            said.entrySet().stream()
                                    .filter(s -> !s.getValue().isEmpty())
                                    .map(s -> new Lines.Said(s.getKey(), s.getValue()))
                                    .toList(),
                            now),
                    Lines.Told.class,
                    server.relay(),
                    key);
        } catch (IOException | Line.Refused e) {
            // What was said is said again; it may then stand there twice, but never not at all.
            said.forEach((work, text) -> {
                UnderWay own = underWay.get(work);
                if (own != null) {
                    own.back(text);
                }
            });
            something.release();
            throw e;
        }
        for (String work : told.kept()) {
            journal.told(work, clock.instant());
        }
        Set.copyOf(told.cancel()).forEach(work -> {
            UnderWay own = underWay.get(work);
            if (own != null) {
                own.cancelled = true;
            }
        });
        if (untold.size() > now.size() || left[0] == 0) {
            something.release();
        }
    }

    /** As many results as one request bears. */
    private static List<SignedText> bounded(List<SignedText> all) {
        List<SignedText> some = new ArrayList<>();
        long size = 0;
        for (SignedText one : all) {
            size += one.text().length();
            if (some.size() == RESULTS || !some.isEmpty() && size > MOST_RESULT) {
                break;
            }
            some.add(one);
        }
        return some;
    }

    /** Takes nothing new, and tells what is done within a few seconds; what is then still under way is unsure. */
    @Override
    public void close() {
        threads.stream().findFirst().ifPresent(Thread::interrupt);
        long until = System.nanoTime() + ENDS_WITHIN.toNanos();
        while (!underWay.isEmpty() && System.nanoTime() < until) {
            paused(SPEAKS_EVERY.toMillis() / 5);
        }
        closing = true;
        threads.forEach(Thread::interrupt);
        try {
            for (Thread thread : threads) {
                thread.join(ENDS_WITHIN);
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        if (welcome && ended.get() == null) {
            tellAtTheEnd();
        }
        doing.close();
        try {
            journal.close();
        } catch (IOException e) {
            LOG.warn("the journal could not be closed: {}", e.getMessage());
        }
        over.countDown();
    }
}
