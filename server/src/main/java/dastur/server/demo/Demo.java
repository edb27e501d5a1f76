package dastur.server.demo;

import dastur.core.people.PersonId;
import dastur.store.Cases;
import dastur.store.Chats;
import dastur.store.KnownAnswers;
import dastur.store.Organisation;
import dastur.store.Outbox;
import dastur.store.Tickets;
import dastur.store.Workflows;
import java.time.Duration;
import java.time.Instant;
import java.time.ZoneId;

/** Fills an empty database with the demo. */
public final class Demo {
    private static final Duration BEFORE_HISTORY = Duration.ofDays(40);

    private Demo() {}

    /** Where the stand-ins are this time: addresses of connections. */
    public record Outside(String http, String devices, String names) {}

    /** The name of the secret that signs updates of the zone. */
    public static final String ZONE_KEY = DemoNetwork.ZONE_KEY;

    /** The secret that the demo's connections use. */
    public static final String SECRET = DemoWorkflows.SECRET;

    /** Builds the demo when nobody is there yet; else only tells the connections where the stand-ins are now. */
    public static void prepare(
            Organisation organisation,
            Workflows workflows,
            Cases cases,
            Tickets tickets,
            Outbox outbox,
            KnownAnswers known,
            Chats chats,
            Outside outside,
            Instant now) {
        DemoWorkflows demo = new DemoWorkflows(workflows);
        demo.connect(outside.http());
        DemoNetwork.connect(workflows, outside);
        if (!organisation.hasPeople()) {
            new DemoWorld(organisation).build();
            demo.build(now.minus(BEFORE_HISTORY));
            new DemoAnswers(known).build();
            Chats.Reach byChat = new Chats.Reach(
                    "@teo:kestrel.example",
                    Chats.Channel.CHAT,
                    Chats.Channel.MAIL,
                    null,
                    null,
                    ZoneId.of("Europe/Oslo"));
            chats.putReach(new PersonId("teo"), byChat);
            DemoStage stage = new DemoStage(cases, tickets, outbox);
            DemoPast past = new DemoPast(stage, new DemoPlayer(stage, organisation));
            new DemoHistory(stage, past, cases).build(now);
        }
    }
}
