package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.io.IOException;
import java.net.InetAddress;
import java.net.InetSocketAddress;
import java.net.Socket;
import java.net.http.HttpClient;
import java.nio.charset.StandardCharsets;
import java.util.List;
import java.util.Map;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Lines of syslog over TCP, sent by the program that Linux has for it, and by some that mean no good (I2, I18). */
class SyslogTest extends OnDemo {
    private static int port() {
        return api.app().app().signalling().syslog().port();
    }

    private static JsonNode source() {
        return api.call("ada", "GET", "/api/sources/gate-log", null).body();
    }

    private static Answer set(String person, String key, String member, Object value) {
        ObjectNode body = (ObjectNode) source().get("source");
        body.remove("key");
        body.set(member, Json.read(Json.write(value), JsonNode.class));
        return api.call(person, "PUT", "/api/sources/" + key, body.toString());
    }

    private static String line(String gate, String message, String text) {
        String level = message.equals("STUCK") ? "<131>" : "<133>";
        return level + "1 - - gates - " + message + " [gate@32473 id=\"" + gate + "\"] " + text;
    }

    private static byte[] counted(String line) {
        byte[] bytes = line.getBytes(StandardCharsets.UTF_8);
        return (bytes.length + " " + line).getBytes(StandardCharsets.UTF_8);
    }

    private static Socket connected(String from) throws IOException {
        Socket socket = new Socket();
        socket.bind(new InetSocketAddress(InetAddress.getByName(from), 0));
        socket.connect(new InetSocketAddress("127.0.0.1", port()), 5_000);
        socket.setSoTimeout(20_000);
        return socket;
    }

    private static void send(byte[]... parts) throws IOException {
        try (Socket socket = connected("127.0.0.1")) {
            for (byte[] part : parts) {
                socket.getOutputStream().write(part);
            }
            socket.getOutputStream().flush();
        }
    }

    private static List<String> titles() {
        return api.call("ada", "GET", "/api/signals?source=gate-log", null)
                .body()
                .findValuesAsText("title");
    }

    private static JsonNode matterOf(String gate) {
        for (JsonNode m : api.call("ada", "GET", "/api/matters", null).body().get("matters")) {
            if (m.path("ci").asText().equals(gate) && m.get("key").asText().endsWith("stands open")) {
                return m;
            }
        }
        return Json.read("{}", JsonNode.class);
    }

    private static void logger(String gate, String message, String priority, String text) throws Exception {
        Process logger = new ProcessBuilder(
                        "logger",
                        "--server",
                        "127.0.0.1",
                        "--tcp",
                        "--port",
                        String.valueOf(port()),
                        "--octet-count",
                        "--rfc5424",
                        "--sd-id",
                        "gate@32473",
                        "--sd-param",
                        "id=\"" + gate + "\"",
                        "--msgid",
                        message,
                        "--tag",
                        "gates",
                        "--priority",
                        priority,
                        text)
                .inheritIO()
                .start();
        assertThat(logger.waitFor(20, TimeUnit.SECONDS)).isTrue();
        assertThat(logger.exitValue()).isZero();
    }

    /** It opens an incident and starts nothing by itself, neither by the signal nor by the incident that it made. */
    @Test
    void aLineOfLoggerOpensAnIncidentAndPeopleAreAskedWhatToStart() throws Exception {
        logger("ALD-G4", "STUCK", "local0.err", "Gate 4 at Alder Pier stands open");
        until(() -> matterOf("ALD-G4").has("ticket"));
        assertThat(matterOf("ALD-G4").get("worst").asText()).isEqualTo("major");
        String number = matterOf("ALD-G4").get("ticket").asText();
        JsonNode ticket = ticket("ada", number);
        assertThat(ticket.at("/fields/title").asText()).isEqualTo("Gate 4 at Alder Pier stands open");
        assertThat(ticket.at("/fields/ci").asText()).isEqualTo("ALD-G4");
        assertThat(ticket.get("runs")).isEmpty();
        assertThat(ticket.get("offers").toString()).contains("Gate lane stuck open");
        logger("ALD-G4", "WELL", "local0.notice", "Gate 4 at Alder Pier is well");
        until(() -> matterOf("ALD-G4").get("inFault").isEmpty());
    }

    @Test
    void linesOneOnEachAndMixedWithCountedOnesAreAllKept() throws IOException {
        String mark = UUID.randomUUID().toString();
        StringBuilder all = new StringBuilder();
        for (int i = 0; i < 450; i++) {
            String line = line("ALD-G1", "SEEN", mark + " " + i);
            all.append(i % 2 == 0 ? line + "\n" : new String(counted(line), StandardCharsets.UTF_8));
        }
        long before = source().at("/line/day").asLong();
        send(all.toString().getBytes(StandardCharsets.UTF_8));
        until(() -> source().at("/line/day").asLong() == before + 450);
        until(() -> titles().contains(mark + " 449"));
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "99999999 <131>1 - - - - - -|too large",
                "12x<131>1|not readable",
                "hello|not readable",
                "40 <131>1 - - gates - STUCK - half|not readable",
                "<131>Oct 11 22:14:15 gate su: old|not readable",
            })
    void whatIsNoLineEndsThereIsCountedAndTakesNothingWithIt(String sent, String reason) throws IOException {
        String mark = UUID.randomUUID().toString();
        long before = refused(reason);
        send(counted(line("ALD-G1", "SEEN", mark)), sent.getBytes(StandardCharsets.UTF_8));
        until(() -> titles().contains(mark));
        until(() -> refused(reason) > before);
    }

    @Test
    void aLineWithoutAnEndAndOneThatIsNotUtf8AreRefused() throws IOException {
        long large = refused("too large");
        send(("<131>1 " + "x".repeat(70_000)).getBytes(StandardCharsets.UTF_8));
        until(() -> refused("too large") > large);
        long broken = refused("not readable");
        send(new byte[] {'3', ' ', '<', (byte) 0xC3, (byte) 0x28});
        until(() -> refused("not readable") > broken);
    }

    private static long refused(String reason) {
        long sum = 0;
        for (JsonNode r : source().get("refused")) {
            sum += r.get("reason").asText().equals(reason) ? r.get("count").asLong() : 0;
        }
        return sum;
    }

    @Test
    void nothingIsTakenFromElsewhereNorWhileItIsShut() throws IOException {
        String mark = UUID.randomUUID().toString();
        try (Socket elsewhere = connected("127.0.0.9")) {
            assertThat(elsewhere.getInputStream().read()).as("it is hung up on").isEqualTo(-1);
        }
        assertThat(set("halvard", "gate-log", "open", false).status()).isEqualTo(200);
        try (Socket shut = connected("127.0.0.1")) {
            shut.getOutputStream().write(counted(line("ALD-G1", "SEEN", mark + " shut")));
            assertThat(shut.getInputStream().read()).isEqualTo(-1);
        } finally {
            assertThat(set("halvard", "gate-log", "open", true).status()).isEqualTo(200);
        }
        send(counted(line("ALD-G1", "SEEN", mark + " after")));
        until(() -> titles().contains(mark + " after"));
        assertThat(titles()).doesNotContain(mark + " shut");
        until(() -> refused("shut") > 0);
    }

    @Test
    void whereItMayComeFromIsSetByAdministratorsOnlyAndNamesNoOthersAddress() {
        assertThat(set("ines", "gate-log", "from", List.of("10.0.0.0/8")).status())
                .isEqualTo(403);
        Answer name = set("halvard", "gate-log", "from", List.of("127.0.0.1", "gates.example"));
        assertThat(name.status()).isEqualTo(422);
        assertThat(name.raw().body()).contains("from[1]").contains("neither an address nor a network");
        Answer anothers = set("halvard", "other-gates", "from", List.of("127.0.0.0/8"));
        assertThat(anothers.status()).isEqualTo(422);
        assertThat(anothers.raw().body()).contains("Gates, by syslog");
        assertThat(set("halvard", "other-gates", "proof", "token").raw().body()).contains("Only a source of syslog");
        assertThat(api.call("halvard", "POST", "/api/sources/gate-log/secrets", "{\"which\":1}")
                        .status())
                .isEqualTo(409);
        assertThat(api.send(
                                HttpClient.newHttpClient(),
                                "POST",
                                "/in/gate-log",
                                "{\"message\":\"STUCK\"}",
                                Map.of("Content-Type", "application/json"))
                        .status())
                .isEqualTo(401);
    }
}
