package dastur.core.run;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.people.Actor;
import dastur.core.people.GroupId;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.step.calling.CallingEvents.CallRequested;
import dastur.core.ticket.ServiceId;
import dastur.core.workflow.Action.Repeat;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.TermsOfUse;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.function.Function;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Who may use an action and where, and whom it tells that it goes badly (M5, N86). The workflows here are Teo's, of the managers. */
class TermsOfUseTest extends WrittenWorkflows {
    private static final ActionKey CLOSE = new ActionKey("close-lane");
    private static final Actor TEO = Actor.of(World.TEO);
    private static final String ONE = """
            pause: ask group technicians "Ready?": "Done"
            close: run close-lane "Close" gate='G'
            end: done "closed"
            """;

    private static TermsOfUse terms(
            @Nullable PersonId keeper, @Nullable GroupId group, @Nullable String service, @Nullable String site) {
        return new TermsOfUse(
                CLOSE,
                keeper,
                group == null ? null : List.of(group),
                service == null ? null : List.of(new ServiceId(service)),
                site == null ? null : List.of(site),
                null,
                null,
                null);
    }

    private void are(TermsOfUse terms) {
        world.put(new LookupKey.TermsOf(CLOSE), terms);
    }

    private String stall() {
        return Optional.ofNullable(open("close").getFirst().stall())
                .map(s -> s.code() + ": " + s.why())
                .orElse("");
    }

    private void retry() {
        Visit visit = open("close").getFirst();
        world.accepted(
                TEO, new Command.Intervene(visit.id().run(), visit.id(), Intervention.RETRY, null, "looked at it"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', nullValues = "-", textBlock = """
            -     | -           | -     | -   |
            -     | managers    | gates | ALD |
            runa  | managers    | -     | -   |
            teo   | technicians | -     | -   |
            -     | technicians | -     | -   | 'Close a lane' may be used by Pier technicians, and Teo Marchetti is not among them.
            -     | nobody      | -     | -   | 'Close a lane' may be used by its keeper alone, and Teo Marchetti is not among them.
            -     | -           | fares | -   | 'Close a lane' may be used on tickets about fares alone.
            -     | -           | -     | GNQ | 'Close a lane' may be used on tickets whose CI stands at GNQ alone, and Gate 1 at Alder Pier stands ALD.
            """)
    void itBeginsForThoseAndThereAlone(
            @Nullable String keeper,
            @Nullable String group,
            @Nullable String service,
            @Nullable String site,
            @Nullable String why) {
        are(terms(
                keeper == null ? null : new PersonId(keeper),
                group == null ? null : new GroupId(group),
                service,
                site));
        publish(ONE);
        done(open("pause").getFirst(), "Done");
        assertThat(stall())
                .isEqualTo(why == null ? "" : "not to be used: " + why + " Once it may be, retry; or go on by hand.");
        assertThat(all(CallRequested.class)).hasSize(why == null ? 1 : 0);
    }

    /** They hold for what begins: what was published before them, what waits for a retry, and not for what is under way. */
    @Test
    void takenAwayNothingBeginsAndGivenBackItGoesOn() {
        publish(ONE);
        are(terms(null, World.TECHNICIANS, null, null));
        done(open("pause").getFirst(), "Done");
        assertThat(stall()).startsWith("not to be used");
        retry();
        assertThat(all(CallRequested.class)).isEmpty();
        are(terms(null, World.MANAGERS, null, null));
        retry();
        assertThat(all(CallRequested.class)).hasSize(1);
        are(terms(null, World.TECHNICIANS, null, null));
        answer(open("close").getFirst(), ok("L-1"));
        assertThat(world.ticket.open()).isEmpty();
    }

    @Test
    void whatWasDoneIsPutBackAllTheSame() {
        publish("""
                stage: stage "Work"
                  put back -> told
                  close: run close-lane "Close"
                    with gate = "ALD-G1"
                    put back with close-lane
                      with gate = "ALD-G1"
                  well: ask group technicians "Well?": "No"
                  back: put back "not well"
                after: done "stayed"
                told: done "was put back"
                """);
        answer(open("close").getFirst(), ok("L-1"));
        are(terms(null, World.TECHNICIANS, "fares", "GNQ"));
        done(open("well").getFirst(), "No");
        answer(open("close").getFirst(), ok("L-1"));
        assertThat(last(Event.RunEnded.class).orElseThrow().result()).isEqualTo("was put back");
    }

    // --- telling the keeper

    private List<Event.MessageQueued> told() {
        return all(Event.MessageQueued.class).stream()
                .filter(m -> m.purpose().equals("keeper"))
                .toList();
    }

    private void tells(int after, int bad, @Nullable Instant told) {
        are(new TermsOfUse(CLOSE, World.PRIYA, null, null, null, after, null, null));
        world.put(new LookupKey.BadInRow(CLOSE), new Lookups.BadInRow(bad, told));
    }

    private void failsOnce() {
        world.put(new LookupKey.OfAction(CLOSE), World.closeLane(Repeat.KEYED));
        publish("close: run close-lane \"Close\" gate='G' at most 1 tries\nend: done \"closed\"\n");
        answer(open("close").getFirst(), new CallOutcome.Failed("The lock does not move"));
    }

    @ParameterizedTest
    @CsvSource({"3, 1, 0", "3, 2, 1", "3, 7, 1", "1, 0, 1"})
    void theKeeperIsToldWhenItHasGoneBadlySoOftenInARow(int after, int before, int times) {
        tells(after, before, null);
        failsOnce();
        assertThat(told()).hasSize(times);
        told().forEach(m -> {
            assertThat(m.people()).containsExactly(World.PRIYA);
            assertThat(m.about()).isEqualTo("action close-lane");
            assertThat(m.subject())
                    .isEqualTo("'Close a lane' has gone badly "
                            + (before == 0 ? "once" : (before + 1) + " times in a row"));
            assertThat(m.text()).contains("'Close' on I-1", "The lock does not move", "/actions/close-lane");
        });
        assertThat(stall()).startsWith("failed: ");
    }

    @Test
    void whileItGoesOnTheKeeperIsToldOnceADay() {
        tells(3, 5, world.now.minus(Duration.ofHours(23)));
        failsOnce();
        assertThat(told()).isEmpty();
    }

    @Test
    void aDayLaterTheKeeperIsToldAgain() {
        tells(3, 5, world.now.minus(Duration.ofHours(25)));
        failsOnce();
        assertThat(told()).hasSize(1);
    }

    @Test
    void whatGoesWellIsNotTold() {
        tells(1, 5, null);
        publish(ONE);
        done(open("pause").getFirst(), "Done");
        answer(open("close").getFirst(), ok("L-1"));
        assertThat(told()).isEmpty();
    }

    @Test
    void whoeverHasLeftIsNotTold() {
        tells(1, 5, null);
        world.put(new LookupKey.OfPerson(World.PRIYA), person("priya", false, Role.PROCESS_OWNER));
        failsOnce();
        assertThat(told()).isEmpty();
    }

    @Test
    void aCallThatNobodyKnowsOfCountsAsBad() {
        tells(2, 1, null);
        world.put(new LookupKey.OfAction(CLOSE), World.closeLane(Repeat.NEVER));
        publish("close: run close-lane \"Close\" gate='G'\nend: done \"closed\"\n");
        answer(open("close").getFirst(), new CallOutcome.Unknown("The line broke"));
        assertThat(told()).hasSize(1);
        assertThat(stall()).startsWith("unsure");
    }

    // --- who may change it

    private static Person person(String id, boolean active, Role... roles) {
        return new Person(new PersonId(id), id, id + "@kestrel.example", Set.of(roles), active);
    }

    @Test
    void itsKeeperAndAdministratorsChangeItAndAnybodyWhoDesignsWhereNobodyKeepsIt() {
        Person keeper = person("ines", true, Role.PROCESS_OWNER);
        Person other = person("otto", true, Role.PROCESS_OWNER);
        Person administrator = person("halvard", true, Role.ADMINISTRATOR);
        Function<PersonId, Optional<Person>> here = id -> Optional.of(keeper);
        TermsOfUse kept = terms(keeper.id(), null, null, null);
        assertThat(kept.letsChange(keeper, here)).isTrue();
        assertThat(kept.letsChange(administrator, here)).isTrue();
        assertThat(kept.letsChange(other, here)).isFalse();
        assertThat(terms(null, null, null, null).letsChange(other, here)).isTrue();
        assertThat(kept.letsChange(other, id -> Optional.of(person("ines", false, Role.PROCESS_OWNER))))
                .as("who has left answers for nothing")
                .isTrue();
        assertThat(kept.letsChange(other, id -> Optional.of(person("ines", true, Role.AGENT))))
                .as("and whoever may not design could mend nothing")
                .isTrue();
        assertThat(kept.letsChange(other, id -> Optional.empty())).isTrue();
    }

    @Test
    void itIsLookedAtAgainSoManyMonthsAfterItWasSaid() {
        TermsOfUse yearly = new TermsOfUse(CLOSE, World.TEO, null, null, null, null, 12, null);
        assertThat(yearly.renewBy()).isEmpty();
        assertThat(yearly.renewed(Instant.parse("2024-02-29T08:00:00Z")).renewBy())
                .contains(Instant.parse("2025-02-28T08:00:00Z"));
        for (int bad : List.of(0, -1, 101)) {
            assertThatThrownBy(() -> new TermsOfUse(CLOSE, null, null, null, null, bad, null, null))
                    .isInstanceOf(IllegalArgumentException.class);
            assertThatThrownBy(() -> new TermsOfUse(CLOSE, null, null, null, null, null, bad, null))
                    .isInstanceOf(IllegalArgumentException.class);
        }
        assertThat(Map.of(CLOSE, TermsOfUse.none(CLOSE))
                        .get(CLOSE)
                        .problemOn("x", null, Optional.empty(), s -> Optional.empty()))
                .isEmpty();
    }
}
