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
        service = service((before, events, after) -> heard.addAll(events));
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

    /** Whoever decides long holds nobody up, not even on the same ticket: nothing is held while deciding. */
    @Test
    void nobodyWaitsForWhoeverDecidesLong() throws Exception {
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
        done(note(free, "at-once", "at once"));
        done(note(held, "too", "too"));
        letGo.countDown();
        holder.get(30, TimeUnit.SECONDS);
        assertThat(notes(held)).containsExactly("too");
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
        CommandService deaf = service((before, events, after) -> {
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

    /** K15: whoever is refused takes no number, and none is skipped, however many raise at once. */
    @Test
    void numbersFollowEachOtherWithoutGaps() throws Exception {
        AtomicInteger nth = new AtomicInteger();
        List<Outcome> outcomes = together(() -> {
            int n = nth.incrementAndGet();
            return service.raise(
                    TicketKind.INCIDENT,
                    "many-" + n,
                    Actor.of(RUNA),
                    new Command.RaiseTicket(
                            TicketKind.INCIDENT, n % 3 == 0 ? Map.of() : Map.of("title", "Gate " + n), null));
        });
        List<Long> numbers = outcomes.stream()
                .filter(Outcome.Done.class::isInstance)
                .map(o -> Long.parseLong(((Outcome.Done) o).ticket().substring(2)))
                .sorted()
                .toList();
        assertThat(numbers).hasSize(outcomes.size() - outcomes.size() / 3);
        assertThat(numbers)
                .containsExactlyElementsOf(
                        LongStream.range(1_001, 1_001 + numbers.size()).boxed().toList());
    }

    /** Two that write the same tickets, as two processes would: each loses now and then, decides again, and nothing is lost. */
    @Test
    void whoLosesToAnotherWriterDecidesAgain() throws Exception {
        CommandService other = new CommandService(
                new Cases(database, () -> new byte[32]),
                new Engine(),
                InstantSource.system(),
                Instant.now(),
                (before, events, after) -> {});
        TicketId ticket = raised();
        AtomicInteger nth = new AtomicInteger();
        List<Outcome> notes = together(() -> {
            int n = nth.incrementAndGet();
            CommandService one = n % 2 == 0 ? service : other;
            return one.handle(ticket, "both-" + n, Actor.of(RUNA), new Command.AddNote("Note " + n, false));
        });
        assertThat(notes).allSatisfy(o -> assertThat(o).isInstanceOf(Outcome.Done.class));
        List<Entry> entries = records.of(ticket);
        assertThat(Seal.check(entries)).isEmpty();
        assertThat(entries.stream().filter(e -> e.kind().equals("noteAdded"))).hasSize(notes.size());
        List<Outcome> raises = together(() -> {
            int n = nth.incrementAndGet();
            return (n % 2 == 0 ? service : other)
                    .raise(
                            TicketKind.CHANGE,
                            "both-" + n,
                            Actor.of(RUNA),
                            new Command.RaiseTicket(TicketKind.CHANGE, Map.of("title", "Change " + n), null));
        });
        assertThat(raises.stream().map(o -> done(o).ticket()).distinct()).hasSize(raises.size());
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
