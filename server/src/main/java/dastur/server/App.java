package dastur.server;

import dastur.server.auth.DecisionLinks;
import dastur.server.auth.FeedLinks;
import dastur.server.auth.Passwords;
import dastur.server.work.CommandService;
import dastur.server.work.Live;
import dastur.store.Chats;
import dastur.store.Files;
import dastur.store.FormDrafts;
import dastur.store.Journal;
import dastur.store.KnownAnswers;
import dastur.store.Neighbours;
import dastur.store.Organisation;
import dastur.store.RecordLog;
import dastur.store.Records;
import dastur.store.SavedViews;
import dastur.store.Sessions;
import dastur.store.SetUp;
import dastur.store.Signals;
import dastur.store.StoredSecrets;
import dastur.store.Tickets;
import dastur.store.Undelivered;
import dastur.store.Workflows;
import java.security.KeyPair;
import java.time.InstantSource;
import org.jspecify.annotations.Nullable;

/**
 * What routes work with.
 *
 * @param look looks values up as the engine does; for rehearsals
 * @param looking what an administrator does to look after what is kept
 * @param demo the demo's means, such as moving its clock; null outside the demo
 */
public record App(
        CommandService commands,
        Tickets tickets,
        Records records,
        RecordLog log,
        Looking looking,
        Workflows workflows,
        Organisation organisation,
        Sessions sessions,
        Signals signals,
        java.util.function.Function<dastur.core.run.LookupKey, java.util.Optional<?>> look,
        Live live,
        InstantSource clock,
        KeyPair signingKey,
        DecisionLinks links,
        FeedLinks feeds,
        Files files,
        Chats chats,
        SavedViews views,
        Undelivered undelivered,
        KnownAnswers known,
        Neighbours neighbours,
        FormDrafts drafts,
        SetUp setUp,
        Journal journal,
        StoredSecrets secrets,
        Passwords passwords,
        @Nullable Demo demo) {
    /** What only the demo can do. @param standins the address of the stand-ins' control page */
    public record Demo(String standins, java.util.function.Consumer<java.time.Duration> advance) {}
}
