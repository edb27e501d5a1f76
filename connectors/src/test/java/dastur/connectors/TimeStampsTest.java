package dastur.connectors;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.sun.net.httpserver.HttpServer;
import java.io.IOException;
import java.net.InetSocketAddress;
import java.net.URI;
import java.net.http.HttpClient;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.MessageDigest;
import java.time.Duration;
import java.time.Instant;
import java.util.Arrays;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** Time stamps by OpenSSL's own authority (RFC 3161), and answers that are none. */
class TimeStampsTest {
    private static final byte[] HASH = sha256("what is stamped");

    @TempDir
    Path folder;

    private HttpServer server;
    private URI address;
    private TimeStamps stamps;
    /** What it answers to a query, which lies in the file. */
    private Answer answer = this::stamped;

    private interface Answer {
        byte[] to(Path query) throws IOException, InterruptedException;
    }

    private static byte[] sha256(String text) {
        try {
            return MessageDigest.getInstance("SHA-256").digest(text.getBytes(StandardCharsets.UTF_8));
        } catch (GeneralSecurityException e) {
            throw new IllegalStateException(e);
        }
    }

    @BeforeEach
    void start() throws IOException, InterruptedException {
        Files.writeString(folder.resolve("openssl.cnf"), """
                [ext]
                extendedKeyUsage = critical,timeStamping
                [tsa]
                default_tsa = office
                [office]
                serial = %1$s/serial
                signer_cert = %1$s/time.pem
                signer_key = %1$s/time.key
                certs = %1$s/time.pem
                signer_digest = sha256
                default_policy = 1.2.3.4.1
                digests = sha256
                ordering = yes
                """.formatted(folder));
        authority("time");
        authority("other");
        stamps = new TimeStamps(TimeStamps.certificate(Files.readAllBytes(folder.resolve("time.pem"))));
        server = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        server.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        server.createContext("/", exchange -> {
            Path query = folder.resolve("query-" + System.nanoTime());
            Files.write(query, exchange.getRequestBody().readAllBytes());
            try {
                byte[] bytes = answer.to(query);
                exchange.sendResponseHeaders(bytes.length == 0 ? 503 : 200, 0);
                exchange.getResponseBody().write(bytes);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            } finally {
                exchange.close();
            }
        });
        server.start();
        address = URI.create("http://127.0.0.1:" + server.getAddress().getPort() + "/");
    }

    @AfterEach
    void stop() {
        server.stop(0);
    }

    private void authority(String name) throws IOException, InterruptedException {
        openssl(
                "req",
                "-x509",
                "-newkey",
                "rsa:2048",
                "-nodes",
                "-days",
                "2",
                "-subj",
                "/CN=The " + name + " office",
                "-keyout",
                name + ".key",
                "-out",
                name + ".pem",
                "-config",
                "/dev/null",
                "-addext",
                "extendedKeyUsage=critical,timeStamping");
    }

    private String openssl(String... arguments) throws IOException, InterruptedException {
        String[] command = new String[arguments.length + 1];
        command[0] = "openssl";
        System.arraycopy(arguments, 0, command, 1, arguments.length);
        Path out = folder.resolve("out-" + System.nanoTime());
        Process process = new ProcessBuilder(command)
                .directory(folder.toFile())
                .redirectErrorStream(true)
                .redirectOutput(out.toFile())
                .start();
        assertThat(process.waitFor(30, TimeUnit.SECONDS)).isTrue();
        String said = Files.readString(out);
        assertThat(process.exitValue()).as(said).isZero();
        return said;
    }

    private byte[] stamped(Path query) throws IOException, InterruptedException {
        Path reply = folder.resolve("reply-" + System.nanoTime());
        openssl(
                "ts",
                "-reply",
                "-config",
                "openssl.cnf",
                "-section",
                "office",
                "-queryfile",
                query.toString(),
                "-out",
                reply.toString());
        return Files.readAllBytes(reply);
    }

    private byte[] ask() throws TimeStamps.NoStamp {
        try (HttpClient http =
                HttpClient.newBuilder().connectTimeout(Duration.ofSeconds(2)).build()) {
            return stamps.ask(http, address, HASH);
        }
    }

    @Test
    void aStampHoldsForWhatItWasMadeForAndForNothingElse() throws Exception {
        byte[] token = ask();
        TimeStamps.Stamp stamp = stamps.check(HASH, token);
        assertThat(stamp.authority()).contains("The time office");
        assertThat(Duration.between(stamp.at(), Instant.now()).abs()).isLessThan(Duration.ofMinutes(2));
        assertThatThrownBy(() -> stamps.check(sha256("something else"), token)).hasMessageContaining("something else");
        TimeStamps other = new TimeStamps(TimeStamps.certificate(Files.readAllBytes(folder.resolve("other.pem"))));
        assertThatThrownBy(() -> other.check(HASH, token)).hasMessageContaining("authority that was named");
        // OpenSSL itself says the same of what is kept.
        Files.write(folder.resolve("token.der"), token);
        assertThat(openssl(
                        "ts",
                        "-verify",
                        "-digest",
                        java.util.HexFormat.of().formatHex(HASH),
                        "-in",
                        "token.der",
                        "-token_in",
                        "-CAfile",
                        "time.pem"))
                .contains("Verification: OK");
    }

    /** Wherever a token is altered: it does not hold, and nothing else happens. */
    @Test
    void anAlteredStampDoesNotHold() throws Exception {
        byte[] token = ask();
        int held = 0;
        for (int at = 0; at < token.length; at += 7) {
            byte[] altered = token.clone();
            altered[at] ^= 1;
            try {
                // Some bytes are of the certificate that comes along, of which only the named one counts.
                assertThat(stamps.check(HASH, altered)).isEqualTo(stamps.check(HASH, token));
                held++;
            } catch (TimeStamps.NoStamp e) {
                assertThat(e.getMessage()).isNotBlank();
            }
        }
        assertThat(held).as("of " + token.length / 7).isLessThan(token.length / 7 - 40);
        assertThatThrownBy(() -> stamps.check(HASH, Arrays.copyOf(token, token.length / 2)))
                .isInstanceOf(TimeStamps.NoStamp.class);
        assertThatThrownBy(() -> stamps.check(HASH, new byte[0])).isInstanceOf(TimeStamps.NoStamp.class);
    }

    @Test
    void whatIsNoStampIsNotTaken() throws Exception {
        byte[] first = stamped(query());
        answer = query -> first;
        assertThatThrownBy(this::ask)
                .as("an answer to another query")
                .hasMessageContaining("no stamp of what was asked");
        answer = query -> "<html>Welcome</html>".getBytes(StandardCharsets.UTF_8);
        assertThatThrownBy(this::ask).isInstanceOf(TimeStamps.NoStamp.class);
        answer = query -> new byte[100_000];
        assertThatThrownBy(this::ask).hasMessageContaining("longer than");
        answer = query -> new byte[0];
        assertThatThrownBy(this::ask).hasMessageContaining("503");
        server.stop(0);
        assertThatThrownBy(this::ask).hasMessageContaining("cannot be reached");
    }

    private Path query() throws IOException, InterruptedException {
        openssl(
                "ts",
                "-query",
                "-digest",
                java.util.HexFormat.of().formatHex(HASH),
                "-sha256",
                "-cert",
                "-out",
                "q.tsq");
        return folder.resolve("q.tsq");
    }
}
