package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Collections;
import java.util.List;
import java.util.Map;
import java.util.concurrent.Executors;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.IntStream;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Answers that are no JSON, that come in pages, or that lead elsewhere (M10). */
class HttpFormatsTest {
    private final HttpConnector connector = new HttpConnector();
    private final List<String> asked = Collections.synchronizedList(new ArrayList<>());
    private HttpServer server;
    private HttpServer other;

    @BeforeEach
    void start() throws IOException {
        server = serve();
        other = serve();
    }

    private static HttpServer serve() throws IOException {
        HttpServer server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.start();
        return server;
    }

    @AfterEach
    void stop() {
        server.stop(0);
        other.stop(0);
    }

    private static String host(HttpServer server) {
        return "127.0.0.1:" + server.getAddress().getPort();
    }

    private static void send(HttpExchange e, int status, String type, String body, Charset charset) throws IOException {
        byte[] bytes = body.getBytes(charset);
        e.getResponseHeaders().set("Content-Type", type);
        e.sendResponseHeaders(status, bytes.length);
        e.getResponseBody().write(bytes);
        e.close();
    }

    private static void send(HttpExchange e, int status, String type, String body) throws IOException {
        send(e, status, type, body, StandardCharsets.UTF_8);
    }

    private CallOutcome ask(String path, Action.@Nullable Pages pages, List<String> hosts, Action.Output... outputs)
            throws Connector.Abandoned {
        return connector.call(
                new Event.Call("c", "GET", path, Map.of(), null, null, List.of(outputs), List.of(), 10, pages),
                new Connection("c", "C", "http://" + host(server), hosts, "top-secret"),
                "top-secret",
                () -> true);
    }

    private static Action.Output output(String place, FieldType type) {
        return new Action.Output(Field.of("x", "X", type), place);
    }

    private static Object x(CallOutcome outcome) {
        assertThat(outcome).isInstanceOf(CallOutcome.Done.class);
        return ((CallOutcome.Done) outcome).outputs().get("x");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            application/json           | {"a":[1,2]}           | /a/1                | 2
            text/plain                 | {"a":7}               | /a                  | 7
            text/plain                 | it is up              | /text               | it is up
            text/html                  | <p>up                 | /lines/0            | <p>up
            application/xml            | <a><b c="7"/></a>     | xpath://b/@c        | 7
            text/xml; charset=utf-8    | <x:a xmlns:x="u">é</x:a> | xpath:/a         | é
            """)
    void whateverItComesAsIsRead(String type, String body, String place, String value) throws Exception {
        server.createContext("/", e -> send(e, 200, type, body));
        assertThat(x(ask("/", null, List.of(), output(place, FieldType.TEXT)))).isEqualTo(value);
    }

    @Test
    void aTextIsReadInItsOwnCharacterSet() throws Exception {
        server.createContext(
                "/", e -> send(e, 200, "text/plain; charset=\"ISO-8859-1\"", "Grün", StandardCharsets.ISO_8859_1));
        assertThat(x(ask("/", null, List.of(), output("/text", FieldType.TEXT))))
                .isEqualTo("Grün");
        server.createContext("/no", e -> send(e, 200, "text/plain; charset=no-such-set", "Grün"));
        assertThat(x(ask("/no", null, List.of(), output("/text", FieldType.TEXT))))
                .isEqualTo("Grün");
    }

    @Test
    void commaSeparatedValuesAreATable() throws Exception {
        server.createContext("/", e -> send(e, 200, "text/csv", "gate,state\r\nG1,\"open, wide\"\r\nG2,closed\r\n"));
        assertThat(x(ask("/", null, List.of(), output("/rows", FieldType.LIST))))
                .isEqualTo(
                        List.of(Map.of("gate", "G1", "state", "open, wide"), Map.of("gate", "G2", "state", "closed")));
        assertThat(x(ask("/", null, List.of(), output("/count", FieldType.WHOLE))))
                .isEqualTo(2L);
    }

    @Test
    void xmlThatMeansHarmIsNotReadAndNothingOfItComesBack() throws Exception {
        server.createContext(
                "/",
                e -> send(
                        e,
                        200,
                        "application/xml",
                        "<!DOCTYPE a [<!ENTITY x SYSTEM \"file:///etc/passwd\">]><a>&x;</a>"));
        CallOutcome outcome = ask("/", null, List.of(), output("xpath:/a", FieldType.TEXT));
        assertThat(outcome).isInstanceOf(CallOutcome.Unknown.class);
        assertThat(outcome.toString()).contains("no XML that can be read").doesNotContain("root:");
    }

    // --- pages

    /** Three pages of two, each after the way that is said. */
    private void pages(boolean byLink) {
        server.createContext("/list", e -> {
            String query = e.getRequestURI().getQuery();
            int page = query == null ? 0 : Integer.parseInt(query.substring("page=".length()));
            asked.add(String.valueOf(page));
            boolean last = page == 2;
            if (byLink && !last) {
                e.getResponseHeaders()
                        .set(
                                "Link",
                                "</list?page=0>; rel=\"first\", </list?page=" + (page + 1)
                                        + ">; title=\"x\"; rel=\"next\"");
            }
            String next = byLink || last ? "" : ",\"next\":\"/list?page=" + (page + 1) + "\"";
            send(
                    e,
                    200,
                    "application/json",
                    "{\"d\":{\"items\":[{\"n\":" + page * 2 + "},{\"n\":" + (page * 2 + 1) + "}]}" + next + "}");
        });
    }

    private static List<Object> numbers(int count) {
        return IntStream.range(0, count)
                .mapToObj(n -> (Object) Map.of("n", (long) n))
                .toList();
    }

    @ParameterizedTest
    @ValueSource(booleans = {true, false})
    void allPagesAreReadAsOne(boolean byLink) throws Exception {
        pages(byLink);
        Action.Pages pages = new Action.Pages("/d/items", byLink ? null : "/next", 3);
        assertThat(x(ask("/list", pages, List.of(), output("/d/items", FieldType.LIST))))
                .isEqualTo(numbers(6));
        assertThat(asked).containsExactly("0", "1", "2");
    }

    /** A check on a part of a list would say of the whole what nobody has seen. */
    @Test
    void moreThanItMayBeIsAFailureAndNeverAPart() throws Exception {
        pages(false);
        CallOutcome outcome =
                ask("/list", new Action.Pages("/d/items", "/next", 2), List.of(), output("/d/items", FieldType.LIST));
        assertThat(outcome).isEqualTo(new CallOutcome.Failed("The answer has more than 2 pages."));
    }

    @Test
    void pagesThatGoRoundOrHoldNoListOrLeadOutsideAreAFailure() throws Exception {
        Action.Pages pages = new Action.Pages("/items", "/next", 50);
        server.createContext("/round", e -> send(e, 200, "application/json", "{\"items\":[1],\"next\":\"/round?x\"}"));
        assertThat(ask("/round", pages, List.of()).toString()).contains("round in a circle");
        server.createContext("/none", e -> send(e, 200, "application/json", "{\"items\":{}}"));
        assertThat(ask("/none", pages, List.of())).isEqualTo(new CallOutcome.Failed("A page has no list at /items."));
        other.createContext("/", e -> asked.add("other"));
        server.createContext(
                "/out",
                e -> send(e, 200, "application/json", "{\"items\":[],\"next\":\"http://" + host(other) + "/\"}"));
        assertThat(ask("/out", pages, List.of())).isNotInstanceOf(CallOutcome.Done.class);
        assertThat(asked).isEmpty();
    }

    @Test
    void aPageThatFailsLeavesNoPart() throws Exception {
        server.createContext("/half", e -> {
            boolean first = e.getRequestURI().getQuery() == null;
            send(e, first ? 200 : 404, "application/json", "{\"items\":[1],\"next\":\"/half?p\"}");
        });
        assertThat(ask("/half", new Action.Pages("/items", "/next", 5), List.of(), output("/items", FieldType.LIST)))
                .isNotInstanceOf(CallOutcome.Done.class);
    }

    // --- led elsewhere

    private void leads(HttpServer from, String path, String to) {
        from.createContext(path, e -> {
            asked.add(path);
            e.getResponseHeaders().set("Location", to);
            e.sendResponseHeaders(302, -1);
            e.close();
        });
    }

    @Test
    void whatAsksIsFollowedToHostsThatAreAllowedAndToNoOther() throws Exception {
        AtomicInteger reached = new AtomicInteger();
        other.createContext("/there", e -> {
            reached.incrementAndGet();
            send(e, 200, "application/json", "{\"a\":\"here\"}");
        });
        leads(server, "/from", "http://" + host(other) + "/there");
        assertThat(ask("/from", null, List.of(), output("/a", FieldType.TEXT))).isNotInstanceOf(CallOutcome.Done.class);
        assertThat(reached.get()).as("nobody wrote it down").isZero();
        assertThat(x(ask("/from", null, List.of(host(other)), output("/a", FieldType.TEXT))))
                .isEqualTo("here");
        leads(server, "/round", "/round");
        asked.clear();
        assertThat(ask("/round", null, List.of())).isInstanceOf(CallOutcome.Unknown.class);
        assertThat(asked).hasSize(4);
    }

    @Test
    void eachWayLeadsOnFromWhereItStandsAndOneThatIsNoAddressLeavesItOpen() throws Exception {
        leads(server, "/from", "http://" + host(other) + "/deep/there");
        leads(other, "/deep/there", "here");
        other.createContext("/deep/here", e -> send(e, 200, "application/json", "{\"a\":\"here\"}"));
        assertThat(x(ask("/from", null, List.of(host(other)), output("/a", FieldType.TEXT))))
                .isEqualTo("here");
        leads(server, "/broken", "http://[no address");
        assertThat(ask("/broken", null, List.of())).isInstanceOf(CallOutcome.Unknown.class);
    }

    @Test
    void whatMayChangeSomethingIsNeverSentElsewhere() throws Exception {
        AtomicInteger reached = new AtomicInteger();
        server.createContext("/there", e -> {
            reached.incrementAndGet();
            send(e, 200, "application/json", "{}");
        });
        leads(server, "/from", "/there");
        CallOutcome outcome = connector.call(
                new Event.Call("c", "POST", "/from", Map.of(), "{}", null, List.of(), List.of(), 10),
                new Connection("c", "C", "http://" + host(server), List.of(), null),
                null,
                () -> true);
        assertThat(outcome).isInstanceOf(CallOutcome.Unknown.class);
        assertThat(reached.get()).isZero();
    }
}
