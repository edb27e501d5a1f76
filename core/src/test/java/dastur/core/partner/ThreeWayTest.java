package dastur.core.partner;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.partner.Shared.Leads;
import dastur.core.partner.Shared.Word;
import dastur.core.partner.ThreeWay.Memory;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import java.time.Duration;
import java.time.Instant;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Random;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What follows where either side has changed a field, or both (I16). */
class ThreeWayTest {
    private static final List<Word> GRADES = List.of(
            new Word("A", "1"), new Word("B", "2"), new Word("C", "3"), new Word("C-", "3"), new Word("B", "4"));

    private static final Instant LONG_AGO = Instant.parse("2026-03-02T10:00:00Z");
    private static final Instant NOW = Instant.parse("2026-03-02T12:00:00Z");

    private Instant now = NOW;
    private ThreeWay.Later later = ThreeWay.Later.UNKNOWN;
    private final ThreeWay threeWay = new ThreeWay(FieldCatalogue.PLAIN);

    private static Partner partner(Leads leads, String as, List<Word> words) {
        return new Partner(
                new PartnerKey("supplier"),
                "Supplier",
                true,
                Span.parse("15 s"),
                new ActionKey("list"),
                null,
                new ActionKey("change"),
                null,
                null,
                new Places("/no", "/head", null, null, null, null, "/changed", null, null, null, null, null),
                null,
                List.of(new Shared("impact", "/grade", as, words, leads)),
                List.of());
    }

    private static Theirs theirs(Partner partner, String grade) {
        try {
            return Theirs.read(
                    partner,
                    Json.tree(
                            grade == null
                                    ? Map.of("no", "F-1", "head", "Worn")
                                    : Map.of("no", "F-1", "head", "Worn", "grade", grade)));
        } catch (Theirs.Unreadable e) {
            throw new AssertionError(e);
        }
    }

    private static Map<String, String> map(String value) {
        return value == null ? Map.of() : Map.of("impact", value);
    }

    private String judged(Partner partner, Memory memory, String ours, String grade) {
        Verdict verdict = threeWay.judge(partner, memory, map(ours), theirs(partner, grade), NOW, later)
                .getFirst();
        return switch (verdict) {
            case Verdict.Rests v -> "rests";
            case Verdict.Agrees v -> "agrees " + v.value();
            case Verdict.Takes v -> "takes " + v.value();
            case Verdict.Sends v -> "sends " + v.word();
            case Verdict.Asks v -> "asks";
        };
    }

    @ParameterizedTest(name = "{0}: agreed {1}, sent {2}, ours {3}, theirs {4}")
    @CsvSource(textBlock = """
                    # leads,  base, sent, ours, theirs, verdict
                    PERSON,   2,    ,     2,    B,      rests
                    PERSON,   ,     ,     2,    B,      agrees 2
                    PERSON,   3,    ,     2,    B,      agrees 2
                    PERSON,   2,    ,     2,    C,      takes 3
                    PERSON,   2,    ,     2,    C-,     takes 3
                    PERSON,   2,    ,     1,    B,      sends A
                    PERSON,   2,    1,    1,    B,      asks
                    THEM,     2,    1,    1,    B,      takes 2
                    US,       2,    1,    1,    B,      sends A
                    PERSON,   2,    1,    1,    A,      agrees 1
                    PERSON,   2,    1,    1,    C,      asks
                    PERSON,   2,    ,     1,    C,      asks
                    PERSON,   ,     ,     2,    C,      asks
                    THEM,     ,     ,     2,    C,      takes 3
                    THEM,     2,    ,     1,    C,      takes 3
                    US,       2,    ,     1,    C,      sends A
                    US,       2,    ,     2,    C,      takes 3
                    US,       2,    ,     ,     C,      takes 3
                    PERSON,   2,    ,     ,     B,      rests
                    PERSON,   2,    ,     2,    ,       rests
                    PERSON,   2,    ,     1,    ,       sends A
                    PERSON,   2,    ,     2,    melted, asks
                    THEM,     2,    ,     2,    melted, asks
                    PERSON,   3,    ,     4,    B,      agrees 4
                    PERSON,   4,    ,     1,    B,      sends A
                    THEM,     4,    ,     1,    B,      sends A
                    THEM,     4,    ,     4,    A,      takes 1
                    """)
    void whoeverAloneHasChangedItIsFollowed(
            Leads leads, String base, String sent, String ours, String grade, String verdict) {
        // Sent long ago: theirs has come anew since.
        Memory memory = sent == null
                ? new Memory(map(base), Map.of(), Map.of(), Map.of(), Map.of())
                : new Memory(
                        map(base),
                        Map.of("impact", new ThreeWay.Sent(sent, "before", LONG_AGO)),
                        Map.of(),
                        Map.of(),
                        Map.of());
        assertThat(judged(partner(leads, "grade", GRADES), memory, ours, grade)).isEqualTo(verdict);
    }

    @ParameterizedTest
    @CsvSource(textBlock = """
            true,  takes 1
            false, sends B
                 , asks
            """)
    void ofBothWhoeverWasLaterCounts(Boolean theirs, String verdict) {
        later = field -> field.equals("impact") ? Optional.ofNullable(theirs) : Optional.empty();
        Partner partner = partner(Leads.LATER, "grade", GRADES);

        assertThat(judged(partner, Memory.NONE.agreed("impact", "3"), "2", "A")).isEqualTo(verdict);
        // Where one alone has changed it, it is not asked who was later.
        assertThat(judged(partner, Memory.NONE.agreed("impact", "2"), "2", "A")).isEqualTo("takes 1");
        assertThat(judged(partner, Memory.NONE.agreed("impact", "1"), "2", "A")).isEqualTo("sends B");
    }

    /** Ours that they do not keep is not sent to them for ever. */
    @ParameterizedTest
    @CsvSource(textBlock = """
            true,  takes 1
            false, asks
                 , asks
            """)
    void oursThatTheyDidNotKeepIsNotSentAgain(Boolean theirs, String verdict) {
        later = field -> Optional.ofNullable(theirs);
        Memory memory = Memory.NONE.agreed("impact", "1").sent("impact", "2", "before", LONG_AGO);

        assertThat(judged(partner(Leads.LATER, "grade", GRADES), memory, "2", "A"))
                .isEqualTo(verdict);
    }

    @ParameterizedTest
    @CsvSource(textBlock = """
            10, 0,  true
            0,  10, false
            5,  0,
            0,  5,
            6,  0,  true
              , 0,
            0,  ,
            """)
    void whatIsTooCloseOrNotKnownIsNotLater(Integer theirs, Integer ours, Boolean later) {
        assertThat(ThreeWay.later(
                        theirs == null ? null : NOW.plusSeconds(theirs), ours == null ? null : NOW.plusSeconds(ours)))
                .isEqualTo(Optional.ofNullable(later));
    }

    private static Theirs changed(Partner partner, String grade, String at) {
        try {
            return Theirs.read(partner, Json.tree(Map.of("no", "F-1", "head", "Worn", "grade", grade, "changed", at)));
        } catch (Theirs.Unreadable e) {
            throw new AssertionError(e);
        }
    }

    private static Instant heardAt(Memory memory) {
        return memory.heard().get("impact").at();
    }

    /** Their ticket has one time for all that stands in it: what was said before does not become later by something else. */
    @Test
    void aWordCameWhenItWasFirstHeardByOurClock() {
        Partner partner = partner(Leads.LATER, "grade", GRADES);
        Instant said = NOW.minusSeconds(60);
        Duration ahead = Duration.ofHours(1);
        Theirs theirs = changed(partner, "A", said.plus(ahead).toString());

        Memory first = Memory.NONE.heard(partner, theirs, ahead, NOW);
        assertThat(heardAt(first)).isEqualTo(said);
        Memory second =
                first.heard(partner, changed(partner, "A", NOW.plus(ahead).toString()), ahead, NOW);
        assertThat(heardAt(second)).isEqualTo(said);
        Memory other =
                second.heard(partner, changed(partner, "B", NOW.plus(ahead).toString()), ahead, NOW);
        assertThat(heardAt(other)).isEqualTo(NOW);
        assertThat(other.agreed("impact", "2").heard()).isEqualTo(other.heard());
    }

    @Test
    void aTimeThatCannotBeIsNotBelieved() {
        Partner partner = partner(Leads.LATER, "grade", GRADES);
        Theirs theirs = changed(partner, "A", NOW.toString());

        assertThat(heardAt(Memory.NONE.heard(partner, theirs, null, NOW))).isNull();
        assertThat(heardAt(Memory.NONE.heard(partner, theirs, Duration.ofSeconds(-6), NOW)))
                .isNull();
        assertThat(heardAt(Memory.NONE.heard(partner, theirs, Duration.ofSeconds(-5), NOW)))
                .isEqualTo(NOW.plusSeconds(5));
        assertThat(heardAt(Memory.NONE.heard(partner, changed(partner, "A", "yesterday"), Duration.ZERO, NOW)))
                .isNull();
        Partner led = partner(Leads.THEM, "grade", GRADES);
        assertThat(Memory.NONE.heard(led, theirs, Duration.ZERO, NOW).heard()).isEmpty();
    }

    @Test
    void whatWasSentMayTakeAWhileToShow() {
        Partner partner = partner(Leads.THEM, "grade", GRADES);
        Memory agreed = Memory.NONE.agreed("impact", "2");
        String version = theirs(partner, "B").version();
        assertThat(judged(partner, agreed.sent("impact", "1", version, NOW.minusSeconds(119)), "1", "B"))
                .isEqualTo("rests");
        assertThat(judged(partner, agreed.sent("impact", "1", version, NOW.minusSeconds(120)), "1", "B"))
                .isEqualTo("takes 2");
    }

    @Test
    void whatIsOnlyReadIsNeverSent() {
        Partner reads = partner(Leads.US, null, GRADES);
        assertThat(judged(reads, new Memory(map("2"), Map.of(), Map.of(), Map.of(), Map.of()), "1", "B"))
                .isEqualTo("rests");
    }

    @Test
    void whatAPersonHoldsToIsSentUntilTheyShowItAndTheirNoIsAskedOnce() {
        Partner partner = partner(Leads.PERSON, "grade", GRADES);
        Memory memory = Memory.NONE.agreed("impact", "1").insisted("impact", "C");
        assertThat(judged(partner, memory, "2", "C")).isEqualTo("sends B");
        assertThat(judged(
                        partner, memory.sent("impact", "2", theirs(partner, "C").version(), NOW), "2", "C"))
                .isEqualTo("rests");
        Verdict asks = threeWay.judge(
                        partner,
                        memory.refused("impact", "2", "we hold to C"),
                        map("2"),
                        theirs(partner, "C"),
                        NOW,
                        later)
                .getFirst();
        assertThat(asks).isInstanceOfSatisfying(Verdict.Asks.class, a -> assertThat(a.why())
                .contains("we hold to C"));
        // Held to anew, it is sent anew; and another word of theirs is another matter.
        assertThat(judged(partner, memory.refused("impact", "2", "no").insisted("impact", "C"), "2", "C"))
                .isEqualTo("sends B");
        assertThat(judged(partner, memory, "2", "A")).isEqualTo("sends B");
        assertThat(judged(partner, Memory.NONE.agreed("impact", "4").insisted("impact", "C"), "2", "A"))
                .isEqualTo("asks");
        assertThat(judged(partner, memory.agreed("impact", "2"), "2", "C")).isEqualTo("takes 3");
    }

    @Test
    void aValueThatOursCannotHaveIsAsked() {
        Partner plain = partner(Leads.THEM, "grade", List.of());
        assertThat(judged(plain, Memory.NONE, "2", "very bad")).isEqualTo("asks");
        assertThat(judged(plain, Memory.NONE.agreed("impact", "2"), "2", "3")).isEqualTo("takes 3");
        Partner few = partner(Leads.PERSON, "grade", List.of(new Word("A", "1")));
        assertThat(judged(few, Memory.NONE.agreed("impact", "1"), "2", "A")).isEqualTo("asks");
    }

    /** Both sides change as they like; in between it is compared. No value comes up that neither has set, and in quiet they meet. */
    @Property(tries = 500)
    void inQuietBothSidesSayTheSameOrAPersonIsAsked(@ForAll long seed, @ForAll Leads leads) {
        Random random = new Random(seed);
        Partner partner = partner(leads, "grade", List.of(new Word("A", "1"), new Word("B", "2"), new Word("C", "3")));
        String[] ours = {"2"};
        String[] grade = {"B"};
        Memory[] memory = {Memory.NONE};
        Map<String, String> set = new HashMap<>(Map.of("2", "", "B", ""));
        for (int i = 0; i < 12; i++) {
            if (random.nextInt(3) == 0) {
                ours[0] = String.valueOf(1 + random.nextInt(3));
                set.put(ours[0], "");
                set.put(partner.shared().getFirst().toTheirs(ours[0]).orElseThrow(), "");
            }
            if (random.nextInt(3) == 0) {
                grade[0] = String.valueOf((char) ('A' + random.nextInt(3)));
                set.put(grade[0], "");
                set.put(partner.shared().getFirst().toOurs(grade[0]).orElseThrow(), "");
            }
            compare(partner, memory, ours, grade);
            assertThat(set).containsKeys(ours[0], grade[0]);
        }
        String last = "";
        for (int i = 0; i < 6; i++) {
            last = compare(partner, memory, ours, grade);
        }
        boolean same =
                partner.shared().getFirst().toOurs(grade[0]).orElseThrow().equals(ours[0]);
        assertThat(same ? "rests" : last).isEqualTo(same ? last : "asks");
    }

    /** A while after the last time. */
    private String compare(Partner partner, Memory[] memory, String[] ours, String[] grade) {
        now = now.plusSeconds(200);
        String before = theirs(partner, grade[0]).version();
        Verdict verdict = threeWay.judge(partner, memory[0], map(ours[0]), theirs(partner, grade[0]), now, later)
                .getFirst();
        switch (verdict) {
            case Verdict.Rests v -> {
                return "rests";
            }
            case Verdict.Agrees v -> memory[0] = memory[0].agreed(v.field(), v.value());
            case Verdict.Takes v -> ours[0] = v.value();
            case Verdict.Sends v -> {
                grade[0] = v.word();
                memory[0] = memory[0].sent(v.field(), v.value(), before, now);
            }
            case Verdict.Asks v -> {
                return "asks";
            }
        }
        return "moves";
    }
}
