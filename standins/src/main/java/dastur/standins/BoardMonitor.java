package dastur.standins;

import com.fasterxml.jackson.databind.ObjectMapper;
import java.io.IOException;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.ArrayList;
import java.util.Base64;
import java.util.HashSet;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.UUID;
import java.util.function.Function;
import java.util.function.Supplier;
import javax.crypto.Mac;
import javax.crypto.spec.SecretKeySpec;

/**
 * Watches the departure boards and says what it sees: a CloudEvent for each board whose picture stands still, again while it does,
 * and one when it moves again. Signed as Standard Webhooks describes it. What could not be delivered is sent again.
 */
public final class BoardMonitor implements AutoCloseable {
    private static final ObjectMapper JSON = new ObjectMapper();
    private static final Duration LOOKS_EVERY = Duration.ofMillis(500);
    private static final Duration SAYS_AGAIN_AFTER = Duration.ofSeconds(20);
    private static final int NIGHT_SIGNALS = 5_000;
    private static final int NIGHT_TOGETHER = 50;

    /**
     * What it goes by.
     *
     * @param to where it posts to; empty while nobody listens there
     * @param secret its secret, as Standard Webhooks writes it
     * @param address a board's address by its name
     */
    public record Settings(
            Supplier<Optional<URI>> to, String secret, Function<String, String> address, InstantSource clock) {}

    private final PierDevices devices;
    private final Settings settings;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build();
    private final Map<String, Instant> still = new TreeMap<>();
    private final Map<String, Instant> said = new TreeMap<>();
    private final Thread thread;
    private volatile boolean stopping;

    BoardMonitor(PierDevices devices, Settings settings) {
        this.devices = devices;
        this.settings = settings;
        this.thread = Thread.ofVirtual().name("board-monitor").start(this::watch);
    }

    /** The secret of a monitor, made of what the stand-ins share. */
    public static String secret(String token) {
        try {
            byte[] hash = MessageDigest.getInstance("SHA-256")
                    .digest(("board monitor " + token).getBytes(StandardCharsets.UTF_8));
            return "whsec_" + Base64.getEncoder().encodeToString(hash);
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException("every Java platform has SHA-256", e);
        }
    }

    private void watch() {
        while (!stopping) {
            try {
                settings.to().get().ifPresent(this::look);
                Thread.sleep(LOOKS_EVERY);
            } catch (InterruptedException e) {
                return;
            }
        }
    }

    private void look(URI to) {
        Instant now = settings.clock().instant();
        Set<String> frozen = devices.frozen();
        for (String board : frozen) {
            Instant since = still.computeIfAbsent(board, b -> now);
            Instant last = said.get(board);
            boolean due = last == null || !last.plus(SAYS_AGAIN_AFTER).isAfter(now);
            if (due && post(to, board, "FROZEN", Duration.between(since, now).toSeconds() + 60, now)) {
                said.put(board, now);
            }
        }
        for (String board : new HashSet<>(said.keySet())) {
            // A board that is starting shows nothing: only a picture that moves says that it is well.
            if (!frozen.contains(board)
                    && devices.picture(board).equals("moves")
                    && post(to, board, "MOVING", 0, now)) {
                said.remove(board);
                still.remove(board);
            }
        }
    }

    /**
     * A bad night: a line is shaken, and forty boards and boxes cry out again and again, 5,000 times in all, each for half a minute's
     * picture; then all is well. Nothing of it is so: no board stands still.
     *
     * @param within how long it lasts
     */
    void badNight(Duration within) {
        Thread.ofVirtual().name("bad-night").start(() -> {
            List<String> units = units();
            Duration pause = within.dividedBy(NIGHT_SIGNALS / NIGHT_TOGETHER);
            for (int i = 0; i < NIGHT_SIGNALS && !stopping; i += NIGHT_TOGETHER) {
                List<Map<String, Object>> events = new ArrayList<>();
                for (int n = i; n < i + NIGHT_TOGETHER; n++) {
                    events.add(event(
                            units.get(n % units.size()),
                            "FROZEN",
                            30,
                            settings.clock().instant()));
                }
                batch(events);
                try {
                    Thread.sleep(pause);
                } catch (InterruptedException e) {
                    return;
                }
            }
            batch(units.stream()
                    .map(unit -> event(unit, "MOVING", 0, settings.clock().instant()))
                    .toList());
        });
    }

    /**
     * A gateway falls over, and a moment later the boards that run on it stand still; or all are well again. The boards themselves are
     * not touched, so that they are well as soon as it is.
     */
    public void gateway(String site, int boards, boolean fails) {
        String state = fails ? "FROZEN" : "MOVING";
        Instant now = settings.clock().instant();
        List<Map<String, Object>> events = new ArrayList<>();
        events.add(event(settings.address().apply(site + "-GW1"), state, 30, now, fails ? 1 : 0));
        for (int n = 1; n <= boards; n++) {
            events.add(event(settings.address().apply("%s-%02d".formatted(site, n)), state, 90, now));
        }
        batch(events);
    }

    private void batch(List<Map<String, Object>> events) {
        settings.to().get().ifPresent(to -> send(to, "application/cloudevents-batch+json", events));
    }

    /** Thirty-four boards, and six boxes that nobody has entered. */
    private List<String> units() {
        List<String> units = new ArrayList<>();
        for (Map.Entry<String, Integer> pier :
                Map.of("ALD", 14, "GNQ", 12, "NSL", 8).entrySet()) {
            for (int n = 1; n <= pier.getValue(); n++) {
                units.add(settings.address().apply("%s-%02d".formatted(pier.getKey(), n)));
            }
        }
        for (int n = 1; n <= 6; n++) {
            units.add("10.30.9." + n);
        }
        return units;
    }

    private boolean post(URI to, String board, String state, long age, Instant now) {
        return send(to, "application/cloudevents+json", event(settings.address().apply(board), state, age, now));
    }

    /** What it says of a unit, a CloudEvent. @param age of the picture, seconds */
    public static Map<String, Object> event(String unit, String state, long age, Instant now) {
        return event(unit, state, age, now, state.equals("FROZEN") ? 2 : 0);
    }

    private static Map<String, Object> event(String unit, String state, long age, Instant now, int level) {
        Map<String, Object> data = new LinkedHashMap<>();
        data.put("unit", unit);
        data.put("state", state);
        data.put("level", level);
        data.put("picture_age_s", age);
        data.put("line", "");
        data.put("note", state.equals("FROZEN") ? "no new picture" : "picture loaded");
        Map<String, Object> event = new LinkedHashMap<>();
        event.put("specversion", "1.0");
        event.put("id", UUID.randomUUID().toString());
        event.put("type", "example.kestrel.board.state");
        event.put("source", "/monitor");
        event.put("time", now.toString());
        event.put("data", data);
        return event;
    }

    private boolean send(URI to, String type, Object what) {
        String id = UUID.randomUUID().toString();
        try {
            byte[] body = JSON.writeValueAsBytes(what);
            String time = String.valueOf(settings.clock().instant().getEpochSecond());
            HttpRequest request = HttpRequest.newBuilder(to)
                    .timeout(Duration.ofSeconds(5))
                    .header("Content-Type", type)
                    .header("User-Agent", "board-monitor/3")
                    .header("webhook-id", id)
                    .header("webhook-timestamp", time)
                    .header("webhook-signature", "v1," + signature(id, time, body))
                    .POST(HttpRequest.BodyPublishers.ofByteArray(body))
                    .build();
            return client.send(request, HttpResponse.BodyHandlers.discarding()).statusCode() == 202;
        } catch (IOException | GeneralSecurityException e) {
            return false;
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            return false;
        }
    }

    private String signature(String id, String time, byte[] body) throws GeneralSecurityException {
        byte[] before = (id + "." + time + ".").getBytes(StandardCharsets.UTF_8);
        Mac mac = Mac.getInstance("HmacSHA256");
        mac.init(new SecretKeySpec(Base64.getDecoder().decode(settings.secret().substring(6)), "HmacSHA256"));
        return Base64.getEncoder()
                .encodeToString(mac.doFinal(ByteBuffer.allocate(before.length + body.length)
                        .put(before)
                        .put(body)
                        .array()));
    }

    @Override
    public void close() {
        stopping = true;
        thread.interrupt();
        client.shutdownNow();
    }
}
