package dastur.core.run;

import dastur.core.expression.Expressions;
import dastur.core.json.CanonicalJson;
import dastur.core.json.Texts;
import dastur.core.people.Actor;
import dastur.core.people.Cover;
import dastur.core.people.PersonId;
import dastur.core.run.Event.Change;
import dastur.core.run.Opening.CannotOpen;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Step;
import java.nio.charset.StandardCharsets;
import java.security.MessageDigest;
import java.security.NoSuchAlgorithmException;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** Asking, voting, voiding and closing approvals (N12, N43; D18–D20). */
final class ApprovalRules {
    /** Rounds after which something keeps changing and a person must look (D18). */
    private static final int MAX_ROUNDS = 5;

    /** The purpose of a message that asks for a decision. */
    static final String DECISION = "decision";

    private final Deciding d;

    ApprovalRules(Deciding d) {
        this.d = d;
    }

    /** What was shown to those who have voted, and is otherwise now. */
    private record Voided(Map<String, Change> changed, Set<PersonId> voted) {}

    void ask(Site site, VisitId visit, Step.Approval step, int round) {
        ask(site, visit, step, round, null);
    }

    private void ask(Site site, VisitId visit, Step.Approval step, int round, @Nullable Voided voided) {
        Run run = site.run();
        TreeSet<PersonId> excluded = new TreeSet<>();
        if (step.notRequester()) {
            d.now().text("requester").map(PersonId::new).ifPresent(requester -> {
                excluded.add(requester);
                // Whoever decides for the requester just now would decide about the requester's own wish.
                d.lookups().coversOf(requester).stream()
                        .filter(c -> c.countsAt(d.at()) && c.scope().meets(Cover.Scope.DECISIONS))
                        .map(Cover::cover)
                        .forEach(excluded::add);
            });
        }
        if (step.terms() != null) {
            excluded.addAll(new Parties(d).members(step.terms().without(), site));
        }
        if (step.notDoersOf() != null) {
            step.notDoersOf()
                    .forEach(s -> Optional.ofNullable(run.seen(site.place()).get(s.value()))
                            .map(values -> (String) values.get("by"))
                            .map(PersonId::new)
                            .ifPresent(excluded::add));
        }
        List<PersonId> electorate = new Parties(d)
                .members(step.asked(), site).stream()
                        .filter(p -> !excluded.contains(p))
                        .toList();
        List<List<PersonId>> sets = sets(site, step, excluded);
        int needed = sets == null ? step.rule().needed(electorate.size()) : sets.size();
        if (sets != null && !Matching.covers(sets, electorate)) {
            throw new CannotOpen(
                    "cannot be met",
                    "'" + step.name() + "' needs one from each of " + sets.size()
                            + ", each another person, and there are not enough after exclusions.");
        }
        if (electorate.isEmpty() || needed > electorate.size()) {
            throw new CannotOpen(
                    "cannot be met",
                    "'" + step.name() + "' needs " + Math.max(1, needed) + " approving, but only " + electorate.size()
                            + " may vote after exclusions.");
        }
        Opening opening = new Opening(d, site).countingFor(new Parties(d).assigned(step.asked(), site));
        Instant due = step.within() == null ? null : opening.after(step.within());
        Map<String, Object> values = shown(site, step.shown());
        d.emit(
                Actor.SYSTEM,
                run.id(),
                step.id(),
                visit,
                new Event.ApprovalAsked(
                        round,
                        step.name(),
                        electorate,
                        List.copyOf(excluded),
                        word(step.rule()),
                        needed,
                        step.shown(),
                        digest(values),
                        due,
                        step.commentOnDecline(),
                        opening.rungs(step.ladder()),
                        step.setsOff() == null ? null : Opening.render(d, site, step.setsOff()),
                        sets,
                        terms(site, step, electorate),
                        step.question() == null ? null : Opening.render(d, site, step.question()),
                        values));
        List<PersonId> first =
                step.rule() instanceof ApprovalRule.InSequence && sets != null ? sets.getFirst() : electorate;
        tell(visit, step, first, round, voided);
    }

    /** Null on plain terms. A veto is for members of the electorate. */
    private @Nullable VoteTerms terms(Site site, Step.Approval step, List<PersonId> electorate) {
        Step.Approval.Terms terms = step.terms() == null ? Step.Approval.Terms.PLAIN : step.terms();
        VoteTerms resolved = new VoteTerms(
                step.rule() instanceof ApprovalRule.InSequence,
                terms.veto().isEmpty()
                        ? List.of()
                        : new Parties(d)
                                .members(terms.veto(), site).stream()
                                        .filter(electorate::contains)
                                        .toList(),
                terms.commentAlways(),
                terms.mayAddConditions());
        return resolved.equals(VoteTerms.PLAIN) ? null : resolved;
    }

    /** Tells those whose turn it is now. */
    void tell(VisitId visit, Step.Approval step, List<PersonId> turn, int round) {
        tell(visit, step, turn, round, null);
    }

    /**
     * Tells those who are asked, so that they can decide where they are (N41); the link is made when it is sent. Whoever had voted is
     * told that it no longer counts, and what changed, from what to what.
     */
    private void tell(
            VisitId visit, Step.Approval step, List<PersonId> electorate, int round, @Nullable Voided voided) {
        Visit asked = d.now().visit(visit).orElseThrow();
        Wanted wanted = new Wanted(d);
        String subject = wanted.subject((round > 1 ? "Decide again: " : "Decide: ") + step.name());
        Set<PersonId> voted = voided == null ? Set.of() : voided.voted();
        String changed = voided == null ? null : wanted.changed(asked, voided.changed());
        List<PersonId> anew =
                electorate.stream().filter(p -> !voted.contains(p)).toList();
        List<PersonId> again = electorate.stream().filter(voted::contains).toList();
        Deliveries deliveries = new Deliveries(d);
        if (!anew.isEmpty()) {
            deliveries.ask(asked, Actor.SYSTEM, DECISION, anew, subject, wanted.with(changed, asked));
        }
        if (!again.isEmpty()) {
            String before = "Your vote no longer counts. " + changed;
            deliveries.ask(asked, Actor.SYSTEM, DECISION, again, subject, wanted.with(before, asked));
        }
        List<PersonId> later =
                voted.stream().filter(p -> !electorate.contains(p)).sorted().toList();
        if (!later.isEmpty()) {
            String text = "Your vote on '" + step.name() + "' no longer counts. " + changed
                    + "\nYou are asked again when it is your turn.";
            deliveries.queue(
                    asked.id().run(),
                    asked.step(),
                    asked.id(),
                    Actor.SYSTEM,
                    "notice",
                    later,
                    wanted.subject("No longer counts: " + step.name()),
                    text);
        }
    }

    /** Those from each of whom one must say yes; null where only the number counts. */
    private @Nullable List<List<PersonId>> sets(Site site, Step.Approval step, Set<PersonId> excluded) {
        boolean each =
                step.rule() instanceof ApprovalRule.OneFromEach || step.rule() instanceof ApprovalRule.InSequence;
        if (!each) {
            return null;
        }
        return step.asked().stream()
                .map(party -> new Parties(d)
                        .members(List.of(party), site).stream()
                                .filter(p -> !excluded.contains(p))
                                .toList())
                .toList();
    }

    private static String word(ApprovalRule rule) {
        return switch (rule) {
            case ApprovalRule.AnyOne r -> "any one";
            case ApprovalRule.Everyone r -> "everyone";
            case ApprovalRule.AtLeast r -> "at least " + r.count();
            case ApprovalRule.Majority r -> "majority";
            case ApprovalRule.Share r -> "at least " + r.percent() + " percent";
            case ApprovalRule.OneFromEach r -> "one from each";
            case ApprovalRule.InSequence r -> "in sequence";
        };
    }

    private Map<String, Object> shown(Site site, List<String> paths) {
        Map<String, Object> values = new TreeMap<>();
        paths.forEach(path -> Expressions.read(path, d.scope(site)).ifPresent(v -> values.put(path, v)));
        return values;
    }

    /** SHA-256 of the canonical list of [path, value] in the order of paths; absent ones are left out (D18). */
    static String digest(Map<String, Object> values) {
        List<List<Object>> pairs = new ArrayList<>();
        new TreeMap<>(values).forEach((path, value) -> pairs.add(List.of(path, value)));
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256")
                    .digest(CanonicalJson.write(pairs).getBytes(StandardCharsets.UTF_8));
            return HexFormat.of().formatHex(hash);
        } catch (NoSuchAlgorithmException e) {
            throw new IllegalStateException(e);
        }
    }

    Optional<Refusal> vote(Command.Vote c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.Votes)) {
            return Optional.of(d.tooLate(c.visit(), "approval"));
        }
        Optional<Refusal> outdated =
                outdated(visit.get(), (Waiting.Votes) visit.get().waiting());
        if (outdated.isPresent()) {
            return outdated;
        }
        // What was shown may have changed since, for instance on the CI: compared before the vote counts.
        checkShownFields(visit.get());
        Visit current = d.now().visit(c.visit()).orElseThrow();
        if (!(current.waiting() instanceof Waiting.Votes votes)) {
            return Optional.of(d.tooLate(c.visit(), "approval"));
        }
        Optional<Refusal> refused = refusal(votes, c);
        if (refused.isPresent()) {
            return refused;
        }
        PersonId person = d.principal().orElseThrow();
        d.emit(
                d.actor,
                current,
                new Event.VoteCast(
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
    private Optional<Refusal> outdated(Visit visit, Waiting.Votes votes) {
        boolean differs = visit.stall() != null
                && (votes.isVoid()
                        || !differences(votes.values(), shown(d.site(visit), votes.shown()))
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
        Optional<Visit> visit = d.now().visit(id);
        if (visit.isPresent()
                && visit.get().waiting() instanceof Waiting.Votes votes
                && votes.terms().inOrder()
                && !votes.turn().equals(before)) {
            d.emit(Actor.SYSTEM, visit.get(), new Event.ApprovalTurn(votes.round(), votes.turn()));
            tell(id, (Step.Approval) d.step(visit.get()), votes.turn(), votes.round());
        }
    }

    /** Somebody who is asked wants to know something first; clocks stand still meanwhile. */
    Optional<Refusal> askBack(Command.AskBack c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.Votes votes)) {
            return Optional.of(d.tooLate(c.visit(), "approval"));
        }
        Optional<PersonId> person = d.principal();
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
        d.emit(d.actor, visit.get(), new Event.AskedBack(person.get(), c.text()));
        List<PersonId> asker =
                d.now().text("requester").map(PersonId::new).map(List::of).orElse(List.of());
        message(visit.get(), asker, "Question: " + votes.name(), c.text());
        return Optional.empty();
    }

    /** The question is answered; what was due is due later by as long as it was open. */
    Optional<Refusal> answerBack(Command.AnswerBack c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.Votes votes)) {
            return Optional.of(d.tooLate(c.visit(), "approval"));
        }
        if (votes.askedBack() == null) {
            return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "No question is open: it was answered.", null));
        }
        Optional<PersonId> person = d.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can answer."));
        }
        Optional<Refusal> wrong = problemWithText(c.text());
        if (wrong.isPresent()) {
            return wrong;
        }
        long paused = Duration.between(votes.askedBack().at(), d.at()).toSeconds();
        d.emit(d.actor, visit.get(), new Event.AnsweredBack(person.get(), paused, c.text()));
        message(visit.get(), votes.turn(), "Answered: " + votes.name(), c.text());
        return Optional.empty();
    }

    private static Optional<Refusal> problemWithText(@Nullable String text) {
        return Texts.blank(text) || text.length() > Texts.MAX_TEXT || !Texts.keepable(text)
                ? Optional.of(Refusal.invalid("text", "Write 1 to " + Texts.MAX_TEXT + " characters."))
                : Optional.empty();
    }

    private void message(Visit visit, List<PersonId> to, String subject, String text) {
        new Deliveries(d)
                .queue(
                        visit.id().run(),
                        visit.step(),
                        visit.id(),
                        d.actor,
                        "notice",
                        to,
                        subject + " (" + d.now().id() + ")",
                        text);
    }

    /** Somebody takes their vote back; a decision that is made stays made. */
    Optional<Refusal> withdraw(Command.WithdrawVote c) {
        Optional<Visit> visit = d.now().visit(c.visit());
        if (visit.isEmpty() || !(visit.get().waiting() instanceof Waiting.Votes votes)) {
            return Optional.of(d.tooLate(c.visit(), "approval"));
        }
        Optional<PersonId> person = d.principal();
        if (person.isEmpty() || !votes.cast().containsKey(person.get())) {
            return Optional.of(Refusal.notYours(
                    "You have not voted on '" + votes.name() + "', so there is no vote to" + " take back."));
        }
        d.emit(d.actor, visit.get(), new Event.VoteWithdrawn(votes.round(), person.get()));
        Waiting.Votes after =
                (Waiting.Votes) d.now().visit(c.visit()).orElseThrow().waiting();
        if (after.terms().inOrder() && !after.turn().equals(votes.turn())) {
            // It is their turn again, and not yet that of those who come after them.
            d.emit(Actor.SYSTEM, visit.get(), new Event.ApprovalTurn(after.round(), after.turn()));
        }
        return Optional.empty();
    }

    private Optional<Refusal> refusal(Waiting.Votes votes, Command.Vote c) {
        Optional<PersonId> person = d.person();
        if (person.isEmpty()) {
            return Optional.of(Refusal.notYours("Only a person can vote."));
        }
        PersonId natural = person.get();
        PersonId principal = d.principal().orElseThrow();
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
        Visit visit = d.now().visit(id).orElseThrow();
        Waiting.Votes votes = (Waiting.Votes) visit.waiting();
        Step.Approval step = (Step.Approval) d.step(visit);
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
        d.emit(
                d.actor,
                visit,
                new Event.ApprovalClosed(
                        exit,
                        Deciding.way(step, exit),
                        votes.yes(),
                        votes.no(),
                        votes.electorate().size(),
                        d.person().orElse(null),
                        Texts.blank(comment) ? null : comment,
                        conditions.isEmpty() ? null : conditions));
    }

    /** Those with a veto are heard before a yes counts: else it would have come too late. */
    private static boolean vetoSettled(Waiting.Votes votes) {
        return votes.cast().keySet().containsAll(votes.terms().veto());
    }

    /** Voids open approvals whose shown fields have changed, and asks again (N43). */
    void checkShownFields() {
        d.now().open().values().stream()
                .filter(run -> !run.held())
                .flatMap(run -> run.open().values().stream())
                .toList()
                .forEach(this::checkShownFields);
    }

    private void checkShownFields(Visit visit) {
        if (!(visit.waiting() instanceof Waiting.Votes votes) || visit.stall() != null) {
            return;
        }
        Site site = d.site(visit);
        Map<String, Object> current = shown(site, votes.shown());
        Map<String, Change> changed = differences(votes.values(), current);
        if (changed.isEmpty()) {
            return;
        }
        d.emit(Actor.SYSTEM, visit, new Event.ApprovalVoided(votes.round(), List.copyOf(changed.keySet()), changed));
        try {
            if (votes.round() >= MAX_ROUNDS) {
                throw new CannotOpen(
                        "keeps changing",
                        "What '" + votes.name() + "' shows has changed " + MAX_ROUNDS
                                + " times. Settle the values, then ask again.");
            }
            Voided voided = new Voided(changed, Set.copyOf(votes.cast().keySet()));
            ask(site, visit.id(), (Step.Approval) d.step(visit), votes.round() + 1, voided);
        } catch (CannotOpen cannot) {
            d.emit(Actor.SYSTEM, visit, new Event.Stalled(cannot.code, cannot.getMessage()));
        }
    }

    static Map<String, Change> differences(Map<String, Object> before, Map<String, Object> after) {
        Map<String, Change> changed = new TreeMap<>();
        TreeSet<String> paths = new TreeSet<>(before.keySet());
        paths.addAll(after.keySet());
        for (String path : paths) {
            if (!Objects.equals(before.get(path), after.get(path))) {
                changed.put(path, new Change(before.get(path), after.get(path)));
            }
        }
        return changed;
    }
}
