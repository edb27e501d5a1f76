package dastur.connectors;

import java.io.IOException;
import java.io.InputStream;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.concurrent.atomic.AtomicBoolean;

/**
 * Reads the whole of an answer within a size and a time. The client's own limit ends where the answer's head has come, so
 * a peer that lets its body drip would hold a worker for as long as it likes.
 */
final class Bounded {
    /** The answer is longer than is taken. */
    static final class TooLong extends IOException {
        TooLong(int most) {
            super("The answer is longer than " + most + " bytes.");
        }
    }

    /** The answer was not complete in time. */
    static final class TooSlow extends IOException {
        TooSlow() {
            super("The answer was not complete within the time limit.");
        }
    }

    private Bounded() {}

    /**
     * @param most bytes that are taken
     * @param left how long the rest of the answer may take
     */
    static String read(HttpResponse<InputStream> response, int most, Duration left) throws IOException {
        return new String(bytes(response, most, left), StandardCharsets.UTF_8);
    }

    /** The same, as they came. */
    static byte[] bytes(HttpResponse<InputStream> response, int most, Duration left) throws IOException {
        AtomicBoolean late = new AtomicBoolean();
        InputStream body = response.body();
        Thread watch = Thread.ofVirtual().start(() -> {
            try {
                Thread.sleep(left.isNegative() ? Duration.ZERO : left);
                late.set(true);
                // Wakes whoever reads: a read of this stream cannot be given a limit of its own.
                body.close();
            } catch (InterruptedException readInTime) {
                Thread.currentThread().interrupt();
            } catch (IOException closedAlready) {
                late.set(true);
            }
        });
        try (body) {
            byte[] bytes = body.readNBytes(most + 1);
            if (late.get()) {
                throw new TooSlow();
            }
            if (bytes.length > most) {
                throw new TooLong(most);
            }
            return bytes;
        } catch (TooLong | TooSlow e) {
            throw e;
        } catch (IOException e) {
            throw late.get() ? new TooSlow() : e;
        } finally {
            watch.interrupt();
        }
    }
}
