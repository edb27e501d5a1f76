package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.workflow.TermsOfUse;
import dastur.core.workflow.Trigger;
import java.time.Duration;
import java.util.List;
import java.util.Optional;

/** How often what comes from outside may start workflows (I27). */
final class TooOften {
    /** All triggers together start so much within a minute of what comes from outside. */
    private static final int MOST_OF_ALL = 300;

    private static final int MINUTES_IN_AN_HOUR = 6;
    private static final Duration TOLD_EVERY = Duration.ofHours(1);

    private TooOften() {}

    /** Tells the owner of the workflow that its starts are held back, once an hour as long as that goes on (I27). */
    static void tell(Deciding d, Trigger.Live live, PersonId owner, String why) {
        Optional<Person> here = d.lookups().person(owner).filter(Person::active);
        boolean told = d.lookups()
                .heldBackTold(live.trigger().id())
                .filter(at -> at.plus(TOLD_EVERY).isAfter(d.context.now()))
                .isPresent();
        if (here.isEmpty() || told) {
            return;
        }
        new Deliveries(d)
                .queue(
                        null,
                        null,
                        null,
                        Actor.SYSTEM,
                        TermsOfUse.TELLS,
                        List.of(owner),
                        "Starts of '" + live.name() + "' are held back",
                        "You own the workflow '" + live.name() + "'. What comes from outside sets it off too often: "
                                + why
                                + ". From " + d.now().id()
                                + " on its starts wait for a person, together under Starts: start them there or let them be.\n",
                        new LookupKey.HeldBackTold(live.trigger().id()).about());
    }

    /**
     * Whether what comes from outside has started it, or everything, so often of late that more is for people to decide (I27). What
     * people do is not held back.
     */
    static Optional<String> why(Deciding d, Trigger trigger) {
        if (!(d.actor instanceof Actor.Outside)) {
            return Optional.empty();
        }
        int most = trigger.when() instanceof Trigger.SignalComes s && s.mostAMinute() != null
                ? s.mostAMinute()
                : Trigger.SignalComes.USUAL_MOST;
        Lookups.RecentStarts recent = d.lookups().recentStarts(trigger.id(), d.context.now());
        if (recent.minute() >= most) {
            return Optional.of("it has started " + recent.minute() + " runs within a minute");
        }
        if (recent.hour() >= (long) most * MINUTES_IN_AN_HOUR) {
            return Optional.of("it has started " + recent.hour() + " runs within an hour");
        }
        return recent.all() >= MOST_OF_ALL
                ? Optional.of("triggers have started " + recent.all() + " runs within a minute")
                : Optional.empty();
    }
}
