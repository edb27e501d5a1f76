package dastur.demo;

import dastur.core.people.Group;
import dastur.core.people.PersonId;
import dastur.core.run.Assigned;
import dastur.core.run.Command;
import dastur.core.run.Run;
import dastur.core.run.Visit;
import dastur.core.run.Waiting;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.Votes;
import dastur.core.step.calling.CallUnderWay;
import dastur.core.step.check.CheckCommands.ReviewCheck;
import dastur.core.step.check.CheckCommands.ReviewVerdict;
import dastur.core.step.check.Judging;
import dastur.core.step.check.Review;
import dastur.core.step.task.OpenTask;
import dastur.core.step.task.TaskCommands.ClaimTask;
import dastur.core.step.task.TaskCommands.CompleteTask;
import dastur.core.step.waiting.ForCondition;
import dastur.core.step.waiting.ForReply;
import dastur.core.ticket.TicketId;
import dastur.store.Organisation;
import java.time.Duration;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Optional;
import java.util.function.Consumer;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** Plays whatever runs on a ticket to its end: people and machines answer as a script says, or as is expected. */
final class DemoPlayer {
    /** More answers than any story needs: a guard against one that goes in a circle. */
    private static final int MOST = 500;

    private final DemoStage stage;
    private final Organisation organisation;

    DemoPlayer(DemoStage stage, Organisation organisation) {
        this.stage = stage;
        this.organisation = organisation;
    }

    void play(TicketId ticket, DemoScript script) {
        for (int i = 0; i < MOST; i++) {
            Collection<Run> runs = stage.current(ticket).open().values();
            if (runs.isEmpty()) {
                stage.delivered();
                return;
            }
            List<Visit> open =
                    runs.stream().flatMap(r -> r.open().values().stream()).toList();
            if (open.stream().noneMatch(v -> answered(ticket, v, script)) && !waited(ticket, open)) {
                throw new IllegalStateException("the demo's story of " + ticket + " stands still: " + open);
            }
        }
        throw new IllegalStateException("the demo's story of " + ticket + " has no end");
    }

    /** Whether the visit waited for an answer; it has it now. */
    private boolean answered(TicketId ticket, Visit visit, DemoScript script) {
        String step = visit.step().value();
        switch (visit.waiting()) {
            case OpenTask task -> task(ticket, visit, script);
            case Votes votes -> {
                Optional<PersonId> voter = votes.turn().stream()
                        .filter(p -> !votes.cast().containsKey(p))
                        .findFirst();
                if (voter.isEmpty()) {
                    return false;
                }
                stage.pass(10 + stage.upTo(40));
                stage.tick(ticket);
                if (!(waiting(ticket, visit) instanceof Votes still)
                        || !still.turn().contains(voter.get())) {
                    return true;
                }
                String why = script.declined(step);
                stage.handle(
                        voter.get().value(),
                        ticket,
                        new Vote(visit.id(), still.round(), still.digest(), why == null, why));
            }
            case CallUnderWay call
            when !call.betweenAttempts() -> {
                stage.pass(0);
                stage.call(ticket, visit, script.call(step));
            }
            case Review review -> {
                stage.pass(5 + stage.upTo(20));
                stage.handle(
                        somebody(review.to()),
                        ticket,
                        new ReviewCheck(
                                visit.id(),
                                script.verdict(step),
                                script.verdict(step) == ReviewVerdict.ACCEPT
                                        ? "Looked at it; it is right."
                                        : "Looked at it; it does not come right by itself."));
            }
            case ForReply reply -> {
                stage.pass(30 + stage.upTo(600));
                stage.handle(
                        somebody(reply.from()), ticket, new Command.AddNote("They have arrived. Thank you!", true));
            }
            case ForCondition wait -> {
                Optional<Consumer<TicketId>> coming = script.coming(step);
                coming.ifPresent(comes -> comes.accept(ticket));
                return coming.isPresent();
            }
            case null, default -> {
                return false;
            }
        }
        return true;
    }

    /** Somebody claims it first and does it later; a ladder may take it from them meanwhile. */
    private void task(TicketId ticket, Visit visit, DemoScript script) {
        stage.pass(4 + stage.upTo(25));
        stage.tick(ticket);
        if (!(waiting(ticket, visit) instanceof OpenTask task)) {
            return;
        }
        if (task.claimedBy() == null) {
            stage.handle(somebody(task.to()), ticket, new ClaimTask(visit.id()));
            return;
        }
        String step = visit.step().value();
        String outcome = script.outcome(step);
        stage.handle(
                task.claimedBy().value(),
                ticket,
                new CompleteTask(
                        visit.id(), outcome == null ? task.outcomes().getFirst() : outcome, script.form(step), null));
    }

    private @Nullable Waiting waiting(TicketId ticket, Visit visit) {
        return stage.current(ticket).visit(visit.id()).map(Visit::waiting).orElse(null);
    }

    /** Whether something waited for a moment; it has come now. */
    private boolean waited(TicketId ticket, List<Visit> open) {
        Optional<Instant> next = open.stream()
                .flatMap(v -> Stream.concat(
                        v.alarms().stream().map(Visit.Alarm::due),
                        v.waiting() instanceof Judging j ? Stream.of(j.next()) : Stream.empty()))
                .min(Instant::compareTo);
        next.ifPresent(moment -> {
            if (moment.isAfter(stage.now())) {
                stage.at(moment.plus(Duration.ofSeconds(1)));
            } else {
                stage.pass(1);
            }
            stage.tick(ticket);
        });
        return next.isPresent();
    }

    private String somebody(Assigned asked) {
        List<PersonId> people = Stream.concat(
                        asked.people().stream(),
                        asked.groups().stream()
                                .map(organisation::group)
                                .flatMap(Optional::stream)
                                .map(Group::members)
                                .flatMap(List::stream))
                .toList();
        return stage.pick(people).value();
    }
}
