package dastur.server;

import dastur.server.api.AskingRoutes;
import dastur.server.api.BulkRoutes;
import dastur.server.api.CiRoutes;
import dastur.server.api.Covering;
import dastur.server.api.DecisionRoutes;
import dastur.server.api.EndingRoutes;
import dastur.server.api.FileRoutes;
import dastur.server.api.FilesOfTickets;
import dastur.server.api.FindingRoutes;
import dastur.server.api.GrantRoutes;
import dastur.server.api.KeepingRoutes;
import dastur.server.api.KnownAnswerRoutes;
import dastur.server.api.LinkRoutes;
import dastur.server.api.NotationRoutes;
import dastur.server.api.OrganisationRoutes;
import dastur.server.api.ReachRoutes;
import dastur.server.api.RehearsalRoutes;
import dastur.server.api.RotaRoutes;
import dastur.server.api.RunRoutes;
import dastur.server.api.SecretRoutes;
import dastur.server.api.SessionRoutes;
import dastur.server.api.SetUpRoutes;
import dastur.server.api.SignalRoutes;
import dastur.server.api.TicketRoutes;
import dastur.server.api.Visibility;
import dastur.server.api.WorkflowRoutes;
import dastur.server.auth.FeedLinks;
import dastur.server.auth.Passwords;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.store.Database;
import dastur.store.Files;
import dastur.store.Journal;
import dastur.store.KnownAnswers;
import dastur.store.Neighbours;
import dastur.store.Records;
import dastur.store.SavedViews;
import dastur.store.SetUp;
import dastur.store.Undelivered;
import java.time.InstantSource;
import java.util.List;
import java.util.Set;
import java.util.stream.Stream;

/** Puts the application together by hand, part by part, and takes it apart in reverse: also where a later part cannot begin. */
public final class Wiring implements AutoCloseable {
    private final Settings settings;
    private final Parts parts = new Parts();
    private final Storage storage;
    private final App app;
    private final WebServer web;

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
                    settings, folder, storage, scene.outside(settings, storage.secrets), clock, this::address));
            scene.running(working::wake);
            app = app(folder, working, clock, scene);
            web = parts.add(web(clock, working));
            storage.sessions.forgetExpired(clock.instant());
            working.start();
            web.start(settings.host(), settings.port());
        } catch (RuntimeException | Error e) {
            closeAfter(e);
            throw e;
        }
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
                working.commands,
                storage.tickets,
                new Records(database, storage.log),
                storage.log,
                working.looking,
                storage.workflows,
                storage.organisation,
                storage.sessions,
                storage.signals,
                storage.cases::look,
                working.live,
                clock,
                folder.signingKey(),
                working.links,
                new FeedLinks(folder.linkKey()),
                new Files(database),
                storage.chats,
                new SavedViews(database),
                new Undelivered(database),
                new KnownAnswers(database),
                new Neighbours(database),
                storage.drafts,
                new SetUp(database),
                new Journal(database),
                storage.secrets,
                new Passwords(),
                scene.demo().orElse(null));
    }

    private WebServer web(InstantSource clock, Working working) {
        return new WebServer(
                new WebServer.Uses(
                        storage.sessions,
                        storage.organisation,
                        clock,
                        working.live,
                        (person, ticket) -> Visibility.maySee(app, person, ticket),
                        Set.copyOf(settings.proxies())),
                routes(app));
    }

    /** Where people reach the application. */
    private String address() {
        return settings.address() == null ? "http://localhost:" + port() : settings.address();
    }

    /** The whole route table. */
    public static List<Route> routes(App app) {
        return Stream.of(
                        SessionRoutes.of(app),
                        TicketRoutes.of(app),
                        EndingRoutes.of(app),
                        SignalRoutes.of(app),
                        KeepingRoutes.of(app),
                        NotationRoutes.of(app),
                        FileRoutes.of(app),
                        RunRoutes.of(app),
                        Covering.of(app),
                        GrantRoutes.of(app),
                        DecisionRoutes.of(app),
                        RehearsalRoutes.of(app),
                        WorkflowRoutes.of(app),
                        OrganisationRoutes.of(app),
                        CiRoutes.of(app),
                        RotaRoutes.of(app),
                        AskingRoutes.of(app),
                        LinkRoutes.of(app),
                        BulkRoutes.of(app),
                        ReachRoutes.of(app),
                        FilesOfTickets.of(app),
                        FindingRoutes.of(app),
                        KnownAnswerRoutes.of(app),
                        SecretRoutes.of(app),
                        SetUpRoutes.of(app))
                .flatMap(s -> s)
                .toList();
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
