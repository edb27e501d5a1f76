package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.Mockito.atLeastOnce;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpHandler;
import com.sun.net.httpserver.HttpServer;
import dastur.core.run.Command.CallOutcome;
import dastur.core.run.Event;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class HttpConnectorTest {
    private static final List<Action.Output> OUTPUTS =
            List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT).asRequired(), "/lock"));

    private final HttpConnector connector = new HttpConnector();
    private final HttpConnector.Heartbeat heartbeat = mock(HttpConnector.Heartbeat.class);
    private HttpServer server;

    @BeforeEach
    void start() throws IOException {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.start();
        when(heartbeat.stillMine()).thenReturn(true);
    }

    @AfterEach
    void stop() {
        server.stop(0);
    }

    private void answer(String path, HttpHandler handler) {
        server.createContext(path, handler);
    }

    private static void send(HttpExchange exchange, int status, String body) throws IOException {
        byte[] bytes = body.getBytes(StandardCharsets.UTF_8);
        exchange.sendResponseHeaders(status, bytes.length);
        exchange.getResponseBody().write(bytes);
        exchange.close();
    }

    private Connection connection() {
        return new Connection(
                "lanes",
                "Lane controller",
                "http://127.0.0.1:" + server.getAddress().getPort(),
                List.of(),
                "s");
    }

    private static Event.Call call(String path, Action.Poll poll, List<Action.OwnResult> results) {
        return new Event.Call("lanes", "POST", path, Map.of("Idempotency-Key", "k1"), "{}", poll, OUTPUTS, results, 3);
    }

    private CallOutcome run(Event.Call call) throws HttpConnector.Abandoned {
        return connector.call(call, connection(), "top-secret", heartbeat);
    }

    @Test
    void outputsAreReadByPointerAndASecretNeverComesBack() throws Exception {
        answer(
                "/close",
                e -> send(
                        e,
                        200,
                        "{\"lock\":\"L-1 " + e.getRequestHeaders().getFirst("Authorization")
                                + "\",\"reference\":\"r\"}"));
        CallOutcome.Done done = (CallOutcome.Done) run(call("/close", null, List.of()));
        assertThat(done.outputs()).containsEntry("lock", "L-1 Bearer •••");
        assertThat(done.log()).contains("→ 200").doesNotContain("top-secret");
        assertThat(done.reference()).isEqualTo("r");
    }

    @Test
    void anOwnResultIsNoFailure() throws Exception {
        answer("/close", e -> send(e, 200, "{\"lock\":\"L-1\",\"status\":\"already closed\"}"));
        CallOutcome.Done done = (CallOutcome.Done)
                run(call("/close", null, List.of(new Action.OwnResult("already closed", "/status", "already closed"))));
        assertThat(done.exit()).isEqualTo("already closed");
    }

    @ParameterizedTest
    @CsvSource({
        "400, Failed",
        "404, Failed",
        "409, Failed",
        "429, Failed",
        "503, Failed",
        "500, Unknown",
        "502, Unknown",
        "504, Unknown",
        "302, Failed"
    })
    void whatIsKnownOfAnAnswer(int status, String known) throws Exception {
        answer("/close", e -> send(e, status, "no"));
        assertThat(run(call("/close", null, List.of())).getClass().getSimpleName())
                .isEqualTo(known);
    }

    @Test
    void aMissingOutputIsAFailure() throws Exception {
        answer("/close", e -> send(e, 200, "{}"));
        assertThat(((CallOutcome.Failed) run(call("/close", null, List.of()))).why())
                .contains("lacks 'Lock'");
    }

    @Test
    void nobodyListeningIsDefinite() throws Exception {
        Connection gone = new Connection("lanes", "Lane controller", "http://127.0.0.1:1", List.of(), null);
        assertThat(connector.call(call("/close", null, List.of()), gone, null, heartbeat))
                .isInstanceOf(CallOutcome.Failed.class);
    }

    @Test
    void aBrokenLineLeavesItUnknown() throws Exception {
        answer("/close", HttpExchange::close);
        assertThat(run(call("/close", null, List.of()))).isInstanceOf(CallOutcome.Unknown.class);
    }

    @Test
    void onlyAllowedHostsAreReached() throws Exception {
        AtomicInteger reached = new AtomicInteger();
        answer("/close", e -> {
            reached.incrementAndGet();
            send(e, 200, "{}");
        });
        Connection other =
                new Connection("lanes", "Lane controller", "http://lanes.kestrel.example:80", List.of(), null);
        Event.Call aside = call("@127.0.0.1:" + server.getAddress().getPort() + "/close", null, List.of());
        assertThat(connector.call(aside, other, null, heartbeat)).isInstanceOf(CallOutcome.Failed.class);
        assertThat(reached).hasValue(0);
    }

    @Test
    void aLongJobIsAskedAfterUntilDone() throws Exception {
        AtomicInteger asked = new AtomicInteger();
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\"}"));
        answer(
                "/jobs/1",
                e -> send(
                        e,
                        200,
                        asked.incrementAndGet() < 2
                                ? "{\"state\":\"working\"}"
                                : "{\"state\":\"up\",\"lock\":\"T-1\"}"));
        Action.Poll poll = new Action.Poll("/job", "/state", "up", "failed", Span.parse("0 s"));
        CallOutcome.Done done = (CallOutcome.Done) run(call("/enrol", poll, List.of()));
        assertThat(done.polls()).isEqualTo(2);
        verify(heartbeat, atLeastOnce()).stillMine();
    }

    @Test
    void aCancelledJobIsNoLongerAskedAfterAndNobodyClaimsToKnowItsEnd() throws Exception {
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\"}"));
        answer("/jobs/1", e -> send(e, 200, "{\"state\":\"working\"}"));
        Action.Poll poll = new Action.Poll("/job", "/state", "up", "failed", Span.parse("0 s"));
        when(heartbeat.cancelled()).thenReturn(false, true);
        assertThat(run(call("/enrol", poll, List.of()))).isInstanceOf(CallOutcome.Unknown.class);
    }

    @Test
    void aJobThatFailsOrIsTakenOverEnds() throws Exception {
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\"}"));
        answer("/jobs/1", e -> send(e, 200, "{\"state\":\"failed\",\"why\":\"no power\"}"));
        Action.Poll poll = new Action.Poll("/job", "/state", "up", "failed", Span.parse("0 s"));
        assertThat(((CallOutcome.Failed) run(call("/enrol", poll, List.of()))).why())
                .contains("no power");
        when(heartbeat.stillMine()).thenReturn(false);
        assertThatThrownBy(() -> connector.call(call("/enrol", poll, List.of()), connection(), null, heartbeat))
                .isInstanceOf(HttpConnector.Abandoned.class);
        verify(heartbeat, atLeastOnce()).stillMine();
    }
}
