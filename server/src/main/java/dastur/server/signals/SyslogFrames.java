package dastur.server.signals;

import java.io.BufferedInputStream;
import java.io.ByteArrayOutputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.InputStream;
import java.net.SocketTimeoutException;
import java.nio.ByteBuffer;
import java.nio.charset.CharacterCodingException;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.Optional;
import java.util.function.LongSupplier;

/**
 * Takes lines out of a stream, each with its length before it or ended by a new line (RFC 6587); at most 64 kB each, and none
 * longer on its way than a while.
 */
final class SyslogFrames {
    static final int MOST_BYTES = 64 * 1024;

    /** What comes is no frame: nobody could say where the next begins. */
    static final class Broken extends Exception {
        private static final long serialVersionUID = 1;
        private final String reason;

        Broken(String reason, String words) {
            super(words);
            this.reason = reason;
        }

        /** A short word, for counting. */
        String reason() {
            return reason;
        }
    }

    private final InputStream in;
    private final Duration within;
    private final LongSupplier nanos;
    private long began;

    /** @param within how long a line that has begun may take @param nanos the time that passes */
    SyslogFrames(InputStream in, Duration within, LongSupplier nanos) {
        this.in = new BufferedInputStream(in, MOST_BYTES);
        this.within = within;
        this.nanos = nanos;
    }

    /**
     * The next line; empty when none has begun.
     *
     * @param mayWait whether to wait for one, as long as the stream does
     * @throws EOFException at the end
     */
    Optional<String> next(boolean mayWait) throws IOException, Broken {
        int first;
        try {
            do {
                if (!mayWait && in.available() == 0) {
                    return Optional.empty();
                }
                first = in.read();
            } while (first == '\n' || first == '\r');
        } catch (SocketTimeoutException e) {
            return Optional.empty();
        }
        if (first < 0) {
            throw new EOFException();
        }
        began = nanos.getAsLong();
        try {
            return Optional.of(text(first == '<' ? byLine(first) : byCount(first)));
        } catch (SocketTimeoutException e) {
            throw slow();
        }
    }

    private Broken slow() {
        return new Broken("not readable", "A line that had begun did not end within " + within.toSeconds() + " s.");
    }

    /** A byte of a line; -1 at the end. */
    private int read() throws IOException, Broken {
        if (nanos.getAsLong() - began > within.toNanos()) {
            throw slow();
        }
        return in.read();
    }

    private byte[] byLine(int first) throws IOException, Broken {
        ByteArrayOutputStream line = new ByteArrayOutputStream();
        for (int c = first; c >= 0 && c != '\n'; c = read()) {
            if (line.size() == MOST_BYTES) {
                throw tooLarge();
            }
            line.write(c);
        }
        return line.toByteArray();
    }

    private byte[] byCount(int first) throws IOException, Broken {
        int count = 0;
        for (int c = first; c != ' '; c = read()) {
            if (c < '0' || c > '9') {
                throw new Broken("not readable", "What came is neither '<' nor the length of a line (RFC 6587).");
            }
            count = count * 10 + c - '0';
            if (count > MOST_BYTES) {
                throw tooLarge();
            }
        }
        byte[] line = new byte[count];
        for (int i = 0; i < count; i++) {
            int c = read();
            if (c < 0) {
                throw new Broken("not readable", "The connection ended in the middle of a line.");
            }
            line[i] = (byte) c;
        }
        return line;
    }

    private static Broken tooLarge() {
        return new Broken("too large", "A line is larger than 64 kB.");
    }

    private static String text(byte[] line) throws Broken {
        try {
            return StandardCharsets.UTF_8
                    .newDecoder()
                    .decode(ByteBuffer.wrap(line))
                    .toString();
        } catch (CharacterCodingException e) {
            throw new Broken("not readable", "A line is not UTF-8.");
        }
    }
}
