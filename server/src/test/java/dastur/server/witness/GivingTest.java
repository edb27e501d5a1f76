package dastur.server.witness;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpServer;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Mac;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.Witnesses;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.locks.LockSupport;
import java.util.function.BooleanSupplier;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Who outside is given statements gets each when it is due, whatever the others do (K13). */
class GivingTest {
    private static final Instant NOW = Instant.parse("2026-03-02T08:00:00Z");

    @TempDir
    Path folder;

    private Database database;
    private HttpServer server;
    private final List<String> posted = new CopyOnWriteArrayList<>();
    private final List<String> tokens = new CopyOnWriteArrayList<>();
    private final CountDownLatch never = new CountDownLatch(1);
    private volatile int status = 200;

    @BeforeEach
    void start() throws IOException {
        database = Database.inFolder(folder, Durability.PROCESS, Mac.NONE);
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.createContext("/take", exchange -> {
            tokens.add(String.valueOf(exchange.getRequestHeaders().getFirst("Authorization")));
            posted.add(new String(exchange.getRequestBody().readAllBytes(), StandardCharsets.UTF_8));
            exchange.getResponseHeaders().add("Location", "/elsewhere");
            exchange.sendResponseHeaders(status, -1);
            exchange.close();
        });
        server.createContext("/elsewhere", exchange -> {
            posted.add("elsewhere");
            exchange.sendResponseHeaders(200, -1);
            exchange.close();
        });
        server.createContext("/hang", exchange -> {
            try {
                never.await();
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            }
            exchange.close();
        });
        server.start();
    }

    @AfterEach
    void stop() {
        never.countDown();
        server.stop(0);
        database.close();
    }

    private String url(String path) {
        return "http://127.0.0.1:" + server.getAddress().getPort() + path;
    }

    private Giving giving(String... to) {
        return new Giving(
                new Giving.To(List.of(to), null),
                new Witnesses(database),
                null,
                () -> Optional.of("t-1"),
                NOW.minus(Duration.ofDays(1)));
    }

    private static Checkpoint checkpoint(long number, Duration after) {
        return new Checkpoint(number, 1, 10 * number, "ab", NOW.plus(after), "text " + number, "hash" + number, "s");
    }

    private static void until(BooleanSupplier so) {
        long end = System.nanoTime() + 20_000_000_000L;
        while (!so.getAsBoolean()) {
            assertThat(System.nanoTime()).as("in time").isLessThan(end);
            LockSupport.parkNanos(5_000_000);
        }
    }

    private static boolean was(Giving giving, int which, long number) {
        Giving.Standing s = giving.standing(NOW).get(which);
        return s.given() != null && s.given().checkpoint().number() == number;
    }

    @Test
    void oneThatHangsHoldsUpNoOther() throws IOException {
        Path file = folder.resolve("elsewhere").resolve("w.ndjson");
        Giving giving = giving(url("/hang"), file.toString(), url("/take?key=secret"));
        giving.give(checkpoint(1, Duration.ZERO));
        until(() -> was(giving, 1, 1) && was(giving, 2, 1));
        giving.give(checkpoint(2, Duration.ofSeconds(59)));
        // As each minute: whoever was still busy with the one before gets it the next time.
        until(() -> {
            giving.give(checkpoint(3, Duration.ofSeconds(60)));
            return was(giving, 1, 3) && was(giving, 2, 3);
        });
        assertThat(FileWitness.read(file)).extracting(Checkpoint::number).containsExactly(1L, 3L);
        assertThat(posted).hasSize(2);
        assertThat(Json.parse(posted.getFirst()).path("hash").asText()).isEqualTo("hash1");
        assertThat(tokens).containsOnly("Bearer t-1");
        assertThat(giving.standing(NOW).getFirst().late())
                .as("it never had one")
                .isTrue();
        assertThat(giving.standing(NOW).toString()).doesNotContain("secret");
    }

    @Test
    void whatIsNotTakenIsSaidAndGivenLater() {
        status = 307;
        Giving giving = giving(url("/take"));
        giving.give(checkpoint(1, Duration.ZERO));
        until(() -> giving.standing(NOW).getFirst().trouble() != null);
        assertThat(giving.standing(NOW).getFirst().trouble()).contains("307");
        assertThat(posted).as("no redirect is followed").doesNotContain("elsewhere");
        assertThat(new Witnesses(database).last(url("/take"))).isEmpty();
        status = 204;
        giving.give(checkpoint(2, Duration.ofSeconds(30)));
        giving.give(checkpoint(3, Duration.ofSeconds(61)));
        until(() -> was(giving, 0, 3));
        until(() -> giving.standing(NOW).getFirst().trouble() == null);
        assertThat(giving.standing(NOW.plus(Duration.ofHours(1))).getFirst().late())
                .isFalse();
        assertThat(giving.standing(NOW.plus(Duration.ofHours(2))).getFirst().late())
                .isTrue();
    }

    /** A mail a day, say, is not one at each start. */
    @Test
    void afterAStartNobodyIsGivenOneBeforeItsTime() {
        giving(url("/take")).give(checkpoint(1, Duration.ZERO));
        until(() -> new Witnesses(database).last(url("/take")).isPresent());
        Giving again = giving(url("/take"));
        again.give(checkpoint(2, Duration.ofSeconds(20)));
        again.give(checkpoint(3, Duration.ofSeconds(70)));
        until(() -> {
            again.give(checkpoint(4, Duration.ofSeconds(75)));
            return posted.size() == 2;
        });
        assertThat(posted.getLast()).doesNotContain("hash2");
    }

    @Test
    void whatIsNoWitnessIsRefused() {
        assertThatThrownBy(() -> new Giving.To(List.of("mailto:nobody"), null)).hasMessageContaining("is no witness");
        assertThatThrownBy(() -> new Giving.To(List.of("https:///x"), null)).hasMessageContaining("is no witness");
    }
}
