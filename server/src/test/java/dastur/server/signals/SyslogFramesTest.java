package dastur.server.signals;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.io.ByteArrayInputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.List;
import java.util.Random;
import java.util.concurrent.atomic.AtomicLong;
import org.junit.jupiter.api.RepeatedTest;
import org.junit.jupiter.api.RepetitionInfo;
import org.junit.jupiter.api.Test;

/** Lines out of a stream (RFC 6587), from senders that mean well and from others. */
class SyslogFramesTest {
    private static final Duration WITHIN = Duration.ofSeconds(30);

    private static SyslogFrames frames(InputStream in) {
        return new SyslogFrames(in, WITHIN, System::nanoTime);
    }

    private static InputStream of(String text) {
        return new ByteArrayInputStream(text.getBytes(StandardCharsets.UTF_8));
    }

    private static List<String> all(SyslogFrames frames) throws IOException, SyslogFrames.Broken {
        List<String> lines = new ArrayList<>();
        try {
            while (true) {
                frames.next(true).ifPresent(lines::add);
            }
        } catch (EOFException e) {
            return lines;
        }
    }

    /** However lines are framed and cut into packets, each comes out as it went in. */
    @RepeatedTest(50)
    void linesComeOutAsTheyWentIn(RepetitionInfo which) throws IOException, SyslogFrames.Broken {
        Random random = new Random(which.getCurrentRepetition());
        StringBuilder sent = new StringBuilder();
        List<String> lines = new ArrayList<>();
        for (int i = 0; i < random.nextInt(20); i++) {
            StringBuilder line = new StringBuilder("<1>1 ");
            random.ints(random.nextInt(60), ' ', 0x17f).forEach(line::appendCodePoint);
            lines.add(line.toString());
            int bytes = line.toString().getBytes(StandardCharsets.UTF_8).length;
            sent.append(random.nextBoolean() ? bytes + " " + line : line + "\n");
        }
        byte[] bytes = sent.toString().getBytes(StandardCharsets.UTF_8);
        InputStream drops = new ByteArrayInputStream(bytes) {
            @Override
            public synchronized int read(byte[] into, int at, int length) {
                return super.read(into, at, Math.min(length, 1 + random.nextInt(7)));
            }
        };
        assertThat(all(frames(drops))).isEqualTo(lines);
    }

    @Test
    void whoeverMayNotWaitIsToldThatNoneHasBegun() throws IOException, SyslogFrames.Broken {
        SyslogFrames frames = frames(of("<1>1 a\n\r\n"));
        assertThat(frames.next(false)).contains("<1>1 a");
        assertThat(frames.next(false)).as("blank lines are none").isEmpty();
    }

    @Test
    void aLineAsLargeAsMayBeIsTakenAndOneLargerIsNot() throws IOException, SyslogFrames.Broken {
        String most = "<" + "x".repeat(SyslogFrames.MOST_BYTES - 1);
        assertThat(all(frames(of(most + "\n")))).containsExactly(most);
        assertThat(all(frames(of(SyslogFrames.MOST_BYTES + " " + most)))).containsExactly(most);
        for (String larger : List.of(most + "x\n", SyslogFrames.MOST_BYTES + 1 + " " + most)) {
            assertThatThrownBy(() -> frames(of(larger)).next(true)).hasMessageContaining("larger than 64 kB");
        }
    }

    /** A byte every ten seconds keeps no place for ever. */
    @Test
    void aLineThatIsSentDropByDropIsGivenUp() {
        AtomicLong time = new AtomicLong();
        InputStream drops = new InputStream() {
            @Override
            public int read() {
                time.addAndGet(Duration.ofSeconds(10).toNanos());
                return '<';
            }

            @Override
            public int read(byte[] into, int at, int length) {
                into[at] = (byte) read();
                return 1;
            }
        };
        assertThatThrownBy(() -> new SyslogFrames(drops, WITHIN, time::get).next(true))
                .isInstanceOf(SyslogFrames.Broken.class)
                .hasMessageContaining("did not end within 30 s");
    }

    @Test
    void whatEndsInTheMiddleIsNoLine() {
        assertThatThrownBy(() -> frames(of("40 <1>1")).next(true)).hasMessageContaining("in the middle of a line");
        assertThatThrownBy(() -> frames(of("4x")).next(true)).hasMessageContaining("nor the length");
        assertThatThrownBy(() -> frames(of("")).next(true)).isInstanceOf(EOFException.class);
    }
}
