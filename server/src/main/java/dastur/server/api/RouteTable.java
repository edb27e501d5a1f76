package dastur.server.api;

import dastur.core.people.Person;
import dastur.server.App;
import dastur.server.http.Route;
import dastur.server.signals.SignalDoor;
import dastur.server.starts.HookDoor;
import dastur.server.work.Live;
import java.time.InstantSource;
import java.util.List;
import java.util.stream.Stream;

/** The whole route table: the one place that hands each subject's routes what they use. */
public final class RouteTable {
    private RouteTable() {}

    /** Who may know of which ticket. */
    private static Sight sight(App app) {
        return new Sight(
                app.work().tickets(), app.work().records(), app.design().organisation(), app.clock());
    }

    /** A person as they hear of changes. */
    public static Live.Reader reader(App app, Person person) {
        return new LiveReader(
                person, sight(app), app.work().tickets(), app.design().organisation(), app.clock());
    }

    public static List<Route> of(App app) {
        App.Work work = app.work();
        App.Design design = app.design();
        App.Door door = app.door();
        App.Kept kept = app.kept();
        App.Beside beside = app.beside();
        App.Signalling signalling = app.signalling();
        InstantSource clock = app.clock();
        Sight sight = sight(app);
        Covering covering = new Covering(design.organisation(), work.tickets(), clock);
        OnTickets on = new OnTickets(work.commands(), work.tickets(), work.records(), sight, covering);
        PasswordTurns passwords = new PasswordTurns(door.passwords());
        AskViews asks = new AskViews(
                clock,
                work.commands(),
                beside.drafts(),
                beside.neighbours(),
                design.organisation(),
                design.workflows());
        RecordViews recordViews = new RecordViews(work.records(), design.workflows());
        TicketViews ticketViews = new TicketViews(
                work.tickets(),
                work.records(),
                design.organisation(),
                asks,
                new Startables(design.look(), design.workflows()),
                () -> !app.machines().byHand().allowed().isEmpty(),
                new CiFacts(design.organisation(), beside.neighbours(), clock),
                app.atPartners().partners(),
                app.demo() == null ? null : app.demo().standins() + "/chat");
        return Stream.of(
                        HealthRoutes.of(work.tickets(), clock, app.demo()),
                        SessionRoutes.of(
                                clock,
                                door.live(),
                                design.organisation(),
                                door.sessions(),
                                design.setUp(),
                                passwords,
                                app.demo()),
                        DeskRoutes.of(
                                work.tickets(),
                                design.organisation(),
                                design.workflows(),
                                work.undelivered(),
                                signalling.matters(),
                                clock),
                        TicketRoutes.of(on, work.tickets(), beside.drafts(), ticketViews, asks, sight, clock),
                        HandReadingRoutes.of(design, app.machines(), work.records(), on, clock),
                        AskedByMeRoutes.of(work.tickets(), design.organisation(), asks, clock),
                        RecordRoutes.of(
                                on, recordViews, work.records(), work.tickets(), kept.log(), kept.signingKey(), clock),
                        EndingRoutes.of(work.records(), design.organisation(), sight),
                        ComparisonRoutes.of(
                                work.records(), work.tickets(), design.organisation(), design.workflows(), on, sight),
                        SignalRoutes.of(clock, signalling.delivering()),
                        SourceRoutes.of(signalling, design, clock),
                        SampleRoutes.of(signalling, work.commands(), clock),
                        SignalPageRoutes.of(signalling, work.tickets(), on, clock),
                        SignalDoor.of(
                                signalling.sources(),
                                signalling.intake(),
                                signalling.refusals(),
                                name -> design.secrets().find(name),
                                clock),
                        FeedRoutes.of(design, app.out(), clock),
                        WatchRoutes.of(design, app.starts(), signalling.sources(), clock),
                        PartnerRoutes.of(design, app.atPartners(), signalling.sources(), on, clock),
                        TakeoverRoutes.of(app.atPartners(), clock),
                        StartRoutes.of(design, app.starts(), work.commands(), clock),
                        HookDoor.of(new HookDoor.Uses(
                                app.starts().hooks(),
                                app.starts().schedules(),
                                design.workflows(),
                                work.commands(),
                                app.starts().endings(),
                                signalling.refusals(),
                                name -> design.secrets().find(name),
                                clock)),
                        KeepingRoutes.of(clock, design.journal(), kept.log(), kept.looking()),
                        NotationRoutes.of(design.organisation(), design.workflows()),
                        FileRoutes.of(design.organisation(), design.workflows()),
                        RunRoutes.of(
                                work.commands(),
                                design.organisation(),
                                work.records(),
                                work.tickets(),
                                design.workflows()),
                        covering.routes(),
                        GrantRoutes.of(clock, design.organisation(), door.sessions()),
                        DecisionRoutes.of(
                                clock,
                                work.commands(),
                                door.links(),
                                design.organisation(),
                                work.records(),
                                work.tickets(),
                                asks),
                        RehearsalRoutes.of(
                                clock,
                                design.look(),
                                design.organisation(),
                                work.records(),
                                work.tickets(),
                                design.workflows(),
                                sight,
                                signalling),
                        WorkflowRoutes.of(
                                clock,
                                design.look(),
                                design.organisation(),
                                design.setUp(),
                                work.tickets(),
                                design.workflows(),
                                work.commands()),
                        TriggerRoutes.of(
                                design.workflows(),
                                design.organisation(),
                                work.tickets(),
                                signalling.sources(),
                                app.out().feed(),
                                clock),
                        HeldStartRoutes.of(work.tickets(), design.workflows(), work.commands()),
                        CatalogueRoutes.of(
                                design.workflows(),
                                design.organisation(),
                                work.tickets(),
                                design.setUp(),
                                design.look(),
                                sight,
                                signalling.sources(),
                                clock),
                        DirectoryRoutes.of(design.organisation(), design.workflows()),
                        OrganisationRoutes.of(
                                kept.log(),
                                design.organisation(),
                                kept.signingKey(),
                                work.tickets(),
                                design.workflows()),
                        CiRoutes.of(design.organisation(), design.setUp(), work.tickets(), clock),
                        FieldRoutes.of(design.organisation(), design.setUp(), clock),
                        RotaRoutes.of(clock, door.feeds(), design.organisation(), design.setUp(), design.workflows()),
                        AskingRoutes.of(on, sight, work.commands()),
                        OnlookerRoutes.of(id -> work.tickets().row(id).isPresent(), InstantSource.system()),
                        LinkRoutes.of(work.commands(), work.tickets(), sight),
                        BulkRoutes.of(work.commands()),
                        ReachRoutes.of(work.chats()),
                        FilesOfTickets.of(work.commands(), work.files(), work.tickets(), sight),
                        FindingRoutes.of(work.commands(), work.tickets(), work.undelivered(), beside.views()),
                        KnownAnswerRoutes.of(clock, beside.known(), design.organisation()),
                        SecretRoutes.of(design.secrets(), design.workflows(), design.channels(), clock),
                        ChannelRoutes.of(design, clock),
                        SetUpRoutes.of(
                                clock, design.journal(), door.live(), design.organisation(), design.setUp(), passwords),
                        CalendarRoutes.of(clock, design.organisation(), design.setUp()),
                        AutomationRoutes.of(
                                design.workflows(),
                                design.setUp(),
                                design.secrets(),
                                clock,
                                app.machines(),
                                app.zones().relays()),
                        ZoneRoutes.of(design, app.zones(), clock),
                        app.zones().door().routes(),
                        ListRoutes.of(on, work.records(), work.tickets(), design.workflows()),
                        CallRoutes.of(
                                on,
                                app.machines().made(),
                                design.workflows(),
                                app.machines().breakers()),
                        TermsRoutes.of(design, clock),
                        ActionRoutes.of(design, app.machines(), app.starts().watches(), clock))
                .flatMap(s -> s)
                .toList();
    }
}
