package dastur.server.work;

import dastur.connectors.Connector;
import dastur.connectors.MailConnector;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.record.Checkpoint;
import dastur.core.record.Signer;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.run.LookupKey;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingCommands.CallResult;
import dastur.core.step.update.Updated;
import dastur.core.step.waiting.WaitEvents.WaitBegan;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Protocol;
import dastur.core.workflow.StepId;
import dastur.server.auth.DecisionLinks;
import dastur.server.auth.MailThreads;
import dastur.server.chat.Chat;
import dastur.server.machines.Voices;
import dastur.store.Cases;
import dastur.store.Chats;
import dastur.store.FormDrafts;
import dastur.store.Keeping;
import dastur.store.MailAsks;
import dastur.store.Nodes;
import dastur.store.Outbox;
import dastur.store.Outbox.Taken;
import dastur.store.RecordLog;
import dastur.store.Signals;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutionException;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.Semaphore;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.TimeoutException;
import java.util.function.BooleanSupplier;
import java.util.function.Consumer;
import java.util.function.Function;
import java.util.function.Predicate;
import java.util.function.Supplier;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Carries out what stands in the outbox and wakes cases whose alarm has come. A worker that dies loses its lease; the
 * next one sees that the row was tried before: free and keyed calls go out again under their key, one that must never be
 * repeated is reported as unknown (D13).
 */
public final class Workers implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Workers.class);
    /** How many pieces of work of each kind are under way at once, at most; of calls, {@link PeerPlaces} says. */
    private static final int MESSAGES = 32;

    private static final int ROOMS = 8;
    private static final int ERRANDS = 16;
    private static final int ALARMS = 32;
    private static final int CARE = 2;
    /** Rows taken in one go. */
    private static final int AT_ONCE = 16;

    private static final Duration IDLE = Duration.ofMillis(250);
    private static final Duration LOOK_PAST_EVERY = Duration.ofMillis(100);
    private static final Duration ALARM_LEASE = Duration.ofSeconds(30);
    private static final Duration MAIL_LEASE = Duration.ofSeconds(60);
    private static final Duration ERRAND_LEASE = Duration.ofSeconds(30);
    private static final Duration ANSWERS_KEPT = Duration.ofDays(30);
    private static final Duration LOOK_EVERY = Duration.ofMinutes(1);
    private static final Duration RECHECK_EVERY = Duration.ofMinutes(5);
    private static final Duration FORGET_EVERY = Duration.ofHours(1);
    private static final Duration LOG_EVERY = Duration.ofSeconds(1);
    private static final Duration ALIVE_EVERY = Duration.ofSeconds(2);

    /**
     * What workers need from outside.
     *
     * @param breakers say over which connections calls wait
     * @param callLease how long a taken call stays with its worker without a sign of life
     * @param secret a secret's value by its name
     * @param witness is given signed statements of how far the log reaches
     * @param lookAfter looks after what is kept; called each minute
     * @param handed whether a call was handed to a relay, by its id
     * @param voices writes down what calls say
     * @param threads names mails that may be answered
     * @param hearsMail whether answers to mails are read
     * @param address where people reach the application, for links in mails
     */
    public record Uses(
            Outbox outbox,
            CommandService commands,
            RecordLog log,
            Consumer<Checkpoint> witness,
            Keeping keeping,
            Nodes nodes,
            Consumer<Instant> lookAfter,
            Tickets tickets,
            Cases cases,
            Signals signals,
            Connector calls,
            Predicate<String> handed,
            Voices voices,
            CallFiles files,
            MailConnector mail,
            Function<String, Optional<Connection>> connection,
            Function<String, Optional<String>> secret,
            Function<PersonId, Optional<Person>> person,
            InstantSource clock,
            Breakers breakers,
            Duration callLease,
            DecisionLinks links,
            Supplier<String> address,
            Chats chats,
            Chat chat,
            MailAsks asks,
            FormDrafts drafts,
            MailThreads threads,
            BooleanSupplier hearsMail) {}

    private final Uses means;
    private final Errands errands;
    private final Messages messages;
    private final String lease = "w-" + UUID.randomUUID();
    private final Semaphore wake = new Semaphore(0);
    private final ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor();
    private final Crew calls = crew(PeerPlaces.ALL);
    private final Crew mails = crew(MESSAGES);
    private final Crew rooms = crew(ROOMS);
    private final Crew errandsUnderWay = crew(ERRANDS);
    private final Crew alarms = crew(ALARMS);
    private final Crew care = crew(CARE);
    private final Map<String, Taken> underWay = new ConcurrentHashMap<>();
    private final PeerPlaces peers = new PeerPlaces();
    /** Looking past what waits for busy peers takes a while where much does: when nothing else was found last, in nanoseconds. */
    private long foundNoCalls;

    private final Set<String> cancelled = ConcurrentHashMap.newKeySet();
    /** Calls whose lease somebody else has now: what comes of them here no longer counts. */
    private final Set<String> lost = ConcurrentHashMap.newKeySet();
    /** CIs that have changed, each with the ticket that changed it: approvals elsewhere may show them. */
    private final Map<String, TicketId> changedCis = new ConcurrentHashMap<>();

    /** Tickets where a wait for a signal began: it may be kept already. */
    private final Set<TicketId> waitsBegun = ConcurrentHashMap.newKeySet();

    private @Nullable Future<?> rounds;
    private final CountDownLatch ended = new CountDownLatch(1);
    private volatile boolean stopping;
    /** Only a restart can begin it, so it is looked up no longer once it is over. */
    private boolean held = true;

    private volatile Instant lastForgot = Instant.MIN;
    private String refusedBefore = "";
    private volatile Instant lastRecheck;
    private volatile Instant lastLook;

    public Workers(Uses means) {
        this.means = means;
        this.messages = new Messages(means);
        this.errands = new Errands(means.commands(), means.tickets());
        this.lastRecheck = means.clock().instant();
        this.lastLook = lastRecheck;
    }

    private Crew crew(int places) {
        return new Crew(threads, places, this::wake);
    }

    public void start() {
        rounds = threads.submit(this::loop);
        threads.submit(this::renewLeases);
        threads.submit(this::log);
        threads.submit(this::alive);
    }

    /**
     * After a restore nothing goes out, and no clock rings, until somebody says so: what a worker would do could have been done
     * after the copy was taken.
     */
    private boolean held() {
        if (held) {
            held = means.keeping().heldSince().isPresent();
        }
        return held;
    }

    /** Something was committed: look at once. */
    public void wake() {
        if (wake.availablePermits() == 0) {
            wake.release();
        }
    }

    /**
     * Hears of what was committed: a call whose visit is over is asked to cancel (D15), and open approvals of other
     * tickets learn of a change of a CI that they may show (D18). The regular recheck covers what a crash loses of this. Only
     * notes what is to be done: whoever commits may be a worker itself, and must never wait for a place among them.
     */
    public void committed(TicketId ticket, List<Recorded> events) {
        for (Recorded r : events) {
            boolean over = r.event() instanceof Event.Withdrawn || r.event() instanceof Event.Left;
            if (over && r.visit() != null) {
                underWay.keySet().stream()
                        .filter(id -> id.startsWith(r.visit() + "."))
                        .forEach(cancelled::add);
            }
            if (r.event() instanceof WaitBegan w && w.signal() != null) {
                waitsBegun.add(ticket);
            }
            if (r.event() instanceof Updated u && u.ci() != null) {
                changedCis.put(u.ci().value(), ticket);
            }
        }
        wake();
    }

    private void recheck(TicketId ticket) {
        means.commands()
                .handleRepeatable(ticket, "clock." + means.clock().instant(), Actor.CLOCK, new Command.Recheck());
    }

    /** Law 2 is looked after from time to time too: people leave groups while tasks wait for them (D17). */
    private void recheckAll() {
        Instant now = means.clock().instant();
        if (!lastRecheck.plus(RECHECK_EVERY).isAfter(now)
                && means.nodes().has(Nodes.Duty.CARE)
                && care.begin(this::recheckOpen)) {
            lastRecheck = now;
        }
    }

    private void recheckOpen() {
        List<TicketId> page = means.tickets().withOpenWork("");
        while (!page.isEmpty() && !stopping) {
            page.forEach(this::recheck);
            page = means.tickets().withOpenWork(page.getLast().value());
        }
        page = means.signals().waiting("");
        while (!page.isEmpty() && !stopping) {
            page.forEach(this::recheck);
            page = means.signals().waiting(page.getLast().value());
        }
    }

    /** What is kept is looked after a little each minute. */
    private void lookAfter() {
        Instant now = means.clock().instant();
        if (!lastLook.plus(LOOK_EVERY).isAfter(now)
                && means.nodes().has(Nodes.Duty.CARE)
                && care.begin(() -> means.lookAfter().accept(now))) {
            lastLook = now;
        }
    }

    private void tellOfCis() {
        if (!changedCis.isEmpty()) {
            care.begin(() -> changedCis.keySet().forEach(ci -> {
                TicketId by = changedCis.remove(ci);
                if (by != null) {
                    means.tickets().withApprovalsOn(ci, by).forEach(this::recheck);
                }
            }));
        }
    }

    /** A signal could be kept while a wait for it was being written: neither saw the other (D12a). */
    private void lookForKeptSignals() {
        if (!waitsBegun.isEmpty()) {
            care.begin(() -> waitsBegun.forEach(ticket -> {
                waitsBegun.remove(ticket);
                recheck(ticket);
            }));
        }
    }

    private void loop() {
        while (!stopping) {
            try {
                boolean busy = !held() && (takeCalls() | takeMails() | takeErrands() | takeRooms() | ringAlarms());
                forget();
                tellOfCis();
                lookForKeptSignals();
                recheckAll();
                lookAfter();
                if (!busy && wake.tryAcquire(IDLE.toMillis(), TimeUnit.MILLISECONDS)) {
                    wake.drainPermits();
                }
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException e) {
                LOG.warn("the workers' round failed and is tried again", e);
                pause();
            }
        }
    }

    /**
     * A call may last longer than a lease: while this process lives, what it has under way stays its own. On a thread of its
     * own, since a round may take longer than a lease; a lease that is lost all the same is noticed before its result counts.
     */
    private void renewLeases() {
        while (!stopping) {
            try {
                rest(means.callLease().dividedBy(3));
                for (String id : means.outbox().extend(lease, List.copyOf(underWay.keySet()), means.callLease())) {
                    Taken taken = underWay.get(id);
                    if (taken != null) {
                        // A row that is gone is of a visit that is over: another node may have ended it.
                        (means.outbox().takenOver(taken) ? lost : cancelled).add(id);
                    }
                }
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException e) {
                LOG.warn("leases could not be renewed; it is tried again", e);
            }
        }
    }

    /** Says that this node is there, and keeps what only one node does: on a thread of its own, whatever else is slow. */
    private void alive() {
        while (!stopping) {
            try {
                means.nodes().alive();
                rest(ALIVE_EVERY);
            } catch (InterruptedException e) {
                return;
            } catch (RuntimeException e) {
                LOG.warn("this node could not say that it is there; it is tried again: {}", e.getMessage());
                pause();
            }
        }
    }

    /** Waits, but not on when all is to end. */
    private void rest(Duration time) throws InterruptedException {
        ended.await(time.toMillis(), TimeUnit.MILLISECONDS);
    }

    private void pause() {
        try {
            rest(IDLE);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    private boolean takeCalls() {
        int free = calls.free();
        int each = PeerPlaces.each(free);
        List<String> busy = Stream.concat(peers.busy(each).stream(), means.breakers().waiting().stream())
                .distinct()
                .toList();
        boolean justLooked = !busy.isEmpty() && System.nanoTime() - foundNoCalls < LOOK_PAST_EVERY.toNanos();
        if (free == 0 || justLooked) {
            return false;
        }
        Instant now = means.clock().instant();
        means.breakers().toProbe().forEach(peer -> means.outbox()
                .takeOne(now, means.callLease(), lease, peer)
                .forEach(this::beginCall));
        List<Taken> taken = means.outbox().take("call", Math.min(free, each), now, means.callLease(), lease, busy);
        taken.forEach(this::beginCall);
        if (taken.isEmpty()) {
            foundNoCalls = System.nanoTime();
        }
        return !taken.isEmpty();
    }

    private void beginCall(Taken taken) {
        String peer = taken.call().call().connection();
        peers.begin(peer);
        means.breakers().begun(peer);
        boolean begun = calls.begin(() -> {
            try {
                call(taken);
            } finally {
                peers.end(peer);
            }
        });
        if (!begun) {
            peers.end(peer);
            means.breakers().givenUp(peer);
        }
    }

    private boolean takeMails() {
        List<Taken> taken = taken("mail", mails, MAIL_LEASE);
        messages.together(taken).forEach(rows -> mails.begin(() -> messages.carry(rows)));
        return !taken.isEmpty();
    }

    private boolean takeErrands() {
        return take("errand", errandsUnderWay, ERRAND_LEASE, this::errand);
    }

    private boolean takeRooms() {
        return take("room", rooms, MAIL_LEASE, messages::sayInRoom);
    }

    private void errand(Taken taken) {
        errands.carry(taken);
        means.outbox().drop(taken);
    }

    private boolean take(String kind, Crew crew, Duration length, Consumer<Taken> work) {
        List<Taken> taken = taken(kind, crew, length);
        taken.forEach(row -> crew.begin(() -> work.accept(row)));
        return !taken.isEmpty();
    }

    /** Takes no more than can begin at once: only this loop begins work of these kinds, so the places stay free. */
    private List<Taken> taken(String kind, Crew crew, Duration length) {
        int free = crew.free();
        return free == 0
                ? List.of()
                : means.outbox()
                        .take(kind, Math.min(free, AT_ONCE), means.clock().instant(), length, lease);
    }

    private boolean ringAlarms() {
        if (alarms.free() == 0) {
            return false;
        }
        List<TicketId> due = means.outbox().dueAlarms(means.clock().instant(), alarms.free(), ALARM_LEASE);
        due.forEach(ticket -> alarms.begin(() -> means.commands()
                .handleRepeatable(ticket, "clock." + means.clock().instant(), Actor.CLOCK, new Command.Tick())));
        return !due.isEmpty();
    }

    // --- calls

    private void call(Taken taken) {
        Outbox.CallPayload payload = taken.call();
        // Renewed too late on a busy machine, a lease may have run out while this process is still at it.
        if (underWay.putIfAbsent(taken.id(), taken) != null) {
            return;
        }
        boolean heard = false;
        try {
            CallOutcome outcome = outcome(taken, payload);
            means.breakers().heard(payload.call().connection(), outcome);
            heard = true;
            if (lost.contains(taken.id()) || means.outbox().takenOver(taken)) {
                LOG.info("call {} was taken over by another worker", taken.id());
                return;
            }
            means.commands()
                    .handleRepeatable(
                            taken.ticket(),
                            "call." + taken.id(),
                            new Actor.OfAction(
                                    new ActionKey(payload.action().isBlank() ? "unknown" : payload.action())),
                            new CallResult(taken.visit(), payload.attempt(), outcome));
        } catch (Connector.Abandoned e) {
            LOG.info("call {} was given up to another worker", taken.id());
        } finally {
            if (!heard) {
                // Whatever went wrong here, another may be the probe.
                means.breakers().givenUp(payload.call().connection());
            }
            underWay.remove(taken.id());
            cancelled.remove(taken.id());
            lost.remove(taken.id());
        }
    }

    private CallOutcome outcome(Taken taken, Outbox.CallPayload payload) throws Connector.Abandoned {
        boolean begunBefore = taken.tries() > 1;
        Optional<Connection> connection =
                means.connection().apply(payload.call().connection());
        // What was handed to a relay is known by its id: it is gone on with, never done again.
        if (begunBefore
                && payload.repeat() == Action.Repeat.NEVER
                && !means.handed().test(taken.id())) {
            return new CallOutcome.Unknown(
                    "The application stopped while this was under way, and it must not be repeated by itself.");
        }
        Optional<Action> withdrawn = begunBefore ? Optional.empty() : withdrawn(taken, payload);
        if (withdrawn.isPresent()) {
            return nothingSent("'" + withdrawn.get().name() + "' was withdrawn while this waited: "
                    + withdrawn.get().withdrawn());
        }
        if (connection.isEmpty()) {
            return nothingSent("There is no connection '" + payload.call().connection() + "'.");
        }
        String secret = connection.get().secret();
        Optional<String> value =
                secret == null ? Optional.empty() : means.secret().apply(secret);
        if (secret != null && value.isEmpty()) {
            return nothingSent(
                    "The secret '" + secret + "' of '" + connection.get().name() + "' is not set.");
        }
        try {
            return call(taken, payload, connection.get(), value.orElse(null));
        } catch (RuntimeException e) {
            LOG.error("call {} failed through a fault of our own", taken.id(), e);
            return new CallOutcome.Fault("Dastur itself failed while it made this call; it may have gone out.", true);
        }
    }

    /** The action of a call, where it was withdrawn while the call waited for its connection: nothing begins by it (M1). */
    private Optional<Action> withdrawn(Taken taken, Outbox.CallPayload payload) {
        VisitId visit = taken.visit();
        if (visit == null || payload.action().isBlank()) {
            return Optional.empty();
        }
        return means.tickets()
                .find(taken.ticket())
                .map(c -> c.open().get(visit.run()))
                .flatMap(run -> means.cases()
                        .look(new LookupKey.PinnedAction(
                                new ActionKey(payload.action()), run.workflow(), run.version())))
                .map(Action.class::cast)
                .filter(action -> action.withdrawn() != null);
    }

    private static CallOutcome nothingSent(String why) {
        return new CallOutcome.Fault(why + " Nothing was sent.", false);
    }

    private CallOutcome call(Taken taken, Outbox.CallPayload payload, Connection connection, @Nullable String secret)
            throws Connector.Abandoned {
        Voices.Voice voice = means.voices().of(taken.id());
        CallOutcome outcome;
        try (voice) {
            outcome = means.calls().call(payload.call(), connection, secret, heartbeat(taken, payload, voice));
        }
        keepLog(taken, payload, voice);
        return outcome;
    }

    /** What a call said at length; that it could not be kept changes nothing about what became of the call. */
    private void keepLog(Taken taken, Outbox.CallPayload payload, Voices.Voice voice) {
        VisitId visit = taken.visit();
        if (visit == null || !Protocol.tells(payload.call().method())) {
            return;
        }
        try {
            voice.everything(text -> {
                Optional<String> not =
                        means.files().log(taken.ticket(), visit, payload.action(), nameOf(taken.ticket(), visit), text);
                not.ifPresent(why -> LOG.warn("what {} said was not attached: {}", taken.id(), why));
                return not.isEmpty();
            });
        } catch (RuntimeException e) {
            LOG.warn("what {} said could not be read", taken.id(), e);
        }
    }

    /** As people know a step. */
    private String nameOf(TicketId ticket, VisitId visit) {
        return means.tickets()
                .find(ticket)
                .flatMap(c -> c.visit(visit))
                .map(Visit::step)
                .map(StepId::value)
                .orElse("A call");
    }

    private Connector.Heartbeat heartbeat(Taken taken, Outbox.CallPayload payload, Voices.Voice voice) {
        VisitId visit = taken.visit();
        Connector.Known known = new Connector.Known(
                taken.id(),
                visit == null ? null : new Connector.Of(taken.ticket(), visit, payload.attempt(), payload.action()),
                payload.repeat());
        return new Connector.Heartbeat() {
            @Override
            public Connector.Known known() {
                return known;
            }

            @Override
            public boolean stillMine() {
                return !stopping && !lost.contains(taken.id());
            }

            @Override
            public boolean cancelled() {
                return cancelled.contains(taken.id());
            }

            @Override
            public void heard(String text) {
                voice.heard(text);
            }

            @Override
            public void pictured(String name, byte[] png) {
                if (visit != null) {
                    means.files()
                            .picture(taken.ticket(), visit, payload.action(), name, png)
                            .ifPresent(why -> voice.heard("The picture was not kept: " + why + "\n"));
                }
            }
        };
    }

    // --- the log, and what is forgotten

    /**
     * Enters into the log what was committed, and signs how far it reaches: at least each second, on a thread of its own, so
     * that nothing that is slow delays it (K12).
     */
    private void log() {
        while (!stopping) {
            try {
                if (means.nodes().has(Nodes.Duty.LOG)) {
                    means.log().catchUp();
                    means.log().sign(means.clock().instant()).ifPresent(means.witness());
                }
            } catch (Signer.NotAnExtension e) {
                if (!e.getMessage().equals(refusedBefore)) {
                    LOG.error("nothing is signed any more: {}", e.getMessage());
                    refusedBefore = e.getMessage();
                }
            } catch (RuntimeException e) {
                LOG.warn("the log could not be brought up to date; it is tried again", e);
            }
            try {
                rest(LOG_EVERY);
            } catch (InterruptedException e) {
                return;
            }
        }
    }

    private void forget() {
        Instant now = means.clock().instant();
        if ((lastForgot.equals(Instant.MIN) || lastForgot.plus(FORGET_EVERY).isBefore(now))
                && means.nodes().has(Nodes.Duty.CARE)) {
            lastForgot = now;
            means.cases().forgetRaisedBefore(now.minus(ANSWERS_KEPT));
            means.signals().forgetBefore(now.minus(Signals.KEPT));
            means.drafts().forgetOld(now);
            means.chats().forgetSettledBefore(now.minus(ANSWERS_KEPT));
        }
    }

    /**
     * Takes nothing new, and waits a little for what is under way. What was taken in the last round is still begun: else it
     * would stay leased, and hold up what comes after it, until its lease runs out.
     */
    @Override
    public void close() {
        stopping = true;
        ended.countDown();
        wake();
        try {
            if (rounds != null) {
                rounds.get(10, TimeUnit.SECONDS);
            }
            threads.shutdown();
            if (!threads.awaitTermination(10, TimeUnit.SECONDS)) {
                threads.shutdownNow();
            }
        } catch (InterruptedException e) {
            threads.shutdownNow();
            Thread.currentThread().interrupt();
        } catch (ExecutionException | TimeoutException e) {
            LOG.warn("the workers' round did not end", e);
            threads.shutdownNow();
        }
        handBack();
    }

    /** Other nodes need not wait until what this one had runs out. */
    private void handBack() {
        try {
            means.outbox().giveBack(lease);
            means.nodes().end();
        } catch (RuntimeException e) {
            LOG.warn("what this node had could not be handed back, and runs out: {}", e.getMessage());
        }
    }
}
