package dastur.server;

import dastur.connectors.Connectors;
import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.connectors.MatrixConnector;
import dastur.core.run.Engine;
import dastur.core.ticket.TicketId;
import dastur.server.api.Sight;
import dastur.server.auth.DecisionLinks;
import dastur.server.auth.MailThreads;
import dastur.server.channels.ChannelsNow;
import dastur.server.chat.Chat;
import dastur.server.feed.Events;
import dastur.server.feed.Telling;
import dastur.server.machines.Greetings;
import dastur.server.machines.Trials;
import dastur.server.machines.Voices;
import dastur.server.mail.Replies;
import dastur.server.partners.Exchange;
import dastur.server.relays.Handing;
import dastur.server.relays.RelayDoor;
import dastur.server.signals.Incomings;
import dastur.server.signals.MailDoor;
import dastur.server.signals.SyslogDoor;
import dastur.server.starts.Endings;
import dastur.server.starts.Lookout;
import dastur.server.starts.Timekeeper;
import dastur.server.witness.Giving;
import dastur.server.work.Breakers;
import dastur.server.work.ByHand;
import dastur.server.work.CallFiles;
import dastur.server.work.CommandService;
import dastur.server.work.Live;
import dastur.server.work.OwnCalls;
import dastur.server.work.Workers;
import dastur.store.Files;
import dastur.store.Hearing;
import dastur.store.Keeping;
import dastur.store.Nodes;
import dastur.store.Records;
import dastur.store.Witnesses;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.concurrent.atomic.AtomicReference;
import java.util.function.IntSupplier;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;

/** What goes on by itself: carrying out commands, workers, chat, the mailbox, and listening to other nodes. */
final class Working implements AutoCloseable {
    final Live live;
    final CommandService commands;
    final DecisionLinks links;
    final Looking looking;

    final OwnCalls calls;
    final Incomings incomings;
    final @Nullable SyslogDoor syslog;
    final Endings endings;
    final Lookout lookout;
    final Exchange exchange;
    final Events events;
    final Telling telling;
    final Trials trials;
    final Greetings greetings;
    final Breakers breakers;
    final RelayDoor relays;

    private final Parts parts = new Parts();
    private final AtomicReference<CommandService.Listener> heard = new AtomicReference<>((before, events, after) -> {});
    private final Voices voices;
    private final Workers workers;
    private final Timekeeper timekeeper;
    private final Chat chat;
    private final Replies replies;
    final ChannelsNow channels;

    /** @param port where it listens, once it does */
    Working(
            Settings settings,
            DataFolder folder,
            Storage storage,
            Scene.Outside outside,
            InstantSource clock,
            IntSupplier port) {
        live = new Live(storage.tickets::counts);
        channels = new ChannelsNow(outside, settings.address(), storage.organisation::channels, storage.secrets::find);
        Supplier<String> address = () -> channels.address().orElseGet(() -> "http://localhost:" + port.getAsInt());
        Instant upSince = storage.nodes.begin(clock.instant());
        commands = new CommandService(storage.cases, new Engine(), clock, upSince, (before, events, after) -> {
            live.committed(before, events, after);
            heard.get().committed(before, events, after);
        });
        links = new DecisionLinks(folder.linkKey());
        MailConnector mail = new MailConnector(channels::mail);
        Giving giving = new Giving(
                outside.witnesses(),
                new Witnesses(storage.database()),
                mail,
                () -> storage.secrets.find("witness"),
                upSince);
        looking = new Looking(storage.database(), storage.log, settings, giving);
        MailThreads threads = new MailThreads(folder.linkKey());
        chat = chat(storage, address);
        Connectors connectors = parts.add(new Connectors());
        voices = parts.add(new Voices(storage.callsMade, clock));
        Keeping keeping = new Keeping(storage.database());
        Handing handing = new Handing(connectors, storage.relayWork);
        relays = new RelayDoor(new RelayDoor.Uses(
                storage.relays,
                storage.relayWork,
                storage.outbox,
                handing,
                commands,
                folder.relaysKey(),
                () -> keeping.heldSince().isPresent(),
                InstantSource.system(),
                clock));
        trials = parts.add(new Trials(new Trials.Uses(
                storage.tries, voices, handing, storage.workflows::connection, storage.secrets::find, clock)));
        greetings = new Greetings(connectors, storage.secrets::find, clock);
        breakers = new Breakers(storage.workflows::callsByHand, clock);
        workers = parts.add(new Workers(new Workers.Uses(
                storage.outbox,
                commands,
                storage.log,
                giving::give,
                keeping,
                storage.nodes,
                looking::inPassing,
                storage.tickets,
                storage.cases,
                storage.signals,
                handing,
                id -> storage.relayWork.find(id).isPresent(),
                voices,
                new CallFiles(new Files(storage.database()), commands),
                mail,
                storage.workflows::connection,
                storage.secrets::find,
                storage.organisation::person,
                clock,
                breakers,
                settings.callLease(),
                links,
                address,
                storage.chats,
                chat,
                storage.asks,
                storage.drafts,
                threads,
                () -> channels.mailbox().isPresent())));
        incomings = parts.add(new Incomings(new Incomings.Uses(
                storage.incoming,
                storage.matters,
                storage.consequences,
                storage.sources,
                storage.signals,
                storage.organisation,
                storage.neighbours,
                storage.workflows,
                storage.tickets,
                commands,
                storage.nodes,
                () -> keeping.heldSince().isPresent(),
                clock)));
        syslog = settings.syslogPort() == null
                ? null
                : parts.add(syslog(settings, settings.syslogPort(), storage, incomings, clock));
        timekeeper = parts.add(new Timekeeper(new Timekeeper.Uses(
                storage.schedules,
                storage.hooks,
                storage.workflows,
                storage.organisation,
                commands,
                storage.nodes,
                () -> keeping.heldSince().isPresent(),
                clock)));
        calls = new OwnCalls(storage.workflows, handing, storage.secrets::find, clock);
        lookout = parts.add(new Lookout(new Lookout.Uses(
                storage.watches,
                calls,
                incomings.intake(),
                storage.nodes,
                () -> keeping.heldSince().isPresent(),
                clock)));
        exchange = parts.add(new Exchange(new Exchange.Uses(
                storage.partners,
                storage.takeovers,
                calls,
                incomings.intake(),
                storage.matters,
                storage.tickets,
                new Records(storage.database(), storage.log),
                commands,
                storage.organisation::fields,
                (partner, raw) -> incomings.fields(partner.key().source(), raw, clock.instant()),
                storage.organisation::person,
                storage.nodes,
                () -> keeping.heldSince().isPresent(),
                clock)));
        Sight sight =
                new Sight(storage.tickets, new Records(storage.database(), storage.log), storage.organisation, clock);
        events = new Events(storage.tickets, storage.organisation, storage.cases::look, sight::maySee);
        telling = parts.add(new Telling(new Telling.Uses(
                storage.subscriptions,
                storage.feed,
                events,
                storage.organisation::person,
                storage.secrets::find,
                storage.nodes,
                clock)));
        endings = new Endings(new Records(storage.database(), storage.log));
        Hearing hearing = parts.add(new Hearing(storage.database(), new Ear()));
        replies = parts.add(new Replies(new Replies.Uses(
                new MailInbox(channels::mailbox),
                mail,
                storage.asks,
                threads,
                commands,
                storage.tickets,
                storage.organisation::person,
                id -> storage.chats.reach(id).zone(),
                clock,
                outside.mailboxEvery(),
                () -> storage.nodes.has(Nodes.Duty.MAILBOX),
                new MailDoor(storage.sources, incomings.intake(), incomings.refusals(), clock)::take)));
        parts.add(chat);
        heard.set((before, events, after) -> {
            workers.committed(after.id(), events);
            endings.committed(after.id(), events);
            chat.committed(events);
        });
    }

    private Chat chat(Storage storage, Supplier<String> address) {
        return new Chat(new Chat.Uses(
                new MatrixConnector(channels::chat),
                storage.chats,
                commands,
                storage.tickets,
                storage.organisation::person,
                new ByHand(storage.cases::look, storage.workflows),
                address,
                () -> storage.nodes.has(Nodes.Duty.CHAT)));
    }

    /** What other nodes have committed. */
    private final class Ear implements Hearing.Ear {
        @Override
        public void changed(TicketId ticket, long seq) {
            live.changed(ticket, seq);
            workers.wake();
        }

        @Override
        public void missed() {
            live.missed();
        }
    }

    private static SyslogDoor syslog(
            Settings settings, int at, Storage storage, Incomings incomings, InstantSource clock) {
        try {
            return new SyslogDoor(
                    storage.sources, incomings.intake(), incomings.refusals(), clock, settings.host(), at);
        } catch (IOException e) {
            throw new UncheckedIOException("Syslog cannot be taken at port " + at + ": " + e.getMessage(), e);
        }
    }

    void start() {
        voices.start();
        workers.start();
        incomings.start();
        timekeeper.start();
        lookout.start();
        exchange.start();
        telling.start();
        chat.start();
        replies.start();
    }

    /** Has the workers look for what is due. */
    void wake() {
        timekeeper.wake();
        workers.wake();
    }

    @Override
    public void close() {
        parts.close();
    }
}
