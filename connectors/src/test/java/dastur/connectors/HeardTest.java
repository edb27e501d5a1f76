package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.charset.StandardCharsets;
import java.util.Random;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** All that a command says is told on, whatever its answer holds, and no character is cut. */
class HeardTest {
    private final StringBuilder told = new StringBuilder();
    private final Heard heard = new Heard(new Scrubbing(null, told::append));

    private void write(byte[] bytes, Random pieces) {
        for (int from = 0; from < bytes.length; ) {
            int length = Math.min(bytes.length - from, 1 + pieces.nextInt(7));
            heard.write(bytes, from, length);
            from += length;
        }
        heard.end();
    }

    @ParameterizedTest
    @ValueSource(longs = {1, 2, 3, 4, 5})
    void charactersAreWholeHoweverTheirBytesCome(long seed) {
        String text = "å—⚓🚢 plain ".repeat(200);
        write(text.getBytes(StandardCharsets.UTF_8), new Random(seed));
        assertThat(told.toString()).isEqualTo(text);
        assertThat(heard.toString(StandardCharsets.UTF_8)).isEqualTo(text);
    }

    @Test
    void whatIsNoCharacterIsSaidToBeNone() {
        write(new byte[] {'a', (byte) 0xFF, 'b', (byte) 0xC3}, new Random(1));
        assertThat(told.toString()).isEqualTo("a\uFFFDb\uFFFD");
    }

    @Test
    void moreThanAnAnswerMayHaveIsToldAndCountedAndNotTaken() {
        byte[] line = "0123456789\n".repeat(1_000).getBytes(StandardCharsets.UTF_8);
        for (int i = 0; i < 200; i++) {
            heard.write(line, 0, line.length);
        }
        heard.end();
        assertThat(heard.size()).isEqualTo(Answers.MAX_ANSWER);
        assertThat(heard.came()).isEqualTo(200L * line.length);
        assertThat(told.length()).isEqualTo(200 * line.length);
    }
}
