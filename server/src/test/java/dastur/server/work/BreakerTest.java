package dastur.server.work;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.server.work.Breaker.How;
import dastur.store.ByHand;
import java.time.Duration;
import java.time.Instant;
import java.util.Map;
import java.util.concurrent.atomic.AtomicReference;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** When calls over a connection wait, and when they go out again (M6). */
class BreakerTest {
    private static final Instant T0 = Instant.parse("2026-03-02T10:00:00Z");
    private static final CallOutcome NOBODY = new CallOutcome.Failed("No connection to Lanes.", true);
    private static final CallOutcome NO = new CallOutcome.Failed("It answered 409.");
    private static final CallOutcome LOST = new CallOutcome.Unknown("The line broke.");

    private Instant now = T0;
    private final AtomicReference<Map<String, ByHand>> said = new AtomicReference<>(Map.of());
    private final Breakers breakers = new Breakers(said::get, () -> now);

    private static Breaker after(String calls, Duration apart) {
        Breaker breaker = Breaker.CLOSED;
        Instant at = T0;
        for (char c : calls.toCharArray()) {
            breaker = breaker.heard(
                    switch (c) {
                        case 'x' -> How.UNREACHED;
                        case '?' -> How.NO_ANSWER;
                        default -> How.ANSWERED;
                    },
                    at);
            at = at.plus(apart);
        }
        return breaker;
    }

    @ParameterizedTest
    @CsvSource({
        "xxxx,1,false",
        "xxxxx,1,true",
        "xxxxx,600,true",
        "xxxx.xxxx,1,false",
        "xxxx?x,1,false",
        // Half of twenty within a minute, and one less.
        "?.?.?.?.?.?.?.?.?.?.,1,true",
        "?.?.?.?.?.?.?.?.?...,1,false",
        // As many, but over five minutes; and only nineteen.
        "?.?.?.?.?.?.?.?.?.?.,15,false",
        "???????????????????,1,false",
        "????????????????????,1,true",
        "....................,1,false",
    })
    void fiveInARowThatReachNobodyOrHalfOfTwentyInAMinute(String calls, int secondsApart, boolean open) {
        assertThat(after(calls, Duration.ofSeconds(secondsApart)).isClosed()).isNotEqualTo(open);
    }

    @Test
    void itWaitsTwiceAsLongEachTimeAndNeverLongerThanTenMinutes() {
        Breaker breaker = after("xxxxx", Duration.ofSeconds(1));
        long[] seconds = {30, 60, 120, 240, 480, 600, 600};
        for (long wait : seconds) {
            Breaker.Open open = breaker.open();
            assertThat(open).isNotNull();
            assertThat(open.span()).isEqualTo(Duration.ofSeconds(wait));
            assertThat(breaker.mayProbe(open.until().minusMillis(1))).isFalse();
            assertThat(breaker.mayProbe(open.until())).isTrue();
            breaker = breaker.begun();
            assertThat(breaker.mayProbe(open.until())).as("one probe at a time").isFalse();
            breaker = breaker.heard(How.UNREACHED, open.until());
        }
        assertThat(breaker.heard(How.ANSWERED, T0)).isEqualTo(Breaker.CLOSED);
    }

    @Test
    void whatWasBegunBeforeItOpenedDoesNotMakeItWaitLonger() {
        Breaker breaker = after("xxxxx", Duration.ofSeconds(1));
        assertThat(breaker.heard(How.UNREACHED, T0.plusSeconds(9))).isEqualTo(breaker);
    }

    @Test
    void aProbeThatWasGivenUpLeavesThePlaceToAnother() {
        Breaker breaker = after("xxxxx", Duration.ofSeconds(1)).begun().givenUp();
        assertThat(breaker.mayProbe(T0.plusSeconds(60))).isTrue();
    }

    private void heard(CallOutcome outcome, int times) {
        for (int i = 0; i < times; i++) {
            breakers.begun("lanes");
            breakers.heard("lanes", outcome);
        }
    }

    /** A no is an answer; a fault of our own says nothing of the other side. */
    @Test
    void onlyWhatReachesNobodyHoldsTheOthersBack() {
        heard(NO, 40);
        heard(new CallOutcome.Fault("The secret is not set.", false), 40);
        assertThat(breakers.held()).isEmpty();
        heard(NOBODY, 5);
        assertThat(breakers.held()).containsOnlyKeys("lanes");
        assertThat(breakers.waiting()).containsExactly("lanes");
        assertThat(breakers.toProbe()).isEmpty();
        now = now.plusSeconds(30);
        assertThat(breakers.toProbe()).containsExactly("lanes");
        assertThat(breakers.waiting()).as("all but the probe wait").containsExactly("lanes");
        breakers.begun("lanes");
        assertThat(breakers.toProbe()).isEmpty();
        breakers.heard("lanes", LOST);
        assertThat(breakers.toProbe()).isEmpty();
        now = now.plusSeconds(60);
        breakers.begun("lanes");
        breakers.heard("lanes", NO);
        assertThat(breakers.held()).isEmpty();
    }

    private void says(boolean held) {
        said.set(Map.of("lanes", new ByHand(held, new PersonId("halvard"), now, "They move house.")));
        breakers.readAnew();
    }

    @Test
    void whatAPersonHoldsBackGoesOutWhenAPersonSaysSoAndNotBefore() {
        says(true);
        assertThat(breakers.waiting()).containsExactly("lanes");
        now = now.plus(Duration.ofDays(1));
        heard(new CallOutcome.Done("ok", Map.of(), null, null, "", 3, 0), 1);
        assertThat(breakers.waiting()).containsExactly("lanes");
        assertThat(breakers.toProbe()).isEmpty();
        assertThat(breakers.held().get("lanes").byHand().why()).isEqualTo("They move house.");
        says(false);
        assertThat(breakers.waiting()).isEmpty();
    }

    @Test
    void aPersonLetsOutWhatTheBreakerHeldBackAndItMayOpenAnew() {
        heard(NOBODY, 5);
        now = now.plusSeconds(1);
        says(false);
        assertThat(breakers.waiting()).isEmpty();
        now = now.plusSeconds(1);
        heard(NOBODY, 5);
        assertThat(breakers.waiting()).containsExactly("lanes");
    }
}
