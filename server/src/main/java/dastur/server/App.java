package dastur.server;

import dastur.core.run.LookupKey;
import dastur.core.signal.SourceKey;
import dastur.server.auth.DecisionLinks;
import dastur.server.auth.FeedLinks;
import dastur.server.auth.Passwords;
import dastur.server.channels.ChannelsNow;
import dastur.server.feed.Events;
import dastur.server.feed.Telling;
import dastur.server.machines.Greetings;
import dastur.server.machines.Trials;
import dastur.server.partners.Exchange;
import dastur.server.relays.RelayDoor;
import dastur.server.signals.Delivering;
import dastur.server.signals.Foreseeing;
import dastur.server.signals.Intake;
import dastur.server.signals.Refusals;
import dastur.server.signals.SyslogDoor;
import dastur.server.signals.Understanding;
import dastur.server.starts.Endings;
import dastur.server.starts.Lookout;
import dastur.server.work.Breakers;
import dastur.server.work.CommandService;
import dastur.server.work.Live;
import dastur.server.work.OwnCalls;
import dastur.store.ActionTries;
import dastur.store.Actions;
import dastur.store.CallsMade;
import dastur.store.Chats;
import dastur.store.Feed;
import dastur.store.Files;
import dastur.store.FormDrafts;
import dastur.store.HandReadings;
import dastur.store.Hooks;
import dastur.store.Incoming;
import dastur.store.Journal;
import dastur.store.KnownAnswers;
import dastur.store.Matters;
import dastur.store.Neighbours;
import dastur.store.Organisation;
import dastur.store.Partners;
import dastur.store.RecordLog;
import dastur.store.Records;
import dastur.store.RelayWork;
import dastur.store.Relays;
import dastur.store.Samples;
import dastur.store.SavedViews;
import dastur.store.Schedules;
import dastur.store.Sessions;
import dastur.store.SetUp;
import dastur.store.Sources;
import dastur.store.StoredSecrets;
import dastur.store.Subscriptions;
import dastur.store.Takeovers;
import dastur.store.Tickets;
import dastur.store.Undelivered;
import dastur.store.Watches;
import dastur.store.Workflows;
import java.security.KeyPair;
import java.time.Duration;
import java.time.InstantSource;
import java.util.List;
import java.util.Optional;
import java.util.function.BiFunction;
import java.util.function.Consumer;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;

/**
 * What stands ready when the application runs, by subject. Only what puts things together takes the whole: whoever works takes what
 * they use.
 *
 * @param demo the demo's means, such as moving its clock; null outside the demo
 */
public record App(
        Work work,
        Design design,
        Door door,
        Kept kept,
        Beside beside,
        Signalling signalling,
        Starts starts,
        Out out,
        Machines machines,
        Zones zones,
        AtPartners atPartners,
        InstantSource clock,
        @Nullable Demo demo) {
    /** Tickets, what is done on them, and what goes out from them. */
    public record Work(
            CommandService commands,
            Tickets tickets,
            Records records,
            Files files,
            Chats chats,
            Undelivered undelivered) {}

    /**
     * The organisation, its workflows and all that is set.
     *
     * @param look looks values up as the engine does; for rehearsals
     * @param channels by what people are told and heard just now
     */
    public record Design(
            Organisation organisation,
            Workflows workflows,
            SetUp setUp,
            Journal journal,
            StoredSecrets secrets,
            Function<LookupKey, Optional<?>> look,
            ChannelsNow channels) {}

    /** Who comes in, and by what. */
    public record Door(Sessions sessions, Passwords passwords, Live live, DecisionLinks links, FeedLinks feeds) {}

    /** What shows that nothing was changed or lost. @param looking what an administrator does to look after what is kept */
    public record Kept(RecordLog log, KeyPair signingKey, Looking looking) {}

    /** What stands beside tickets for people. */
    public record Beside(Neighbours neighbours, KnownAnswers known, FormDrafts drafts, SavedViews views) {}

    /** What comes from outside by itself. */
    public record Signalling(
            Sources sources,
            Incoming incoming,
            Samples samples,
            Matters matters,
            Intake intake,
            Refusals refusals,
            Understanding understanding,
            Foreseeing foreseeing,
            Delivering delivering,
            @Nullable SyslogDoor syslog) {}

    /** What starts workflows without a ticket or a signal. @param refused what a hook has refused of late, at most so many */
    public record Starts(
            Schedules schedules,
            Hooks hooks,
            Endings endings,
            Watches watches,
            Lookout lookout,
            BiFunction<SourceKey, Integer, List<Incoming.Refused>> refused) {}

    /** What goes out to those who want to know. */
    public record Out(Feed feed, Subscriptions subscriptions, Events events, Telling telling) {}

    /** What machines do, and how they went. */
    public record Machines(
            Actions actions,
            ActionTries tries,
            CallsMade made,
            Trials trials,
            Breakers breakers,
            HandReadings byHand,
            OwnCalls calls,
            Greetings greetings) {}

    /** Private networks and their relays. @param key signs what relays are given; they are told its public part */
    public record Zones(Relays relays, RelayWork work, RelayDoor door, KeyPair key) {}

    /** Partners' desks, and who keeps tickets there and here the same. */
    public record AtPartners(Partners partners, Takeovers takeovers, Exchange exchange) {}

    /** What only the demo can do. @param standins the address of the stand-ins' control page */
    public record Demo(String standins, Consumer<Duration> advance) {}
}
