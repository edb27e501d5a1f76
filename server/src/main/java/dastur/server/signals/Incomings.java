package dastur.server.signals;

import dastur.core.signal.SourceKey;
import dastur.server.work.CommandService;
import dastur.store.Consequences;
import dastur.store.Incoming;
import dastur.store.Matters;
import dastur.store.Neighbours;
import dastur.store.Nodes;
import dastur.store.Organisation;
import dastur.store.Signals;
import dastur.store.Sources;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.function.BooleanSupplier;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/** All that goes on about signals: keeps them, and routes them on the node whose duty that is. */
public final class Incomings implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Incomings.class);
    private static final Duration IDLE = Duration.ofMillis(250);
    private static final Duration REFUSALS_EVERY = Duration.ofSeconds(5);
    private static final Duration FORGET_EVERY = Duration.ofMinutes(10);

    /**
     * What it works with.
     *
     * @param held whether nothing may be started, since the database was restored
     */
    public record Uses(
            Incoming incoming,
            Matters matters,
            Consequences consequences,
            Sources sources,
            Signals signals,
            Organisation organisation,
            Neighbours neighbours,
            Workflows workflows,
            Tickets tickets,
            CommandService commands,
            Nodes nodes,
            BooleanSupplier held,
            InstantSource clock) {}

    private final Uses means;
    private final Refusals refusals = new Refusals();
    private final Understanding understanding;
    private final Delivering delivering;
    private final Foreseeing foreseeing;
    private final Folding folding;
    private final Router router;
    private final Judging judging;
    private final Intake intake;
    private final Listening listening;
    private final Semaphore wake = new Semaphore(0);
    private final Thread thread;
    private volatile boolean stopping;
    private Instant lastForgot = Instant.MIN;
    private long wroteRefusals = System.nanoTime();

    public Incomings(Uses means) {
        this.means = means;
        this.understanding = new Understanding(means.organisation());
        this.delivering = new Delivering(means.commands(), means.signals());
        Surroundings surroundings = new Surroundings(
                understanding, means.organisation(), means.matters(), means.neighbours(), means.tickets());
        this.foreseeing =
                new Foreseeing(surroundings, means.matters(), means.signals(), means.workflows(), means.clock());
        this.folding = new Folding(
                means.consequences(), means.organisation(), means.tickets(), means.commands(), means.clock());
        Router.Uses uses = new Router.Uses(
                means.incoming(),
                means.matters(),
                means.sources(),
                means.workflows(),
                means.tickets(),
                means.commands(),
                understanding,
                surroundings,
                delivering,
                folding,
                means.clock());
        this.router = new Router(uses);
        this.judging = new Judging(uses);
        this.intake = new Intake(means.incoming(), count -> wake());
        this.listening = new Listening(means.sources(), means.incoming(), means.matters(), intake, means.clock());
        this.thread = Thread.ofPlatform().daemon().name("dastur-router").unstarted(this::loop);
    }

    public Intake intake() {
        return intake;
    }

    public Refusals refusals() {
        return refusals;
    }

    /** What a ticket would say that is opened for what a source sends; empty where that cannot be read. @param raw JSON */
    public Optional<Map<String, Object>> fields(SourceKey source, String raw, Instant now) {
        return means.sources().find(source).flatMap(s -> Optional.ofNullable(
                        understanding.read(s, "", now, "{}", raw).signal())
                .map(signal -> Settling.fields(signal, s)));
    }

    public Understanding understanding() {
        return understanding;
    }

    public Foreseeing foreseeing() {
        return foreseeing;
    }

    public Delivering delivering() {
        return delivering;
    }

    public void start() {
        thread.start();
    }

    private void wake() {
        if (wake.availablePermits() == 0) {
            wake.release();
        }
    }

    /** Routes what waits, and looks again at what is due, once. Returns whether there was anything; another round may follow. */
    public boolean work() {
        boolean busy = router.route() | judging.judge();
        folding.look();
        return busy;
    }

    private void loop() {
        while (!stopping) {
            try {
                boolean may =
                        means.nodes().has(Nodes.Duty.SIGNALS) && !means.held().getAsBoolean();
                boolean busy = may && work();
                lookAfter();
                if (!busy && wake.tryAcquire(IDLE.toMillis(), TimeUnit.MILLISECONDS)) {
                    wake.drainPermits();
                }
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException e) {
                LOG.warn("routing signals failed and is tried again", e);
                pause();
            }
        }
    }

    private void lookAfter() {
        long now = System.nanoTime();
        if (now - wroteRefusals > REFUSALS_EVERY.toNanos()) {
            wroteRefusals = now;
            refusals.write(means.incoming());
            intake.unrouted(means.incoming().unrouted(Intake.UNROUTED));
        }
        Instant moment = means.clock().instant();
        listening.look(means.nodes().has(Nodes.Duty.SIGNALS) && !means.held().getAsBoolean());
        if (lastForgot.isBefore(moment.minus(FORGET_EVERY)) && means.nodes().has(Nodes.Duty.SIGNALS)) {
            lastForgot = moment;
            means.incoming().forgetBefore(moment.minus(Incoming.KEPT));
        }
    }

    private void pause() {
        try {
            Thread.sleep(IDLE);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Keeps what waits, then ends what is under way. */
    @Override
    public void close() {
        intake.close();
        stopping = true;
        wake();
        try {
            if (thread.isAlive()) {
                thread.join(Duration.ofSeconds(10));
            }
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
        refusals.write(means.incoming());
    }
}
