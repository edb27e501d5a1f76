package dastur.connectors;

import java.io.ByteArrayOutputStream;
import java.nio.charset.StandardCharsets;

/** Takes no more than an answer may have, and tells it on as it comes, character by whole character. */
final class Heard extends ByteArrayOutputStream {
    private final Scrubbing told;
    private int until;

    Heard(Scrubbing told) {
        this.told = told;
    }

    @Override
    public synchronized void write(byte[] bytes, int from, int length) {
        super.write(bytes, from, Math.min(length, Answers.MAX_ANSWER - size()));
        tell(wholeUntil());
    }

    /** A character's bytes may be cut between two writes (UTF-8): those that go on begin with 10. */
    private int wholeUntil() {
        int at = count;
        while (at > until && count - at < 3 && (buf[at - 1] & 0xC0) == 0x80) {
            at--;
        }
        int first = at > until ? buf[at - 1] & 0xFF : 0;
        int follow = first >= 0xF0 ? 3 : first >= 0xE0 ? 2 : first >= 0xC0 ? 1 : 0;
        return count - at >= follow ? count : at - 1;
    }

    private void tell(int to) {
        if (to > until) {
            told.heard(new String(buf, until, to - until, StandardCharsets.UTF_8));
            until = to;
        }
    }

    void end() {
        tell(count);
        told.end();
    }
}
