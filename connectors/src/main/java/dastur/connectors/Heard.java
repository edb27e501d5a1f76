package dastur.connectors;

import java.io.ByteArrayOutputStream;
import java.nio.ByteBuffer;
import java.nio.CharBuffer;
import java.nio.charset.CharsetDecoder;
import java.nio.charset.CodingErrorAction;
import java.nio.charset.StandardCharsets;

/**
 * Takes no more than an answer may have, and knows how much came; all of it is told on as it comes, character by whole character
 * (UTF-8).
 */
final class Heard extends ByteArrayOutputStream {
    private final Scrubbing told;
    private final CharsetDecoder decoder = StandardCharsets.UTF_8
            .newDecoder()
            .onMalformedInput(CodingErrorAction.REPLACE)
            .onUnmappableCharacter(CodingErrorAction.REPLACE);
    /** The beginning of a character of which the rest has not come yet. */
    private byte[] begun = {};

    private long came;

    Heard(Scrubbing told) {
        this.told = told;
    }

    @Override
    public synchronized void write(byte[] bytes, int from, int length) {
        came += length;
        super.write(bytes, from, Math.min(length, Answers.MAX_ANSWER - size()));
        tell(bytes, from, length, false);
    }

    /** How many bytes came: more than these were not taken where there are more than an answer may have. */
    synchronized long came() {
        return came;
    }

    private void tell(byte[] bytes, int from, int length, boolean last) {
        ByteBuffer in = ByteBuffer.allocate(begun.length + length)
                .put(begun)
                .put(bytes, from, length)
                .flip();
        CharBuffer out = CharBuffer.allocate(in.remaining() + 1);
        decoder.decode(in, out, last);
        if (last) {
            decoder.flush(out);
        }
        begun = new byte[in.remaining()];
        in.get(begun);
        if (out.position() > 0) {
            told.heard(out.flip().toString());
        }
    }

    synchronized void end() {
        tell(new byte[0], 0, 0, true);
        told.end();
    }
}
