package dastur.core.start;

import static dastur.core.signal.Sent.BOARDS;
import static dastur.core.signal.Sent.NOW;
import static dastur.core.signal.Sent.signal;
import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.Vocabulary;
import dastur.core.run.Event.Look;
import dastur.core.signal.Mapping;
import dastur.core.signal.Matter;
import dastur.core.signal.Sent;
import dastur.core.signal.Severity;
import dastur.core.signal.Signal;
import dastur.core.signal.Sort;
import dastur.core.signal.Source;
import dastur.core.signal.SourceKey;
import dastur.core.signal.Turn;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Each clause of the order (I5), and the line that it leaves in the explanation. */
class RoutingTest {
    private static final TicketId TICKET = new TicketId("I-7");
    private static final Matter.Recovery RESTORES = new Matter.Recovery(true, 60, true);
    private static final Expressions EXPRESSIONS = new Expressions(
            Vocabulary.ofSignal(FieldCatalogue.PLAIN, List.of(Field.of("pictureAge", "pictureAge", FieldType.WHOLE))));

    private final List<Trigger.Live> triggers = new ArrayList<>();
    private Source.Otherwise otherwise = Source.Otherwise.KEPT;
    private Routing.@Nullable Stands ticket;
    private @Nullable Matter matter;
    private Source.Proof proof = Source.Proof.TOKEN;

    private void trigger(String id, Trigger.When when, @Nullable String condition, Trigger.Mode mode, ServiceId... of) {
        triggers.add(new Trigger.Live(
                new WorkflowKey(id),
                1,
                id,
                new Trigger(new TriggerId(id), true, when, List.of(of), condition, mode, null)));
    }

    private static Trigger.SignalComes fault(@Nullable Severity atLeast) {
        return new Trigger.SignalComes(null, BOARDS, Sort.FAULT, atLeast, RESTORES);
    }

    private Routed route(Sort sort, Severity severity, long seconds) {
        return route(signal("s" + seconds, BOARDS, sort, severity, seconds));
    }

    private Routed route(Signal s) {
        Routing.Facts facts = facts(s);
        Routed routed = Routing.route(s, facts);
        matter = facts.turned() == null ? matter : facts.turned().matter();
        return routed;
    }

    private Routing.Facts facts(Signal s) {
        Source source =
                new Source(BOARDS, "Board monitor", true, proof, new Mapping(List.of()), otherwise, false, null);
        Matter before = matter;
        Matter.Turned turned =
                s.matter() == null ? null : (before == null ? Matter.first(s, s.matter()) : before).after(s);
        Scope values = Scope.of(Map.of("signal", s.words(), "ci", Sent.BOARD.values()), NOW);
        return new Routing.Facts(
                source, before, turned, ticket, null, Around.NOTHING, null, triggers, EXPRESSIONS, values, NOW);
    }

    private static String told(Routed routed, String asked) {
        return routed.told().stream()
                .filter(t -> t.asked().contains(asked))
                .map(Routed.Told::answer)
                .findFirst()
                .orElse("");
    }

    @Test
    void aTriggerWhoseConditionHoldsOpensATicketAndItsRecoveryGoesWithIt() {
        trigger("frozen", fault(Severity.MINOR), "ci.kind == 'board' && signal.pictureAge >= 60", Trigger.Mode.STARTS);
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(routed.way()).isEqualTo(new Routed.Way.Opens(TicketKind.INCIDENT, List.of(), RESTORES));
        assertThat(routed.starts()).extracting(Trigger.Live::name).containsExactly("frozen");
        assertThat(routed.looks()).singleElement().satisfies(l -> {
            assertThat(l.started()).isTrue();
            assertThat(l.condition().clauses()).hasSize(2);
        });
        assertThat(told(routed, "open ticket")).isEqualTo("none is");
        assertThat(told(routed, "triggers")).isEqualTo("frozen");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "gates|fault|critical|||it listens to another source",
                "board-monitor|recovered||||it listens to recovered",
                "board-monitor|fault|critical|||it asks for critical at least, and this is major",
                "board-monitor|fault||ticket-gates||it is for other services",
                "board-monitor|fault|||signal.pictureAge > 100|its condition does not hold",
                "board-monitor|fault|||signal.link == 'x'|its condition cannot say"
            })
    void aTriggerThatDoesNotFitSaysWhy(
            String source, String sort, String atLeast, String service, String condition, String why) {
        Trigger.When when = new Trigger.SignalComes(
                null,
                new SourceKey(source),
                Sort.of(sort).orElseThrow(),
                atLeast == null ? null : Severity.of(atLeast).orElseThrow(),
                null);
        ServiceId[] of = service == null ? new ServiceId[0] : new ServiceId[] {new ServiceId(service)};
        trigger("no", when, condition, Trigger.Mode.STARTS, of);
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(routed.way()).isInstanceOf(Routed.Way.Kept.class);
        assertThat(routed.looks()).singleElement().satisfies(l -> assertThat(l.why())
                .contains(why));
    }

    /** I26: of hundreds of triggers the ones that hold are found, and the explanation stays as long as a person reads. */
    @Test
    void ofManyTriggersTheOnesThatHoldAreFoundAndFewOthersAreTold() {
        for (int i = 0; i < 300; i++) {
            trigger("of-" + i, fault(null), "signal.pictureAge == " + i, Trigger.Mode.STARTS);
        }
        for (int i = 0; i < 40; i++) {
            trigger("above-" + i, fault(null), "signal.pictureAge > 100", Trigger.Mode.STARTS);
        }
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(routed.starts()).extracting(Trigger.Live::name).containsExactly("of-60");
        assertThat(routed.looks()).hasSize(21).filteredOn(Look::started).hasSize(1);
        assertThat(routed.looks()).filteredOn(l -> !l.holds()).allSatisfy(l -> assertThat(l.name())
                .startsWith("above-"));
    }

    /** I26: whoever asks is told of each, also of those that the rest was found without, in their order and with the same answer. */
    @Test
    void whoeverAsksIsToldOfEveryTriggerInItsOrder() {
        for (int i = 0; i < 300; i++) {
            trigger("of-" + i, fault(null), "signal.pictureAge == " + i, Trigger.Mode.STARTS);
        }
        Signal s = signal("s0", BOARDS, Sort.FAULT, Severity.MAJOR, 0);
        List<Look> all = Routing.everyTrigger(s, facts(s));
        assertThat(all)
                .hasSize(300)
                .extracting(Look::name)
                .startsWith("of-0", "of-1")
                .endsWith("of-299");
        assertThat(all).filteredOn(Look::holds).extracting(Look::name).containsExactly("of-60");
        assertThat(all).filteredOn(l -> !l.holds()).allSatisfy(l -> assertThat(l.why())
                .isEqualTo("its condition does not hold"));
        assertThat(Routing.route(s, facts(s)).starts())
                .extracting(Trigger.Live::name)
                .containsExactly("of-60");
    }

    @Test
    void howManyNoneOfWhichHoldsIsToldOfAll() {
        for (int i = 0; i < 300; i++) {
            trigger("of-" + i, fault(null), "signal.pictureAge == 1000", Trigger.Mode.STARTS);
        }
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(told(routed, "triggers")).isEqualTo("none of 300 holds");
        assertThat(routed.looks()).isEmpty();
    }

    @Test
    void whatShowsNotWhoItIsHasPeopleAsked() {
        trigger("frozen", fault(Severity.MINOR), null, Trigger.Mode.STARTS);
        proof = Source.Proof.ADDRESS;
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(routed.way()).isInstanceOf(Routed.Way.Opens.class);
        assertThat(routed.starts())
                .singleElement()
                .satisfies(t -> assertThat(t.trigger().mode()).isEqualTo(Trigger.Mode.ASKS));
        assertThat(routed.looks()).singleElement().satisfies(l -> {
            assertThat(l.started()).isFalse();
            assertThat(l.why()).contains("a person is asked");
        });
    }

    @Test
    void triggersOnTicketsAreNotLookedAt() {
        trigger("created", new Trigger.Created(null), null, Trigger.Mode.STARTS);
        assertThat(route(Sort.FAULT, Severity.MAJOR, 0).looks()).isEmpty();
    }

    @Test
    void theOneThatGivesWayIsSilentAfterAnother() {
        trigger("first", fault(null), null, Trigger.Mode.STARTS);
        triggers.add(new Trigger.Live(
                new WorkflowKey("second"),
                1,
                "second",
                new Trigger(new TriggerId("second"), true, fault(null), List.of(), null, Trigger.Mode.STARTS, true)));
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(routed.starts()).extracting(Trigger.Live::name).containsExactly("first");
        assertThat(routed.looks().getLast().why()).contains("gives way");
    }

    @Test
    void oneThatOnlyNotesOpensNothing() {
        trigger("notes", fault(null), null, Trigger.Mode.NOTES);
        assertThat(route(Sort.FAULT, Severity.MAJOR, 0).way()).isInstanceOf(Routed.Way.Kept.class);
    }

    @Test
    void whatNothingTakesUpIsAsTheSourceSays() {
        assertThat(route(Sort.FAULT, Severity.MAJOR, 0).way()).isEqualTo(new Routed.Way.Kept("nothing takes it up"));
        matter = null;
        otherwise = Source.Otherwise.INCIDENT;
        Routed routed = route(Sort.FAULT, Severity.MAJOR, 0);
        assertThat(routed.way()).isEqualTo(new Routed.Way.Opens(TicketKind.INCIDENT, List.of(), Matter.Recovery.USUAL));
        assertThat(told(routed, "the source says of faults")).isEqualTo("an incident");
        assertThat(route(Sort.RECOVERED, Severity.CLEARED, 10).way()).isInstanceOf(Routed.Way.Kept.class);
    }

    @Test
    void anOpenTicketAboutTheSameIsJoinedAndTriggersStartOnIt() {
        trigger("frozen", fault(null), null, Trigger.Mode.STARTS);
        ticket = new Routing.Stands(TICKET, TicketKind.INCIDENT, "diagnosing");
        Routed routed = route(Sort.FAULT, Severity.MINOR, 0);
        assertThat(routed.way()).isEqualTo(new Routed.Way.Joins(TICKET, true));
        assertThat(routed.starts()).hasSize(1);
        assertThat(route(Sort.FAULT, Severity.CRITICAL, 10).turn()).isEqualTo(Turn.WORSE);
    }

    @Test
    void onlyTurnsAreLookedAtByTriggers() {
        trigger("frozen", fault(null), null, Trigger.Mode.STARTS);
        route(Sort.FAULT, Severity.MINOR, 0);
        ticket = new Routing.Stands(TICKET, TicketKind.INCIDENT, "logged");
        Routed again = route(Sort.FAULT, Severity.MINOR, 10);
        assertThat(again.turn()).isEqualTo(Turn.REPEATS);
        assertThat(again.looks()).isEmpty();
        assertThat(again.way()).isEqualTo(new Routed.Way.Joins(TICKET, false));
    }

    @Test
    void aRestoredTicketIsTakenUpAgainWithinTwoHoursAndFollowedByAnotherAfter() {
        otherwise = Source.Otherwise.INCIDENT;
        route(Sort.FAULT, Severity.MINOR, 0);
        route(Sort.RECOVERED, Severity.CLEARED, 60);
        ticket = new Routing.Stands(TICKET, TicketKind.INCIDENT, "restored");
        Matter clear = matter;
        assertThat(route(Sort.FAULT, Severity.MINOR, 60 + 7_200).way()).isEqualTo(new Routed.Way.Joins(TICKET, true));
        matter = clear;
        Routed later = route(Sort.FAULT, Severity.MINOR, 60 + 7_201);
        assertThat(later.way())
                .isEqualTo(new Routed.Way.Opens(TicketKind.INCIDENT, List.of(TICKET), Matter.Recovery.USUAL));
        assertThat(told(later, "open ticket")).contains("longer than 2 hours");
    }

    @Test
    void anEndedTicketIsNeverJoined() {
        otherwise = Source.Otherwise.INCIDENT;
        ticket = new Routing.Stands(TICKET, TicketKind.INCIDENT, "closed");
        assertThat(route(Sort.FAULT, Severity.MINOR, 0).way())
                .isEqualTo(new Routed.Way.Opens(TicketKind.INCIDENT, List.of(TICKET), Matter.Recovery.USUAL));
    }

    @Test
    void whatTurnsToAndFroStartsNothing() {
        trigger("frozen", fault(null), null, Trigger.Mode.STARTS);
        Routed last = null;
        for (int i = 0; i < 6; i++) {
            last = route(i % 2 == 0 ? Sort.FAULT : Sort.RECOVERED, Severity.MINOR, i * 60L);
        }
        assertThat(last.turn()).isEqualTo(Turn.UNSTEADY);
        assertThat(last.looks()).isEmpty();
        assertThat(told(last, "what it says")).contains("to and fro");
    }

    @Test
    void newsOfNoMatterGoesToTriggersOnNews() {
        trigger(
                "news",
                new Trigger.SignalComes(TicketKind.REQUEST, null, Sort.NEWS, null, null),
                null,
                Trigger.Mode.STARTS);
        Signal s = new Signal(
                "n",
                BOARDS,
                NOW,
                NOW,
                Sort.NEWS,
                null,
                null,
                null,
                null,
                null,
                null,
                "Backup done",
                null,
                null,
                Map.of());
        assertThat(route(s).way())
                .isEqualTo(new Routed.Way.Opens(TicketKind.REQUEST, List.of(), Matter.Recovery.USUAL));
    }
}
