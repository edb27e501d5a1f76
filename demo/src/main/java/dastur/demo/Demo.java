package dastur.demo;

import dastur.core.feed.Subscription;
import dastur.core.people.PersonId;
import dastur.core.record.Mac;
import dastur.core.signal.Source;
import dastur.core.start.Watch;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import dastur.core.workflow.HandReading;
import dastur.server.auth.Secrets;
import dastur.store.Cases;
import dastur.store.Chats;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.HandReadings;
import dastur.store.Journal;
import dastur.store.KnownAnswers;
import dastur.store.Organisation;
import dastur.store.Outbox;
import dastur.store.Partners;
import dastur.store.Relays;
import dastur.store.SetUp;
import dastur.store.Sources;
import dastur.store.Subscriptions;
import dastur.store.Tickets;
import dastur.store.Watches;
import dastur.store.Workflows;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.nio.file.StandardCopyOption;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;
import java.util.List;
import java.util.function.Consumer;

/** Fills an empty database with the demo. */
public final class Demo {
    private static final Duration BEFORE_HISTORY = Duration.ofDays(40);

    private Demo() {}

    /** Where the stand-ins are this time: addresses of connections. */
    public record Outside(String http, String devices, String names, String directory, String ledger) {}

    /** For a database that is made before the stand-ins are there. */
    private static final Outside NOWHERE = new Outside(
            "http://127.0.0.1:1",
            "ssh://dastur@127.0.0.1:1",
            "dns://127.0.0.1:1",
            "ldap://127.0.0.1:1/dc=kestrel,dc=example",
            "postgresql://ledger@127.0.0.1:1/sales?tls=none");

    /** The name of the secret that signs updates of the zone. */
    public static final String ZONE_KEY = DemoNetwork.ZONE_KEY;

    /** The secret that the demo's connections use. */
    public static final String SECRET = DemoWorkflows.SECRET;

    /**
     * Makes the demo's database in a folder that has none yet. It is made beside its place and then moved there: what a
     * killed process has left half made is made anew.
     *
     * @param mac made with the folder's own key
     */
    public static void make(Path folder, Instant now, Mac mac) {
        make(folder, mac, database -> prepare(database, NOWHERE, now));
    }

    static void make(Path folder, Mac mac, Consumer<Database> work) {
        Path made = folder.resolve(Database.FILE);
        if (Files.exists(made)) {
            return;
        }
        Path making = folder.resolve("making");
        Path half = making.resolve(Database.FILE);
        try {
            Files.createDirectories(making);
            if (Files.exists(half)) {
                // Refuses to open while another process is making it.
                Database.inFolder(making, Durability.PROCESS, mac).close();
                Files.delete(half);
            }
            try (Database database = Database.inFolder(making, Durability.PROCESS, mac)) {
                database.fill(() -> work.accept(database));
            }
            Files.move(half, made, StandardCopyOption.ATOMIC_MOVE);
            // Stays when something else lies there, such as the database's own log of a fault; that hurts nobody.
            making.toFile().delete();
        } catch (IOException e) {
            throw new UncheckedIOException("The demo's data cannot be made in " + folder + ".", e);
        }
    }

    /** Tells the connections where the stand-ins are now; before, builds the demo when nobody is there yet. */
    public static void prepare(Database database, Outside outside, Instant now) {
        Workflows workflows = new Workflows(database);
        Organisation organisation = new Organisation(database);
        DemoWorkflows demo = new DemoWorkflows(workflows);
        Journal journal = new Journal(database);
        Journal.By administrator = new Journal.By(new PersonId("halvard"), now);
        // Where somebody has changed one by hand, the journal says what it is, and so it must when it moves.
        Consumer<Connection> set = c -> {
            if (journal.knows("connection", c.key())) {
                new SetUp(database).connection(administrator, c);
            } else {
                workflows.putConnection(c);
            }
        };
        DemoWorkflows.connect(set, outside.http());
        DemoNetwork.connect(set, outside);
        DemoLedger.connect(set, outside.ledger());
        Subscription office = DemoStarts.harbourOffice(outside.http());
        if (journal.knows("subscription", office.key().value())) {
            new SetUp(database).subscription(administrator, office);
        } else {
            new Subscriptions(database).put(office);
        }
        if (!organisation.hasPeople()) {
            new DemoWorld(organisation).build();
            new Relays(database).put(DemoRelay.ROOM);
            new Sources(database).put(DemoSources.boardMonitor());
            new Sources(database).put(DemoSources.gateLog());
            new Sources(database).put(DemoSources.copies());
            demo.build(now.minus(BEFORE_HISTORY));
            watches(database, workflows);
            HandReadings byHand = new HandReadings(database);
            DemoStarts.READ_BY_HAND.forEach(key -> byHand.put(new HandReading(key, true)));
            DemoStarts.terms(now).forEach(workflows::putTerms);
            new Partners(database).put(DemoPartner.supplier());
            new Sources(database).put(DemoPartner.source(organisation.fields()));
            new DemoAnswers(new KnownAnswers(database)).build();
            Chats.Reach byChat = new Chats.Reach(
                    "@teo:kestrel.example",
                    Chats.Channel.CHAT,
                    Chats.Channel.MAIL,
                    null,
                    null,
                    ZoneId.of("Europe/Oslo"));
            new Chats(database).putReach(new PersonId("teo"), byChat);
            Cases cases = new Cases(database, Secrets::randomBytes);
            DemoStage stage = new DemoStage(cases, new Tickets(database), new Outbox(database));
            try (DemoSignals signals = new DemoSignals(database, stage)) {
                signals.kept(administrator, "ALD-07");
                DemoPast past = new DemoPast(stage, new DemoPlayer(stage, organisation), signals);
                new DemoHistory(stage, past, cases).build(now);
            }
        }
    }

    private static void watches(Database database, Workflows workflows) {
        for (Watch watch : List.of(DemoStarts.kiosksHeard(), DemoStarts.kioskPaper())) {
            Action reads = workflows.actions().stream()
                    .filter(a -> a.key().equals(watch.action()))
                    .findFirst()
                    .orElseThrow();
            new Watches(database).put(watch);
            new Sources(database).put(watch.source(reads, Source.Otherwise.INCIDENT, "pier-technicians"));
        }
    }
}
