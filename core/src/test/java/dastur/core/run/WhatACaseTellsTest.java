package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.people.PersonId;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import org.junit.jupiter.api.Test;

/** What others are told of a case without deciding anything on it: when it must be looked at, what the clock will do, what may be undone. */
class WhatACaseTellsTest extends WrittenWorkflows {
    private static final String PAUSE = """
            pause: wait 20 min as "Let it settle"
            look: ask group technicians "Look" within 1 h: "Done"
              overdue -> late
            done: done "looked at"
            late: done "late"
            """;

    private static final Duration LONG = Duration.ofDays(1);

    private Optional<Instant> next() {
        return Engine.nextAlarm(world.ticket, world.now.minus(LONG));
    }

    @Test
    void itIsLookedAtWhenTheFirstOfItsAlarmsIsDue() {
        Instant began = world.now;
        publish(PAUSE);
        assertThat(next()).contains(began.plus(Duration.ofMinutes(20)));
        world.pass(Duration.ofMinutes(20));
        assertThat(next()).contains(world.now.plus(Duration.ofHours(1)));
        assertThat(Engine.alarms(open("look").getFirst(), world.now.minus(LONG)))
                .extracting(Visit.Alarm::due)
                .containsExactly(world.now.plus(Duration.ofHours(1)));
        done(open("look").getFirst(), "Done");
        assertThat(next()).isEmpty();
    }

    @Test
    void aRunThatIsHeldRingsNothing() {
        publish(PAUSE);
        world.accepted(
                dastur.core.people.Actor.of(World.TEO),
                new Command.Intervene(run().id(), null, Intervention.HOLD, null, "not now"));
        assertThat(next()).isEmpty();
    }

    @Test
    void aRunThatHasNotComeToAWaitGoesOnAtOnce() {
        // Two hundred steps a decision: a longer way is gone on with by the next look.
        StringBuilder steps = new StringBuilder();
        for (int i = 0; i < 250; i++) {
            steps.append("s%d: update \"Count\"\n  set vars.count = %d\n".formatted(i, i));
        }
        publish(steps + "done: done \"counted\"\n");
        assertThat(world.ticket.open()).hasSize(1);
        assertThat(next()).contains(world.now);
        world.pass(Duration.ofSeconds(1));
        assertThat(world.ticket.open()).isEmpty();
        assertThat(next()).isEmpty();
    }

    @Test
    void anOutcomeMayBeTakenBackByWhoeverGaveItForAMoment() {
        publish("""
                look: ask group technicians "Look": "Done"
                then: ask group managers "Then": "Done"
                done: done "looked at"
                """);
        VisitId look = open("look").getFirst().id();
        assertThat(Engine.mayTakeBack(world.ticket, World.RUNA, world.now)).isEmpty();
        done(open("look").getFirst(), "Done");
        assertThat(Engine.mayTakeBack(world.ticket, World.RUNA, world.now)).isEqualTo(List.of(look));
        assertThat(Engine.mayTakeBack(world.ticket, World.TEO, world.now)).isEmpty();
        assertThat(Engine.mayTakeBack(world.ticket, World.RUNA, world.now.plusSeconds(10)))
                .hasSize(1);
        assertThat(Engine.mayTakeBack(world.ticket, World.RUNA, world.now.plusSeconds(11)))
                .isEmpty();
    }

    @Test
    void expressionsAreTriedOnItsTicketItsCiItsServiceAndItsRequester() {
        world.raise();
        Scope scope = Engine.scope(world.ticket, world::look, world.now);
        for (Map.Entry<String, Object> seen : Map.<String, Object>of(
                        "ticket.title", "Gate 1 stuck open",
                        "ci.name", "Gate 1 at Alder Pier",
                        "requester.name", name(World.JONAS))
                .entrySet()) {
            assertThat(Expressions.read(seen.getKey(), scope)).as(seen.getKey()).contains(seen.getValue());
        }
    }

    private Object name(PersonId person) {
        return ((dastur.core.people.Person)
                        world.look(new LookupKey.OfPerson(person)).orElseThrow())
                .name();
    }
}
