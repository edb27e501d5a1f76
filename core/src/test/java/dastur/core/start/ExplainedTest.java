package dastur.core.start;

import static dastur.core.signal.Sent.BOARDS;
import static dastur.core.signal.Sent.NOW;
import static dastur.core.signal.Sent.signal;
import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Vocabulary;
import dastur.core.signal.Aside;
import dastur.core.signal.Mapping;
import dastur.core.signal.Matter;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Sort;
import dastur.core.signal.Source;
import dastur.core.start.Around.PlannedWork;
import dastur.core.start.Around.Upstream;
import dastur.core.ticket.CiId;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.Collection;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.function.Function;
import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What planned work and another fault explain, and what they do not (I21, I22). */
class ExplainedTest {
    private static final TicketId CHANGE = new TicketId("C-3");
    private static final TicketId CAUSE = new TicketId("I-3");
    private static final CiId GATEWAY = new CiId("ald-gw1");
    private static final Routed.Way PLANNED = new Routed.Way.Noted(CHANGE, Aside.Because.PLANNED_WORK);
    private static final Routed.Way FOLLOWS = new Routed.Way.Noted(CAUSE, Aside.Because.CONSEQUENCE);

    private Around around = Around.NOTHING;
    private boolean neverQuiet;
    private @Nullable Matter matter;
    private Routing.@Nullable Stands under;
    private @Nullable String again;

    private static Around planned(String state, @Nullable Instant from, @Nullable Instant until) {
        return new Around(List.of(new PlannedWork(CHANGE, state, from, until)), List.of());
    }

    private static Around upstream(Severity worst) {
        return new Around(List.of(), List.of(new Upstream(CAUSE, GATEWAY, "Gateway", worst, NOW, 1)));
    }

    private Routed route(Sort sort, Severity severity, long seconds) {
        Signal s = signal("s" + seconds, BOARDS, sort, severity, seconds);
        Matter before = matter == null ? Matter.first(s, "ald-07/stands still") : matter;
        Routed routed = routed(s, before, before.after(s));
        Matter after = before.after(s).matter();
        matter = routed.way() instanceof Routed.Way.Noted noted
                ? after.setAside(noted.under(), noted.because(), NOW)
                : after.onItsOwn();
        return routed;
    }

    private Routed routed(Signal s, Matter before, Matter.Turned turned) {
        Source source = new Source(
                BOARDS,
                "Board monitor",
                true,
                Source.Proof.TOKEN,
                new Mapping(List.of()),
                Source.Otherwise.INCIDENT,
                neverQuiet,
                null);
        Trigger.Live trigger = new Trigger.Live(
                new WorkflowKey("frozen"),
                1,
                "frozen",
                new Trigger(
                        new TriggerId("frozen"),
                        true,
                        new Trigger.SignalComes(null, BOARDS, Sort.FAULT, null, null),
                        List.of(),
                        null,
                        Trigger.Mode.STARTS,
                        null));
        Routing.Facts facts = new Routing.Facts(
                source,
                before,
                turned,
                null,
                under,
                around,
                again,
                List.of(trigger),
                new Expressions(Vocabulary.ofSignal(FieldCatalogue.PLAIN, List.of())),
                Scope.of(Map.of("signal", s.words()), NOW),
                NOW);
        return Routing.route(s, facts);
    }

    private static boolean opens(Routed routed) {
        return routed.way() instanceof Routed.Way.Opens;
    }

    @ParameterizedTest
    @CsvSource({
        "implementing, , , true",
        "implementing, 600, 900, true",
        "scheduled, -60, 60, true",
        "scheduled, 0, 60, true",
        "scheduled, -60, 0, false",
        "scheduled, 1, 60, false",
        "scheduled, -60, , false",
        "scheduled, , 60, false",
        "authorised, -60, 60, false",
        "reviewing, -60, 60, false"
    })
    void aChangeExplainsFaultsWhileItIsWorkedOnOrItsWindowIsOpen(
            String state, @Nullable Long from, @Nullable Long until, boolean explains) {
        around = planned(
                state, from == null ? null : NOW.plusSeconds(from), until == null ? null : NOW.plusSeconds(until));
        Routed routed = route(Sort.FAULT, Severity.CRITICAL, 0);
        assertThat(routed.way().equals(PLANNED)).isEqualTo(explains);
        assertThat(opens(routed)).isEqualTo(!explains);
        assertThat(routed.starts().isEmpty()).isEqualTo(explains);
        assertThat(routed.looks().isEmpty()).isEqualTo(explains);
    }

    @Test
    void aSourceThatIsNeverQuietIsToldAllTheSame() {
        around = planned("implementing", null, null);
        neverQuiet = true;
        Routed routed = route(Sort.FAULT, Severity.CRITICAL, 0);
        assertThat(opens(routed)).isTrue();
        assertThat(routed.told())
                .anySatisfy(t -> assertThat(t.answer()).contains("C-3").contains("all the same"));
    }

    @Test
    void whatStoodBeforeTheWorkIsNotExplainedByItWhenItGetsWorse() {
        route(Sort.FAULT, Severity.MINOR, 0);
        around = planned("implementing", null, null);
        Routed worse = route(Sort.FAULT, Severity.CRITICAL, 10);
        assertThat(opens(worse)).isTrue();
    }

    @Test
    void whatBeganInTheWorkIsExplainedWhenItGetsWorseAndToldThereWhenItIsOver() {
        around = planned("implementing", null, null);
        route(Sort.FAULT, Severity.MINOR, 0);
        under = new Routing.Stands(CHANGE, TicketKind.CHANGE, "implementing");
        assertThat(route(Sort.FAULT, Severity.CRITICAL, 10).way()).isEqualTo(PLANNED);
        assertThat(route(Sort.FAULT, Severity.CRITICAL, 15).way()).isEqualTo(PLANNED);
        assertThat(route(Sort.RECOVERED, Severity.CLEARED, 20).way()).isEqualTo(PLANNED);
        assertThat(matter.aside()).isNull();
    }

    @Test
    void aChangeThatHasEndedIsToldOfNoRecovery() {
        around = planned("implementing", null, null);
        route(Sort.FAULT, Severity.MINOR, 0);
        under = new Routing.Stands(CHANGE, TicketKind.CHANGE, "closed");
        assertThat(route(Sort.RECOVERED, Severity.CLEARED, 20).way()).isInstanceOf(Routed.Way.Kept.class);
    }

    @ParameterizedTest
    @CsvSource({
        "major, major, true",
        "critical, minor, true",
        "critical, critical, true",
        "major, critical, false",
        "minor, minor, false",
        "indeterminate, warning, false"
    })
    void aFaultFollowsFromOneThatIsBadEnoughAndNoLessBad(String cause, String own, boolean follows) {
        around = upstream(Severity.of(cause).orElseThrow());
        Routed routed = route(Sort.FAULT, Severity.of(own).orElseThrow(), 0);
        assertThat(routed.way().equals(FOLLOWS)).isEqualTo(follows);
        assertThat(opens(routed)).isEqualTo(!follows);
    }

    @Test
    void whatIsWorseThanItsCauseHasATicketOfItsOwnThatIsLinked() {
        around = upstream(Severity.MAJOR);
        assertThat(route(Sort.FAULT, Severity.CRITICAL, 0).way())
                .isEqualTo(new Routed.Way.Opens(TicketKind.INCIDENT, List.of(CAUSE), Matter.Recovery.USUAL));
    }

    @Test
    void theNearestCauseCountsAndOfThoseTheOldest() {
        TicketId old = new TicketId("I-9");
        around = new Around(
                List.of(),
                List.of(
                        new Upstream(new TicketId("I-1"), GATEWAY, "Far", Severity.CRITICAL, NOW.minusSeconds(99), 2),
                        new Upstream(CAUSE, GATEWAY, "New", Severity.MAJOR, NOW, 1),
                        new Upstream(old, GATEWAY, "Old", Severity.MAJOR, NOW.minusSeconds(9), 1)));
        assertThat(route(Sort.FAULT, Severity.MINOR, 0).way())
                .isEqualTo(new Routed.Way.Noted(old, Aside.Because.CONSEQUENCE));
    }

    @Test
    void whatOutlastsItsExplanationIsJudgedByItselfAndNoOtherWorkExplainsIt() {
        around = planned("implementing", null, null);
        route(Sort.FAULT, Severity.MAJOR, 0);
        Matter before = matter;
        again = "it is still in fault";
        Routed routed = routed(
                signal("s0", BOARDS, Sort.FAULT, Severity.MAJOR, 0),
                before,
                new Matter.Turned(dastur.core.signal.Turn.BEGINS, before.onItsOwn()));
        assertThat(opens(routed)).isTrue();
        assertThat(routed.starts()).hasSize(1);
        assertThat(routed.told().getFirst().answer()).isEqualTo(again);
    }

    // --- what depends on what

    private static Dependence.Relation relation(String text) {
        String[] parts = text.split("[>]");
        return new Dependence.Relation(new CiId(parts[0]), parts[1], new CiId(parts[2]));
    }

    private static Map<String, Integer> of(String ci, String... all) {
        return words(Dependence.of(new CiId(ci), among(all)));
    }

    private static Map<String, Integer> on(String ci, String... all) {
        return words(Dependence.on(new CiId(ci), among(all)));
    }

    private static Function<Collection<CiId>, List<Dependence.Relation>> among(String... all) {
        List<Dependence.Relation> relations =
                List.of(all).stream().map(ExplainedTest::relation).toList();
        return asked -> relations.stream()
                .filter(r -> asked.contains(r.from()) || asked.contains(r.to()))
                .toList();
    }

    private static Map<String, Integer> words(Map<CiId, Integer> away) {
        return away.entrySet().stream().collect(Collectors.toMap(e -> e.getKey().value(), Map.Entry::getValue));
    }

    /** What depends on something is what that is a cause of: each way is the other one, read from its end. */
    @Test
    void whatDependsOnItIsFoundTheOtherWay() {
        String[] all = {
            "board>runs on>gateway",
            "gate>runs on>gateway",
            "power>feeds>gateway",
            "shop>runs on one of>gateway",
            "lamp>stands beside>gate",
            "gateway>runs on>power"
        };
        assertThat(on("power", all)).isEqualTo(Map.of("gateway", 1, "board", 2, "gate", 2));
        assertThat(on("board", all)).isEmpty();
        List<String> cis = List.of("board", "gate", "gateway", "power", "shop", "lamp");
        for (String a : cis) {
            for (String b : cis) {
                assertThat(on(a, all).get(b))
                        .as(b + " on " + a)
                        .isEqualTo(of(b, all).get(a));
            }
        }
    }

    @Test
    void dependenceGoesTowardsTheCauseOnlyAndByWhatCarriesFaults() {
        assertThat(of("board", "board>runs on>gateway", "power>feeds>gateway"))
                .isEqualTo(Map.of("gateway", 1, "power", 2));
        assertThat(of("gateway", "board>runs on>gateway", "gateway>feeds>lamp")).isEmpty();
        assertThat(of("shop", "shop>runs on one of>web-1", "shop>stands beside>gate"))
                .isEmpty();
    }

    @Test
    void dependenceEndsWhereItTurnsInACircleFourAwayOrAtTwoThousand() {
        assertThat(of("a", "a>runs on>b", "b>runs on>a")).isEqualTo(Map.of("b", 1));
        assertThat(of("a", "a>runs on>b", "b>runs on>c", "c>runs on>d", "d>runs on>e", "e>runs on>f"))
                .isEqualTo(Map.of("b", 1, "c", 2, "d", 3, "e", 4));
        List<Dependence.Relation> many = IntStream.range(0, 3_000)
                .mapToObj(i -> relation("a>runs on>x" + i))
                .toList();
        assertThat(Dependence.of(new CiId("a"), asked -> many)).hasSize(2_000);
        assertThat(Dependence.of(new CiId("a"), asked -> {
                    assertThat(asked).isEqualTo(Set.of(new CiId("a")));
                    return List.of();
                }))
                .isEmpty();
    }
}
