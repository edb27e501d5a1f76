package dastur.core.signal;

import static dastur.core.signal.Sent.BOARDS;
import static dastur.core.signal.Sent.NOW;
import static dastur.core.signal.Sent.signal;
import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.signal.Matter.Turned;
import dastur.core.ticket.TicketId;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import net.jqwik.api.constraints.Size;
import org.junit.jupiter.api.Test;

/** How a matter stands after each signal about it: turns, repeats, several sources, unsteadiness (I19, I20, I23, I24). */
class MatterTest {
    private static final SourceKey GATES = new SourceKey("gates");
    private static final TicketId TICKET = new TicketId("I-7");
    private static final Matter.Recovery AFTER_A_MINUTE = new Matter.Recovery(true, 60, true);

    private Matter matter = Matter.first(signal("1", BOARDS, Sort.FAULT, Severity.MINOR, 0), "ald-07/stands still");

    private Turn after(SourceKey source, Sort sort, Severity severity, long seconds) {
        Turned turned = matter.after(signal("s" + seconds, source, sort, severity, seconds));
        matter = turned.matter();
        return turned.turn();
    }

    @Test
    void aFaultBeginsRepeatsGetsWorseAndRecovers() {
        assertThat(after(BOARDS, Sort.FAULT, Severity.MINOR, 0)).isEqualTo(Turn.BEGINS);
        assertThat(after(BOARDS, Sort.FAULT, Severity.MINOR, 10)).isEqualTo(Turn.REPEATS);
        assertThat(after(BOARDS, Sort.FAULT, Severity.WARNING, 20)).isEqualTo(Turn.REPEATS);
        assertThat(after(BOARDS, Sort.FAULT, Severity.CRITICAL, 30)).isEqualTo(Turn.WORSE);
        assertThat(matter.standing().worst()).isEqualTo(Severity.CRITICAL);
        assertThat(matter.standing().since()).isEqualTo(NOW);
        assertThat(after(BOARDS, Sort.RECOVERED, Severity.CLEARED, 40)).isEqualTo(Turn.RECOVERED);
        assertThat(matter.isClear()).isTrue();
        assertThat(matter.count()).isEqualTo(5);
    }

    @Test
    void whatIsExplainedIsLookedAtEveryMinuteAndOutlastsItTenMinutesAfterIt() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        TicketId change = new TicketId("C-3");
        Matter aside = matter.setAside(change, Aside.Because.PLANNED_WORK, NOW).judged();
        assertThat(aside.judgeAt()).isEqualTo(NOW.plusSeconds(60));
        Matter still = aside.asideLooked(true, NOW.plusSeconds(60)).judged();
        assertThat(still.judgeAt()).isEqualTo(NOW.plusSeconds(120));
        Instant seen = NOW.plusSeconds(120);
        Matter over = still.asideLooked(false, seen).judged();
        assertThat(over.judgeAt()).isEqualTo(seen.plusSeconds(600));
        assertThat(over.outlasts(seen.plusSeconds(599))).isFalse();
        Matter later = over.asideLooked(false, seen.plusSeconds(300)).judged();
        assertThat(later.judgeAt()).as("a second look moves nothing").isEqualTo(seen.plusSeconds(600));
        assertThat(later.outlasts(seen.plusSeconds(600))).isTrue();
        Matter extended = over.asideLooked(true, seen.plusSeconds(300)).judged();
        assertThat(extended.outlasts(seen.plusSeconds(600)))
                .as("its work goes on again")
                .isFalse();
    }

    @Test
    void whatHasRecoveredNeedsNoExplanationNorWhatATicketIsAbout() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        TicketId cause = new TicketId("I-3");
        matter = matter.setAside(cause, Aside.Because.CONSEQUENCE, NOW);
        assertThat(matter.on(TICKET, AFTER_A_MINUTE).aside()).isNull();
        after(BOARDS, Sort.RECOVERED, Severity.CLEARED, 10);
        assertThat(matter.aside()).as("who routes is still to tell of it there").isNotNull();
        assertThat(matter.setAside(cause, Aside.Because.CONSEQUENCE, NOW).aside())
                .isNull();
        assertThat(matter.outlasts(NOW.plusSeconds(9_999))).isFalse();
    }

    @Test
    void ofATicketThatHasEndedThereIsNothingToTell() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        matter = matter.on(TICKET, AFTER_A_MINUTE).ended(NOW.plusSeconds(30)).judged();
        assertThat(matter.judgeAt()).isNull();
    }

    @Test
    void itIsClearOnlyWhenEverySourceThatReportedItSaysSo() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        after(GATES, Sort.FAULT, Severity.MINOR, 5);
        assertThat(after(BOARDS, Sort.RECOVERED, null, 10)).isEqualTo(Turn.STILL);
        assertThat(matter.isClear()).isFalse();
        assertThat(after(GATES, Sort.RECOVERED, null, 20)).isEqualTo(Turn.RECOVERED);
    }

    @Test
    void aRecoveryWithoutAFaultAndOneOfAnEarlierTimeTurnNothing() {
        assertThat(after(BOARDS, Sort.RECOVERED, null, 0)).isEqualTo(Turn.NOTHING);
        after(BOARDS, Sort.FAULT, Severity.MINOR, 60);
        assertThat(after(BOARDS, Sort.RECOVERED, null, 30)).isEqualTo(Turn.OUT_OF_ORDER);
        assertThat(matter.isClear()).isFalse();
    }

    @Test
    void aFaultOfBeforeTheRecoveryThatComesAfterItDoesNotBeginAnew() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        after(BOARDS, Sort.RECOVERED, null, 60);
        assertThat(after(BOARDS, Sort.FAULT, Severity.MINOR, 59)).isEqualTo(Turn.OUT_OF_ORDER);
        assertThat(after(BOARDS, Sort.FAULT, Severity.MINOR, 61)).isEqualTo(Turn.BEGINS);
    }

    @Test
    void sixTurnsInAQuarterOfAnHourMakeItUnsteadyUntilItWasCalmForHalfAnHour() {
        for (int i = 0; i < 5; i++) {
            Turn turn = after(BOARDS, i % 2 == 0 ? Sort.FAULT : Sort.RECOVERED, Severity.MINOR, i * 60L);
            assertThat(turn).isIn(Turn.BEGINS, Turn.RECOVERED);
        }
        assertThat(after(BOARDS, Sort.RECOVERED, null, 300)).isEqualTo(Turn.UNSTEADY);
        assertThat(matter.turns().unsteadyUntil()).isEqualTo(NOW.plus(Duration.ofMinutes(35)));
        assertThat(after(BOARDS, Sort.FAULT, Severity.CRITICAL, 1_200)).isEqualTo(Turn.UNSTEADY);
        assertThat(matter.isUnsteady(NOW.plusSeconds(1_200 + 1_799))).isTrue();
        assertThat(matter.isUnsteady(NOW.plusSeconds(1_200 + 1_800))).isFalse();
    }

    @Test
    void fiveTurnsOrSixOverALongerTimeAreSteady() {
        for (int i = 0; i < 20; i++) {
            assertThat(after(BOARDS, i % 2 == 0 ? Sort.FAULT : Sort.RECOVERED, Severity.MINOR, i * 181L))
                    .isNotEqualTo(Turn.UNSTEADY);
        }
        assertThat(matter.turns().times()).hasSize(16);
    }

    @Test
    void repeatsAreEnteredAtOnceAndThenEverMoreSeldom() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        matter = matter.on(TICKET, AFTER_A_MINUTE);
        List<Long> pauses = new ArrayList<>();
        for (int i = 0; i < 6; i++) {
            matter = matter.waitsToBeEntered(matter.lastAt());
            assertThat(matter.notEntered().count()).isEqualTo(1);
            var due = matter.enterAt().orElseThrow();
            pauses.add(Duration.between(matter.notEntered().lastEntered(), due).toSeconds());
            matter = matter.entered(due);
            assertThat(matter.enterAt()).isEmpty();
        }
        assertThat(pauses).containsExactly(0L, 1L, 10L, 60L, 600L, 600L);
    }

    @Test
    void theTicketIsToldOfARecoveryOnceAndOnlyWhenItHasStayedClear() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        matter = matter.on(TICKET, AFTER_A_MINUTE).judged();
        assertThat(matter.recoveredAt()).isEmpty();
        after(BOARDS, Sort.RECOVERED, null, 100);
        matter = matter.judged();
        assertThat(matter.judgeAt()).isEqualTo(NOW.plusSeconds(160));
        after(BOARDS, Sort.FAULT, Severity.MINOR, 120);
        matter = matter.judged();
        assertThat(matter.judgeAt()).isNull();
        after(BOARDS, Sort.RECOVERED, null, 130);
        assertThat(matter.recoveredAt()).contains(NOW.plusSeconds(190));
        matter = matter.recoveryTold().judged();
        assertThat(matter.judgeAt()).isNull();
        after(BOARDS, Sort.RECOVERED, null, 400);
        assertThat(matter.recoveredAt()).isEmpty();
    }

    @Test
    void whatEndedWithItsTicketBeginsAnewAndNotBySomethingFromBefore() {
        after(BOARDS, Sort.FAULT, Severity.MINOR, 0);
        matter = matter.on(TICKET, AFTER_A_MINUTE).ended(NOW.plusSeconds(50));
        assertThat(matter.isClear()).isTrue();
        assertThat(matter.ticket()).isEqualTo(TICKET);
        assertThat(after(BOARDS, Sort.FAULT, Severity.MINOR, 40)).isEqualTo(Turn.OUT_OF_ORDER);
        assertThat(after(BOARDS, Sort.FAULT, Severity.MINOR, 60)).isEqualTo(Turn.BEGINS);
    }

    /** Whatever comes in whatever order: it is counted, kept whole as JSON, and clear exactly when no source reports it. */
    @Property(tries = 300)
    void itAlwaysStandsAsTheSourcesLastSaid(@ForAll @Size(max = 40) List<@IntRange(min = 0, max = 7) Integer> said) {
        Matter m = Matter.first(signal("1", BOARDS, Sort.FAULT, Severity.MINOR, 0), "m");
        boolean boards = false;
        boolean gates = false;
        for (int i = 0; i < said.size(); i++) {
            boolean fault = said.get(i) % 2 == 0;
            boolean ofBoards = said.get(i) < 4;
            Severity severity = said.get(i) % 4 < 2 ? Severity.MAJOR : Severity.MINOR;
            m = m.after(signal(
                            "s", ofBoards ? BOARDS : GATES, fault ? Sort.FAULT : Sort.RECOVERED, severity, i * 7L + 1))
                    .matter();
            boards = ofBoards ? fault : boards;
            gates = ofBoards ? gates : fault;
            assertThat(m.standing().inFault().contains(BOARDS)).isEqualTo(boards);
            assertThat(m.standing().inFault().contains(GATES)).isEqualTo(gates);
        }
        assertThat(m.count()).isEqualTo(said.size());
        assertThat(Json.read(Json.write(m), Matter.class)).isEqualTo(m);
    }
}
