package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dastur.core.step.update.Updated;
import dastur.core.ticket.Beside;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ConfigurationItem;
import dastur.core.workflow.Trigger;
import java.util.List;
import java.util.Map;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** CIs that workflows make and change (M17), and what the steps behind them read. */
class MadeCisTest {
    private final World world = new World();

    /** A workflow that is started by a ticket being raised; its steps are given. */
    private void raised(String steps) {
        world.publishAlso("made", "incident", steps, new Trigger.Created(dastur.core.ticket.TicketKind.INCIDENT));
        world.raise();
    }

    private static final String MAKES = """
            make: update "Plan it"
              set ci.id to "crew-7"
              set ci.kind to "machine"
              set ci.address to "10.20.7.1"

            tell: tell the requester "{{ ci.id }}" as "Say so"
              say "{{ ci.name }}, {{ ci.kind }}, {{ ci.life }}, at {{ ci.address }}, on {{ ticket.ci }}."

            done: done "made" as "Made"
            """;

    private String said() {
        return events(Event.MessageQueued.class).getLast().text();
    }

    private <T extends Event> List<T> events(Class<T> type) {
        return world.record.stream()
                .map(Recorded::event)
                .filter(type::isInstance)
                .map(type::cast)
                .toList();
    }

    @Test
    void oneThatIsMadeStandsOnTheTicketAndIsReadByTheStepsBehind() {
        raised(MAKES);

        assertThat(said()).isEqualTo("crew-7, machine, planned, at 10.20.7.1, on crew-7.");
        Updated made = events(Updated.class).getFirst();
        assertThat(made.makes()).isTrue();
        assertThat(made.changesCi()).satisfies(c -> {
            ConfigurationItem ci = c.on(null);
            assertThat(ci.life()).isEqualTo("planned");
            assertThat(ci.service()).hasToString("gates");
        });
    }

    @Test
    void aValueThatWasSetIsReadInTheSameDecision() {
        raised("""
                note: update "Note the lane"
                  set ci.lane to "closed"
                  set ci.life = 'retired'

                tell: tell the requester "x" as "Say so"
                  say "{{ ci.lane }}, {{ ci.life }}"

                done: done "noted" as "Noted"
                """);

        assertThat(said()).isEqualTo("closed, retired");
    }

    /** What was agreed to stays known when the CI is something else, from one decision to the next too. */
    @Test
    void whatWasWishedIsReadBesideWhatIs() {
        String says = """
                  say "{{ ci.address ?? 'nowhere' }}; {{ wished.address ?? 'nothing' }} was wished for."

                """;
        raised(MAKES.replace(
                "tell: tell",
                "wish: tell the requester \"x\" as \"Wish\"\n" + says + """
                settle: update "It is ordered"
                  set ci.life = 'ordered'
                  set ci.address to "10.20.7.2"

                know: tell the requester "x" as "Know"
                """ + says + """
                move: update "It moves"
                  set ci.address to "10.20.7.3"

                again: tell the requester "x" as "Again"
                """ + says + "tell: tell"));

        assertThat(events(Event.MessageQueued.class).stream().map(Event.MessageQueued::text))
                .startsWith(
                        "10.20.7.1; 10.20.7.1 was wished for.",
                        "10.20.7.2; 10.20.7.1 was wished for.",
                        "10.20.7.3; 10.20.7.1 was wished for.");
        assertThat(events(Updated.class).get(1).ciChanges().get(ConfigurationItem.WISH))
                .isEqualTo(
                        new Event.Change(null, Map.of("name", "crew-7", "address", "10.20.7.1", "service", "gates")));
        assertThat(events(Updated.class).get(2).ciChanges()).containsOnlyKeys("address");
    }

    @Test
    void ofOneThatWasNeverPlannedNoWishIsKnown() {
        raised("""
                tell: tell the requester "x" as "Say so"
                  say "{{ ci.site }}, {{ wished.site ?? 'not known' }}"

                done: done "told" as "Told"
                """);
        assertThat(said()).endsWith(", not known");
    }

    @Test
    void oneThatWasRetiredIsPlannedAnew() {
        world.put(
                new LookupKey.OfCi(new CiId("crew-7")),
                ConfigurationItem.planned(new CiId("crew-7"), "machine")
                        .with(Map.of("life", "retired", "site", "ALD")));
        raised(MAKES);

        assertThat(said()).startsWith("crew-7, machine, planned");
        assertThat(events(Updated.class).getFirst().makes()).isNull();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            set ci.id to "ALD-G1"     | set ci.kind to "machine" | CI exists   | There is a CI 'ALD-G1' already
            set ci.id to "a b"        | set ci.kind to "machine" | wrong value | No CI can be made
            set ci.id = ticket.answer | set ci.kind to "machine" | wrong value | No CI can be made
            set ci.id to "crew-7"     | set ci.kind to "{{ ticket.answer ?? '' }}" | wrong value | it needs a kind
            set ci.address to "x"     | set ci.life to "{{ ticket.title }}" | wrong value | A CI's life is one of
            """)
    void whatCannotBeMadeStallsAndSaysWhy(String first, String second, String code, String why) {
        raised("make: update \"Plan it\"\n  " + first + "\n  " + second + "\n\ndone: done \"made\" as \"Made\"\n");

        Visit stalled = world.open();
        assertThat(stalled.stall().code()).isEqualTo(code);
        assertThat(stalled.stall().why()).contains(why);
        assertThat(world.ticket.text("ci")).contains("ALD-G1");
    }

    /** What the gate stands on and what stands on it, of which one is no board. */
    private void related() {
        put("ALD-GW1", "gateway");
        put("ALD-07", "board");
        put("ALD-08", "board");
        put("ALD-K1", "kiosk");
        world.put(
                new LookupKey.BesideCi(new CiId("ALD-G1")),
                Beside.of(List.of(
                        beside("runs on", true, "ALD-GW1"),
                        beside("runs on", false, "ALD-08"),
                        beside("Runs on", false, "ALD-07"),
                        beside("runs on", false, "ALD-K1"),
                        beside("feeds", true, "ALD-K1"))));
    }

    private void put(String id, String kind) {
        world.put(new LookupKey.OfCi(new CiId(id)), ConfigurationItem.planned(new CiId(id), kind));
    }

    private static Beside.Neighbour beside(String relation, boolean leads, String id) {
        String kind = id.contains("GW") ? "gateway" : id.contains("K") ? "kiosk" : "board";
        return new Beside.Neighbour(relation, leads, ConfigurationItem.planned(new CiId(id), kind));
    }

    @Test
    void whatStandsBesideACiIsReadByItsRelations() {
        related();
        raised("""
                tell: tell the requester "x" as "Say so"
                  say "{{ near.runsOn.map(c, c.id) }}, {{ near.carries.filter(c, c.kind == 'board').map(c, c.id) }}, {{ near.feeds.map(c, c.relation) }}, {{ near.fedBy.size() }} of {{ near.all.size() }}"

                done: done "told" as "Told"
                """);

        assertThat(said()).isEqualTo("ALD-GW1, ALD-07, ALD-08, feeds, 0 of 5");
    }

    /** A part of what is there would say nothing of the whole. */
    @Test
    void ofMoreThanCanBeToldNothingIsSaid() {
        world.put(
                new LookupKey.BesideCi(new CiId("ALD-G1")),
                Beside.of(IntStream.rangeClosed(0, Beside.MOST)
                        .mapToObj(n -> beside("runs on", false, "b" + n))
                        .toList()));
        raised("""
                tell: tell the requester "x" as "Say so"
                  say "{{ near.carries ?? 'cannot say' }}"

                done: done "told" as "Told"
                """);

        assertThat(said()).isEqualTo("cannot say");
    }

    @Test
    void eachThatStandsOnACiIsSetAndReadAgainInTheSameDecision() {
        related();
        raised("""
                each: for each c in near.carries.filter(x, x.kind == 'board'), in order as "Each board":
                  retire: update "Take it out"
                    the ci is c.id
                    set ci.life = 'retired'
                  out: done "out" as "Out"

                tell: tell the requester "x" as "Say so"
                  say "{{ near.carries.filter(c, c.life == 'retired').map(c, c.id) }}; {{ ci.life }}, {{ ticket.ci }}"

                done: done "told" as "Told"
                """);

        assertThat(said()).isEqualTo("ALD-07, ALD-08; in use, ALD-G1");
        assertThat(events(Updated.class))
                .extracting(u -> u.changesCi().ci().value(), u -> u.ciChanges().get("life"))
                .containsExactly(
                        tuple("ALD-07", new Event.Change("planned", "retired")),
                        tuple("ALD-08", new Event.Change("planned", "retired")));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            'crew-9'      | There is no CI 'crew-9'
            'a b'         | No CI is meant
            ticket.answer | nothing is known of it
            """)
    void aCiThatCannotBeMeantStallsAndSaysWhy(String named, String why) {
        raised("set: update \"Set it\"\n  the ci is " + named
                + "\n  set ci.life = 'retired'\n\ndone: done \"set\" as \"Set\"\n");

        assertThat(world.open().stall().code()).isEqualTo("no CI");
        assertThat(world.open().stall().why()).contains(why);
    }
}
