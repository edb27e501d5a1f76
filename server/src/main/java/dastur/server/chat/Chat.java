package dastur.server.chat;

import dastur.connectors.MatrixConnector;
import dastur.connectors.MatrixConnector.NotSent;
import dastur.connectors.MatrixConnector.Said;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.approval.ApprovalEvents.ApprovalVoided;
import dastur.core.step.approval.Votes;
import dastur.core.step.callin.CallInEvents.CallInAnswered;
import dastur.core.step.callin.OpenCallIn;
import dastur.server.work.ByHand;
import dastur.server.work.CommandService;
import dastur.server.work.Complaint;
import dastur.store.Chats;
import dastur.store.Chats.Asked;
import dastur.store.Outbox;
import dastur.store.Tickets;
import java.time.Duration;
import java.util.HashSet;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.ConcurrentMap;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.ReentrantLock;
import java.util.function.BooleanSupplier;
import java.util.function.Function;
import java.util.function.Supplier;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Asks and is answered in chat (N41): each person has a room with Dastur; a decision comes with numbered choices; what is
 * answered becomes the same command as in the application, so the same checks and the same entries follow. An answer that
 * is not understood is asked again.
 */
public final class Chat implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Chat.class);
    private static final Duration LISTEN = Duration.ofSeconds(20);
    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(3);
    private static final Duration BETWEEN_TRIES = Duration.ofMillis(300);
    private static final int MOST_TRIES = 3;

    /**
     * @param person looks a person up
     * @param byHand what can be started by hand
     * @param address where people reach the application, for links in rooms
     * @param listens whether it is this node that listens
     */
    public record Uses(
            MatrixConnector matrix,
            Chats chats,
            CommandService commands,
            Tickets tickets,
            Function<PersonId, Optional<Person>> person,
            ByHand byHand,
            Supplier<String> address,
            BooleanSupplier listens) {}

    private final Uses means;
    private final TicketRooms rooms;
    private final FromChat fromChat;
    private final StartFromChat startFromChat;
    private final Answering answering;
    private final Complaint complaint = new Complaint(LOG, "chat cannot be heard");
    private final ExecutorService threads = Executors.newVirtualThreadPerTaskExecutor();
    /** Whose turn it is in each person's room. */
    private final ConcurrentMap<String, ReentrantLock> turns = new ConcurrentHashMap<>();

    private volatile boolean stopping;

    public Chat(Uses means) {
        this.means = means;
        this.rooms = new TicketRooms(means);
        this.fromChat = new FromChat(means);
        this.startFromChat = new StartFromChat(means);
        this.answering = new Answering(means);
    }

    public void start() {
        threads.submit(this::listen);
    }

    /** Whether there is a chat server. */
    public boolean isUsed() {
        return means.matrix().base().isPresent();
    }

    // --- saying

    /** Sends a message to one person. @param foot what stands beneath it @return what the chat server calls it */
    public String send(Outbox.Taken taken, Outbox.MailPayload message, String foot, String name) throws NotSent {
        Optional<String> known = means.chats().roomWith(message.person());
        if (known.isPresent()) {
            try {
                return alone(known.get(), () -> ask(taken, message, foot, known.get()));
            } catch (NotSent e) {
                if (!e.gone()) {
                    throw e;
                }
            }
        }
        // The first time, or somebody has closed the room of before.
        String room = means.matrix().roomWith(name, "Dastur");
        means.chats().keepRoom(message.person(), room);
        return alone(room, () -> ask(taken, message, foot, room));
    }

    /**
     * What is asked in a room and what is answered there never meet half-way: an answer that comes right after the question
     * finds what it answers.
     */
    private <T> T alone(String room, Saying<T> saying) throws NotSent {
        ReentrantLock turn = turns.computeIfAbsent(room, r -> new ReentrantLock());
        turn.lock();
        try {
            return saying.say();
        } finally {
            turn.unlock();
        }
    }

    private interface Saying<T> {
        T say() throws NotSent;
    }

    private String ask(Outbox.Taken taken, Outbox.MailPayload message, String foot, String room) throws NotSent {
        Optional<Visit> visit = Optional.ofNullable(taken.visit())
                .flatMap(v -> means.tickets().find(v.ticket()).flatMap(c -> c.visit(v)));
        String event = means.matrix()
                .say(
                        room,
                        taken.id(),
                        message.subject() + "\n" + message.text().strip() + "\n" + foot.strip()
                                + visit.map(v -> Choices.offered(v, taken.purpose(), message.person(), "1", "2"))
                                        .orElse(""));
        visit.flatMap(v -> asked(v, taken, message.person(), event, room)).ifPresent(means.chats()::keepAsk);
        return event;
    }

    /** The rooms of tickets. */
    public TicketRooms rooms() {
        return rooms;
    }

    /** What an answer in the room will be about; empty where nothing is to be answered. */
    private static Optional<Asked> asked(Visit visit, Outbox.Taken taken, PersonId person, String event, String room) {
        boolean vote = visit.waiting() instanceof Votes && taken.purpose().equals("decision");
        boolean callIn =
                visit.waiting() instanceof OpenCallIn && taken.purpose().equals("call-in");
        if (!vote && !callIn) {
            return Optional.empty();
        }
        @Nullable Votes votes = visit.waiting() instanceof Votes v ? v : null;
        return Optional.of(new Asked(
                event,
                room,
                person,
                visit.id(),
                votes == null ? 0 : votes.round(),
                votes == null ? "" : votes.digest(),
                Choices.matter(visit.id(), visit.waiting()),
                taken.createdAt(),
                false));
    }

    /** A decision made in one place is taken back from the others. */
    public void committed(List<Recorded> events) {
        if (!isUsed()) {
            return;
        }
        for (Recorded r : events) {
            if (r.visit() != null) {
                String said =
                        switch (r.event()) {
                            case ApprovalClosed e ->
                                "Settled: " + e.exit() + by(e.by()) + ". Nothing is needed from you.";
                            case ApprovalVoided e -> "What was shown has changed. You are asked again.";
                            case CallInAnswered e
                            when e.accepted() ->
                                "Settled: somebody is coming" + by(e.by()) + ". Nothing is needed from you.";
                            case Event.Withdrawn e -> "This is no longer needed.";
                            default -> "";
                        };
                if (!said.isEmpty()) {
                    // What is asked again has a later round, and its question may be out before this is done.
                    int upTo = r.event() instanceof ApprovalVoided e ? e.round() : Integer.MAX_VALUE;
                    PersonId who = r.actor() instanceof Actor.OfPerson p ? p.person() : null;
                    threads.submit(() -> settle(r.visit(), upTo, r.seq(), said, who));
                }
            }
        }
    }

    private String by(@Nullable PersonId person) {
        return person == null
                ? ""
                : " by " + means.person().apply(person).map(Person::name).orElse(person.value());
    }

    private void settle(VisitId visit, int upTo, long seq, String said, @Nullable PersonId except) {
        List<Asked> asks = means.chats().asksOf(visit, upTo);
        // Before it is told: who answers right after the word must learn that nothing waits any more.
        means.chats().settle(visit, upTo);
        Set<String> told = new HashSet<>();
        for (Asked asked : asks) {
            strike(asked, seq, said);
            if (!asked.person().equals(except) && told.add(asked.room())) {
                say(asked.room(), "settled." + visit + "." + seq, asked.matter() + ": " + said);
            }
        }
    }

    /** The question itself is struck out where it stands, so that nobody answers it who scrolls back to it. */
    private void strike(Asked asked, long seq, String said) {
        try {
            means.matrix().strike(asked.room(), "struck." + asked.event() + "." + seq, asked.event(), said);
        } catch (NotSent e) {
            LOG.info("a question in chat could not be struck out: {}", e.getMessage());
        }
    }

    private void say(String room, String transaction, String text) {
        try {
            means.matrix().say(room, transaction, text);
        } catch (NotSent e) {
            LOG.info("chat did not take a word: {}", e.getMessage());
        }
    }

    // --- listening

    private void listen() {
        while (!stopping) {
            try {
                Optional<String> server = means.matrix().base();
                if (server.isEmpty() || !means.listens().getAsBoolean()) {
                    pause(Duration.ofSeconds(1));
                    continue;
                }
                String since = means.chats().since(server.get()).orElse(null);
                MatrixConnector.News news = means.matrix().news(since, since == null ? Duration.ZERO : LISTEN);
                if (!means.listens().getAsBoolean()
                        || !server.equals(means.matrix().base())) {
                    // Another node listens by now and hears the same, or another server is listened to.
                    continue;
                }
                boolean talked = rooms.heard(news.said());
                for (Said said : news.said()) {
                    take(said);
                }
                // After the answers: one that comes twice is the same command and does nothing twice.
                means.chats().keepSince(server.get(), news.next());
                complaint.over();
                if (talked) {
                    // What is said in a ticket's room comes onto its record together, at most once a second (D30).
                    pause(Duration.ofSeconds(1));
                }
            } catch (NotSent | RuntimeException e) {
                if (!stopping) {
                    complaint.about(e);
                    pause(AFTER_TROUBLE);
                }
            }
        }
    }

    /** One message that cannot be taken must not keep the others waiting: after a few tries its writer is told, and it is left. */
    private void take(Said said) throws NotSent {
        for (int tries = 1; !stopping; tries++) {
            try {
                heard(said);
                return;
            } catch (NotSent e) {
                if (!e.gone()) {
                    throw e;
                }
                LOG.warn("a message in chat was left alone: {}", e.getMessage());
                return;
            } catch (RuntimeException e) {
                LOG.warn("message {} in chat could not be taken, try {} of {}", said.event(), tries, MOST_TRIES, e);
                if (tries == MOST_TRIES) {
                    say(
                            said.room(),
                            "answer." + said.event(),
                            "Something went wrong here with that, so nothing was decided. Do it in the application, please.");
                    return;
                }
                pause(BETWEEN_TRIES);
            }
        }
    }

    private static void pause(Duration time) {
        try {
            Thread.sleep(time);
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
        }
    }

    /** Who speaks is told by the chat server, and must be who was asked, in the room where they were asked. */
    private void heard(Said said) throws NotSent {
        Optional<PersonId> person = means.chats().personCalled(said.sender());
        Optional<Person> who = person.flatMap(means.person());
        if (who.isEmpty() || said.own() || said.text().isBlank()) {
            return;
        }
        boolean theirs =
                means.chats().roomWith(person.get()).filter(said.room()::equals).isPresent();
        boolean ofTicket = means.chats().ticketRoom(said.room()).isPresent();
        if (theirs || ofTicket) {
            Optional<String> done = fromChat.heard(said, who.get());
            if (done.isEmpty()) {
                done = startFromChat.heard(said, who.get());
            }
            if (done.isPresent()) {
                say(said.room(), "answer." + said.event(), done.get());
                return;
            }
        }
        if (!theirs) {
            return;
        }
        String answer = alone(said.room(), () -> answering.answer(said, person.get()));
        say(said.room(), "answer." + said.event(), answer);
    }

    @Override
    public void close() {
        stopping = true;
        threads.shutdownNow();
    }
}
