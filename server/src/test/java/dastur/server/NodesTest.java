package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpServer;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.ticket.TicketKind;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.auth.Secrets;
import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Journal;
import dastur.store.Organisation;
import dastur.store.Outbox;
import dastur.store.RecordLog;
import dastur.store.Sessions;
import dastur.store.Workflows;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.nio.file.Path;
import java.sql.SQLException;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.ConcurrentHashMap;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.concurrent.locks.LockSupport;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * Two nodes on one server; one of them is killed every few seconds while runs go on, each with two calls and two clocks: every
 * run ends, each call had its effect once, numbers have no gaps, and the records hold (K9). {@code -Dnodes.runs=1000
 * -Dnodes.seconds=10 -Dnodes.pause=1000} is the long form.
 */
class NodesTest {
    private static final int RUNS = Integer.getInteger("nodes.runs", 100);
    private static final Duration BETWEEN_KILLS = Duration.ofSeconds(Integer.getInteger("nodes.seconds", 3));
    private static final int HANDS = 4;
    /** Between two raises of one hand. */
    private static final Duration PAUSE = Duration.ofMillis(Integer.getInteger("nodes.pause", 0));

    private static final Duration MOST = Duration.ofMinutes(15);

    private static final String WORKFLOW = """
            workflow counted-twice "Counted twice" for incident
              owner ada
              purpose "Counts at another system, waits, and counts again."

            first: run count.up "Count"
              with number = ticket.number
              expects ok
              failed -> broken

            pause: wait 1 s as "A moment"

            second: run count.up "Count again"
              with number = ticket.number
              expects ok
              failed -> broken

            close: update "Close"
              set ticket.cause to "Counted"
              set ticket.done to "Counted twice"
              set ticket.answer to "Counted."
              set ticket.state = 'closed'

            counted: done "counted" as "Counted"

            broken: fail "broken" as "Broken"
            """;

    @TempDir
    Path folder;

    /** What the other system has counted: the keys it was called with, by ticket. */
    private final Map<String, Set<String>> counted = new ConcurrentHashMap<>();

    private final AtomicInteger repeated = new AtomicInteger();
    private HttpServer outside;
    private TwoNodes nodes;
    private String token;

    @BeforeEach
    void start() throws IOException {
        outside = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 200);
        outside.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        outside.createContext("/count/", exchange -> {
            String key = exchange.getRequestHeaders().getFirst("Idempotency-Key");
            String ticket = exchange.getRequestURI().getPath().substring("/count/".length());
            LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(100));
            if (!counted.computeIfAbsent(ticket, t -> ConcurrentHashMap.newKeySet())
                    .add(key)) {
                repeated.incrementAndGet();
            }
            exchange.sendResponseHeaders(200, -1);
            exchange.close();
        });
        outside.start();
        nodes = new TwoNodes(folder, this::prepare);
    }

    @AfterEach
    void stop() {
        nodes.close();
        outside.stop(0);
    }

    private void prepare(Database database) {
        PersonId ada = new PersonId("ada");
        new Organisation(database)
                .putPerson(
                        new Person(
                                ada,
                                "Ada Brandvold",
                                "ada@kestrel.example",
                                Set.of(Role.AGENT, Role.PROCESS_OWNER),
                                true),
                        null);
        token = Secrets.newToken();
        Instant now = Instant.now();
        new Sessions(database)
                .addToken(
                        "t1",
                        Secrets.hashToken(token),
                        ada,
                        "test",
                        Sessions.Scope.ALL,
                        now,
                        now.plus(Duration.ofDays(1)));
        Workflows workflows = new Workflows(database);
        workflows.putConnection(new Connection(
                "counter", "Counter", "http://127.0.0.1:" + outside.getAddress().getPort(), List.of(), null));
        workflows.putAction(new Action(
                new ActionKey("count.up"),
                "Count",
                "Counts at another system.",
                "counter",
                new Action.HttpCall(
                        "POST", "/count/{{ input.number }}", Map.of("Idempotency-Key", "{{ call.key }}"), "{}", null),
                List.of(Field.of("number", "Number", FieldType.TEXT).asRequired()),
                List.of(),
                List.of(),
                Action.Repeat.KEYED,
                true,
                Span.parse("20 s"),
                3,
                Span.parse("1 s")));
        Notation.Read read = Notation.read(WORKFLOW, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        WorkflowVersion version = read.version();
        workflows.create(version, ada, now);
        workflows.publish(version.key(), 1, ada, now).orElseThrow();
        workflows.setTriggers(
                new Journal.By(ada, now),
                version.key(),
                List.of(new Trigger(
                        new TriggerId("counted"), true, new Trigger.Created(TicketKind.INCIDENT), List.of(), null)));
    }

    @Test
    void everyRunEndsOnceWhicheverNodeIsKilled() throws Exception {
        AtomicInteger next = new AtomicInteger();
        Set<String> tickets = ConcurrentHashMap.newKeySet();
        try (var hands = Executors.newVirtualThreadPerTaskExecutor()) {
            for (int hand = 0; hand < HANDS; hand++) {
                hands.submit(() -> {
                    for (int i = next.getAndIncrement(); i < RUNS; i = next.getAndIncrement()) {
                        tickets.add(raise(i));
                        LockSupport.parkNanos(PAUSE.toNanos());
                    }
                    return null;
                });
            }
            Instant begun = Instant.now();
            int kills = 0;
            try (Database database = nodes.open()) {
                while (ended(database) < RUNS) {
                    assertThat(Duration.between(begun, Instant.now())).isLessThan(MOST);
                    if (Duration.between(begun, Instant.now()).compareTo(BETWEEN_KILLS.multipliedBy(kills + 1L)) > 0) {
                        int node = kills++ % 2;
                        nodes.kill(node);
                        nodes.startAgain(node);
                    }
                    LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(100));
                }
                System.out.printf(
                        "%d runs on two nodes, %d kills, %d calls made again under their key, %d s%n",
                        RUNS,
                        kills,
                        repeated.get(),
                        Duration.between(begun, Instant.now()).toSeconds());
                assertThat(kills).isPositive();
                assertAllOnce(database, tickets);
            }
        }
    }

    private void assertAllOnce(Database database, Set<String> tickets) throws SQLException {
        assertThat(tickets).hasSize(RUNS);
        assertThat(counted.keySet()).isEqualTo(tickets);
        assertThat(counted.values()).allSatisfy(keys -> assertThat(keys).hasSize(2));
        assertThat(number(database, "select count(*) from ticket")).isEqualTo(RUNS);
        assertThat(number(database, "select max(cast(substring(id from 3) as bigint)) from ticket"))
                .as("numbers have no gaps")
                .isEqualTo(1_000 + RUNS);
        assertThat(number(database, "select count(*) from run where status = 'finished' and result = 'counted'"))
                .isEqualTo(RUNS);
        assertThat(new Outbox(database).waiting()).isZero();
        assertThat(number(database, "select count(*) from alarm")).isZero();
        RecordLog log = new RecordLog(database, nodes.data(0).signer());
        log.catchUp();
        assertThat(new Audit(database, log).run(done -> {}).findings()).isEmpty();
    }

    private static long ended(Database database) throws SQLException {
        return number(database, "select count(*) from run where ended_at is not null");
    }

    private static long number(Database database, String sql) throws SQLException {
        try (var connection = database.dataSource().getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(sql)) {
            rows.next();
            return rows.getLong(1);
        }
    }

    /** Through the proxy, again and again under the same key until it is taken. */
    private String raise(int number) throws InterruptedException {
        HttpRequest request = HttpRequest.newBuilder(URI.create(nodes.address() + "/api/tickets"))
                .header("Authorization", "Bearer " + token)
                .header("Idempotency-Key", "raise-number-" + number)
                .timeout(Duration.ofSeconds(20))
                .POST(HttpRequest.BodyPublishers.ofString(
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"Number " + number + "\"}}"))
                .build();
        while (true) {
            try (HttpClient client = HttpClient.newHttpClient()) {
                HttpResponse<String> answer =
                        client.send(request, HttpResponse.BodyHandlers.ofString(StandardCharsets.UTF_8));
                if (answer.statusCode() < 300) {
                    return Json.parse(answer.body()).get("ticket").asText();
                }
                assertThat(answer.statusCode()).as(answer.body()).isGreaterThanOrEqualTo(500);
            } catch (IOException e) {
                // The node was killed under it.
            }
            LockSupport.parkNanos(TimeUnit.MILLISECONDS.toNanos(200));
        }
    }
}
