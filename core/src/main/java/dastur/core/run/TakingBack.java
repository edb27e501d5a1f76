package dastur.core.run;

import dastur.core.people.PersonId;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.jspecify.annotations.Nullable;

/** Taking back an outcome that was given by mistake (D29). */
final class TakingBack {
    /** How long after it was given. */
    private static final Duration WITHIN = Duration.ofSeconds(10);

    private final Deciding d;

    TakingBack(Deciding d) {
        this.d = d;
    }

    /** Withdraws what has followed from an outcome, so that its step can be open again; or says why that cannot be. */
    Optional<Refusal> prepare(VisitId visit) {
        Optional<PersonId> person = d.person();
        @Nullable Run run = d.now().open().get(visit.run());
        Run.@Nullable Undoable last = run == null ? null : run.lastDone();
        if (person.isEmpty() || last == null || !last.visit().id().equals(visit)) {
            return tooLate("something has followed from it already");
        }
        Optional<Refusal> refused = refused(run, last, person.get(), d.at());
        if (refused.isEmpty()) {
            followed(run, last).forEach(v -> d.withdraw(d.actor, v, "the outcome before it was taken back"));
        }
        return refused;
    }

    /** Why an outcome cannot be taken back by a person; empty when it can. */
    static Optional<Refusal> refused(Run run, Run.Undoable last, PersonId person, Instant now) {
        if (!last.by().equals(person)) {
            return Optional.of(Refusal.notYours("Only who gave the outcome takes it back."));
        }
        if (Duration.between(last.at(), now).compareTo(WITHIN) > 0) {
            return tooLate(WITHIN.toSeconds() + " seconds have passed");
        }
        List<Visit> followed = followed(run, last);
        boolean untouched = followed.size() == run.visits() - last.visits()
                && followed.stream()
                        .allMatch(v ->
                                v.openedAt().equals(last.at()) && v.waiting().untouched());
        return untouched ? Optional.empty() : tooLate("something has followed from it already");
    }

    private static List<Visit> followed(Run run, Run.Undoable last) {
        return run.open().values().stream()
                .filter(v -> v.id().number() > last.visits())
                .toList();
    }

    private static Optional<Refusal> tooLate(String why) {
        return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "It cannot be taken back any more: " + why + ".", null));
    }
}
