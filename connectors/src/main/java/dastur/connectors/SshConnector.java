package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.io.ByteArrayInputStream;
import java.io.IOException;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.time.Duration;
import java.util.ArrayList;
import java.util.Collections;
import java.util.EnumSet;
import java.util.List;
import org.apache.sshd.client.SshClient;
import org.apache.sshd.client.channel.ChannelExec;
import org.apache.sshd.client.channel.ClientChannelEvent;
import org.apache.sshd.client.future.AuthFuture;
import org.apache.sshd.client.session.ClientSession;
import org.apache.sshd.common.AttributeRepository;
import org.apache.sshd.common.NamedResource;
import org.apache.sshd.common.config.keys.KeyUtils;
import org.apache.sshd.common.digest.BuiltinDigests;
import org.apache.sshd.common.util.security.SecurityUtils;
import org.jspecify.annotations.Nullable;

/**
 * Runs one command on another machine over SSH (RFC 4251 to 4254) and answers with its status, its output as a text and as
 * lines, and, when the output is JSON, with that. The command is given word by word and each word is quoted, so that a
 * value can never become a command of its own. Only the host whose key the connection names is spoken to.
 */
final class SshConnector implements Connector, AutoCloseable {
    private static final Duration CONNECT = Duration.ofSeconds(5);
    private static final Duration LOOKS_UP_EVERY = Duration.ofMillis(200);
    private static final int PORT = 22;
    private static final AttributeRepository.AttributeKey<String> HOST_KEY = new AttributeRepository.AttributeKey<>();

    private final Duration signIn;
    private @Nullable SshClient client;

    /** Signs in within 15 s: keys are agreed on meanwhile, which many at once do slowly. */
    SshConnector() {
        this(Duration.ofSeconds(15));
    }

    SshConnector(Duration signIn) {
        this.signIn = signIn;
    }

    private synchronized SshClient client() {
        SshClient current = client;
        if (current == null) {
            current = SshClient.setUpDefaultClient();
            current.setServerKeyVerifier((session, address, key) -> {
                AttributeRepository context = session.getConnectionContext();
                String expected = context == null ? null : context.getAttribute(HOST_KEY);
                return expected != null
                        && expected.equals(KeyUtils.getFingerPrint(BuiltinDigests.sha256, key)
                                .replaceAll("=+$", ""));
            });
            current.start();
            client = current;
        }
        return current;
    }

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        long started = System.nanoTime();
        var scrub = Answers.scrub(secret);
        try {
            String command = command(call.body());
            try (ClientSession session = session(connection, secret)) {
                JsonNode answer = run(session, command, Duration.ofSeconds(call.limitSeconds()), secret, heartbeat);
                heartbeat.answered(scrub.apply(answer.toString()));
                int status = answer.get("status").asInt();
                Answers.checkStatus(call, answer);
                long millis = (System.nanoTime() - started) / 1_000_000;
                String log = command + " → status " + status + " in " + millis + " ms\n"
                        + Texts.clip(answer.get("out").asText(), Answers.MAX_LOGGED);
                return Answers.done(call, answer, scrub, log, millis, 0);
            }
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        } catch (IOException e) {
            return new CallOutcome.Unknown("The connection to " + connection.name() + " broke before an answer came.");
        }
    }

    /** Signs in and leaves: what a command may do, only the command tells. */
    Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite {
        session(connection, secret).close(true);
        return Greeted.in(
                Collections.nCopies(calls.size(), Greeted.Given.cannotSay("Only running the command would tell.")));
    }

    /** The words of a command as one line, each in quotes (POSIX shell, section 2.2.2). */
    static String command(@Nullable String body) throws Definite {
        try {
            JsonNode words = Json.parse(body == null ? "" : body);
            if (!words.isArray() || words.isEmpty() || !words.valueStream().allMatch(JsonNode::isValueNode)) {
                throw Definite.ours("The command is a JSON list of words, such as [\"uptime\"].");
            }
            List<String> quoted = new ArrayList<>();
            for (JsonNode word : words) {
                String text = word.asText();
                quoted.add(text.matches("[A-Za-z0-9_./-]+") ? text : "'" + text.replace("'", "'\\''") + "'");
            }
            return String.join(" ", quoted);
        } catch (JsonProcessingException e) {
            throw Definite.ours("The command is not a JSON list of words.");
        }
    }

    /** Signed in, with the host's key checked before anything is told to it. */
    ClientSession session(Connection connection, @Nullable String secret) throws Definite {
        URI uri = URI.create(connection.base());
        String expected = uri.getRawQuery().replaceFirst("^hostkey=", "").replaceAll("=+$", "");
        ClientSession session;
        try {
            session = client().connect(
                            uri.getUserInfo(),
                            uri.getHost(),
                            uri.getPort() < 0 ? PORT : uri.getPort(),
                            AttributeRepository.ofKeyValuePair(HOST_KEY, expected))
                    .verify(CONNECT)
                    .getSession();
        } catch (IOException e) {
            throw Definite.unreached("No connection to " + connection.name() + ".");
        }
        try {
            if (secret != null && secret.stripLeading().startsWith("-----BEGIN")) {
                for (KeyPair pair : keys(secret)) {
                    session.addPublicKeyIdentity(pair);
                }
            } else if (secret != null) {
                session.addPasswordIdentity(secret);
            }
            AuthFuture letIn = session.auth();
            if (!letIn.await(signIn)) {
                session.close(true);
                throw Definite.unreached(
                        connection.name() + " did not answer our signing in within " + signIn.toSeconds() + " s.");
            }
            letIn.verify(CONNECT);
            return session;
        } catch (IOException e) {
            session.close(true);
            throw new Definite(
                    connection.name()
                            + " did not let us in: its host key is not the one that is expected, or it refuses user or secret.");
        } catch (GeneralSecurityException e) {
            session.close(true);
            throw Definite.ours("The private key of " + connection.name() + " cannot be read.");
        }
    }

    private static Iterable<KeyPair> keys(String pem) throws IOException, GeneralSecurityException {
        return SecurityUtils.loadKeyPairIdentities(
                null,
                NamedResource.ofName("secret"),
                new ByteArrayInputStream(pem.getBytes(StandardCharsets.UTF_8)),
                null);
    }

    private static JsonNode run(
            ClientSession session, String command, Duration limit, @Nullable String secret, Heartbeat heartbeat)
            throws IOException, Doubtful, Abandoned {
        Heard out = new Heard(new Scrubbing(secret, heartbeat::heard));
        Heard err = new Heard(new Scrubbing(secret, heartbeat::heard));
        try (ChannelExec channel = session.createExecChannel(command)) {
            channel.setOut(out);
            channel.setErr(err);
            channel.open().verify(CONNECT);
            ended(channel, limit, heartbeat);
            out.end();
            err.end();
            Integer status = channel.getExitStatus();
            if (status == null) {
                throw new Doubtful("The command ended without saying how.");
            }
            return Answers.ofCommand(status, out, err);
        }
    }

    /** Waits until a command is over; one that nobody wants any more is hung up on, and may have been done (D15). */
    private static void ended(ChannelExec channel, Duration limit, Heartbeat heartbeat) throws Doubtful, Abandoned {
        long deadline = System.nanoTime() + limit.toNanos();
        while (!channel.waitFor(EnumSet.of(ClientChannelEvent.CLOSED), LOOKS_UP_EVERY)
                .contains(ClientChannelEvent.CLOSED)) {
            if (!heartbeat.stillMine()) {
                throw new Abandoned();
            }
            if (heartbeat.cancelled()) {
                throw new Doubtful("It was cancelled while the command ran.");
            }
            if (System.nanoTime() > deadline) {
                throw new Doubtful("The command was not done within the time limit.");
            }
        }
    }

    @Override
    public synchronized void close() {
        if (client != null) {
            client.stop();
        }
    }
}
