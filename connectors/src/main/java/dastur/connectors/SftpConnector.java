package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import java.io.IOException;
import java.io.InputStream;
import java.io.OutputStream;
import java.net.URI;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.time.Instant;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import java.util.concurrent.locks.LockSupport;
import org.apache.sshd.client.session.ClientSession;
import org.apache.sshd.sftp.client.SftpClient;
import org.apache.sshd.sftp.client.SftpClientFactory;
import org.apache.sshd.sftp.common.SftpConstants;
import org.apache.sshd.sftp.common.SftpException;
import org.jspecify.annotations.Nullable;

/**
 * Lists, fetches, stores, renames and removes files on another machine over SSH (SFTP, version 3). All of it stays below the root that
 * the connection's address names, also where a link leads out of it. A list is never cut; a file that is stored appears whole or not at
 * all.
 */
final class SftpConnector implements Connector {
    static final int MOST_FILES = 5_000;
    private static final Duration LOOKS_UP_EVERY = Duration.ofMillis(200);
    /** No answer of the server, but that there is none. */
    private static final Set<Integer> BROKEN =
            Set.of(SftpConstants.SSH_FX_NO_CONNECTION, SftpConstants.SSH_FX_CONNECTION_LOST);

    private static final Set<String> READS = Set.of("LIST", "FETCH");

    private final SshConnector ssh;

    SftpConnector(SshConnector ssh) {
        this.ssh = ssh;
    }

    /** Looks at the root; whether anything may be changed below it, only changing it tells. */
    Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite {
        try (ClientSession session = ssh.session(connection, secret)) {
            Greeted.Given looks = looks(session, URI.create(connection.base()).getPath());
            return Greeted.in(calls.stream()
                    .map(c -> READS.contains(c.method())
                            ? looks
                            : Greeted.Given.cannotSay("Only changing something would tell."))
                    .toList());
        } catch (IOException e) {
            // It was closed when all had been said.
            throw Definite.unreached("The connection to " + connection.name() + " broke.");
        }
    }

    private static Greeted.Given looks(ClientSession session, String root) {
        try (SftpClient client = SftpClientFactory.instance().createSftpClient(session)) {
            client.close(client.openDir(root));
            return Greeted.Given.YES;
        } catch (SftpException e) {
            return Greeted.Given.no(Texts.clip(String.valueOf(e.getMessage()), 200));
        } catch (IOException e) {
            return Greeted.Given.cannotSay("The connection broke.");
        }
    }

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        long started = System.nanoTime();
        var scrub = Answers.scrub(secret);
        boolean reads = READS.contains(call.method());
        Watch watch = new Watch(
                heartbeat, started + Duration.ofSeconds(call.limitSeconds()).toNanos());
        try (ClientSession session = ssh.session(connection, secret);
                SftpClient client = SftpClientFactory.instance().createSftpClient(session)) {
            watch.over(session);
            JsonNode answer = new Files(client, URI.create(connection.base()).getPath()).done(call);
            long millis = (System.nanoTime() - started) / 1_000_000;
            heartbeat.answered(scrub.apply(answer.toString()));
            String log = call.method() + " " + call.path() + " in " + millis + " ms\n"
                    + Texts.clip(told(answer), Answers.MAX_LOGGED);
            return Answers.done(call, answer, scrub, log, millis, 0);
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (IOException e) {
            if (e instanceof SftpException said && !BROKEN.contains(said.getStatus()) && !watch.hungUp()) {
                return new CallOutcome.Failed(scrub.apply(connection.name() + " refused it: "
                        + Texts.clip(String.valueOf(e.getMessage()), 200) + " (" + call.path() + ")."));
            }
            if (watch.abandoned) {
                throw new Abandoned();
            }
            String why = watch.why == null
                    ? "The connection to " + connection.name() + " broke before an answer came."
                    : watch.why;
            return reads ? new CallOutcome.Failed(why) : new CallOutcome.Unknown(why);
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        } finally {
            watch.end();
        }
    }

    /** As a person reads it: a line for each file. */
    private static String told(JsonNode answer) {
        if (!answer.has("files")) {
            return answer.has("text") ? answer.get("text").asText() : answer.toString();
        }
        StringBuilder lines = new StringBuilder();
        answer.get("files").forEach(f -> lines.append(f.get("name").asText())
                .append(f.get("kind").asText().equals("folder") ? "/" : "")
                .append("  ")
                .append(f.get("size").asLong())
                .append(" bytes, ")
                .append(f.get("days").asLong())
                .append(" days\n"));
        return lines.toString();
    }

    /** Hangs up when the time is over, or nobody wants it any more. */
    private static final class Watch {
        private final Heartbeat heartbeat;
        private final long deadline;
        private volatile boolean over;
        private volatile boolean abandoned;
        private volatile @Nullable String why;

        Watch(Heartbeat heartbeat, long deadline) {
            this.heartbeat = heartbeat;
            this.deadline = deadline;
        }

        void over(ClientSession session) {
            Thread.ofVirtual().start(() -> {
                while (!over) {
                    if (!heartbeat.stillMine()) {
                        abandoned = true;
                    } else if (heartbeat.cancelled()) {
                        why = "It was cancelled while it was under way.";
                    } else if (System.nanoTime() > deadline) {
                        why = "It was not done within the time limit.";
                    }
                    if (abandoned || why != null) {
                        session.close(true);
                        return;
                    }
                    LockSupport.parkNanos(LOOKS_UP_EVERY.toNanos());
                }
            });
        }

        boolean hungUp() {
            return abandoned || why != null;
        }

        void end() {
            over = true;
        }
    }

    /** One call's. */
    private record Files(SftpClient client, String root) {
        Files(SftpClient client, @Nullable String root) {
            this.client = client;
            this.root = root == null || root.isBlank() || root.equals("/") ? "" : root.replaceAll("/+$", "");
        }

        JsonNode done(Event.Call call) throws IOException, Definite {
            String path = inside(call.path());
            return switch (call.method()) {
                case "LIST" -> list(path);
                case "FETCH" -> fetch(path);
                case "STORE" -> store(path, text(call.body(), "text"), call);
                case "RENAME" -> rename(path, inside(text(call.body(), "to")));
                case "REMOVE" -> remove(path);
                default -> throw Definite.ours("There is no '" + call.method() + "' over SFTP.");
            };
        }

        /** The real path, which must lie below the root; of what is not there yet, its folder must. */
        private String inside(String path) throws IOException, Definite {
            if (!path.startsWith("/") || path.indexOf(0) >= 0) {
                throw Definite.ours("A path begins with /, which is the connection's root.");
            }
            String top = client.canonicalPath(root.isEmpty() ? "/" : root);
            String wanted = root + path;
            String last = wanted.substring(wanted.lastIndexOf('/') + 1);
            if (last.equals("..") || last.equals(".")) {
                throw outside(path);
            }
            String folder = client.canonicalPath(wanted.substring(0, wanted.lastIndexOf('/') + 1));
            String real = last.isEmpty() ? folder : linked((folder.equals("/") ? "" : folder) + "/" + last);
            if (!top.equals("/") && !real.equals(top) && !real.startsWith(top + "/")) {
                throw outside(path);
            }
            return real;
        }

        private String linked(String path) throws IOException {
            try {
                return client.lstat(path).isSymbolicLink() ? client.canonicalPath(path) : path;
            } catch (SftpException e) {
                if (e.getStatus() == SftpConstants.SSH_FX_NO_SUCH_FILE) {
                    return path;
                }
                throw e;
            }
        }

        private static Definite outside(String path) {
            return Definite.ours("'" + Texts.clip(path, 100) + "' leads out of the folder that the connection allows.");
        }

        private static String text(@Nullable String body, String name) throws Definite {
            try {
                JsonNode said = Json.parse(body == null ? "" : body).get(name);
                if (said != null && said.isTextual()) {
                    return said.asText();
                }
            } catch (JsonProcessingException e) {
                // Said below.
            }
            throw Definite.ours("The body is JSON with \"" + name + "\".");
        }

        private JsonNode list(String path) throws IOException, Definite {
            List<SftpClient.DirEntry> entries = new ArrayList<>();
            for (SftpClient.DirEntry entry : client.readDir(path)) {
                if (!entry.getFilename().equals(".") && !entry.getFilename().equals("..")) {
                    entries.add(entry);
                }
                if (entries.size() > MOST_FILES) {
                    throw new Definite("There are more than " + MOST_FILES
                            + " files. A list is never cut: name a folder" + " further inside.");
                }
            }
            entries.sort(Comparator.comparing(SftpClient.DirEntry::getFilename));
            ObjectNode answer = Json.mapper().createObjectNode();
            ArrayNode files = answer.putArray("files");
            long all = 0;
            for (SftpClient.DirEntry entry : entries) {
                SftpClient.Attributes is = entry.getAttributes();
                Instant modified = is.getModifyTime().toInstant();
                files.addObject()
                        .put("name", entry.getFilename())
                        .put("kind", is.isDirectory() ? "folder" : is.isRegularFile() ? "file" : "other")
                        .put("size", is.getSize())
                        .put("modified", modified.toString())
                        .put("days", Duration.between(modified, Instant.now()).toDays());
                all += is.isRegularFile() ? is.getSize() : 0;
            }
            return answer.put("count", files.size()).put("bytes", all);
        }

        private JsonNode fetch(String path) throws IOException, Definite {
            byte[] bytes;
            try (InputStream in = client.read(path)) {
                bytes = in.readNBytes(Answers.MAX_ANSWER + 1);
            }
            if (bytes.length > Answers.MAX_ANSWER) {
                throw new Definite("The file has more than " + Answers.MAX_ANSWER / 1_000_000 + " MB.");
            }
            String text = new String(bytes, StandardCharsets.UTF_8);
            ObjectNode answer = Json.mapper().createObjectNode();
            answer.put("text", text).put("size", bytes.length);
            answer.set("lines", Json.tree(text.lines().toList()));
            return answer;
        }

        private JsonNode store(String path, String text, Event.Call call) throws IOException, Definite {
            if (exists(path)) {
                throw new Definite("There is a file of this name already. Remove or rename it first.");
            }
            String part = path + ".part-" + Integer.toHexString((call.path() + text).hashCode());
            byte[] bytes = text.getBytes(StandardCharsets.UTF_8);
            try (OutputStream out = client.write(
                    part, SftpClient.OpenMode.Write, SftpClient.OpenMode.Create, SftpClient.OpenMode.Truncate)) {
                out.write(bytes);
            }
            client.rename(part, path);
            return Json.mapper().createObjectNode().put("size", bytes.length);
        }

        private boolean exists(String path) throws IOException {
            try {
                client.lstat(path);
                return true;
            } catch (SftpException e) {
                if (e.getStatus() == SftpConstants.SSH_FX_NO_SUCH_FILE) {
                    return false;
                }
                throw e;
            }
        }

        private JsonNode rename(String from, String to) throws IOException, Definite {
            if (exists(to)) {
                throw new Definite("There is a file of the new name already.");
            }
            client.rename(from, to);
            return Json.mapper().createObjectNode().put("status", "renamed");
        }

        private JsonNode remove(String path) throws IOException {
            ObjectNode answer = Json.mapper().createObjectNode();
            if (!exists(path)) {
                return answer.put("status", "was not there").put("size", 0);
            }
            long size = client.lstat(path).getSize();
            client.remove(path);
            return answer.put("status", "removed").put("size", size);
        }
    }
}
