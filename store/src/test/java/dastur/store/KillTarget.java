package dastur.store;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.record.Mac;
import dastur.core.run.Command;
import dastur.core.run.Context;
import dastur.core.run.Decision;
import dastur.core.run.Engine;
import dastur.core.run.LookupKey;
import dastur.core.run.Lookups;
import dastur.core.signal.SourceKey;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import java.nio.file.Path;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.concurrent.locks.LockSupport;
import java.util.function.Consumer;

/**
 * The process that {@link KillTest} kills: says what is there, then writes one small commit after the other and says of
 * each what it acknowledged, when it is acknowledged.
 */
final class KillTarget {
    static final int TICKETS = 3;
    /** How many others write beside the one that writes tickets. */
    static final int WRITERS = 3;

    static final PersonId ADA = new PersonId("ada");

    private KillTarget() {}

    public static void main(String[] args) {
        boolean shared = args[0].startsWith("jdbc:");
        Database database = shared
                ? Database.onServer(new Database.Server(args[0], args[2], args[3]), Mac.NONE)
                : Database.inFolder(Path.of(args[0]));
        new Organisation(database)
                .putPerson(new Person(ADA, "Ada Brandvold", "ada@kestrel.example", Set.of(Role.AGENT), true), null);
        if (!shared) {
            // The space of parts that are out of use is used again after half a second in place of 45: so there are
            // holes
            // to write into.
            database.run(session ->
                    session.createNativeMutationQuery("set retention_time 500").executeUpdate());
        }
        Cases cases = new Cases(database, () -> new byte[32]);
        there(database).forEach((ticket, seq) -> say("there " + ticket + " " + seq));
        say("ready");
        long pause = Long.parseLong(args[1]) * 1_000_000;
        for (int i = 0; i < WRITERS; i++) {
            String by = "writer-" + i;
            Thread.ofPlatform().start(() -> writeLines(database, by, pause));
        }
        if (!shared) {
            Thread.ofPlatform().start(() -> keepSignals(database, pause));
        }
        for (int i = 0; true; i++) {
            TicketId ticket = new TicketId("I-" + (1 + i % TICKETS));
            if (shared) {
                patiently(cases, ticket);
            } else {
                say("kept " + ticket + " " + write(cases, ticket));
            }
            LockSupport.parkNanos(pause);
        }
    }

    /** How many lines somebody has written. */
    static long lines(Database database, String by) {
        return database.read(session -> session.createSelectionQuery(
                        "select count(*) from JournalRow where subject = ?1", Long.class)
                .setParameter(1, by)
                .getSingleResult());
    }

    private static long patientlyCounted(Database database, String by) {
        while (true) {
            try {
                return lines(database, by);
            } catch (RuntimeException e) {
                LockSupport.parkNanos(50_000_000);
            }
        }
    }

    /** Others write too, all the time: short transactions and long ones, in tables with several indexes. */
    private static void writeLines(Database database, String by, long pause) {
        long lines = lines(database, by);
        for (int i = 0; true; i++) {
            int together = i % 10 == 0 ? 20 : 1;
            try {
                database.run(session -> {
                    for (int n = 0; n < together; n++) {
                        String id = String.valueOf(System.nanoTime() % 10_000);
                        Journal.write(session, new Journal.By(ADA, Instant.now()), by, id, "said", "x".repeat(400));
                    }
                });
                lines += together;
                say("kept " + by + " " + lines);
            } catch (RuntimeException e) {
                // Another node was faster, or the server is gone for a while: nothing is acknowledged then.
                LockSupport.parkNanos(50_000_000);
                lines = patientlyCounted(database, by);
            }
            LockSupport.parkNanos(Math.max(pause, 10_000_000));
        }
    }

    /** The source of the signals that are kept beside all this. */
    static final String SOURCE = "board-monitor";

    /** Signals come, one or some together; each is acknowledged when it is kept, and not before (I1). */
    private static void keepSignals(Database database, long pause) {
        Incoming incoming = new Incoming(database);
        long kept = there(database).getOrDefault(SOURCE, 0L);
        for (int i = 0; true; i++) {
            List<Incoming.Arrival> arrivals = new ArrayList<>();
            for (int n = 0; n < (i % 5 == 0 ? 20 : 1); n++) {
                String id = Incoming.idOf(Instant.now()) + String.format("%016x", System.nanoTime());
                arrivals.add(new Incoming.Arrival(
                        id,
                        new SourceKey(SOURCE),
                        Instant.now(),
                        id,
                        "h",
                        "{}",
                        "{\"note\":\"" + "x".repeat(300) + "\"}"));
            }
            incoming.keep(arrivals);
            kept += arrivals.size();
            say("kept " + SOURCE + " " + kept);
            LockSupport.parkNanos(Math.max(pause, 10_000_000));
        }
    }

    /** The server may be gone for a while, and another node may be faster; nothing is acknowledged then. */
    private static void patiently(Cases cases, TicketId ticket) {
        try {
            say("kept " + ticket + " " + write(cases, ticket));
        } catch (RuntimeException e) {
            LockSupport.parkNanos(50_000_000);
        }
    }

    /** How many entries each ticket has; entries are numbered without gaps, so the count tells which. */
    private static Map<String, Long> there(Database database) {
        List<Object[]> counts = database.read(session -> session.createSelectionQuery(
                        "select key.ticket, count(*) from EntryRow group by key.ticket", Object[].class)
                .getResultList());
        Map<String, Long> there = new TreeMap<>();
        counts.forEach(row -> there.put((String) row[0], (Long) row[1]));
        database.read(session -> session.createSelectionQuery(
                                "select subject, count(*) from JournalRow group by subject", Object[].class)
                        .getResultList())
                .forEach(row -> there.put((String) row[0], (Long) row[1]));
        database.read(session -> session.doReturningWork(c -> Jdbc.query(
                        c,
                        "select source, count(*) from signal group by source",
                        r -> Map.entry(r.getString(1), r.getLong(2)))))
                .forEach(of -> there.put(of.getKey(), of.getValue()));
        return there;
    }

    private static synchronized void say(String line) {
        System.out.println(line);
        System.out.flush();
    }

    /** Raises the ticket, or writes a note on it. Returns the number of the last entry. */
    static long write(Cases cases, TicketId ticket) {
        return write(cases, ticket, work -> {});
    }

    /** The same. @param also what is written with it */
    static long write(Cases cases, TicketId ticket, Consumer<Work> also) {
        Engine engine = new Engine();
        Instant now = Instant.now();
        return cases.onTicket(ticket, work -> {
            Command command = work.current().exists()
                    ? new Command.AddNote("Note after entry " + work.current().seq(), false)
                    : new Command.RaiseTicket(
                            TicketKind.INCIDENT, Map.of("title", "Gate stands open", "requester", "ada"), null);
            String id = ticket + "." + work.current().seq();
            Map<LookupKey, Optional<?>> values = new HashMap<>(work.remembered());
            Decision decision = new Decision.Needs(Set.of());
            while (decision instanceof Decision.Needs needs) {
                values.putAll(work.look(needs.keys()));
                decision = engine.decide(
                        work.current(), id, Actor.of(ADA), command, new Context(now, now, new Lookups(values)));
            }
            if (!(decision instanceof Decision.Accepted accepted)) {
                throw new IllegalStateException(String.valueOf(decision));
            }
            work.save(accepted.events(), accepted.after(), now, id);
            also.accept(work);
            return accepted.after().seq();
        });
    }
}
