package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.record.Seal;
import dastur.core.run.Command;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingEvents.AttemptFailed;
import dastur.core.step.calling.CallingEvents.CallDone;
import dastur.core.step.calling.CallingEvents.CallFailed;
import dastur.core.step.calling.CallingEvents.CallUnsure;
import dastur.core.step.calling.CallingEvents.ResultKept;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Action.Repeat;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.work.Breakers;
import dastur.server.work.CommandService.Outcome;
import dastur.store.ByHand;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.Journal;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.Executors;
import java.util.concurrent.ScheduledExecutorService;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.locks.LockSupport;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Every way in which a peer answers badly, to calls that may be repeated, that may under their key, and that never may, alone
 * and within each of a list: how often it was asked, under which keys, and what stands on the record (W9, D13).
 */
class BadAnswersTest {
    private static final PersonId ADA = new PersonId("ada");
    private static final Duration PATIENCE = Duration.ofMinutes(2);
    private static final int TRIES = 2;

    @TempDir
    Path folder;

    private BadAnswers peer;

    @BeforeEach
    void start() throws IOException {
        peer = new BadAnswers();
        prepare();
    }

    @AfterEach
    void stop() throws IOException {
        peer.close();
    }

    /** A ticket whose run calls a peer that answers badly. */
    private record Case(String kind, BadAnswers.Tells tells, Repeat repeat, boolean within, TicketId ticket) {}

    @Test
    void whatHappenedOutsideAndWhatStandsOnTheRecord() {
        try (Wiring app = new Wiring(new Settings(
                        folder, "127.0.0.1", 0, InstantSource.system(), Duration.ofSeconds(20), Settings.LOCAL_MAIL));
                ScheduledExecutorService somebody = Executors.newSingleThreadScheduledExecutor()) {
            somebody.scheduleWithFixedDelay(() -> letOut(app), 50, 50, TimeUnit.MILLISECONDS);
            List<Case> cases = new ArrayList<>();
            BadAnswers.all().forEach((kind, tells) -> {
                for (Repeat repeat : Repeat.values()) {
                    cases.add(raised(app, kind, tells, repeat, false));
                    cases.add(raised(app, kind, tells, repeat, true));
                }
            });
            assertThat(cases).hasSizeGreaterThan(25 * 3 * 2);
            Map<Case, String> wrong = new LinkedHashMap<>();
            for (Case one : cases) {
                List<Event> record = settled(app, one);
                String found = found(one, record);
                if (!found.equals(expected(one))) {
                    wrong.put(one, found + " where it should be " + expected(one));
                }
            }
            somebody.shutdownNow();
            assertThat(wrong).isEmpty();
        }
    }

    /** So many bad answers hold further calls back: somebody wants to see them all the same. */
    private static void letOut(Wiring app) {
        Breakers breakers = app.app().machines().breakers();
        if (!breakers.held().isEmpty()) {
            Instant now = Instant.now();
            app.app()
                    .design()
                    .setUp()
                    .calls(new Journal.By(ADA, now), "peer", new ByHand(false, ADA, now, "They are tried on purpose."));
            breakers.readAnew();
        }
    }

    /** What is wrong on this side is said at once, and nothing is sent. */
    @Test
    void aFaultOfOurOwnIsToldAtOnceAndNotTriedAgain() {
        try (Database database = open()) {
            Workflows workflows = new Workflows(database);
            workflows.putConnection(new Connection(
                    "peer", "Peer", "http://127.0.0.1:" + peer.port(), List.of(), "a-secret-that-is-not-set"));
        }
        try (Wiring app = new Wiring(new Settings(
                folder, "127.0.0.1", 0, InstantSource.system(), Duration.ofSeconds(20), Settings.LOCAL_MAIL))) {
            for (Repeat repeat : Repeat.values()) {
                Case one = raised(app, "says-200", BadAnswers.Tells.NO, repeat, false);
                List<Event> record = settled(app, one);
                assertThat(peer.asked(one.ticket().value())).isEmpty();
                assertThat(record).noneMatch(e -> e instanceof AttemptFailed);
                assertThat(record.stream().filter(e -> e instanceof CallFailed))
                        .singleElement()
                        .satisfies(e -> assertThat(((CallFailed) e).error())
                                .contains("is not set")
                                .contains("Nothing was sent"));
            }
        }
    }

    private static String expected(Case one) {
        if (one.tells() == BadAnswers.Tells.NO) {
            return "asked 2 times under 2 keys; failed";
        }
        return switch (one.repeat()) {
            case FREE -> "asked 2 times under 1 keys; failed";
            case KEYED -> "asked 2 times under 1 keys; unsure";
            case NEVER -> "asked 1 times under 1 keys; unsure";
        };
    }

    private String found(Case one, List<Event> record) {
        List<String> keys = peer.asked(one.ticket().value());
        String became = record.stream().anyMatch(e -> e instanceof CallUnsure)
                ? "unsure"
                : record.stream().anyMatch(e -> e instanceof CallFailed) ? "failed" : "done";
        return "asked " + keys.size() + " times under " + new HashSet<>(keys).size() + " keys; " + became;
    }

    /** The record, when the call has come to its end. */
    private static List<Event> settled(Wiring app, Case one) {
        Instant end = Instant.now().plus(PATIENCE);
        while (true) {
            List<Event> record = app.app().work().records().of(one.ticket()).stream()
                    .map(e -> Seal.open(e).event())
                    .toList();
            boolean over = record.stream()
                    .anyMatch(e -> e instanceof CallUnsure
                            || e instanceof CallFailed
                            || e instanceof CallDone
                            || e instanceof ResultKept);
            if (over) {
                return record;
            }
            if (Instant.now().isAfter(end)) {
                throw new AssertionError(one + " never came to an end: " + record);
            }
            LockSupport.parkNanos(20_000_000);
        }
    }

    private static Case raised(Wiring app, String kind, BadAnswers.Tells tells, Repeat repeat, boolean within) {
        Outcome raised = app.app()
                .work()
                .commands()
                .raise(
                        within ? TicketKind.CHANGE : TicketKind.INCIDENT,
                        "raise-" + kind + "-" + repeat + "-" + within,
                        Actor.of(ADA),
                        new Command.RaiseTicket(
                                within ? TicketKind.CHANGE : TicketKind.INCIDENT,
                                Map.of("title", kind, "description", repeat.name()),
                                null));
        return new Case(kind, tells, repeat, within, new TicketId(((Outcome.Done) raised).ticket()));
    }

    private Database open() {
        return Database.inFolder(folder, Durability.PROCESS, new DataFolder(folder).rowKey());
    }

    private void prepare() {
        try (Database database = open()) {
            new Organisation(database)
                    .putPerson(
                            new Person(
                                    ADA,
                                    "Ada Brandvold",
                                    "ada@kestrel.example",
                                    Set.of(Role.AGENT, Role.PROCESS_OWNER),
                                    true),
                            null);
            Workflows workflows = new Workflows(database);
            workflows.putConnection(new Connection("peer", "Peer", "http://127.0.0.1:" + peer.port(), List.of(), null));
            for (Repeat repeat : Repeat.values()) {
                String word = repeat.name().toLowerCase(Locale.ROOT);
                workflows.putAction(action(word, repeat));
                live(workflows, TicketKind.INCIDENT, word, """
                        workflow alone-%s "Alone" for incident
                          owner ada
                          purpose "Calls a peer."

                        call: run bad.%s "Call the peer"
                          with kind = ticket.title
                          with ticket = ticket.number
                          expects ok
                          failed -> broken

                        well: done "well" as "Well"

                        broken: fail "broken" as "Broken"
                        """.formatted(word, word));
                live(workflows, TicketKind.CHANGE, word, """
                        workflow each-%s "Within each" for change
                          owner ada
                          purpose "Calls a peer for each."

                        all: for each x in [ticket.title], in order as "For each"
                          some failed -> broken
                          none -> broken
                          call: run bad.%s "Call the peer"
                            with kind = x
                            with ticket = ticket.number
                          well: done "well"

                        over: done "over" as "Over"

                        broken: fail "broken" as "Broken"
                        """.formatted(word, word));
            }
        }
    }

    private static void live(Workflows workflows, TicketKind kind, String word, String text) {
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).as(text).isEmpty();
        WorkflowVersion version = read.version();
        workflows.create(version, ADA, Instant.now());
        workflows.publish(version.key(), 1, ADA, Instant.now()).orElseThrow();
        workflows.setTriggers(
                new Journal.By(ADA, Instant.now()),
                version.key(),
                List.of(new Trigger(
                        new TriggerId(version.key().value()),
                        true,
                        new Trigger.Created(kind),
                        List.of(),
                        "ticket.description == '" + word.toUpperCase(Locale.ROOT) + "'")));
    }

    private static Action action(String word, Repeat repeat) {
        return new Action(
                new ActionKey("bad." + word),
                "Call " + word,
                "Calls a peer that answers badly.",
                "peer",
                new Action.HttpCall(
                        "POST",
                        "/{{ input.kind }}/{{ input.ticket }}",
                        Map.of("Idempotency-Key", "{{ call.key }}"),
                        "{}",
                        null),
                List.of(
                        Field.of("kind", "Kind", FieldType.TEXT).asRequired(),
                        Field.of("ticket", "Ticket", FieldType.TEXT).asRequired()),
                List.of(new Action.Output(
                        Field.of("lock", "Lock", FieldType.TEXT).asRequired(), "/lock")),
                List.of(),
                repeat,
                true,
                Span.parse("5 s"),
                TRIES,
                Span.parse("1 s"));
    }
}
