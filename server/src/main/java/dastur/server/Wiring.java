package dastur.server;

import dastur.server.api.RouteTable;
import dastur.server.auth.FeedLinks;
import dastur.server.auth.Passwords;
import dastur.server.http.WebServer;
import dastur.store.Database;
import dastur.store.Files;
import dastur.store.HandReadings;
import dastur.store.Journal;
import dastur.store.KnownAnswers;
import dastur.store.Records;
import dastur.store.SavedViews;
import dastur.store.SetUp;
import dastur.store.Undelivered;
import java.time.InstantSource;
import java.util.Optional;
import java.util.OptionalInt;
import java.util.Set;

/** Puts the application together by hand, part by part, and takes it apart in reverse: also where a later part cannot begin. */
public final class Wiring implements AutoCloseable {
    private final Settings settings;
    private final Parts parts = new Parts();
    private final Storage storage;
    private final App app;
    private final WebServer web;
    private volatile boolean listens;

    /** The application by itself. */
    public Wiring(Settings settings) {
        this(settings, new Earnest());
    }

    /** @param scene what stands around it; closed with it */
    public Wiring(Settings settings, Scene scene) {
        this.settings = settings;
        try {
            DataFolder folder = new DataFolder(settings.data());
            scene.before(settings, folder);
            storage = parts.add(new Storage(settings, folder));
            parts.add(scene);
            InstantSource clock = scene.begin(settings, folder, storage.organisation);
            storage.takeSecrets(folder, clock);
            scene.prepare(storage.database(), clock.instant());
            Working working = parts.add(new Working(
                    settings, folder, storage, scene.outside(settings, storage.secrets), clock, this::port));
            scene.running(
                    working::wake,
                    this::reached,
                    () -> working.syslog == null ? OptionalInt.empty() : OptionalInt.of(working.syslog.port()));
            app = app(folder, working, clock, scene);
            web = parts.add(web(clock, working));
            parts.add(working.relays::end);
            storage.sessions.forgetExpired(clock.instant());
            // Before anything is done by itself: what goes out names this address, and one whose port is taken takes no
            // work.
            web.start(settings.host(), settings.port());
            listens = true;
            working.start();
        } catch (RuntimeException | Error e) {
            closeAfter(e);
            throw e;
        }
    }

    /** Where it is reached on this machine, once it listens. */
    private Optional<String> reached() {
        return listens ? Optional.of("http://127.0.0.1:" + web.port()) : Optional.empty();
    }

    private void closeAfter(Throwable why) {
        try {
            parts.close();
        } catch (RuntimeException e) {
            why.addSuppressed(e);
        }
    }

    private App app(DataFolder folder, Working working, InstantSource clock, Scene scene) {
        Database database = storage.database();
        return new App(
                new App.Work(
                        working.commands,
                        storage.tickets,
                        new Records(database, storage.log),
                        new Files(database),
                        storage.chats,
                        new Undelivered(database)),
                new App.Design(
                        storage.organisation,
                        storage.workflows,
                        new SetUp(database),
                        new Journal(database),
                        storage.secrets,
                        storage.cases::look,
                        working.channels),
                new App.Door(
                        storage.sessions,
                        new Passwords(),
                        working.live,
                        working.links,
                        new FeedLinks(folder.linkKey())),
                new App.Kept(storage.log, folder.signingKey(), working.looking),
                new App.Beside(
                        storage.neighbours, new KnownAnswers(database), storage.drafts, new SavedViews(database)),
                new App.Signalling(
                        storage.sources,
                        storage.incoming,
                        storage.samples,
                        storage.matters,
                        working.incomings.intake(),
                        working.incomings.refusals(),
                        working.incomings.understanding(),
                        working.incomings.foreseeing(),
                        working.incomings.delivering(),
                        working.syslog),
                new App.Starts(
                        storage.schedules,
                        storage.hooks,
                        working.endings,
                        storage.watches,
                        working.lookout,
                        storage.incoming::refusals),
                new App.Out(storage.feed, storage.subscriptions, working.events, working.telling),
                new App.Machines(
                        storage.actions,
                        storage.tries,
                        storage.callsMade,
                        working.trials,
                        working.breakers,
                        new HandReadings(database),
                        working.calls,
                        working.greetings),
                new App.Zones(storage.relays, storage.relayWork, working.relays, folder.relaysKey()),
                new App.AtPartners(storage.partners, storage.takeovers, working.exchange),
                clock,
                scene.demo().orElse(null));
    }

    private WebServer web(InstantSource clock, Working working) {
        return new WebServer(
                new WebServer.Uses(
                        storage.sessions,
                        storage.organisation,
                        clock,
                        working.live,
                        person -> RouteTable.reader(app, person),
                        Set.copyOf(settings.proxies())),
                RouteTable.of(app));
    }

    public App app() {
        return app;
    }

    public Database database() {
        return storage.database();
    }

    public int port() {
        return web.port();
    }

    /** Stops taking requests, lets what is under way end, then closes the database. */
    @Override
    public void close() {
        parts.close();
    }
}
