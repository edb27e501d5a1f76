package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import java.util.List;
import java.util.Optional;

/** Is there still somebody whom an open task or approval waits for? People leave groups after they were asked (D17). */
final class Waits {
    private final Deciding d;

    Waits(Deciding d) {
        this.d = d;
    }

    Optional<Refusal> recheck() {
        List<Visit> open = d.now().open().values().stream()
                .flatMap(run -> run.open().values().stream())
                .filter(v -> v.stall() == null)
                .toList();
        open.forEach(this::recheck);
        return Optional.empty();
    }

    private void recheck(Visit visit) {
        switch (visit.waiting()) {
            case Waiting.Task task
            when nobodyLeft(task) ->
                stall(
                        visit,
                        "nobody",
                        "Nobody can do '" + task.name() + "' any more: those it was offered to have left. Fill the"
                                + " group or hand it to somebody, then retry.");
            case Waiting.Votes votes
            when cannotBeMet(votes) ->
                stall(
                        visit,
                        "cannot be met",
                        "'" + votes.name() + "' needs " + votes.needed() + " approving, and too few of those asked"
                                + " are still active. Retry to ask anew.");
            default -> {}
        }
    }

    private boolean nobodyLeft(Waiting.Task task) {
        if (task.claimedBy() != null && active(task.claimedBy())) {
            return false;
        }
        Parties parties = new Parties(d);
        return parties.active(task.to()).isEmpty()
                && (task.overseers() == null || parties.active(task.overseers()).isEmpty());
    }

    private boolean cannotBeMet(Waiting.Votes votes) {
        long left = votes.electorate().stream()
                .filter(p -> !votes.cast().containsKey(p) && active(p))
                .count();
        return left == 0 || votes.yes() + left < votes.needed();
    }

    private boolean active(PersonId id) {
        return d.lookups().person(id).filter(Person::active).isPresent();
    }

    private void stall(Visit visit, String code, String why) {
        d.emit(Actor.CLOCK, visit, new Event.Stalled(code, why));
    }
}
