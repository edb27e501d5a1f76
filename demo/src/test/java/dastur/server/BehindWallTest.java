package dastur.server;

import static dastur.server.RelayStage.ok;
import static dastur.server.RelayStage.until;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.junit.jupiter.api.Assumptions.assumeTrue;

import com.fasterxml.jackson.databind.JsonNode;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.UUID;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/**
 * A network of its own (network namespaces of Linux), in which a machine stands that the server cannot reach; the relay's process is in
 * it, and the line between is unplugged in the middle of a call (M16). Needs root; elsewhere it is left out.
 */
class BehindWallTest extends OnDemo {
    private static final String ZONE = "behind-the-wall";
    private static final String SERVER_SIDE = "10.231.7.1";
    private static final String RELAY_SIDE = "10.231.7.2";
    private static final String MACHINE = "10.232.7.1";

    @TempDir
    Path own;

    private final List<Process> processes = new ArrayList<>();

    private static boolean run(String... words) throws IOException, InterruptedException {
        Process process = new ProcessBuilder(words)
                .redirectErrorStream(true)
                .redirectOutput(ProcessBuilder.Redirect.DISCARD)
                .start();
        return process.waitFor(10, TimeUnit.SECONDS) && process.exitValue() == 0;
    }

    @BeforeEach
    void network() throws Exception {
        assumeTrue(Files.isExecutable(Path.of("/usr/sbin/ip")), "there is no 'ip'");
        run("ip", "netns", "del", "dastur-wall");
        assumeTrue(run("ip", "netns", "add", "dastur-wall"), "no network of its own may be made here");
        assumeTrue(
                run("ip", "link", "add", "dwall0", "type", "veth", "peer", "name", "dwall1", "netns", "dastur-wall")
                        && run("ip", "addr", "add", SERVER_SIDE + "/30", "dev", "dwall0")
                        && run("ip", "link", "set", "dwall0", "up")
                        && run("ip", "-n", "dastur-wall", "addr", "add", RELAY_SIDE + "/30", "dev", "dwall1")
                        && run("ip", "-n", "dastur-wall", "addr", "add", MACHINE + "/32", "dev", "lo")
                        && run("ip", "-n", "dastur-wall", "link", "set", "lo", "up")
                        && run("ip", "-n", "dastur-wall", "link", "set", "dwall1", "up"),
                "no line may be laid here");
    }

    @AfterEach
    void end() throws Exception {
        for (Process process : processes) {
            process.descendants().forEach(ProcessHandle::destroyForcibly);
            process.destroyForcibly().waitFor();
        }
        run("ip", "netns", "del", "dastur-wall");
        run("ip", "link", "del", "dwall0");
    }

    private Process java(boolean inside, String name, String... words) throws IOException {
        List<String> command = new ArrayList<>(inside ? List.of("ip", "netns", "exec", "dastur-wall") : List.of());
        command.addAll(List.of(
                Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                "-Xmx128m",
                "-cp",
                System.getProperty("java.class.path")));
        command.addAll(List.of(words));
        Process process = new ProcessBuilder(command)
                .redirectErrorStream(true)
                .redirectOutput(own.resolve(name).toFile())
                .start();
        processes.add(process);
        return process;
    }

    private static int free() throws IOException {
        try (ServerSocket socket = new ServerSocket(0)) {
            return socket.getLocalPort();
        }
    }

    private String said(String name) {
        try {
            return Files.readString(own.resolve(name));
        } catch (IOException e) {
            return "";
        }
    }

    @Test
    void onlyTheRelayReachesItAndALineThatIsUnpluggedLosesNothing() throws Exception {
        int app = api.app().port();
        int machine = free();
        int line = free();
        // The server is reached over the line, on its own side of it and on the relay's, where it counts as this
        // machine.
        java(false, "out", Forwarder.class.getName(), SERVER_SIDE, "" + line, "127.0.0.1", "" + app);
        java(true, "in", Forwarder.class.getName(), "127.0.0.1", "" + line, SERVER_SIDE, "" + line);
        java(
                true,
                "machine",
                Machine.class.getName(),
                MACHINE,
                "" + machine,
                own.resolve("asked").toString(),
                own.resolve("go").toString());
        zone();
        Path folder = Files.createDirectories(own.resolve("relay"));
        Files.writeString(folder.resolve("allowed.json"), """
                {"zone": "%s", "connections": {"machines": {"address": "http://%s:%d",
                  "allow": [{"method": "POST", "path": "/machines"}]}}}
                """.formatted(ZONE, MACHINE, machine));
        String code = ok(api.call("halvard", "POST", "/api/zones/" + ZONE + "/codes", null))
                .get("code")
                .asText();
        until("the relay could join", () -> joined(folder, line, code));
        String fingerprint = said("join")
                .replaceAll("(?s).*is\\s+((?:[0-9a-f]{4} ?){8}).*", "$1")
                .strip();
        JsonNode relay = relay();
        assertThat(relay.get("fingerprint").asText()).isEqualTo(fingerprint);
        ok(api.call(
                "halvard",
                "POST",
                "/api/zones/" + ZONE + "/relays/" + relay.get("id").asText() + "/let-in",
                null));
        java(true, "run", "dastur.relay.Main", "run", "--folder", folder.toString());

        assertThatThrownBy(() -> {
                    try (Socket socket = new Socket()) {
                        socket.connect(new InetSocketAddress(MACHINE, machine), 500);
                    }
                })
                .as("the server does not reach the machine")
                .isInstanceOf(IOException.class);

        String tried = "/api/actions/launch.wall/tries/" + UUID.randomUUID();
        ok(api.call("ines", "PUT", tried, "{\"inputs\":{},\"why\":\"a test\"}"));
        until("the machine is asked", () -> said("asked").contains("asked"));
        assertThat(run("ip", "link", "set", "dwall0", "down")).isTrue();
        Files.createFile(own.resolve("go"));
        until("the result is on the relay's disk", () -> said("relay/journal.jsonl")
                .contains("\"DONE\""));
        assertThat(outcome(tried)).isEqualTo("under way");
        assertThat(run("ip", "link", "set", "dwall0", "up")).isTrue();
        until("it is told", () -> !outcome(tried).equals("under way"));
        assertThat(outcome(tried)).isEqualTo("ok");
        assertThat(said("asked")).isEqualTo("asked\n");
    }

    private boolean joined(Path folder, int line, String code) {
        try {
            return java(
                                    true,
                                    "join",
                                    "dastur.relay.Main",
                                    "join",
                                    "--folder",
                                    folder.toString(),
                                    "--server",
                                    "http://127.0.0.1:" + line,
                                    "--name",
                                    "wall-1",
                                    "--code",
                                    code)
                            .waitFor()
                    == 0;
        } catch (IOException | InterruptedException e) {
            throw new IllegalStateException(e);
        }
    }

    private static String outcome(String tried) {
        return ok(api.call("ines", "GET", tried, null)).at("/tried/said").asText();
    }

    private static JsonNode relay() {
        for (JsonNode zone : api.call("ada", "GET", "/api/zones", null).body()) {
            if (zone.at("/zone/key").asText().equals(ZONE)) {
                return zone.at("/relays/0");
            }
        }
        throw new AssertionError("no zone");
    }

    private static void zone() {
        ok(api.call("halvard", "PUT", "/api/zones/" + ZONE, "{\"key\":\"" + ZONE + "\",\"name\":\"Behind the wall\"}"));
        ok(api.call("halvard", "PUT", "/api/connections/wall", """
                {"key":"wall","name":"Behind the wall","base":"relay://%s/machines?as=http","allowedHosts":[]}""".formatted(ZONE)));
        ok(api.call("ines", "PUT", "/api/actions/launch.wall", """
                {"action":{"key":"launch.wall","name":"Launch behind the wall","description":"","connection":"wall",
                "call":{"method":"POST","path":"/machines"},"inputs":[],"outputs":[
                {"field":{"name":"address","label":"Address","type":"text","required":true},"pointer":"/address"}],
                "results":[],"repeat":"never","changesWorld":true,"timeLimit":"2 min","tries":1,"pause":"1 s"}}"""));
    }
}
