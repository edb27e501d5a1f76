package dastur.core.step.approval;

import dastur.core.expression.Expressions;
import dastur.core.json.CanonicalJson;
import dastur.core.people.Actor;
import dastur.core.people.Cover;
import dastur.core.people.PersonId;
import dastur.core.run.Agreed;
import dastur.core.run.CannotOpen;
import dastur.core.run.Climbs;
import dastur.core.run.Event.Change;
import dastur.core.run.Here;
import dastur.core.run.Visit;
import dastur.core.run.VisitId;
import dastur.core.run.Wanted;
import dastur.core.step.approval.ApprovalEvents.ApprovalAsked;
import dastur.core.step.approval.ApprovalEvents.ApprovalVoided;
import dastur.core.workflow.ApprovalRule;
import dastur.core.workflow.Rung;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/** Asking people for a decision, and asking anew when what was shown has changed (N12, N43; D18). */
final class Asking {
    /** Rounds after which something keeps changing and a person must look (D18). */
    private static final int MAX_ROUNDS = 5;

    /** The purpose of a message that asks for a decision. */
    static final String DECISION = "decision";

    private final Here here;

    Asking(Here here) {
        this.here = here;
    }

    /** What was shown to those who have voted, and is otherwise now. */
    private record Voided(Map<String, Change> changed, Set<PersonId> voted) {}

    void ask(VisitId visit, Approval step) {
        int round = here.visit(visit)
                .filter(v -> v.waiting() instanceof Votes)
                .map(v -> ((Votes) v.waiting()).round() + 1)
                .orElse(1);
        ask(visit, step, round, null);
    }

    private void ask(VisitId visit, Approval step, int round, @Nullable Voided voided) {
        // Whoever tries a test decides alone: nobody else is asked, and so nobody is left out.
        boolean test = here.ticket().test() != null;
        Set<PersonId> excluded = test ? Set.of() : excluded(step);
        List<PersonId> electorate = here.members(step.asked()).stream()
                .filter(p -> !excluded.contains(p))
                .toList();
        ApprovalRule rule = test ? new ApprovalRule.AnyOne() : step.rule();
        List<List<PersonId>> sets = test ? null : sets(step, excluded);
        int needed = sets == null ? rule.needed(electorate.size()) : sets.size();
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
        Here timed = here.countingFor(here.assigned(step.asked()));
        Instant due = step.within() == null ? null : timed.after(step.within());
        Map<String, Object> values = shown(here, step.shown());
        here.emit(
                Actor.SYSTEM,
                step.id(),
                visit,
                new ApprovalAsked(
                        round,
                        step.name(),
                        electorate,
                        List.copyOf(excluded),
                        word(rule),
                        needed,
                        step.shown(),
                        digest(values),
                        due,
                        step.commentOnDecline(),
                        timed.rungs(step.ladder()),
                        step.setsOff() == null ? null : here.render(step.setsOff()),
                        sets,
                        terms(step, electorate),
                        Agreed.after(step.id(), here.version(here.run()), here.lookups()),
                        step.question() == null ? null : here.render(step.question()),
                        values));
        List<PersonId> first =
                step.rule() instanceof ApprovalRule.InSequence && sets != null ? sets.getFirst() : electorate;
        tell(visit, step, first, round, voided);
    }

    /** Those who may not decide although they are asked. */
    private Set<PersonId> excluded(Approval step) {
        TreeSet<PersonId> excluded = new TreeSet<>();
        if (step.notRequester()) {
            here.ticket().text("requester").map(PersonId::new).ifPresent(requester -> {
                excluded.add(requester);
                // Whoever decides for the requester just now would decide about the requester's own wish.
                here.lookups().coversOf(requester).stream()
                        .filter(c -> c.countsAt(here.now()) && c.scope().meets(Cover.Scope.DECISIONS))
                        .map(Cover::cover)
                        .forEach(excluded::add);
            });
        }
        if (step.terms() != null) {
            excluded.addAll(here.members(step.terms().without()));
        }
        if (step.notDoersOf() != null) {
            step.notDoersOf().forEach(s -> Optional.ofNullable(
                            here.run().seen(here.place()).get(s.value()))
                    .map(values -> (String) values.get("by"))
                    .map(PersonId::new)
                    .ifPresent(excluded::add));
        }
        return excluded;
    }

    /** Null on plain terms. A veto is for members of the electorate. */
    private @Nullable VoteTerms terms(Approval step, List<PersonId> electorate) {
        Approval.Terms terms = step.terms() == null ? Approval.Terms.PLAIN : step.terms();
        VoteTerms resolved = new VoteTerms(
                step.rule() instanceof ApprovalRule.InSequence,
                terms.veto().isEmpty()
                        ? List.of()
                        : here.members(terms.veto()).stream()
                                .filter(electorate::contains)
                                .toList(),
                terms.commentAlways(),
                terms.mayAddConditions());
        return resolved.equals(VoteTerms.PLAIN) ? null : resolved;
    }

    /** Tells those whose turn it is now. */
    void tell(VisitId visit, Approval step, List<PersonId> turn, int round) {
        tell(visit, step, turn, round, null);
    }

    /**
     * Tells those who are asked, so that they can decide where they are (N41); the link is made when it is sent. Whoever had voted is
     * told that it no longer counts, and what changed, from what to what.
     */
    private void tell(VisitId visit, Approval step, List<PersonId> electorate, int round, @Nullable Voided voided) {
        Visit asked = here.visit(visit).orElseThrow();
        Wanted wanted = here.wanted();
        String subject = wanted.subject((round > 1 ? "Decide again: " : "Decide: ") + step.name());
        Set<PersonId> voted = voided == null ? Set.of() : voided.voted();
        String changed = voided == null ? null : wanted.changed(asked, voided.changed());
        List<PersonId> anew =
                electorate.stream().filter(p -> !voted.contains(p)).toList();
        List<PersonId> again = electorate.stream().filter(voted::contains).toList();
        if (!anew.isEmpty()) {
            here.ask(asked, Actor.SYSTEM, DECISION, anew, subject, wanted.with(changed, asked));
        }
        if (!again.isEmpty()) {
            String before = "Your vote no longer counts. " + changed;
            here.ask(asked, Actor.SYSTEM, DECISION, again, subject, wanted.with(before, asked));
        }
        List<PersonId> later =
                voted.stream().filter(p -> !electorate.contains(p)).sorted().toList();
        if (!later.isEmpty()) {
            String text = "Your vote on '" + step.name() + "' no longer counts. " + changed
                    + "\nYou are asked again when it is your turn.";
            here.tell(asked, Actor.SYSTEM, "notice", later, wanted.subject("No longer counts: " + step.name()), text);
        }
    }

    /** Those from each of whom one must say yes; null where only the number counts. */
    private @Nullable List<List<PersonId>> sets(Approval step, Set<PersonId> excluded) {
        boolean each =
                step.rule() instanceof ApprovalRule.OneFromEach || step.rule() instanceof ApprovalRule.InSequence;
        if (!each) {
            return null;
        }
        return step.asked().stream()
                .map(party -> here.members(List.of(party)).stream()
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

    static Map<String, Object> shown(Here at, List<String> paths) {
        Map<String, Object> values = new TreeMap<>();
        paths.forEach(path -> Expressions.read(path, at.scope()).ifPresent(v -> values.put(path, v)));
        return values;
    }

    /** SHA-256 of the canonical list of [path, value] in the order of paths; absent ones are left out (D18). */
    static String digest(Map<String, Object> values) {
        List<List<Object>> pairs = new ArrayList<>();
        new TreeMap<>(values).forEach((path, value) -> pairs.add(List.of(path, value)));
        return CanonicalJson.hash(pairs);
    }

    /** Voids open approvals whose shown fields have changed, and asks again (N43). */
    void checkShownFields() {
        here.waiting().forEach(v -> new Asking(here.at(v)).checkShownFields(v));
    }

    void checkShownFields(Visit visit) {
        if (!(visit.waiting() instanceof Votes votes) || visit.stall() != null) {
            return;
        }
        Map<String, Object> current = shown(here, votes.shown());
        Map<String, Change> changed = Change.between(votes.values(), current);
        if (changed.isEmpty()) {
            return;
        }
        here.emit(Actor.SYSTEM, visit, new ApprovalVoided(votes.round(), List.copyOf(changed.keySet()), changed));
        try {
            if (votes.round() >= MAX_ROUNDS) {
                throw new CannotOpen(
                        "keeps changing",
                        "What '" + votes.name() + "' shows has changed " + MAX_ROUNDS
                                + " times. Settle the values, then ask again.");
            }
            Voided voided = new Voided(changed, Set.copyOf(votes.cast().keySet()));
            ask(visit.id(), (Approval) here.step(visit), votes.round() + 1, voided);
        } catch (CannotOpen cannot) {
            here.stall(Actor.SYSTEM, visit, cannot.code(), cannot.getMessage());
        }
    }

    /** Those whom a rung adds, or hands over to, decide as well: whoever was asked before still may. */
    boolean rung(Visit visit, Approval step, Rung.Deed deed, Climbs.Fired fired) {
        List<PersonId> to =
                switch (deed) {
                    case Rung.Add a -> here.members(a.to());
                    case Rung.HandOver h -> here.members(List.of(h.to()));
                    case Rung.Tell t -> null;
                    case Rung.Remind r -> null;
                    case Rung.RaisePriority r -> null;
                    case Rung.Decide d -> null;
                };
        if (to == null || !(visit.waiting() instanceof Votes votes)) {
            return false;
        }
        List<PersonId> more =
                to.stream().filter(p -> !votes.notAnew().contains(p)).toList();
        fired.fired(more, more.isEmpty() ? null : neededWith(votes, step, more));
        tell(visit.id(), step, more, votes.round());
        return true;
    }

    /** As many as the rule says of all who decide then; where one from each is needed, that stays. */
    private static @Nullable Integer neededWith(Votes votes, Approval step, List<PersonId> joined) {
        if (votes.sets() != null) {
            return null;
        }
        int needed =
                step.rule().needed(votes.joinedBy(joined, null).electorate().size());
        return needed == votes.needed() ? null : needed;
    }
}
