package dastur.server.mail;

import dastur.connectors.MailConnector;
import dastur.connectors.MailInbox;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Command;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.server.auth.MailThreads;
import dastur.server.chat.ChatAnswer;
import dastur.server.chat.Choices;
import dastur.server.work.CommandService;
import dastur.server.work.CommandService.Outcome;
import dastur.server.work.Complaint;
import dastur.server.work.Spoken;
import dastur.store.MailAsks;
import dastur.store.MailAsks.Asked;
import dastur.store.Tickets;
import java.time.Duration;
import java.time.InstantSource;
import java.time.ZoneId;
import java.util.Date;
import java.util.Optional;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.function.BooleanSupplier;
import java.util.function.Function;
import java.util.function.Predicate;
import org.jspecify.annotations.Nullable;
import org.slf4j.Logger;
import org.slf4j.LoggerFactory;

/**
 * Takes what people answer to mails (N41). Who answers must be who was asked: the mail names, signed, the one it answers,
 * and comes from that person's address. An answer to a decision or a call-in is read by a plain grammar, and asked again
 * when it is not understood; any other is a note on the ticket.
 */
public final class Replies implements AutoCloseable {
    private static final Logger LOG = LoggerFactory.getLogger(Replies.class);
    private static final Duration AFTER_TROUBLE = Duration.ofSeconds(15);
    private static final Duration ASKS_KEPT = Duration.ofDays(60);

    /**
     * @param zone in which a person reads times
     * @param pause between two looks into the mailbox
     * @param reads whether it is this node that reads it
     * @param machines takes what is no answer of a person but of a machine; says whether it was that
     */
    public record Uses(
            MailInbox inbox,
            MailConnector mail,
            MailAsks asks,
            MailThreads threads,
            CommandService commands,
            Tickets tickets,
            Function<PersonId, Optional<Person>> person,
            Function<PersonId, ZoneId> zone,
            InstantSource clock,
            Duration pause,
            BooleanSupplier reads,
            Predicate<MailInbox.Reply> machines) {}

    private final Uses means;
    private final ExecutorService thread = Executors.newVirtualThreadPerTaskExecutor();
    private final Complaint complaint = new Complaint(LOG, "answers by mail cannot be read");
    private volatile boolean stopping;

    public Replies(Uses means) {
        this.means = means;
    }

    public void start() {
        thread.submit(this::listen);
    }

    private void listen() {
        means.asks().forgetBefore(means.clock().instant().minus(ASKS_KEPT));
        while (!stopping) {
            try {
                if (means.reads().getAsBoolean()) {
                    means.inbox().takeUnread(this::heard);
                }
                complaint.over();
                pause(means.pause());
            } catch (MailInbox.NotRead | RuntimeException e) {
                if (!stopping) {
                    complaint.about(e);
                    pause(AFTER_TROUBLE);
                }
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

    private void heard(MailInbox.Reply reply) {
        Optional<Asked> asked = reply.answersTo().stream()
                .flatMap(id -> means.threads().read(id).stream())
                .flatMap(id -> means.asks().find(id).stream())
                .findFirst();
        Optional<Person> person = asked.flatMap(a -> means.person().apply(a.person()))
                .filter(p -> p.active() && p.mail().equalsIgnoreCase(reply.from()));
        if (asked.isEmpty() && means.machines().test(reply)) {
            return;
        }
        if (asked.isEmpty() || person.isEmpty() || reply.automatic()) {
            LOG.info("a mail was left alone: it answers nothing that was asked of its sender");
            return;
        }
        String text = OwnWords.of(reply.text().replace("\u0000", ""));
        @Nullable String answer = answered(asked.get(), reply.id(), text);
        if (answer != null) {
            say(person.get(), reply, answer);
        }
    }

    /** @return what is said back; null for nothing */
    private @Nullable String answered(Asked asked, String id, String text) {
        Optional<Visit> visit = Optional.ofNullable(asked.visit())
                .flatMap(v -> means.tickets().find(v.ticket()).flatMap(c -> c.visit(v)));
        boolean decides = asked.purpose().equals("decision") || asked.purpose().equals("call-in");
        if (!decides || asked.visit() == null) {
            return noted(asked, id, text);
        }
        Optional<ChatAnswer> answer = ChatAnswer.read(text);
        if (answer.isEmpty()) {
            return "I did not understand that, so nothing was decided. Begin with yes or no, then words after a comma; or with ? to ask first.";
        }
        @Nullable Waiting waiting = visit.map(Visit::waiting).orElse(null);
        Outcome outcome =
                handle(asked, id, Choices.command(asked.visit(), asked.round(), asked.digest(), waiting, answer.get()));
        return switch (outcome) {
            case Outcome.Refused r ->
                Spoken.to(r.refusal().message(), means.zone().apply(asked.person()));
            case Outcome.Done d -> Choices.noted(answer.get(), Choices.matter(asked.visit(), waiting));
        };
    }

    /** What is answered to a message is for the requester to see, or comes from them. */
    private @Nullable String noted(Asked asked, String id, String text) {
        if (text.isBlank()) {
            return null;
        }
        Outcome outcome = handle(asked, id, new Command.AddNote(Texts.clip(text, Texts.MAX_TEXT), true));
        return outcome instanceof Outcome.Refused r
                ? Spoken.to(r.refusal().message(), means.zone().apply(asked.person()))
                : null;
    }

    private Outcome handle(Asked asked, String id, Command command) {
        return means.commands()
                .handle(asked.ticket(), "reply." + Texts.clip(id, 100), Actor.of(asked.person()), command);
    }

    private void say(Person person, MailInbox.Reply reply, String text) {
        try {
            means.mail()
                    .send(
                            new MailConnector.Mail(
                                    "re-" + Integer.toHexString(reply.id().hashCode()),
                                    person.mail(),
                                    reply.subject(),
                                    text),
                            Date.from(means.clock().instant()));
        } catch (MailConnector.NotSent e) {
            LOG.info("a word back was not taken: {}", e.getMessage());
        }
    }

    @Override
    public void close() {
        stopping = true;
        thread.shutdownNow();
    }
}
