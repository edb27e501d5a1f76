package dastur.server;

import dastur.server.auth.Secrets;
import dastur.store.ActionTries;
import dastur.store.Actions;
import dastur.store.CallsMade;
import dastur.store.Cases;
import dastur.store.Chats;
import dastur.store.Consequences;
import dastur.store.Database;
import dastur.store.Feed;
import dastur.store.FormDrafts;
import dastur.store.Hooks;
import dastur.store.Incoming;
import dastur.store.MailAsks;
import dastur.store.Matters;
import dastur.store.Neighbours;
import dastur.store.Nodes;
import dastur.store.Organisation;
import dastur.store.Outbox;
import dastur.store.Partners;
import dastur.store.RecordLog;
import dastur.store.RelayWork;
import dastur.store.Relays;
import dastur.store.Samples;
import dastur.store.Schedules;
import dastur.store.Sessions;
import dastur.store.Signals;
import dastur.store.Sources;
import dastur.store.StoredSecrets;
import dastur.store.Subscriptions;
import dastur.store.Takeovers;
import dastur.store.Tickets;
import dastur.store.Watches;
import dastur.store.Workflows;
import java.nio.file.Files;
import java.time.InstantSource;

/** The database, and what reads and writes it that more than one part needs. */
final class Storage implements AutoCloseable {
    private final Database database;

    final Nodes nodes;
    final RecordLog log;
    final Organisation organisation;
    final Workflows workflows;
    final Tickets tickets;
    final Neighbours neighbours;
    final Outbox outbox;
    final Sessions sessions;
    final Cases cases;
    final Chats chats;
    final Signals signals;
    final Incoming incoming;
    final Samples samples;
    final Matters matters;
    final Consequences consequences;
    final Sources sources;
    final Schedules schedules;
    final Hooks hooks;
    final Watches watches;
    final Feed feed;
    final Actions actions;
    final ActionTries tries;
    final CallsMade callsMade;
    final Relays relays;
    final RelayWork relayWork;
    final Partners partners;
    final Takeovers takeovers;
    final Subscriptions subscriptions;
    final MailAsks asks;
    final FormDrafts drafts;
    final StoredSecrets secrets;

    Storage(Settings settings, DataFolder folder) {
        boolean takesOver = !folder.hasRowKey() && Files.exists(settings.data().resolve(Database.FILE));
        // The key is made with the folder, before anything is kept under it.
        var signer = folder.signer();
        database = settings.database() == null
                ? Database.inFolder(settings.data(), settings.durability(), folder.rowKey())
                : Database.onServer(settings.database(), folder.rowKey());
        try {
            nodes = new Nodes(database);
            log = new RecordLog(database, signer);
            organisation = new Organisation(database);
            workflows = new Workflows(database);
            tickets = new Tickets(database);
            neighbours = new Neighbours(database);
            outbox = new Outbox(database);
            sessions = new Sessions(database);
            if (takesOver) {
                sessions.takeOver();
            }
            cases = new Cases(database, Secrets::randomBytes);
            chats = new Chats(database);
            signals = new Signals(database);
            incoming = new Incoming(database);
            samples = new Samples(database);
            matters = new Matters(database);
            consequences = new Consequences(database);
            sources = new Sources(database);
            schedules = new Schedules(database);
            hooks = new Hooks(database);
            watches = new Watches(database);
            feed = new Feed(database);
            actions = new Actions(database);
            tries = new ActionTries(database);
            callsMade = new CallsMade(database);
            relays = new Relays(database);
            relayWork = new RelayWork(database);
            partners = new Partners(database);
            takeovers = new Takeovers(database);
            subscriptions = new Subscriptions(database);
            asks = new MailAsks(database);
            drafts = new FormDrafts(database);
            secrets = new StoredSecrets(database, folder.secretsKey());
        } catch (RuntimeException | Error e) {
            database.close();
            throw e;
        }
    }

    Database database() {
        return database;
    }

    /** Secrets that still lie in the folder come into the database. */
    void takeSecrets(DataFolder folder, InstantSource clock) {
        folder.handOverSecrets(values -> secrets.takeOver(values, clock.instant()));
    }

    @Override
    public void close() {
        database.close();
    }
}
