package dastur.server.work;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.record.Checkpoint;
import dastur.core.record.Entry;
import dastur.core.record.Seal;
import dastur.core.record.Signer;
import dastur.core.run.Command;
import dastur.core.run.Engine;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.server.work.CommandService.Outcome;
import dastur.store.Cases;
import dastur.store.Database;
import dastur.store.Organisation;
import dastur.store.RecordLog;
import dastur.store.Records;
import java.security.KeyPairGenerator;
import java.security.NoSuchAlgorithmException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.Callable;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ConcurrentLinkedQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.Future;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import java.util.stream.LongStream;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;

/** The one way of every command, under many hands at once, on real H2 (D4, D30; law 1). */
@Timeout(60)
class CommandServiceTest {
    private static final PersonId RUNA = new PersonId("runa");
    private static final int HANDS = 24;

    private Database database;
    private Cases cases;
    private Records records;
    private final ConcurrentLinkedQueue<Recorded> heard = new ConcurrentLinkedQueue<>();
    private final AtomicInteger salts = new AtomicInteger();
    private volatile int failsAt = -1;
    private CommandService service;
    private ExecutorService hands;

    @BeforeEach
    void open() throws Exception {
        database = Database.inMemory("commands-" + System.nanoTime());
        new Organisation(database).putPerson(new Person(RUNA, "Runa Feld", "", Set.of(Role.AGENT), true), null);
        cases = new Cases(database, this::salt);
        records = new Records(database, new RecordLog(database, signer()));
        service = service((ticket, events) -> heard.addAll(events));
        hands = Executors.newVirtualThreadPerTaskExecutor();
    }

    @AfterEach
    void close() {
        hands.shutdownNow();
        database.close();
    }

    private byte[] salt() {
        if (salts.incrementAndGet() == failsAt) {
            throw new IllegalStateException("no randomness just now");
        }
        return new byte[32];
    }

    private CommandService service(CommandService.Listener listener) {
        return new CommandService(cases, new Engine(), InstantSource.system(), Instant.now(), listener);
    }

    private TicketId raised() {
        return new TicketId(done(raise("raise-" + System.nanoTime())).ticket());
    }

    private Outcome raise(String id) {
        return service.raise(
                TicketKind.INCIDENT,
                id,
                Actor.of(RUNA),
                new Command.RaiseTicket(TicketKind.INCIDENT, Map.of("title", "Gate 1 stands open"), null));
    }

    private Outcome note(TicketId ticket, String id, String text) {
        return service.handle(ticket, id, Actor.of(RUNA), new Command.AddNote(text, false));
    }

    private static Outcome.Done done(Outcome outcome) {
        assertThat(outcome).isInstanceOf(Outcome.Done.class);
        return (Outcome.Done) outcome;
    }

    /** Runs as many at once as there are hands, all let go at the same moment. */
    private <T> List<T> together(Callable<T> one) throws Exception {
        return together(IntStream.range(0, HANDS).mapToObj(i -> one).toList());
    }

    private <T> List<T> together(List<Callable<T>> all) throws Exception {
        CountDownLatch go = new CountDownLatch(1);
        List<Future<T>> futures = new ArrayList<>();
        for (Callable<T> one : all) {
            futures.add(hands.submit(() -> {
                go.await();
                return one.call();
            }));
        }
        go.countDown();
        List<T> answers = new ArrayList<>();
        for (Future<T> future : futures) {
            answers.add(future.get(30, TimeUnit.SECONDS));
        }
        return answers;
    }

    private List<String> notes(TicketId ticket) {
        return records.of(ticket).stream()
                .map(Seal::open)
                .map(Recorded::event)
                .filter(Event.NoteAdded.class::isInstance)
                .map(e -> ((Event.NoteAdded) e).text())
                .toList();
    }

    private void recordHolds(TicketId ticket) {
        List<Entry> entries = records.of(ticket);
        assertThat(entries)
                .extracting(e -> Seal.open(e).seq())
                .containsExactlyElementsOf(
                        LongStream.rangeClosed(1, entries.size()).boxed().toList());
        assertThat(Seal.check(entries)).isEmpty();
    }

    @Test
    void manyHandsOnOneTicketAreAllOnItsRecordOnce() throws Exception {
        TicketId ticket = raised();
        List<Callable<Outcome>> all = IntStream.range(0, 120)
                .mapToObj(i -> (Callable<Outcome>) () -> note(ticket, "note-" + i, "note " + i))
                .toList();
        List<Long> seqs =
                together(all).stream().map(o -> done(o).seq()).sorted().toList();
        assertThat(seqs).doesNotHaveDuplicates();
        assertThat(notes(ticket)).hasSize(120).doesNotHaveDuplicates();
        recordHolds(ticket);
        assertThat(heard.stream().filter(r -> r.event() instanceof Event.NoteAdded))
                .hasSize(120);
    }

    @Test
    void theSameCommandFromManyHandsIsDoneOnceAndAllGetItsAnswer() throws Exception {
        TicketId ticket = raised();
        List<Outcome> answers = together(() -> note(ticket, "the-same", "once"));
        assertThat(answers)
                .extracting(o -> done(o).seq())
                .containsOnly(done(answers.getFirst()).seq());
        assertThat(notes(ticket)).containsExactly("once");
        assertThat(done(note(ticket, "the-same", "once")).seq())
                .isEqualTo(done(answers.getFirst()).seq());
    }

    @Test
    void raisingTwiceUnderOneIdGivesOneTicket() throws Exception {
        List<Outcome> answers = together(() -> raise("raise-me-once"));
        assertThat(answers)
                .extracting(o -> done(o).ticket())
                .containsOnly(done(answers.getFirst()).ticket());
        recordHolds(new TicketId(done(answers.getFirst()).ticket()));
    }

    /** A ticket whose row somebody holds makes nobody wait who works on another. */
    @Test
    void oneTicketDoesNotWaitForAnother() throws Exception {
        TicketId held = raised();
        TicketId free = raised();
        CountDownLatch holds = new CountDownLatch(1);
        CountDownLatch letGo = new CountDownLatch(1);
        CompletableFuture<Void> holder = CompletableFuture.runAsync(
                () -> cases.onTicket(held, work -> {
                    holds.countDown();
                    await(letGo);
                    return null;
                }),
                hands);
        holds.await();
        Future<Outcome> waiting = hands.submit(() -> note(held, "later", "later"));
        done(note(free, "at-once", "at once"));
        assertThat(waiting.isDone()).isFalse();
        letGo.countDown();
        holder.get(30, TimeUnit.SECONDS);
        done(waiting.get(30, TimeUnit.SECONDS));
        assertThat(notes(held)).containsExactly("later");
    }

    private static void await(CountDownLatch latch) {
        try {
            latch.await();
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Commands that share a transaction do not share a failure: it is done again one by one, and nothing twice. */
    @Test
    void aFailureInTheMiddleOfManyCostsNobodyTheirCommandAndDoublesNone() throws Exception {
        TicketId ticket = raised();
        CountDownLatch letGo = new CountDownLatch(1);
        CountDownLatch holds = new CountDownLatch(1);
        CompletableFuture<Void> holder = CompletableFuture.runAsync(
                () -> cases.onTicket(ticket, work -> {
                    holds.countDown();
                    await(letGo);
                    return null;
                }),
                hands);
        holds.await();
        // The first waits for the row; the others gather behind it and share the next transaction, which fails once.
        List<Future<Outcome>> all = IntStream.range(0, 10)
                .mapToObj(i -> hands.submit(() -> note(ticket, "note-" + i, "note " + i)))
                .toList();
        failsAt = salts.get() + 5;
        letGo.countDown();
        holder.get(30, TimeUnit.SECONDS);
        int failed = 0;
        for (Future<Outcome> one : all) {
            try {
                done(one.get(30, TimeUnit.SECONDS));
            } catch (java.util.concurrent.ExecutionException e) {
                // One that had a transaction of its own when it struck is told so, and may send it again.
                failed++;
            }
        }
        assertThat(failed).isLessThanOrEqualTo(1);
        assertThat(notes(ticket)).hasSize(10 - failed).doesNotHaveDuplicates();
        recordHolds(ticket);
    }

    @Test
    void aListenerThatFailsHurtsNobody() {
        CommandService deaf = service((ticket, events) -> {
            throw new IllegalStateException("deaf");
        });
        TicketId ticket = raised();
        done(deaf.handle(ticket, "note-1", Actor.of(RUNA), new Command.AddNote("heard or not", false)));
        assertThat(notes(ticket)).containsExactly("heard or not");
    }

    @Test
    void aRefusalChangesNothingAndIsNotKept() {
        TicketId ticket = raised();
        long before = records.of(ticket).size();
        assertThat(note(ticket, "empty", "  ")).isInstanceOf(Outcome.Refused.class);
        assertThat(records.of(ticket)).hasSize((int) before);
        done(note(ticket, "empty", "now with words"));
        assertThat(service.handle(new TicketId("I-9999"), "x", Actor.of(RUNA), new Command.AddNote("lost", false)))
                .isInstanceOf(Outcome.Refused.class);
    }

    private static Signer signer() throws NoSuchAlgorithmException {
        return new Signer(KeyPairGenerator.getInstance("Ed25519").generateKeyPair(), new Signer.Keeper() {
            @Override
            public Optional<Checkpoint.Reach> last() {
                return Optional.empty();
            }

            @Override
            public void keep(Checkpoint.Reach reach) {}
        });
    }
}
