package dastur.server;

import dastur.connectors.Connectors;
import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.core.record.Signer;
import dastur.core.run.Engine;
import dastur.core.ticket.TicketId;
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
import dastur.server.auth.DecisionLinks;
import dastur.server.auth.FeedLinks;
import dastur.server.auth.MailThreads;
import dastur.server.auth.Passwords;
import dastur.server.auth.Secrets;
import dastur.server.chat.Chat;
import dastur.server.demo.Demo;
import dastur.server.demo.DemoClock;
import dastur.server.http.Route;
import dastur.server.http.WebServer;
import dastur.server.mail.Replies;
import dastur.server.witness.Giving;
import dastur.server.work.CommandService;
import dastur.server.work.Live;
import dastur.server.work.Workers;
import dastur.standins.Mailbox;
import dastur.standins.NameServer;
import dastur.standins.Standins;
import dastur.store.Cases;
import dastur.store.Chats;
import dastur.store.Database;
import dastur.store.Files;
import dastur.store.FormDrafts;
import dastur.store.Hearing;
import dastur.store.Journal;
import dastur.store.Keeping;
import dastur.store.KnownAnswers;
import dastur.store.MailAsks;
import dastur.store.Nodes;
import dastur.store.Organisation;
import dastur.store.Outbox;
import dastur.store.RecordLog;
import dastur.store.Records;
import dastur.store.SavedViews;
import dastur.store.Sessions;
import dastur.store.SetUp;
import dastur.store.Signals;
import dastur.store.StoredSecrets;
import dastur.store.Surroundings;
import dastur.store.Tickets;
import dastur.store.Undelivered;
import dastur.store.Witnesses;
import dastur.store.Workflows;
import java.net.URI;
import java.security.cert.CertificateEncodingException;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.atomic.AtomicReference;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Puts the application together by hand, and takes it apart in order. */
public final class Wiring implements AutoCloseable {
    private final Settings settings;
    private final Database database;
    private final @Nullable Standins standins;
    private final Connectors connectors = new Connectors();
    private final Workers workers;
    private final @Nullable Chat chat;
    private final @Nullable Replies replies;
    private final WebServer web;
    private final Hearing hearing;
    private final App app;

    public Wiring(Settings settings) {
        this.settings = settings;
        DataFolder folder = new DataFolder(settings.data());
        boolean demo = settings.demo().on();
        if (demo) {
            Demo.make(settings.data(), settings.clock().instant(), folder.rowKey());
        }
        Signer signer = folder.signer();
        boolean takesOver = !folder.hasRowKey()
                && java.nio.file.Files.exists(settings.data().resolve(Database.FILE));
        database = settings.database() == null
                ? Database.inFolder(settings.data(), settings.durability(), folder.rowKey())
                : Database.onServer(settings.database(), folder.rowKey());
        Nodes nodes = new Nodes(database);
        RecordLog log = new RecordLog(database, signer);
        Organisation organisation = new Organisation(database);
        Workflows workflows = new Workflows(database);
        Tickets tickets = new Tickets(database);
        Records records = new Records(database, log);
        Outbox outbox = new Outbox(database);
        Sessions sessions = new Sessions(database);
        if (takesOver) {
            sessions.takeOver();
        }
        Cases cases = new Cases(database, Secrets::randomBytes);
        KnownAnswers known = new KnownAnswers(database);
        Chats chats = new Chats(database);
        AtomicReference<Runnable> wake = new AtomicReference<>(() -> {});
        AtomicReference<CommandService.Listener> heard = new AtomicReference<>((ticket, events) -> {});
        DemoClock demoClock = demo ? new DemoClock(settings.clock(), organisation) : null;
        InstantSource clock = demoClock == null ? settings.clock() : demoClock;
        standins = demo ? standins(settings, folder, demoClock, wake) : null;
        StoredSecrets secrets = new StoredSecrets(database, folder.secretsKey());
        folder.handOverSecrets(values -> secrets.takeOver(values, clock.instant()));
        if (standins != null) {
            Demo.prepare(database, outside(standins), clock.instant());
        }
        Live live = new Live();
        Instant upSince = nodes.begin(clock.instant());
        CommandService commands = new CommandService(cases, new Engine(), clock, upSince, (ticket, events) -> {
            live.committed(ticket, events);
            heard.get().committed(ticket, events);
        });
        MailConnector mail = new MailConnector(
                standins == null
                        ? new MailConnector.Settings(
                                settings.mail().host(),
                                settings.mail().port(),
                                settings.mail().from())
                        : new MailConnector.Settings(
                                "127.0.0.1", standins.mailbox().port(), "dastur@kestrel.example"));
        String chatServer = standins == null ? settings.chat() : standins.address();
        chat = chatServer == null
                ? null
                : new Chat(new Chat.Means(
                        new MatrixConnector(new MatrixConnector.Settings(
                                chatServer, () -> secrets.find(standins == null ? "chat" : Demo.SECRET))),
                        chats,
                        commands,
                        tickets,
                        organisation::person,
                        this::address,
                        () -> nodes.has(Nodes.Duty.CHAT)));
        DecisionLinks links = new DecisionLinks(folder.linkKey());
        MailThreads threads = new MailThreads(folder.linkKey());
        MailAsks asks = new MailAsks(database);
        MailInbox inbox = inbox(settings, secrets, standins);
        FormDrafts drafts = new FormDrafts(database);
        Giving giving = new Giving(
                standins == null ? settings.witnesses() : witnesses(settings, standins),
                new Witnesses(database),
                mail,
                () -> secrets.find("witness"),
                upSince);
        Looking looking = new Looking(database, log, settings, giving);
        workers = new Workers(new Workers.Means(
                outbox,
                commands,
                log,
                giving::give,
                new Keeping(database),
                nodes,
                looking::inPassing,
                tickets,
                cases,
                new Signals(database),
                connectors,
                mail,
                workflows::connection,
                secrets::find,
                organisation::person,
                clock,
                settings.callLease(),
                links,
                this::address,
                chats,
                chat,
                asks,
                drafts,
                inbox == null ? null : threads));
        replies = inbox == null
                ? null
                : new Replies(new Replies.Means(
                        inbox,
                        mail,
                        asks,
                        threads,
                        commands,
                        tickets,
                        organisation::person,
                        id -> chats.reach(id).zone(),
                        clock,
                        standins == null ? Duration.ofSeconds(15) : Duration.ofSeconds(1),
                        () -> nodes.has(Nodes.Duty.MAILBOX)));
        wake.set(workers::wake);
        heard.set((ticket, events) -> {
            workers.committed(ticket, events);
            if (chat != null) {
                chat.committed(events);
            }
        });
        App.Demo means = standins == null || demoClock == null
                ? null
                : new App.Demo(standins.address(), by -> {
                    demoClock.advance(by);
                    wake.get().run();
                });
        app = new App(
                commands,
                tickets,
                records,
                log,
                looking,
                workflows,
                organisation,
                sessions,
                new Signals(database),
                cases::look,
                live,
                clock,
                folder.signingKey(),
                links,
                new FeedLinks(folder.linkKey()),
                new Files(database),
                chats,
                new SavedViews(database),
                new Undelivered(database),
                known,
                new Surroundings(database),
                drafts,
                new SetUp(database),
                new Journal(database),
                secrets,
                new Passwords(),
                means);
        web = new WebServer(
                new WebServer.Means(
                        sessions,
                        organisation,
                        clock,
                        live,
                        (person, ticket) -> Visibility.maySee(app, person, ticket),
                        Set.copyOf(settings.proxies())),
                routes(app));
        sessions.forgetExpired(clock.instant());
        hearing = new Hearing(database, new Hearing.Ear() {
            @Override
            public void changed(TicketId ticket, long seq) {
                live.changed(ticket, seq);
                workers.wake();
            }

            @Override
            public void missed() {
                live.missed();
            }
        });
        workers.start();
        if (chat != null) {
            chat.start();
        }
        if (replies != null) {
            replies.start();
        }
        web.start(settings.host(), settings.port());
    }

    /** The mailbox to which people answer; null where none is named. */
    private static @Nullable MailInbox inbox(Settings settings, StoredSecrets secrets, @Nullable Standins standins) {
        if (standins != null) {
            return new MailInbox(new MailInbox.Settings(
                    "127.0.0.1", standins.mailbox().imapPort(), false, Mailbox.OWN, () -> secrets.find(Demo.SECRET)));
        }
        Settings.Inbox named = settings.inbox();
        return named == null
                ? null
                : new MailInbox(new MailInbox.Settings(
                        named.host(), named.port(), named.port() != 143, named.user(), () -> secrets.find("mailbox")));
    }

    private static Demo.Outside outside(Standins standins) {
        return new Demo.Outside(
                standins.address(),
                standins.devices().address(),
                standins.names().address());
    }

    private static Standins standins(
            Settings settings, DataFolder folder, DemoClock clock, AtomicReference<Runnable> wake) {
        String token = folder.secretOrNew(Demo.SECRET);
        folder.keepSecret(Demo.ZONE_KEY, NameServer.secret(token));
        return new Standins(new Standins.Settings(
                settings.demo().ports(),
                token,
                settings.demo().enrolment(),
                by -> {
                    clock.advance(by);
                    wake.get().run();
                },
                settings.data()));
    }

    /** The demo shows how it works; in earnest a file belongs on another machine. */
    private static Giving.To witnesses(Settings settings, Standins standins) {
        Giving.To named = settings.witnesses();
        try {
            return new Giving.To(
                    named.to().isEmpty()
                            ? List.of(settings.data().resolve("witness.ndjson").toString())
                            : named.to(),
                    named.stamps() != null
                            ? named.stamps()
                            : new Giving.Stamps(
                                    URI.create(standins.address() + "/time-stamps"),
                                    standins.time().certificate().getEncoded()));
        } catch (CertificateEncodingException e) {
            throw new IllegalStateException(e);
        }
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
        return database;
    }

    public Optional<Standins> standins() {
        return Optional.ofNullable(standins);
    }

    public int port() {
        return web.port();
    }

    /** Stops taking requests, lets what is under way end, then closes the database. */
    @Override
    public void close() {
        web.close();
        if (chat != null) {
            chat.close();
        }
        if (replies != null) {
            replies.close();
        }
        hearing.close();
        workers.close();
        connectors.close();
        if (standins != null) {
            standins.close();
        }
        database.close();
    }
}
