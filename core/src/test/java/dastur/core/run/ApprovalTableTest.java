package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Actor;
import dastur.core.people.GroupId;
import dastur.core.people.Party;
import dastur.core.people.PersonId;
import dastur.core.step.approval.ApprovalCommands.Vote;
import dastur.core.time.Span;
import dastur.core.workflow.Ladder;
import dastur.core.workflow.LadderKey;
import dastur.core.workflow.Rung;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Random;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/**
 * Every rule with every size of electorate, with and without somebody excluded, a cover, a rung that adds people, a change that
 * voids, and a hold (E1, E4): it closes exactly when an own count of the votes says so, and as that says.
 */
class ApprovalTableTest {
    private static final GroupId MORE = new GroupId("more");
    private static final PersonId COVER = new PersonId("cover");
    private static final List<PersonId> POOL = List.of(World.TEO, World.PRIYA, World.RUNA, World.SEM);
    private static final List<PersonId> ADDED = List.of(new PersonId("ola"), new PersonId("pia"));

    private record Setting(
            String rule,
            int asked,
            boolean requesterAmong,
            boolean covered,
            boolean rung,
            boolean voided,
            boolean held) {}

    /** What should come of it, counted apart from the engine. */
    private static final class Count {
        private final String rule;
        private final List<PersonId> electorate;
        private final Map<PersonId, Boolean> cast = new HashMap<>();

        Count(String rule, List<PersonId> electorate) {
            this.rule = rule;
            this.electorate = new ArrayList<>(electorate);
        }

        int needed() {
            int all = electorate.size();
            return switch (rule) {
                case "any one of" -> 1;
                case "everyone of" -> all;
                case "a majority of" -> all / 2 + 1;
                case "at least 2 of" -> 2;
                case "at least 60 percent of" -> (all * 60 + 99) / 100;
                default -> throw new AssertionError(rule);
            };
        }

        /** "approved", "declined", or empty while it is open. */
        String result() {
            long yes = cast.values().stream().filter(v -> v).count();
            long no = cast.size() - yes;
            if (yes >= needed()) {
                return "approved";
            }
            return rule.equals("any one of") && no > 0 || electorate.size() - no < needed() ? "declined" : "";
        }
    }

    @ParameterizedTest
    @ValueSource(strings = {"any one of", "everyone of", "a majority of", "at least 2 of", "at least 60 percent of"})
    void itClosesWhenTheVotesSaySo(String rule) {
        int played = 0;
        for (int asked = 1; asked <= POOL.size(); asked++) {
            for (int bits = 0; bits < 32; bits++) {
                Setting setting = new Setting(
                        rule, asked, (bits & 1) > 0, (bits & 2) > 0, (bits & 4) > 0, (bits & 8) > 0, (bits & 16) > 0);
                Count count = new Count(rule, POOL.subList(0, asked));
                for (long seed = 0; seed < 2 && count.needed() <= asked; seed++) {
                    play(setting, new Random(seed));
                    played++;
                }
            }
        }
        assertThat(played).isGreaterThan(150);
    }

    private static WrittenWorkflows began(Setting s) {
        WrittenWorkflows story = new WrittenWorkflows() {};
        World world = story.world;
        world.person(COVER, "Cover");
        ADDED.forEach(p -> world.person(p, p.value()));
        world.group(MORE, "More", ADDED.toArray(PersonId[]::new));
        List<PersonId> members = new ArrayList<>(POOL.subList(0, s.asked()));
        if (s.requesterAmong()) {
            members.add(World.JONAS);
        }
        world.group(World.MANAGERS, "Duty managers", members.toArray(PersonId[]::new));
        world.put(
                new LookupKey.OfLadder(new LadderKey("l")),
                new Ladder(
                        new LadderKey("l"),
                        "L",
                        List.of(new Rung(Span.parse("10 min"), new Rung.Add(List.of(new Party.OfGroup(MORE)))))));
        story.publish("go: approve \"Go?\" by " + s.rule() + " group managers within 3 h\n  shows ticket.impact\n"
                + "  not the requester\n" + (s.rung() ? "  ladder l\n" : "")
                + "  declined -> bad\ngood: done \"approved\"\nbad: done \"declined\"\n");
        return story;
    }

    private static void play(Setting s, Random random) {
        WrittenWorkflows story = began(s);
        World world = story.world;
        Count count = new Count(s.rule(), POOL.subList(0, s.asked()));
        assertThat(world.votes().electorate()).as("%s", s).containsExactlyInAnyOrderElementsOf(count.electorate);
        if (s.voided()) {
            Vote seen = world.vote(true, null);
            vote(story, count, POOL.getFirst(), true, false);
            if (!count.result().isEmpty()) {
                return;
            }
            world.accepted(Actor.of(World.RUNA), new Command.EditTicket(Map.of("impact", 1L), null));
            count.cast.clear();
            assertThat(world.refused(Actor.of(POOL.getFirst()), seen).code()).isEqualTo(Refusal.Code.STALE);
        }
        if (s.rung()) {
            world.pass(Duration.ofMinutes(11));
            count.electorate.addAll(ADDED);
        }
        if (s.held()) {
            intervene(story, Intervention.HOLD);
            Decision refused = world.handle(Actor.of(POOL.getFirst()), world.vote(true, null));
            assertThat(((Decision.Refused) refused).refusal().code()).isEqualTo(Refusal.Code.HELD);
            intervene(story, Intervention.RESUME);
        }
        List<PersonId> order = new ArrayList<>(count.electorate);
        Collections.shuffle(order, random);
        for (PersonId voter : order) {
            boolean through = s.covered() && voter.equals(order.getFirst());
            vote(story, count, voter, random.nextInt(3) > 0, through);
            if (!count.result().isEmpty()) {
                return;
            }
        }
        throw new AssertionError(s + ": all have voted, and it is open");
    }

    private static void intervene(WrittenWorkflows story, Intervention kind) {
        story.world.accepted(
                Actor.of(World.TEO), new Command.Intervene(story.run().id(), null, kind, null, "for a while"));
    }

    private static void vote(WrittenWorkflows story, Count count, PersonId voter, boolean yes, boolean through) {
        World world = story.world;
        Actor by = through ? new Actor.OfPerson(COVER, voter) : Actor.of(voter);
        world.accepted(by, world.vote(yes, yes ? null : "no"));
        count.cast.put(voter, yes);
        String expected = count.result();
        assertThat(story.last(Event.RunEnded.class).map(Event.RunEnded::result).orElse(""))
                .as("%s of %s, needs %d", count.cast, count.electorate, count.needed())
                .isEqualTo(expected);
        if (expected.isEmpty()) {
            assertThat(world.votes().needed()).isEqualTo(count.needed());
            // Nobody votes twice, and whoever is not asked not at all.
            assertThat(world.handle(by, world.vote(yes, "no"))).isInstanceOf(Decision.Refused.class);
            assertThat(world.handle(Actor.of(World.JONAS), world.vote(true, null)))
                    .isInstanceOf(Decision.Refused.class);
        }
    }
}
