package dastur.server;

import java.io.BufferedInputStream;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.net.SocketException;
import java.nio.charset.StandardCharsets;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.locks.LockSupport;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** A peer that answers as badly as its path says, and remembers under which keys it was asked. */
final class BadAnswers implements AutoCloseable {
    /** What a bad answer tells of what happened. */
    enum Tells {
        /** It certainly did not happen. */
        NO,
        /** It may have happened. */
        NOBODY_KNOWS
    }

    private interface Answer {
        void give(Socket socket, OutputStream out) throws IOException;
    }

    private record Kind(Tells tells, Answer answer) {}

    private static final Pattern FIRST = Pattern.compile("POST /([^/ ]+)/([^ ]+) HTTP/1.1");
    private static final Map<String, Kind> KINDS = kinds();

    private final ServerSocket door;
    /** By ticket, the keys it was asked under, in order. */
    private final Map<String, List<String>> asked = new ConcurrentHashMap<>();

    BadAnswers() throws IOException {
        door = new ServerSocket(0, 500, InetAddress.getLoopbackAddress());
        Thread.startVirtualThread(this::take);
    }

    int port() {
        return door.getLocalPort();
    }

    static Map<String, Tells> all() {
        Map<String, Tells> all = new LinkedHashMap<>();
        KINDS.forEach((name, kind) -> all.put(name, kind.tells()));
        return all;
    }

    List<String> asked(String ticket) {
        return asked.getOrDefault(ticket, List.of());
    }

    private static Map<String, Kind> kinds() {
        Map<String, Kind> all = new LinkedHashMap<>();
        for (int status : new int[] {400, 401, 403, 404, 409, 410, 418, 422, 429, 451, 503}) {
            all.put("says-" + status, new Kind(Tells.NO, says(status, "{\"why\":\"no\"}")));
        }
        for (int status : new int[] {300, 301, 302, 304, 307, 500, 501, 502, 504, 599}) {
            all.put("says-" + status, new Kind(Tells.NOBODY_KNOWS, says(status, "{\"why\":\"who knows\"}")));
        }
        Map<String, Answer> unclear = new LinkedHashMap<>();
        unclear.put(
                "redirects-elsewhere",
                (s, out) ->
                        send(out, "HTTP/1.1 302 Found\r\nLocation: http://127.0.0.1:1/\r\nContent-Length: 0\r\n\r\n"));
        unclear.put("yes-but-no-json", says(200, "<html>done</html>"));
        unclear.put("yes-but-half-json", says(200, "{\"lock\":\"L-"));
        unclear.put("yes-but-nul-bytes", says(200, "\u0000\u0000done\u0000"));
        unclear.put("yes-but-empty", says(200, ""));
        unclear.put("yes-with-nothing", (s, out) -> send(out, "HTTP/1.1 204 No Content\r\n\r\n"));
        unclear.put("yes-but-a-list", says(200, "[1,2]"));
        unclear.put("yes-but-a-word", says(200, "\"done\""));
        unclear.put("yes-but-null", says(200, "{\"lock\":null}"));
        unclear.put("yes-but-another-name", says(200, "{\"Lock\":\"L-1\"}"));
        unclear.put("yes-but-a-broken-character", says(200, "{\"lock\":\"\\ud800\"}"));
        unclear.put("yes-but-a-nul", says(200, "{\"lock\":\"a\\u0000b\"}"));
        unclear.put("yes-but-too-deep", says(200, "[".repeat(2_000)));
        unclear.put("yes-but-more-than-is-read", says(200, " ".repeat(1_100_000) + "{\"lock\":\"L-1\"}"));
        unclear.put("yes-then-shorter-than-said", (s, out) -> {
            send(out, "HTTP/1.1 200 OK\r\nContent-Length: 400\r\n\r\n{\"lock\":\"L-1\"}");
            s.close();
        });
        unclear.put("yes-then-a-broken-part", (s, out) -> {
            send(out, "HTTP/1.1 200 OK\r\nTransfer-Encoding: chunked\r\n\r\nzz\r\n{}\r\n");
            s.close();
        });
        unclear.put("yes-then-drips", (s, out) -> {
            send(out, "HTTP/1.1 200 OK\r\nContent-Length: 400\r\n\r\n");
            for (int i = 0; i < 400; i++) {
                send(out, " ");
                LockSupport.parkNanos(50_000_000);
            }
        });
        unclear.put("hangs-up-at-once", (s, out) -> s.close());
        unclear.put("hangs-up-in-the-first-line", (s, out) -> {
            send(out, "HTTP/1.1 20");
            s.close();
        });
        unclear.put("hangs-up-in-a-header", (s, out) -> {
            send(out, "HTTP/1.1 200 OK\r\nContent-Ty");
            s.close();
        });
        unclear.put("breaks-the-line", (s, out) -> {
            s.setSoLinger(true, 0);
            s.close();
        });
        unclear.put("speaks-something-else", (s, out) -> send(out, "220 mail.kestrel.example ready\r\n"));
        unclear.put("says-nothing", (s, out) -> LockSupport.parkNanos(8_000_000_000L));
        unclear.put("endless-headers", (s, out) -> {
            send(out, "HTTP/1.1 200 OK\r\n");
            for (int i = 0; i < 100_000; i++) {
                send(out, "X-" + i + ": " + "x".repeat(100) + "\r\n");
            }
        });
        unclear.forEach((name, answer) -> all.put(name, new Kind(Tells.NOBODY_KNOWS, answer)));
        return all;
    }

    private static Answer says(int status, String body) {
        return (socket, out) -> send(
                out,
                "HTTP/1.1 " + status + " X\r\nContent-Type: application/json\r\nContent-Length: "
                        + body.getBytes(StandardCharsets.UTF_8).length + "\r\n\r\n" + body);
    }

    private static void send(OutputStream out, String text) throws IOException {
        out.write(text.getBytes(StandardCharsets.UTF_8));
        out.flush();
    }

    private void take() {
        while (!door.isClosed()) {
            try {
                Socket socket = door.accept();
                Thread.startVirtualThread(() -> answer(socket));
            } catch (IOException e) {
                // Closed.
            }
        }
    }

    private void answer(Socket socket) {
        try (socket) {
            String head = head(socket.getInputStream());
            Matcher first = FIRST.matcher(head);
            if (first.find()) {
                Matcher key = Pattern.compile("(?i)idempotency-key: (\\S+)").matcher(head);
                asked.computeIfAbsent(first.group(2), t -> new CopyOnWriteArrayList<>())
                        .add(key.find() ? key.group(1) : "");
                KINDS.get(first.group(1)).answer().give(socket, socket.getOutputStream());
            }
        } catch (SocketException e) {
            // The caller had enough.
        } catch (IOException e) {
            throw new IllegalStateException(e);
        }
    }

    private static String head(InputStream raw) throws IOException {
        InputStream in = new BufferedInputStream(raw);
        StringBuilder head = new StringBuilder();
        int length = 0;
        for (int c = in.read(); c >= 0; c = in.read()) {
            head.append((char) c);
            if (head.length() > 4 && head.indexOf("\r\n\r\n", head.length() - 4) >= 0) {
                Matcher m = Pattern.compile("(?i)content-length: (\\d+)").matcher(head);
                length = m.find() ? Integer.parseInt(m.group(1)) : 0;
                break;
            }
        }
        in.readNBytes(length);
        return head.toString();
    }

    @Override
    public void close() throws IOException {
        door.close();
    }
}
