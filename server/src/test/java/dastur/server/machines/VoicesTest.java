package dastur.server.machines;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.ArgumentMatchers.anyString;
import static org.mockito.Mockito.doAnswer;
import static org.mockito.Mockito.mock;

import dastur.store.CallsMade;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** What calls say is written in order and once, and no trouble with it is trouble of the call. */
class VoicesTest {
    private final CallsMade made = mock(CallsMade.class);
    private final Voices voices = new Voices(made, () -> Instant.EPOCH);
    private final List<String> kept = new ArrayList<>();
    private boolean broken;

    @BeforeEach
    void keeps() {
        doAnswer(call -> {
                    if (broken) {
                        throw new IllegalStateException("no database");
                    }
                    return kept.add(call.getArgument(2));
                })
                .when(made)
                .heard(anyString(), any(), anyString());
    }

    @Test
    void whatSaysLittleAndIsOverWritesNothing() {
        try (Voices.Voice voice = voices.of("a")) {
            voice.heard("GET /lanes → 200");
        }
        assertThat(kept).isEmpty();
    }

    @Test
    void whatGoesOnIsWrittenAsItComesWithItsEnd() {
        try (Voices.Voice voice = voices.of("a")) {
            voice.heard("first ");
            voices.write();
            voice.heard("last");
        }
        voices.write();
        assertThat(kept).containsExactly("first ", "last");
    }

    @Test
    void muchComesInPartsThatCutNoCharacterAndTooMuchIsSaid() {
        String anchor = new String(Character.toChars(0x1F6A2));
        try (Voices.Voice voice = voices.of("a")) {
            voice.heard("x" + anchor.repeat(40_000));
            for (int i = 0; i < 20; i++) {
                voice.heard("y".repeat(60_000));
            }
            voice.heard("never kept");
        }
        assertThat(kept).allSatisfy(part -> assertThat(Character.isHighSurrogate(part.charAt(part.length() - 1)))
                .isFalse());
        String all = String.join("", kept);
        assertThat(all)
                .startsWith("x" + anchor.repeat(40_000) + "y")
                .contains("is not kept: it is more than 1 million characters")
                .doesNotContain("never kept");
        assertThat(all.length()).isLessThan(CallsMade.MOST_SAID + 200);
    }

    @Test
    void whatCouldNotBeWrittenIsWrittenLaterAndNoCallFailsByIt() {
        Voices.Voice voice = voices.of("a");
        voice.heard("z".repeat(3_000));
        broken = true;
        assertThatCode(voices::write).isInstanceOf(IllegalStateException.class);
        broken = false;
        voices.write();
        assertThat(kept).containsExactly("z".repeat(3_000));
        voice.heard("more");
        broken = true;
        assertThatCode(voice::close).doesNotThrowAnyException();
    }
}
