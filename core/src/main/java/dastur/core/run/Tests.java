package dastur.core.run;

import dastur.core.people.Actor;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Kinds;
import dastur.core.workflow.Step;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;

/** What is otherwise on a ticket that is a test (I4). */
final class Tests {
    /** A test that nobody ends is over after that. */
    static final Duration LASTS = Duration.ofHours(24);

    /** Stands before what a test tells, and what it asks. */
    private static final String SAYS = "Test: ";

    /** The ends of what was not done after all, in the order in which they are taken where a kind has them. */
    private static final List<String> ENDS = List.of("cancelled", TicketKind.STOPPED, "backed out", TicketKind.CLOSED);

    private final Deciding d;

    Tests(Deciding d) {
        this.d = d;
    }

    /** How something is called where it stands among what is meant in earnest. */
    static String said(Case c, String name) {
        return c.test() == null ? name : SAYS + name;
    }

    /** Says that the ticket is a test of whoever acts. */
    void mark() {
        d.emitTicket(new Event.MarkedAsTest(
                d.person().orElseThrow(() -> new IllegalStateException("a person tries something")),
                d.at().plus(LASTS)));
    }

    /** Who is asked, and told, instead of everybody else. */
    static Assigned instead(Case.Test test) {
        return new Assigned(List.of(), List.of(test.by()));
    }

    /** @throws CannotOpen where the step would do something elsewhere */
    static void withhold(Step step, Here here) {
        if (!Kinds.plays(step, Reaches.class)) {
            return;
        }
        Reaches<Step> kind = Kinds.of(step, Reaches.class);
        kind.reaches(step, here).ifPresent(would -> {
            throw new CannotOpen(
                    Visit.Stall.WITHHELD,
                    "This is a test, so '" + step.name() + "' was withheld: it would " + would
                            + ". Take a way as if it had been done, or have it done in earnest.");
        });
    }

    /** When it ends by itself; empty for what is no test, or is over. */
    static Optional<Instant> ends(Case c) {
        return c.test() == null || TicketKind.ended(c.state())
                ? Optional.empty()
                : Optional.of(c.test().until());
    }

    /** Ends it when its time is over, with all that runs on it. */
    void endInTime() {
        if (ends(d.now()).filter(at -> !at.isAfter(d.context.now())).isEmpty()) {
            return;
        }
        d.now().open().values().forEach(run -> {
            if (d.now().open().containsKey(run.id())) {
                new RunEnds(d).stop(Actor.CLOCK, run, "the time of the test was over");
            }
        });
        TicketKind kind = d.now().kind();
        if (kind != null) {
            end(kind, d.now().state()).ifPresent(this::end);
        }
    }

    private void end(String state) {
        Event.Change change = new Event.Change(d.now().state(), state);
        d.emit(
                Actor.CLOCK,
                null,
                null,
                null,
                new Event.TicketChanged(Map.of("state", change), null, "The time of this test is over."));
    }

    /** Where a test ends from a state. */
    static Optional<String> end(TicketKind kind, String state) {
        Set<String> moves = kind.movesFrom(state);
        return Stream.concat(
                        ENDS.stream(), moves.stream().filter(TicketKind::ended).sorted())
                .filter(moves::contains)
                .findFirst();
    }
}
