package dastur.server.machines;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyInt;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.never;
import static org.mockito.Mockito.times;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import dastur.store.CallsMade;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.TreeMap;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What calls say is written in order and once, and no trouble with it is trouble of the call. */
class VoicesTest {
    private static final Voices.Limits SMALL = new Voices.Limits(200_000, 100_000, 50_000, 50_000);

    private final CallsMade made = mock(CallsMade.class);
    private final Voices voices = new Voices(made, () -> Instant.EPOCH);
    private final TreeMap<Integer, String> parts = new TreeMap<>();
    private int number;
    private boolean broken;

    @BeforeEach
    void keeps() {
        doAnswer(call -> {
                    if (broken) {
                        throw new IllegalStateException("no database");
                    }
                    parts.put(number, call.getArgument(2));
                    return number++;
                })
                .when(made)
                .heard(anyString(), any(), anyString());
        doAnswer(call -> parts.remove(call.<Integer>getArgument(1))).when(made).letGo(anyString(), anyInt());
        when(made.said(anyString(), anyInt(), anyInt()))
                .thenAnswer(call -> parts.tailMap(call.<Integer>getArgument(1)).entrySet().stream()
                        .limit(call.<Integer>getArgument(2))
                        .map(p -> new CallsMade.Part(p.getKey(), Instant.EPOCH, p.getValue()))
                        .toList());
    }

    private List<String> kept() {
        return List.copyOf(parts.values());
    }

    private static String everything(Voices.Voice voice) {
        List<String> all = new ArrayList<>();
        voice.everything(bytes -> all.add(new String(bytes, StandardCharsets.UTF_8)));
        return String.join("", all);
    }

    @Test
    void whatSaysLittleAndIsOverWritesNothing() {
        try (Voices.Voice voice = voices.of("a")) {
            voice.heard("GET /lanes → 200");
        }
        assertThat(kept()).isEmpty();
    }

    @Test
    void whatGoesOnIsWrittenAsItComesWithItsEnd() {
        try (Voices.Voice voice = voices.of("a")) {
            voice.heard("first ");
            voices.write();
            voice.heard("last");
        }
        voices.write();
        assertThat(kept()).containsExactly("first ", "last");
    }

    @Test
    void muchComesInPartsThatCutNoCharacter() {
        String anchor = new String(Character.toChars(0x1F6A2));
        Voices.Voice voice = voices.of("a");
        voice.heard("x" + anchor.repeat(40_000));
        voice.close();
        assertThat(kept()).hasSizeGreaterThan(1).allSatisfy(part -> assertThat(
                        Character.isHighSurrogate(part.charAt(part.length() - 1)))
                .isFalse());
        assertThat(everything(voice)).isEqualTo("x" + anchor.repeat(40_000));
        when(made.letSomeGo("a")).thenReturn(true, true, false);
        for (int round = 0; round < 9; round++) {
            voices.write();
        }
        verify(made, times(3)).letSomeGo("a");
    }

    /** However it comes: the head is what came first, the tail what came last, and the gap between says how much it is. */
    @ParameterizedTest
    @ValueSource(ints = {10, 3_000, 60_000, 199_000, 250_000, 299_000, 330_000, 365_000, 400_000, 700_000})
    void ofWhatIsVeryLongTheHeadAndTheTailAreKept(int length) {
        Random random = new Random(length);
        Voices small = new Voices(made, () -> Instant.EPOCH, SMALL);
        Voices.Voice voice = small.of("a");
        StringBuilder said = new StringBuilder();
        while (said.length() < length) {
            StringBuilder some = new StringBuilder();
            for (int i = random.nextInt(900); i >= 0; i--) {
                some.append("line ").append(said.length() + some.length()).append('\n');
            }
            voice.heard(some.toString());
            said.append(some);
            // As quick as it is written: nothing is missing.
            small.write();
        }
        voice.close();
        String all = everything(voice);
        String whole = said.toString();
        if (whole.length() <= 2_000) {
            return;
        }
        int gap = all.indexOf("\n… ");
        if (gap < 0) {
            assertThat(all).isEqualTo(whole);
            return;
        }
        String tail = all.substring(all.indexOf(" …\n", gap) + 3);
        int leftOut = Integer.parseInt(all.substring(gap + 3, all.indexOf(" characters are left out", gap)));
        assertThat(all.substring(0, gap)).isEqualTo(whole.substring(0, gap)).hasSizeBetween(200_000, 264_000);
        assertThat(whole).endsWith(tail);
        assertThat(tail).hasSizeBetween(100_000, 164_000);
        assertThat(gap + leftOut + tail.length()).isEqualTo(whole.length());
    }

    /** Whoever speaks is not kept waiting by the database, and what nobody could write is said to be missing. */
    @Test
    void whatComesQuickerThanItIsWrittenIsMissingAndSaid() {
        Voices.Voice voice = new Voices(made, () -> Instant.EPOCH, SMALL).of("a");
        voice.heard("x".repeat(60_000) + "the end");
        voice.close();
        assertThat(everything(voice))
                .startsWith("\n… 35007 characters are left out")
                .endsWith("the end");
    }

    /** What all calls share is given back, also by one whose end could not be written; whoever comes late for it writes nothing. */
    @Test
    void whatOneLeavesBehindTakesNoRoomFromOthers() {
        Voices small = new Voices(made, () -> Instant.EPOCH, new Voices.Limits(200_000, 100_000, 50_000, 100_000));
        broken = true;
        List<Voices.Voice> gone =
                Stream.of("gone 0", "gone 1", "gone 2").map(small::of).toList();
        gone.forEach(one -> one.heard("x".repeat(45_000)));
        gone.forEach(Voices.Voice::close);
        broken = false;
        gone.forEach(Voices.Voice::close);
        Voices.Voice voice = small.of("a");
        voice.heard("y".repeat(60_000));
        voice.close();
        assertThat(everything(voice)).isEqualTo("y".repeat(60_000));
    }

    @Test
    void whatCouldNotBeAttachedIsNotLetGo() {
        Voices.Voice voice = voices.of("a");
        voice.heard("z".repeat(3_000));
        voice.close();
        voice.everything(bytes -> false);
        voices.write();
        verify(made, never()).letSomeGo("a");
        assertThat(kept()).hasSize(1);
    }

    @Test
    void whatCouldNotBeWrittenIsWrittenLaterAndNoCallFailsByIt() {
        Voices.Voice voice = voices.of("a");
        voice.heard("z".repeat(3_000));
        broken = true;
        assertThatCode(voices::write).isInstanceOf(IllegalStateException.class);
        broken = false;
        voices.write();
        assertThat(kept()).containsExactly("z".repeat(3_000));
        voice.heard("more");
        broken = true;
        assertThatCode(voice::close).doesNotThrowAnyException();
    }
}
