package dastur.connectors;

import static dastur.connectors.RealServer.ALIVE;
import static dastur.connectors.RealServer.call;
import static dastur.connectors.RealServer.output;
import static dastur.connectors.RealServer.started;
import static dastur.connectors.RealServer.stop;
import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.tuple;

import dastur.core.FreePort;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.ticket.FieldType;
import dastur.core.workflow.Action;
import dastur.core.workflow.Connection;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestInstance;
import org.junit.jupiter.api.io.TempDir;

/** Names against the server of BIND, as Debian has it (N46). {@code ./dastur test} installs it. */
@TestInstance(TestInstance.Lifecycle.PER_CLASS)
class BindTest {
    private static final String KEY = "dastur.:c2VjcmV0LW9mLXRoZS16b25lLWtlc3RyZWw=";

    @TempDir
    static Path folder;

    private final Connectors connectors = new Connectors();
    private @Nullable Process server;
    private String address = "";

    @BeforeAll
    void start() throws Exception {
        assertThat(Path.of("/usr/sbin/named")).as("the package bind9").exists();
        int port = FreePort.any();
        Files.writeString(folder.resolve("zone"), """
                $TTL 60
                @ IN SOA ns.kestrel.example. admin.kestrel.example. 1 60 60 60 60
                @ IN NS ns.kestrel.example.
                ns IN A 127.0.0.1
                wifi IN A 10.30.9.1
                """);
        Files.writeString(folder.resolve("conf"), """
                options { directory "%s"; listen-on port %d { 127.0.0.1; }; listen-on-v6 { none; };
                  pid-file none; session-keyfile none; recursion no; };
                controls { };
                key "dastur." { algorithm hmac-sha256; secret "%s"; };
                zone "kestrel.example" { type primary; file "zone"; allow-update { key "dastur."; }; };
                """.formatted(folder, port, KEY.split(":")[1]));
        server = started(
                folder.resolve("log"),
                port,
                "/usr/sbin/named",
                "-g",
                "-c",
                folder.resolve("conf").toString());
        address = "dns://127.0.0.1:" + port;
    }

    @AfterAll
    void end() throws InterruptedException {
        connectors.close();
        stop(server);
    }

    private CallOutcome dns(@Nullable String secret, String method, String path, @Nullable String body)
            throws Connector.Abandoned {
        List<Action.Output> outputs = new ArrayList<>();
        outputs.add(output("values", FieldType.LIST, "/values"));
        if (body != null) {
            outputs.add(output("before", FieldType.LIST, "/before"));
        }
        return connectors.call(
                call(method, path, body, outputs.toArray(Action.Output[]::new)),
                new Connection("c", "The zone", address, List.of(), secret == null ? null : "key"),
                secret,
                ALIVE);
    }

    private static String set(String name, String... values) {
        return "{\"zone\":\"kestrel.example\",\"name\":\"" + name + "\",\"type\":\"A\",\"ttl\":30,\"values\":"
                + dastur.core.json.Json.write(List.of(values)) + "}";
    }

    private static Object values(CallOutcome outcome, String which) {
        assertThat(outcome).isInstanceOf(CallOutcome.Done.class);
        return ((CallOutcome.Done) outcome).outputs().get(which);
    }

    @Test
    void anUpdateIsSeenAndSaysWhatStoodThereBefore() throws Connector.Abandoned {
        assertThat(values(dns(null, "ASK", "/wifi.kestrel.example/A", null), "values"))
                .isEqualTo(List.of("10.30.9.1"));
        CallOutcome moved = dns(KEY, "UPDATE", "/", set("wifi.kestrel.example", "10.30.9.7", "10.30.9.8"));
        assertThat(List.of(values(moved, "before"), values(moved, "values")))
                .isEqualTo(List.of(List.of("10.30.9.1"), List.of("10.30.9.7", "10.30.9.8")));
        Object now = values(dns(null, "ASK", "/wifi.kestrel.example/A", null), "values");
        assertThat((List<?>) now).map(v -> tuple(v)).containsExactlyInAnyOrder(tuple("10.30.9.7"), tuple("10.30.9.8"));
        // Again does no harm, and an empty list takes the name away.
        assertThat(dns(KEY, "UPDATE", "/", set("wifi.kestrel.example", "10.30.9.7")))
                .isInstanceOf(CallOutcome.Done.class);
        assertThat(dns(KEY, "UPDATE", "/", set("wifi.kestrel.example"))).isInstanceOf(CallOutcome.Done.class);
        assertThat(values(dns(null, "ASK", "/wifi.kestrel.example/A", null), "values"))
                .isEqualTo(List.of());
    }

    @Test
    void anUpdateWithoutTheKeyOrOfAnotherZoneChangesNothing() throws Connector.Abandoned {
        for (CallOutcome outcome : List.of(
                dns(null, "UPDATE", "/", set("ns.kestrel.example", "10.30.9.9")),
                dns("other.:" + KEY.split(":")[1], "UPDATE", "/", set("ns.kestrel.example", "10.30.9.9")),
                dns(KEY, "UPDATE", "/", set("ns.elsewhere.example", "10.30.9.9")),
                dns(KEY, "UPDATE", "/", set("ns.kestrel.example", "no address")),
                dns("not a key", "UPDATE", "/", set("ns.kestrel.example", "10.30.9.9")),
                dns(KEY, "UPDATE", "/", "{}"))) {
            // The server said no, or nothing was sent to it.
            boolean no = outcome instanceof CallOutcome.Failed
                    || outcome instanceof CallOutcome.Fault fault && !fault.sent();
            assertThat(no).as(outcome.toString()).isTrue();
            assertThat(outcome.toString()).doesNotContain("c2VjcmV0");
        }
        assertThat(values(dns(null, "ASK", "/ns.kestrel.example/A", null), "values"))
                .isEqualTo(List.of("127.0.0.1"));
    }
}
