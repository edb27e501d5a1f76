package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.mockito.ArgumentMatchers.any;
import static org.mockito.Mockito.atLeastOnce;
import static org.mockito.Mockito.mock;
import static org.mockito.Mockito.verify;
import static org.mockito.Mockito.when;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpHandler;
import com.sun.net.httpserver.HttpServer;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.concurrent.atomic.AtomicInteger;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

class HttpConnectorTest {
    private static final List<Action.Output> OUTPUTS =
            List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT).asRequired(), "/lock"));

    private final HttpConnector connector = new HttpConnector();
    private final HttpConnector.Heartbeat heartbeat = mock(HttpConnector.Heartbeat.class);
    private HttpServer server;

    @BeforeEach
    void start() throws IOException {
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.start();
        when(heartbeat.stillMine()).thenReturn(true);
        when(heartbeat.mayAsk(any())).thenReturn(true);
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
        "302, Unknown",
        "303, Unknown"
    })
    void whatIsKnownOfAnAnswer(int status, String known) throws Exception {
        answer("/close", e -> send(e, status, "no"));
        assertThat(run(call("/close", null, List.of())).getClass().getSimpleName())
                .isEqualTo(known);
    }

    /** W4: whatever answered 2xx has happened, or may have; what we cannot read of it is no failure. */
    @ParameterizedTest
    @ValueSource(
            strings = {
                "{}",
                "",
                "not json",
                "{\"lock\":null}",
                "{\"lock\":{\"a\":1}}",
                "[1,2]",
                "{\"lock\":\"L-1\"",
                "<html>200</html>"
            })
    void aYesThatCannotBeReadLeavesItUnknown(String body) throws Exception {
        answer("/close", e -> send(e, 200, body));
        assertThat(run(call("/close", null, List.of()))).isInstanceOf(CallOutcome.Unknown.class);
    }

    /** A no about what was asked for may be a result of its own, and only the one that was meant. */
    @ParameterizedTest
    @CsvSource({
        "404, 404, gone",
        "410, 410, gone",
        "404, 410, Failed",
        "404, 200, Failed",
        "403, 403, Failed",
        "429, 429, Failed",
        "500, 500, Unknown",
        "503, 503, Failed",
    })
    void aStatusMayBeAResultOfItsOwn(int status, String meant, String known) throws Exception {
        answer("/close", e -> send(e, status, "{\"http:status\":\"" + meant + "\"}"));
        CallOutcome outcome =
                run(call("/close", null, List.of(new Action.OwnResult("gone", Action.OwnResult.STATUS, meant))));
        assertThat(
                        outcome instanceof CallOutcome.Done d
                                ? d.exit()
                                : outcome.getClass().getSimpleName())
                .isEqualTo(known);
    }

    @Test
    void aYesWithAnOutputOfTheWrongTypeLeavesItUnknown() throws Exception {
        answer("/close", e -> send(e, 200, "{\"lock\":\"seven\"}"));
        Event.Call number = new Event.Call(
                "lanes",
                "POST",
                "/close",
                Map.of(),
                "{}",
                null,
                List.of(new Action.Output(Field.of("lock", "Lock", FieldType.NUMBER), "/lock")),
                List.of(),
                3);
        assertThat(((CallOutcome.Unknown) run(number)).why()).contains("said yes");
    }

    /** W3: the time limit covers the whole answer: a peer that sends a byte now and then holds nobody. */
    @Test
    void anAnswerThatDripsEndsAtTheTimeLimit() throws Exception {
        CountDownLatch over = new CountDownLatch(1);
        answer("/close", e -> {
            e.sendResponseHeaders(200, 0);
            try {
                do {
                    e.getResponseBody().write(' ');
                    e.getResponseBody().flush();
                } while (!over.await(50, TimeUnit.MILLISECONDS));
            } catch (InterruptedException | IOException callerIsGone) {
                e.close();
            }
        });
        long started = System.nanoTime();
        CallOutcome outcome = run(call("/close", null, List.of()));
        over.countDown();
        assertThat(((CallOutcome.Unknown) outcome).why()).contains("not complete within the time limit");
        assertThat(Duration.ofNanos(System.nanoTime() - started))
                .isBetween(Duration.ofSeconds(2), Duration.ofSeconds(20));
    }

    /** W3: nor is more taken than an answer may have. */
    @Test
    void anAnswerWithoutEndIsNotTakenWhole() throws Exception {
        answer("/close", e -> {
            e.sendResponseHeaders(200, 0);
            byte[] much = new byte[100_000];
            try {
                for (int i = 0; i < 10_000; i++) {
                    e.getResponseBody().write(much);
                }
            } catch (IOException callerIsGone) {
                e.close();
            }
        });
        assertThat(((CallOutcome.Unknown) run(call("/close", null, List.of()))).why())
                .contains("longer than");
    }

    /** W4: a job that was accepted has begun; trouble while asking after it says nothing about it. */
    @ParameterizedTest
    @CsvSource({"/jobs/gone", "http://elsewhere.example/jobs/1", "''"})
    void troubleAfterAJobWasAcceptedLeavesItUnknown(String link) throws Exception {
        answer("/enrol", e -> send(e, 202, "{\"job\":\"" + link + "\",\"state\":\"working\"}"));
        Action.Poll poll = new Action.Poll("/job", "/state", "up", "failed", Span.parse("0 s"));
        assertThat(run(call("/enrol", poll, List.of()))).isInstanceOf(CallOutcome.Unknown.class);
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
        assertThat(connector.call(aside, other, null, heartbeat))
                .isInstanceOfSatisfying(
                        CallOutcome.Fault.class, f -> assertThat(f.sent()).isFalse());
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

    private static final Action.Poll TELLING =
            new Action.Poll("/job", "/state", "up", "failed", Span.parse("0 s"), "/percent", "/said", true);

    @Test
    void aJobSaysHowFarItIsWhenThatIsOtherwiseThanBefore() throws Exception {
        AtomicInteger asked = new AtomicInteger();
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\",\"percent\":0}"));
        answer("/jobs/1", e -> {
            int n = asked.incrementAndGet();
            send(
                    e,
                    200,
                    n < 3
                            ? "{\"state\":\"working\",\"percent\":40,\"said\":\"copies  top-secret\"}"
                            : n == 3
                                    ? "{\"state\":\"working\",\"percent\":\"many\",\"said\":\"starts\"}"
                                    : "{\"state\":\"up\",\"percent\":700,\"lock\":\"T-1\"}");
        });
        List<String> heard = new java.util.ArrayList<>();
        org.mockito.Mockito.doAnswer(i -> heard.add(i.getArgument(0)))
                .when(heartbeat)
                .heard(any());
        assertThat(run(call("/enrol", TELLING, List.of()))).isInstanceOf(CallOutcome.Done.class);
        assertThat(heard.getFirst()).startsWith("POST ");
        assertThat(heard.subList(1, heard.size()))
                .containsExactly("0 %\n", "40 %: copies •••\n", "starts\n", "100 %\n");
    }

    /** M7: it has ended when it says so. */
    @Test
    void aJobThatCanBeCancelledIsToldAndSaysThatItEnded() throws Exception {
        AtomicInteger told = new AtomicInteger();
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\"}"));
        answer("/jobs/1", e -> {
            if (e.getRequestMethod().equals("DELETE")) {
                told.incrementAndGet();
            }
            send(e, 200, told.get() > 0 ? "{\"state\":\"failed\",\"why\":\"called off\"}" : "{\"state\":\"working\"}");
        });
        when(heartbeat.mayCancel(any())).thenReturn(true);
        when(heartbeat.cancelled()).thenReturn(false, true);
        assertThat(run(call("/enrol", TELLING, List.of())))
                .isInstanceOfSatisfying(CallOutcome.Failed.class, f -> assertThat(f.why())
                        .contains("cancelled while", "'failed': called off"));
        assertThat(told).hasValue(1);
    }

    @Test
    void oneThatWasToldButIsDoneAllTheSameIsDone() throws Exception {
        AtomicInteger told = new AtomicInteger();
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\"}"));
        answer("/jobs/1", e -> {
            if (e.getRequestMethod().equals("DELETE")) {
                told.incrementAndGet();
            }
            send(e, 200, told.get() > 0 ? "{\"state\":\"up\",\"lock\":\"T-1\"}" : "{\"state\":\"working\"}");
        });
        when(heartbeat.mayCancel(any())).thenReturn(true);
        when(heartbeat.cancelled()).thenReturn(true);
        assertThat(run(call("/enrol", TELLING, List.of()))).isInstanceOf(CallOutcome.Done.class);
    }

    @Test
    void oneThatDoesNotLetItselfBeCancelledOrMayNotBeIsNotKnown() throws Exception {
        AtomicInteger told = new AtomicInteger();
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/jobs/1\",\"state\":\"working\"}"));
        answer("/jobs/1", e -> {
            boolean delete = e.getRequestMethod().equals("DELETE");
            told.addAndGet(delete ? 1 : 0);
            send(e, delete ? 405 : 200, "{\"state\":\"working\"}");
        });
        when(heartbeat.cancelled()).thenReturn(true);
        when(heartbeat.mayCancel(any())).thenReturn(false);
        assertThat(run(call("/enrol", TELLING, List.of()))).isInstanceOf(CallOutcome.Unknown.class);
        assertThat(told).hasValue(0);
        when(heartbeat.mayCancel(any())).thenReturn(true);
        assertThat(run(call("/enrol", TELLING, List.of())))
                .isInstanceOfSatisfying(
                        CallOutcome.Unknown.class, u -> assertThat(u.why()).contains("could not be told to end"));
        assertThat(told).hasValue(1);
    }

    /** It was accepted, so that it may have been done; where its job is told must not be looked at. */
    @Test
    void aJobIsNotAskedAfterWhereThatIsNotAllowed() throws Exception {
        AtomicInteger asked = new AtomicInteger();
        answer("/enrol", e -> send(e, 202, "{\"job\":\"/secrets\",\"state\":\"working\"}"));
        answer("/secrets", e -> {
            asked.incrementAndGet();
            send(e, 200, "{\"state\":\"up\"}");
        });
        when(heartbeat.mayAsk(any())).thenReturn(false);
        Action.Poll poll = new Action.Poll("/job", "/state", "up", "failed", Span.parse("0 s"));
        assertThat(run(call("/enrol", poll, List.of())))
                .isInstanceOfSatisfying(
                        CallOutcome.Unknown.class, u -> assertThat(u.why()).contains("not allowed", "/secrets"));
        assertThat(asked).hasValue(0);
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

    // --- tests of a connection

    private Greeted greet(String secret, String... calls) throws Exception {
        try (Connectors all = new Connectors()) {
            return all.greet(
                    connection(),
                    secret,
                    java.util.Arrays.stream(calls)
                            .map(c -> c.split(" "))
                            .map(c ->
                                    new Event.Call("lanes", c[0], c[1], Map.of(), "{}", null, List.of(), List.of(), 3))
                            .toList());
        }
    }

    /** Tells what may be done to whoever comes with the right token; anything else than asking fails the test. */
    private void telling(String path, String methods) {
        answer(path, e -> {
            assertThat(e.getRequestMethod()).isEqualTo("OPTIONS");
            boolean known = "Bearer top-secret".equals(e.getRequestHeaders().getFirst("Authorization"));
            if (known && !methods.isEmpty()) {
                e.getResponseHeaders().add("Allow", methods);
            }
            e.sendResponseHeaders(known ? 204 : 401, -1);
            e.close();
        });
    }

    @Test
    void aTestAsksWhatMayBeDoneAndDoesNothing() throws Exception {
        telling("/close", "POST, OPTIONS");
        telling("/lanes", "GET");
        telling("/quiet", "");
        Greeted said = greet("top-secret", "POST /close", "POST /lanes", "GET /quiet", "GET /none");
        assertThat(said.letIn()).isEqualTo(Greeted.Says.YES);
        assertThat(said.given())
                .extracting(Greeted.Given::says)
                .containsExactly(Greeted.Says.YES, Greeted.Says.NO, Greeted.Says.CANNOT_SAY, Greeted.Says.CANNOT_SAY);
        assertThat(said.given().get(1).why()).isEqualTo("There it allows GET.");

        Greeted refused = greet("guess", "POST /close");
        assertThat(refused.letIn()).isEqualTo(Greeted.Says.NO);
        assertThat(refused.given()).extracting(Greeted.Given::says).containsExactly(Greeted.Says.NO);
    }

    /** That a question is refused says nothing of what it asks about, and what is wrong here nothing of the other side. */
    @Test
    void whatCouldNotBeAskedIsNotTurnedIntoANo() throws Exception {
        answer("/", e -> send(e, 403, ""));
        Greeted said = greet("top-secret", "POST /close");
        assertThat(said.letIn()).isEqualTo(Greeted.Says.CANNOT_SAY);
        assertThat(said.given()).extracting(Greeted.Given::says).containsExactly(Greeted.Says.CANNOT_SAY);
        Greeted ours = Greeted.broken(Answers.Definite.ours("Our key cannot be read."), t -> t, 1);
        assertThat(ours.reached()).isEqualTo(Greeted.Says.CANNOT_SAY);
        assertThat(ours.letIn()).isEqualTo(Greeted.Says.CANNOT_SAY);
    }

    @Test
    void ofAnOpenDoorNobodySaysWhoWasLetInAndWhereNobodyIsNobodyAnswers() throws Exception {
        answer("/open", e -> {
            e.getResponseHeaders().add("Allow", "GET");
            e.sendResponseHeaders(204, -1);
            e.close();
        });
        assertThat(greet("any", "GET /open").letIn()).isEqualTo(Greeted.Says.CANNOT_SAY);
        server.stop(0);
        assertThat(greet("any", "GET /open").reached()).isEqualTo(Greeted.Says.NO);
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.start();
    }
}
