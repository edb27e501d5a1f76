package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.List;
import org.junit.jupiter.api.Test;

/** A host that greets and then says nothing: that is no refusal, and nothing was told to it. */
class SlowSshTest {
    @Test
    void whoeverIsSlowToLetUsInHasNotRefusedUs() throws Exception {
        try (ServerSocket host = new ServerSocket(0, 5, InetAddress.getLoopbackAddress());
                SshConnector ssh = new SshConnector(Duration.ofSeconds(1))) {
            Thread.ofVirtual().start(() -> greet(host));
            String base = "ssh://us@127.0.0.1:" + host.getLocalPort() + "?hostkey=SHA256:" + "A".repeat(43);
            CallOutcome came = ssh.call(
                    RealServer.call("RUN", "/", "[\"true\"]"),
                    new Connection("c", "The host", base, List.of(), "key"),
                    "secret",
                    RealServer.ALIVE);
            assertThat(came).isInstanceOfSatisfying(CallOutcome.Failed.class, f -> assertThat(f.why())
                    .contains("did not answer our signing in within 1 s"));
        }
    }

    /** Its connection stays open until the test closes the door behind it. */
    private static void greet(ServerSocket host) {
        try (Socket guest = host.accept()) {
            guest.getOutputStream().write("SSH-2.0-quiet\r\n".getBytes(StandardCharsets.US_ASCII));
            guest.getOutputStream().flush();
            guest.getInputStream().transferTo(java.io.OutputStream.nullOutputStream());
        } catch (IOException e) {
            // The test is over.
        }
    }
}
