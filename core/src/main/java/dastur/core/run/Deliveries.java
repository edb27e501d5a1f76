package dastur.core.run;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Cover;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.workflow.StepId;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Queues messages and takes in what became of them (N60, law 8). */
final class Deliveries {
    private final Deciding d;

    Deliveries(Deciding d) {
        this.d = d;
    }

    /** Queues a message that moves nothing. */
    void queue(
            @Nullable RunId run,
            @Nullable StepId step,
            @Nullable VisitId visit,
            Actor by,
            String purpose,
            List<PersonId> to,
            String subject,
            String text) {
        queue(run, step, visit, by, purpose, to, subject, text, null);
    }

    /** @param about of what it tells, where nobody is to be told of that too often; null for none */
    void queue(
            @Nullable RunId run,
            @Nullable StepId step,
            @Nullable VisitId visit,
            Actor by,
            String purpose,
            List<PersonId> to,
            String subject,
            String text,
            @Nullable String about) {
        Case.Test test = d.now().test();
        if (!to.isEmpty()) {
            d.emit(
                    by,
                    run,
                    step,
                    visit,
                    new Event.MessageQueued(
                            nextMessage(),
                            purpose,
                            test == null ? to : List.of(test.by()),
                            false,
                            null,
                            null,
                            Texts.clip(Tests.said(d.now(), subject.replaceAll("\\R", " ")), 200),
                            text,
                            // What is only tried was told to nobody else.
                            test == null ? about : null,
                            null));
        }
    }

    /** Queues a message that asks people to do something, and tells those who act for the ones who are away (N42). */
    void ask(Visit visit, Actor by, String purpose, List<PersonId> to, String subject, String text) {
        queue(visit.id().run(), visit.step(), visit.id(), by, purpose, to, subject, text);
        for (PersonId person : d.now().test() == null ? to : List.<PersonId>of()) {
            for (Cover cover : d.lookups().coversOf(person)) {
                if (cover.countsAt(d.at()) && visit.waiting().coveredBy(cover)) {
                    String name = d.lookups().person(person).map(Person::name).orElse(person.value());
                    queue(
                            visit.id().run(),
                            visit.step(),
                            visit.id(),
                            by,
                            purpose,
                            List.of(cover.cover()),
                            "For " + name + ", who is away: " + subject,
                            text.strip() + "\n\nYou act for " + name + ". It stands on your Desk too.\n");
                }
            }
        }
    }

    String nextMessage() {
        return d.now().id() + ".m" + (d.now().talk().messages() + 1);
    }

    Optional<Refusal> result(Command.DeliveryResult c) {
        RunId run = c.visit() == null ? null : c.visit().run();
        Optional<Visit> visit =
                Optional.ofNullable(c.visit()).flatMap(v -> d.now().visit(v));
        StepId step = visit.map(Visit::step).orElse(null);
        d.emit(
                d.actor,
                run,
                step,
                c.visit(),
                c.delivered()
                        ? new Event.MessageDelivered(c.message(), c.person(), c.detail())
                        : new Event.MessageFailed(c.message(), c.person(), c.tries(), Texts.clip(c.detail(), 500)));
        if (c.visit() != null) {
            d.now().visit(c.visit()).ifPresent(this::leaveWhenAllAnswered);
        }
        return Optional.empty();
    }

    /** A message that was given up goes out once more; whoever comes second learns that it does already. */
    Optional<Refusal> resend(Command.Resend c) {
        if (!d.now().talk().givenUp().contains(c.message() + "." + c.person())) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "It is on its way again already.", null));
        }
        d.emitTicket(new Event.MessageResent(c.message(), c.person()));
        return Optional.empty();
    }

    private void leaveWhenAllAnswered(Visit visit) {
        if (visit.waiting() instanceof Waiting.Delivery delivery
                && delivery.left().isEmpty()) {
            String exit = delivery.someFailed() ? "undelivered" : "sent";
            d.emit(
                    Actor.SYSTEM,
                    visit,
                    new Event.Left(
                            exit,
                            Deciding.way(d.step(visit), exit),
                            "all were " + (delivery.someFailed() ? "tried" : "reached")));
        }
    }
}
