package dastur.core.step.approval;

import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.run.Event.Change;
import dastur.core.run.Here;
import dastur.core.run.Refusal;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.step.approval.ApprovalCommands.AnswerBack;
import dastur.core.step.approval.ApprovalCommands.AskBack;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.step.approval.ApprovalCommands.WithdrawVote;
import dastur.core.step.approval.ApprovalEvents.AnsweredBack;
import dastur.core.step.approval.ApprovalEvents.ApprovalClosed;
import dastur.core.step.approval.ApprovalEvents.ApprovalTurn;
import dastur.core.step.approval.ApprovalEvents.AskedBack;
import dastur.core.step.approval.ApprovalEvents.VoteCast;
import dastur.core.step.approval.ApprovalEvents.VoteWithdrawn;
import dastur.core.workflow.ApprovalRule;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What those say who are asked for a decision, and when it is made (N12; D20). */
final class Voting {
    private final Here here;

    Voting(Here here) {
        this.here = here;
    }

    Optional<Refusal> vote(Vote c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Votes)) {
            return Optional.of(here.tooLate(c.visit(), "approval"));
        }
        Optional<Refusal> outdated = outdated(visit.get(), (Votes) visit.get().waiting());
        if (outdated.isPresent()) {
            return outdated;
        }
        // What was shown may have changed since, for instance on the CI: compared before the vote counts.
        new Asking(here).checkShownFields(visit.get());
        Visit current = here.visit(c.visit()).orElseThrow();
        if (!(current.waiting() instanceof Votes votes)) {
            return Optional.of(here.tooLate(c.visit(), "approval"));
        }
        Optional<Refusal> refused = refusal(votes, c);
        if (refused.isPresent()) {
            return refused;
        }
        PersonId person = here.principal().orElseThrow();
        here.emit(
                here.actor(),
                current,
                new VoteCast(
                        votes.round(),
                        votes.digest(),
                        person,
                        c.yes(),
                        Texts.blank(c.comment()) ? null : c.comment(),
                        Texts.blank(c.condition()) ? null : c.condition()));
        close(c.visit(), c.comment());
        nextTurn(c.visit(), votes.turn());
        return Optional.empty();
    }

    /** A stalled decision is not asked again by itself: while what it showed is no longer so, nobody can decide it (D18). */
    private Optional<Refusal> outdated(Visit visit, Votes votes) {
        boolean differs = visit.stall() != null
                && (votes.isVoid()
                        || !Change.between(votes.values(), Asking.shown(here.at(visit), votes.shown()))
                                .isEmpty());
        return differs
                ? Optional.of(new Refusal(
                        Refusal.Code.STALE,
                        "'" + votes.name()
                                + "' stalled, and what it showed has changed since. Whoever owns the workflow"
                                + " has to ask again before anybody can decide.",
                        null))
                : Optional.empty();
    }

    /** In a sequence, a yes brings the next ones their turn. */
    private void nextTurn(VisitId id, List<PersonId> before) {
        Optional<Visit> visit = here.visit(id);
        if (visit.isPresent()
                && visit.get().waiting() instanceof Votes votes
                && votes.terms().inOrder()
                && !votes.turn().equals(before)) {
            here.emit(Actor.SYSTEM, visit.get(), new ApprovalTurn(votes.round(), votes.turn()));
            new Asking(here).tell(id, (Approval) here.step(visit.get()), votes.turn(), votes.round());
        }
    }

    /** Somebody who is asked wants to know something first; clocks stand still meanwhile. */
    Optional<Refusal> askBack(AskBack c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Votes votes)) {
            return Optional.of(here.tooLate(c.visit(), "approval"));
        }
        Optional<PersonId> person = here.principal();
        if (person.isEmpty() || !votes.turn().contains(person.get())) {
            return Optional.of(Refusal.notYours("You were not asked to decide '" + votes.name() + "'."));
        }
        if (votes.askedBack() != null) {
            return Optional.of(new Refusal(
                    Refusal.Code.TOO_LATE, "A question is open already. Its answer will reach you too.", null));
        }
        Optional<Refusal> wrong = problemWithText(c.text());
        if (wrong.isPresent()) {
            return wrong;
        }
        here.emit(here.actor(), visit.get(), new AskedBack(person.get(), c.text()));
        List<PersonId> asker =
                here.ticket().text("requester").map(PersonId::new).map(List::of).orElse(List.of());
        message(visit.get(), asker, "Question: " + votes.name(), c.text());
        return Optional.empty();
    }

    /** The question is answered; what was due is due later by as long as it was open. */
    Optional<Refusal> answerBack(AnswerBack c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Votes votes)) {
            return Optional.of(here.tooLate(c.visit(), "approval"));
        }
        if (votes.askedBack() == null) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "No question is open: it was answered.", null));
        }
        Optional<PersonId> person = here.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can answer."));
        }
        Optional<Refusal> wrong = problemWithText(c.text());
        if (wrong.isPresent()) {
            return wrong;
        }
        long paused = Duration.between(votes.askedBack().at(), here.now()).toSeconds();
        here.emit(here.actor(), visit.get(), new AnsweredBack(person.get(), paused, c.text()));
        message(visit.get(), votes.turn(), "Answered: " + votes.name(), c.text());
        return Optional.empty();
    }

    private static Optional<Refusal> problemWithText(@Nullable String text) {
        return Texts.blank(text) || text.length() > Texts.MAX_TEXT || !Texts.keepable(text)
                ? Optional.of(Refusal.invalid("text", "Write 1 to " + Texts.MAX_TEXT + " characters."))
                : Optional.empty();
    }

    private void message(Visit visit, List<PersonId> to, String subject, String text) {
        here.tell(
                visit,
                here.actor(),
                "notice",
                to,
                subject + " (" + here.ticket().id() + ")",
                text);
    }

    /** Somebody takes their vote back; a decision that is made stays made. */
    Optional<Refusal> withdraw(WithdrawVote c) {
        Optional<Visit> visit = here.visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Votes votes)) {
            return Optional.of(here.tooLate(c.visit(), "approval"));
        }
        Optional<PersonId> person = here.principal();
        if (person.isEmpty() || !votes.cast().containsKey(person.get())) {
            return Optional.of(Refusal.notYours(
                    "You have not voted on '" + votes.name() + "', so there is no vote to" + " take back."));
        }
        here.emit(here.actor(), visit.get(), new VoteWithdrawn(votes.round(), person.get()));
        Votes after = (Votes) here.visit(c.visit()).orElseThrow().waiting();
        if (after.terms().inOrder() && !after.turn().equals(votes.turn())) {
            // It is their turn again, and not yet that of those who come after them.
            here.emit(Actor.SYSTEM, visit.get(), new ApprovalTurn(after.round(), after.turn()));
        }
        return Optional.empty();
    }

    private Optional<Refusal> refusal(Votes votes, Vote c) {
        Optional<PersonId> person = here.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can vote."));
        }
        PersonId natural = person.get();
        PersonId principal = here.principal().orElseThrow();
        if (votes.excluded().contains(natural) || votes.excluded().contains(principal)) {
            return Optional.of(Refusal.notYours("You may not vote on '" + votes.name()
                    + "': it excludes you, as the requester or as the one who did a step before."));
        }
        if (!votes.electorate().contains(principal)) {
            return Optional.of(Refusal.notYours("You were not asked to decide '" + votes.name() + "'."));
        }
        boolean twice = votes.through().containsValue(natural)
                || !natural.equals(principal) && votes.electorate().contains(natural);
        if (twice && !votes.cast().containsKey(principal)) {
            return Optional.of(Refusal.notYours("Each person decides '" + votes.name()
                    + "' once, in their own name where they are asked themselves."));
        }
        if (!votes.turn().contains(principal) && !votes.cast().containsKey(principal)) {
            return Optional.of(Refusal.notYours(
                    "It is not your turn yet: those before you in '" + votes.name() + "' decide first."));
        }
        if (votes.cast().containsKey(principal)) {
            return Optional.of(
                    new Refusal(Refusal.Code.TOO_LATE, "You have already voted on '" + votes.name() + "'.", null));
        }
        if (votes.round() != c.round() || !votes.digest().equals(c.digest())) {
            return Optional.of(new Refusal(
                    Refusal.Code.STALE,
                    "What '" + votes.name() + "' shows has changed since you opened it. Look again, then decide.",
                    null));
        }
        if (c.yes() && votes.terms().commentAlways() && Texts.blank(c.comment())) {
            return Optional.of(Refusal.invalid("comment", "Say why: '" + votes.name() + "' asks for a comment."));
        }
        if (!Texts.blank(c.condition())
                && (!c.yes()
                        || !votes.terms().mayAddConditions()
                        || c.condition().length() > Texts.MAX_TEXT
                        || !Texts.keepable(c.condition()))) {
            return Optional.of(Refusal.invalid(
                    "condition", "Only a yes may carry a condition, and only where '" + votes.name() + "' allows it."));
        }
        boolean declines =
                !c.yes() && (votes.commentOnDecline() || votes.terms().commentAlways());
        if (declines && Texts.blank(c.comment())) {
            return Optional.of(
                    Refusal.invalid("comment", "Say why you decline: '" + votes.name() + "' asks for a comment."));
        }
        if (c.comment() != null && (c.comment().length() > Texts.MAX_TEXT || !Texts.keepable(c.comment()))) {
            return Optional.of(Refusal.invalid("comment", "A comment has at most " + Texts.MAX_TEXT + " characters."));
        }
        return Optional.empty();
    }

    /** Closes as soon as no further vote can change the result (D20). */
    private void close(VisitId id, @Nullable String comment) {
        Visit visit = here.visit(id).orElseThrow();
        Votes votes = (Votes) visit.waiting();
        Approval step = (Approval) here.step(visit);
        boolean firstDecides = step.rule() instanceof ApprovalRule.AnyOne;
        String exit;
        boolean vetoed = votes.terms().veto().stream()
                .anyMatch(p -> Boolean.FALSE.equals(votes.cast().get(p)));
        if (vetoed) {
            exit = "declined";
        } else if (votes.enough(votes.approving()) && vetoSettled(votes)) {
            exit = "approved";
        } else if (firstDecides && votes.no() > 0 || !votes.enough(votes.hopeful())) {
            exit = "declined";
        } else {
            return;
        }
        List<String> conditions = List.copyOf(new TreeMap<>(votes.conditions()).values());
        here.emit(
                here.actor(),
                visit,
                new ApprovalClosed(
                        exit,
                        Here.way(step, exit),
                        votes.yes(),
                        votes.no(),
                        votes.electorate().size(),
                        here.person().orElse(null),
                        Texts.blank(comment) ? null : comment,
                        conditions.isEmpty() ? null : conditions));
    }

    /** Those with a veto are heard before a yes counts: else it would have come too late. */
    private static boolean vetoSettled(Votes votes) {
        return votes.cast().keySet().containsAll(votes.terms().veto());
    }

    /** Whether too few of those who are asked are left for it to be approved. */
    boolean cannotBeMet(Votes votes) {
        List<PersonId> left = votes.electorate().stream()
                .filter(p -> !votes.cast().containsKey(p))
                .filter(p -> here.lookups().person(p).filter(Person::active).isPresent())
                .toList();
        return left.isEmpty()
                || !votes.enough(
                        Stream.concat(votes.approving().stream(), left.stream()).toList());
    }
}
