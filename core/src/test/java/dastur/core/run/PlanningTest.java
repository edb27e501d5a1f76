package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.Person;
import dastur.core.people.Role;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.ticket.TicketKind;
import java.util.Map;
import java.util.Set;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** CIs that people wish for inside requests and changes (M17). */
class PlanningTest {
    private final World world = new World();

    private void raised(TicketKind kind) {
        world.accepted(
                Actor.of(World.RUNA),
                new Command.RaiseTicket(
                        kind, Map.of("title", "A machine", "requester", "jonas", "service", "gates"), null));
    }

    private static Command.PlanCi crew(Map<String, Object> values) {
        return new Command.PlanCi("crew-7", "machine", values);
    }

    private Event.CiPlanned planned() {
        return world.record.stream()
                .map(Recorded::event)
                .filter(Event.CiPlanned.class::isInstance)
                .map(Event.CiPlanned.class::cast)
                .reduce((first, later) -> later)
                .orElseThrow();
    }

    @Test
    void whatIsWishedForIsPlannedAndTheTicketIsAboutIt() {
        raised(TicketKind.REQUEST);
        world.accepted(Actor.of(World.RUNA), crew(Map.of("lane", "open", "site", "ALD", "name", " ")));

        assertThat(world.ticket.text("ci")).contains("crew-7");
        ConfigurationItem ci = planned().changesCi().on(null);
        assertThat(ci.life()).isEqualTo("planned");
        assertThat(ci.kind()).isEqualTo("machine");
        assertThat(ci.name()).isEqualTo("crew-7");
        assertThat(ci.service()).hasToString("gates");
        assertThat(ci.values()).containsEntry("lane", "open").containsEntry("site", "ALD");
        assertThat(planned().makes()).isTrue();
    }

    @Test
    void theRequesterWishesOnTheirOwnTicketAndNobodyElseWhoOnlyAsks() {
        world.put(
                new LookupKey.OfPerson(World.JONAS),
                new Person(World.JONAS, "Jonas", "j@kestrel.example", Set.of(Role.REQUESTER), true));
        world.put(
                new LookupKey.OfPerson(World.SEM),
                new Person(World.SEM, "Sem", "s@kestrel.example", Set.of(Role.REQUESTER), true));
        raised(TicketKind.CHANGE);
        assertThat(world.refused(Actor.of(World.SEM), crew(Map.of())).message()).contains("You may not plan CIs");
        world.accepted(Actor.of(World.JONAS), crew(Map.of()));
        assertThat(world.ticket.text("ci")).contains("crew-7");
    }

    @Test
    void oneThatWasRetiredIsPlannedAnew() {
        raised(TicketKind.REQUEST);
        world.put(
                new LookupKey.OfCi(new CiId("crew-7")),
                ConfigurationItem.planned(new CiId("crew-7"), "machine")
                        .with(Map.of("life", "retired", "site", "ALD")));
        world.accepted(Actor.of(World.RUNA), crew(Map.of("site", "GNQ")));

        assertThat(planned().makes()).isNull();
        assertThat(planned().ciChanges())
                .containsEntry("life", new Event.Change("retired", "planned"))
                .containsEntry("site", new Event.Change("ALD", "GNQ"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            REQUEST  | ALD-G1 | machine | site  | There is a CI 'ALD-G1' already
            REQUEST  | a b    | machine | site  | No CI can be made
            REQUEST  | crew-7 | ''      | site  | it needs a kind
            REQUEST  | crew-7 | machine | life  | has no 'life' that could be wished for
            REQUEST  | crew-7 | machine | owner | has no 'owner' that could be wished for
            REQUEST  | crew-7 | machine | nope  | has no 'nope' that could be wished for
            INCIDENT | crew-7 | machine | site  | inside a request or a change
            """)
    void whatCannotBeWishedForChangesNothing(TicketKind kind, String id, String of, String field, String why) {
        raised(kind);
        int before = world.record.size();
        Refusal refused = world.refused(Actor.of(World.RUNA), new Command.PlanCi(id, of, Map.of(field, "x")));
        assertThat(refused.message()).contains(why);
        assertThat(world.record).hasSize(before);
    }
}
