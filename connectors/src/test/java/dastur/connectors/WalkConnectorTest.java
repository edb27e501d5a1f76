package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import com.sun.net.httpserver.HttpExchange;
import com.sun.net.httpserver.HttpServer;
import dastur.connectors.walk.Walking;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.awt.image.BufferedImage;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.util.ArrayList;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CopyOnWriteArrayList;
import java.util.concurrent.atomic.AtomicLong;
import java.util.stream.Stream;
import javax.imageio.ImageIO;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.condition.EnabledIf;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Walks through real pages in a real browser (N46, M12), and pages that do not keep to what they should. */
@EnabledIf("hasBrowser")
class WalkConnectorTest {
    private static final String SECRET = "harbour-7-seals";

    private HttpServer shop;
    private HttpServer elsewhere;
    private final Map<String, String> pages = new LinkedHashMap<>();
    private final List<String> asked = new CopyOnWriteArrayList<>();
    private final List<String> askedElsewhere = new CopyOnWriteArrayList<>();
    private final Companion companion = new Companion();
    private volatile Runnable whenAsked = () -> {};

    static boolean hasBrowser() {
        return Walking.program().isPresent();
    }

    private static class Companion implements Connector.Heartbeat {
        final StringBuilder said = new StringBuilder();
        final Map<String, byte[]> pictures = new LinkedHashMap<>();
        volatile String cancelAt = "never said";

        @Override
        public boolean stillMine() {
            return true;
        }

        @Override
        public boolean cancelled() {
            return said.toString().contains(cancelAt);
        }

        @Override
        public void heard(String text) {
            said.append(text);
        }

        @Override
        public void pictured(String name, byte[] png) {
            pictures.put(name, png);
        }
    }

    @BeforeEach
    void open() throws IOException {
        shop = server(e -> {
            String body = new String(e.getRequestBody().readAllBytes(), StandardCharsets.UTF_8);
            asked.add(e.getRequestMethod() + " " + e.getRequestURI() + (body.isEmpty() ? "" : " " + body));
            whenAsked.run();
            String page = pages.get(e.getRequestURI().getPath());
            answer(e, page, URLDecoder.decode(body, StandardCharsets.UTF_8));
        });
        elsewhere = server(e -> {
            askedElsewhere.add(e.getRequestURI().toString());
            answer(e, "elsewhere", "");
        });
        pages.put("/", """
                <h1>Harbour tickets</h1>
                <form action="/bought" method="post">
                  <label>Name *: <input name="name"></label>
                  <label for="f">Fare</label> <select id="f" name="fare"><option value="a">Adult<option value="c">Child</select>
                  <label>Password <input type="password" name="key"></label>
                  <label><input type="checkbox" name="terms" value="yes"> I agree</label>
                  <button>Buy now</button>
                </form>
                """);
        pages.put(
                "/bought",
                "<h1>Thank you</h1><dl><dt>Ticket number:</dt><dd> KF-77 </dd></dl><p>Sent: {body}</p><a href='/'>Back</a>");
    }

    @AfterEach
    void close() {
        shop.stop(0);
        elsewhere.stop(0);
        assertThat(leftBehind()).isEmpty();
    }

    /** What walks leave in the folder for what is temporary. */
    private static List<Path> leftBehind() {
        try (Stream<Path> all = Files.list(Path.of(System.getProperty("java.io.tmpdir")))) {
            return all.filter(p -> p.getFileName().toString().startsWith("dastur-walk"))
                    .toList();
        } catch (IOException e) {
            throw new java.io.UncheckedIOException(e);
        }
    }

    private static Stream<ProcessHandle> drivers() {
        return ProcessHandle.current()
                .descendants()
                .filter(p -> p.info().command().orElse("").endsWith("chromedriver"));
    }

    private interface Answering {
        void to(HttpExchange exchange) throws IOException;
    }

    private static HttpServer server(Answering answering) throws IOException {
        HttpServer server = HttpServer.create(new InetSocketAddress(InetAddress.getLoopbackAddress(), 0), 0);
        server.createContext("/", e -> {
            try (e) {
                answering.to(e);
            }
        });
        server.setExecutor(Thread::startVirtualThread);
        server.start();
        return server;
    }

    private static void answer(HttpExchange e, @Nullable String page, String body) throws IOException {
        if (page != null && page.startsWith("to ")) {
            e.getResponseHeaders().set("Location", page.substring(3));
            e.sendResponseHeaders(302, -1);
            return;
        }
        byte[] bytes = (page == null ? "Not found" : page.replace("{body}", body)).getBytes(StandardCharsets.UTF_8);
        e.getResponseHeaders().set("Content-Type", "text/html; charset=utf-8");
        e.sendResponseHeaders(page == null ? 404 : 200, bytes.length);
        e.getResponseBody().write(bytes);
    }

    private String elsewhere() {
        return "http://127.0.0.1:" + elsewhere.getAddress().getPort();
    }

    private CallOutcome walk(String steps) throws Exception {
        return walk(steps, List.of(), 60);
    }

    private CallOutcome walk(String steps, List<Action.OwnResult> results, int limit) throws Exception {
        Field number = Field.of("number", "Number", FieldType.TEXT);
        Field status = Field.of("status", "Status", FieldType.TEXT);
        Event.Call call = new Event.Call(
                "shop",
                "WALK",
                "/",
                Map.of(),
                steps,
                null,
                List.of(new Action.Output(number, "/read/number"), new Action.Output(status, "/status")),
                results,
                limit);
        return new WalkConnector(Duration.ofSeconds(2)).call(call, connection(), SECRET, companion);
    }

    private Connection connection() {
        return new Connection(
                "shop", "The shop", "walk+http://127.0.0.1:" + shop.getAddress().getPort(), List.of(), "shop-secret");
    }

    @Test
    void aWalkFindsFieldsAsPeopleNameThemAndTellsWhatItSaw() throws Exception {
        CallOutcome outcome = walk("""
                [{"expect": "Harbour tickets"}, {"type": "Ada \\"L\\" Ström", "into": "Name"}, {"choose": "Child", "in": "Fare"},
                 {"secret": "Password"}, {"press": "I agree"}, {"picture": "Before"}, {"press": "Buy now"},
                 {"expect": "Thank you"}, {"expectNot": "Error"}, {"read": "Ticket number", "as": "number"}, {"picture": "Receipt"}]
                """);

        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, done -> {
            assertThat(done.exit()).isEqualTo("ok");
            assertThat(done.outputs()).containsEntry("number", "KF-77").containsEntry("status", "held");
            assertThat(done.log()).contains("Press “Buy now”", "Expect to see “Thank you”: so it is");
        });
        assertThat(asked.stream().filter(a -> a.startsWith("POST")))
                .containsExactly("POST /bought name=Ada+%22L%22+Str%C3%B6m&fare=c&key=" + SECRET + "&terms=yes");
        assertThat(companion.pictures).containsOnlyKeys("Before", "Receipt");
    }

    @Test
    void theSecretIsInNoPictureNoLogAndNoAnswer() throws Exception {
        pages.put(
                "/bought",
                "<h1 id=k>Thank you</h1><p>{body}</p><dl><dt>Key</dt><dd>" + SECRET + "</dd></dl><p>shown " + SECRET);
        CallOutcome outcome = walk("""
                [{"secret": "Password"}, {"picture": "Typed"}, {"press": "Buy now"}, {"picture": "Told back"},
                 {"read": "Key", "as": "number"}, {"expect": "nothing of it"}]
                """, List.of(new Action.OwnResult("missed", "/status", "missed")), 60);

        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, done -> {
            assertThat(done.exit()).isEqualTo("missed");
            assertThat(done.outputs()).containsEntry("number", "•••");
        });
        assertThat(outcome.toString() + companion.said).doesNotContain(SECRET);
        // A field that is covered is a black box: more of the picture is black than letters make.
        assertThat(black(companion.pictures.get("Typed"))).isGreaterThan(1_500);
        assertThat(black(companion.pictures.get("Told back"))).isLessThan(1_500);
    }

    private static long black(byte[] png) throws IOException {
        BufferedImage image = ImageIO.read(new ByteArrayInputStream(png));
        long count = 0;
        for (int x = 0; x < image.getWidth(); x++) {
            for (int y = 0; y < image.getHeight(); y++) {
                count += (image.getRGB(x, y) & 0xFFFFFF) == 0 ? 1 : 0;
            }
        }
        return count;
    }

    @Test
    void nothingButTheConnectionIsReachedWhateverThePageSays() throws Exception {
        int port = elsewhere.getAddress().getPort();
        pages.put("/leave", "to " + elsewhere() + "/redirected");
        pages.put(
                "/",
                "<h1>Harbour tickets</h1><img src='" + elsewhere() + "/picture'>"
                        + "<iframe src='http://localhost:" + port + "/frame'></iframe>"
                        + "<script src='http://[::1]:" + port + "/script'></script>"
                        + "<script>fetch('http://2130706433:" + port
                        + "/fetched').catch(() => document.title = 'refused');"
                        + "try { new WebSocket('ws://127.0.0.1:" + port + "/socket') } catch (e) {}"
                        + "try { new RTCPeerConnection({iceServers: [{urls: 'turn:127.0.0.1:" + port
                        + "?transport=tcp', username: 'a', credential: 'b'}]}).createDataChannel('x') } catch (e) {}</script>"
                        + "<a href='" + elsewhere() + "/pressed'>Away</a>");
        CallOutcome outcome =
                walk("[{\"expect\": \"Harbour tickets\"}, {\"press\": \"Away\"}, {\"expect\": \"elsewhere\"}]");
        CallOutcome led = walk("[{\"open\": \"/leave\"}, {\"expect\": \"elsewhere\"}]");

        assertThat(outcome).isInstanceOf(CallOutcome.Fault.class);
        assertThat(led).isInstanceOf(CallOutcome.Failed.class);
        assertThat(askedElsewhere).isEmpty();
    }

    @Test
    void whatDoesNotHoldIsToldWithAPictureAndTheWalkGoesOn() throws Exception {
        CallOutcome outcome = walk(
                "[{\"expect\": \"Closed today\"}, {\"expect\": \"Harbour tickets\"}]",
                List.of(new Action.OwnResult("a check failed", "/status", "missed")),
                60);

        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Done.class, done -> assertThat(done.exit())
                .isEqualTo("a check failed"));
        assertThat(companion.pictures).containsOnlyKeys("Not so: Expect to see “Closed today”");
        assertThat(companion.said).contains("“Harbour tickets”: so it is");
    }

    @Test
    void withoutAResultForItWhatDoesNotHoldIsAFailureAndIsNotTriedAgainOnceSomethingWasPressed() throws Exception {
        assertThat(walk("[{\"expect\": \"Closed today\"}]"))
                .isEqualTo(new CallOutcome.Failed("1 of 1 checks did not hold: Expect to see “Closed today”."));
        assertThat(walk("[{\"press\": \"Buy now\"}, {\"expect\": \"Closed today\"}]"))
                .isEqualTo(new CallOutcome.Fault("1 of 1 checks did not hold: Expect to see “Closed today”.", false));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
        {"type": "x", "into": "Nam"}       | there is none of that name. There are: Name, Fare, Password.
        {"press": "Buy"}                   | There are: I agree, Buy now.
        {"choose": "Senior", "in": "Fare"} | it has no “Senior” to choose
        {"read": "Ticket number", "as": "n"} | there is none of that name.
        """)
    void whatIsNotThereIsToldWithWhatThereIs(String step, String why) throws Exception {
        CallOutcome outcome = walk("[" + step + ", {\"expect\": \"Thank you\"}]");

        assertThat(outcome).isInstanceOfSatisfying(CallOutcome.Failed.class, failed -> assertThat(failed.why())
                .startsWith("Step 1, ")
                .contains(why));
        assertThat(companion.pictures).containsOnlyKeys("Stuck at step 1");
    }

    @Test
    void twoOfOneNameAreNotGuessedBetween() throws Exception {
        pages.put("/", "<button>Buy now</button><a href='/bought'>Buy now</a><button hidden>Buy now</button>");

        assertThat(walk("[{\"press\": \"Buy now\"}]"))
                .isInstanceOfSatisfying(CallOutcome.Failed.class, failed -> assertThat(failed.why())
                        .contains("there are 2 of that name, and nobody says which"));
        assertThat(asked).noneMatch(a -> a.contains("/bought"));
    }

    @Test
    void whatComesLaterIsWaitedFor() throws Exception {
        pages.put(
                "/",
                "<p id=p>Loading</p><script>setTimeout(() => p.innerHTML = '<button>Go</button> Ready', 700)</script>");

        assertThat(walk("[{\"press\": \"Go\"}, {\"expect\": \"Ready\"}, {\"expectNot\": \"Loading\"}]"))
                .isInstanceOf(CallOutcome.Done.class);
    }

    @Test
    void aPageThatAsksByABoxOfTheBrowserIsNotStuckInIt() throws Exception {
        pages.put(
                "/", "<button onclick=\"document.title = confirm('Really?'); this.textContent = 'Asked'\">Go</button>");

        CallOutcome outcome = walk("[{\"press\": \"Go\"}, {\"expect\": \"Asked\"}]");

        assertThat(outcome).isInstanceOf(CallOutcome.Done.class);
    }

    @Test
    void itEndsWhenItsTimeIsOverOrNobodyWantsIt() throws Exception {
        // Shorter than something is waited for: also where a browser starts at once, its time is over first.
        assertThat(walk("[{\"expect\": \"never\"}]", List.of(), 1))
                .isEqualTo(new CallOutcome.Failed("The walk was not done within its time limit."));

        companion.cancelAt = "Press “Buy now”";
        assertThat(walk("[{\"press\": \"Buy now\"}, {\"expect\": \"never\"}]"))
                .isEqualTo(new CallOutcome.Unknown("It was cancelled while it was under way."));
    }

    @Test
    void whenTheBrowserDiesAfterSomethingWasPressedNobodyKnows() throws Exception {
        whenAsked = () -> {
            if (asked.getLast().startsWith("POST")) {
                drivers().forEach(ProcessHandle::destroyForcibly);
            }
        };
        CallOutcome outcome = walk("[{\"press\": \"Buy now\"}, {\"expect\": \"never\"}]");

        assertThat(outcome).isInstanceOf(CallOutcome.Unknown.class);
    }

    @Test
    void aShopThatIsNotThereIsNotReached() throws Exception {
        shop.stop(0);

        assertThat(walk("[{\"expect\": \"Harbour tickets\"}]"))
                .isInstanceOfSatisfying(CallOutcome.Failed.class, failed -> {
                    assertThat(failed.unreached()).isTrue();
                    assertThat(failed.why()).contains("The shop: / could not be opened: net::ERR_");
                });
    }

    @Test
    void whatIsLeftOfAProcessThatWasKilledIsClearedAwayByTheNextWalk() throws Exception {
        Process gone = new ProcessBuilder("true").start();
        gone.waitFor();
        Path folder = Files.createDirectories(
                Path.of(System.getProperty("java.io.tmpdir"), "dastur-walk-" + gone.pid() + "-left", "profile"));
        Process orphan = new ProcessBuilder("sh", "-c", "read x", "--user-data-dir=" + folder).start();

        walk("[{\"expect\": \"Harbour tickets\"}]");

        assertThat(orphan.onExit().get()).isEqualTo(orphan);
        assertThat(folder.getParent()).doesNotExist();
    }

    @Test
    void atMostTwoAreUnderWay() throws Exception {
        List<Thread> walks = new ArrayList<>();
        List<CallOutcome> outcomes = new CopyOnWriteArrayList<>();
        AtomicLong most = new AtomicLong();
        whenAsked = () -> most.accumulateAndGet(drivers().count(), Math::max);
        pages.put("/", "<h1>Harbour tickets</h1><script>setTimeout(() => document.body.append('Done'), 500)</script>");
        for (int i = 0; i < 4; i++) {
            walks.add(Thread.ofVirtual().start(() -> {
                try {
                    outcomes.add(new Connectors()
                            .call(
                                    new Event.Call(
                                            "shop",
                                            "WALK",
                                            "/",
                                            Map.of(),
                                            "[{\"expect\": \"Done\"}]",
                                            null,
                                            List.of(),
                                            List.of(),
                                            60),
                                    connection(),
                                    SECRET,
                                    new Companion()));
                } catch (Connector.Abandoned e) {
                    throw new IllegalStateException(e);
                }
            }));
        }
        for (Thread walk : walks) {
            walk.join();
        }

        assertThat(outcomes).hasSize(4).allMatch(o -> o instanceof CallOutcome.Done);
        assertThat(most.get()).isEqualTo(2);
    }
}
