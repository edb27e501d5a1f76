package dastur.core.run;

import dastur.core.people.PersonId;
import java.time.Duration;
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

    Optional<Refusal> takeBack(Command.TakeBack c) {
        Optional<PersonId> person = d.person();
        @Nullable Run run = d.now().open().get(c.visit().run());
        Run.@Nullable Undoable last = run == null ? null : run.lastDone();
        if (person.isEmpty() || last == null || !last.visit().id().equals(c.visit())) {
            return tooLate("something has followed from it already");
        }
        if (!last.by().equals(person.get())) {
            return Optional.of(Refusal.notYours("Only who gave the outcome takes it back."));
        }
        if (Duration.between(last.at(), d.at()).compareTo(WITHIN) > 0) {
            return tooLate(WITHIN.toSeconds() + " seconds have passed");
        }
        List<Visit> followed = run.open().values().stream()
                .filter(v -> number(v.id()) > last.visits())
                .toList();
        boolean untouched = followed.size() == run.visits() - last.visits()
                && followed.stream().allMatch(v -> v.openedAt().equals(last.at()) && isUntouched(v));
        if (!untouched) {
            return tooLate("something has followed from it already");
        }
        followed.forEach(v -> d.withdraw(d.actor, v, "the outcome before it was taken back"));
        String exit = String.valueOf(run.seen(last.visit().place())
                .getOrDefault(last.visit().step().value(), java.util.Map.of())
                .getOrDefault("outcome", ""));
        d.emit(d.actor, last.visit(), new Event.TaskTakenBack(person.get(), exit));
        return Optional.empty();
    }

    private static int number(VisitId id) {
        return Integer.parseInt(id.value().substring(id.value().lastIndexOf('.') + 1));
    }

    /** Whether nobody has answered it and nothing has gone out for it. */
    private static boolean isUntouched(Visit visit) {
        return switch (visit.waiting()) {
            case Waiting.Task t -> t.claimedBy() == null;
            case Waiting.Votes v -> v.cast().isEmpty() && v.round() == 1 && v.askedBack() == null;
            case Waiting.Moment m -> true;
            case Waiting.ForCondition f -> true;
            case Waiting.ForReply f -> true;
            case Waiting.Help h -> true;
            default -> false;
        };
    }

    private static Optional<Refusal> tooLate(String why) {
        return Optional.of(new Refusal(Refusal.Code.TOO_LATE, "It cannot be taken back any more: " + why + ".", null));
    }
}
