package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import java.io.IOException;
import java.io.InputStream;
import java.net.URI;
import java.net.URLEncoder;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.nio.charset.StandardCharsets;
import java.time.Duration;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.function.Supplier;
import java.util.stream.Collectors;
import org.jspecify.annotations.Nullable;

/**
 * Speaks the part of the Matrix client-server API (v3, an open standard) that asking and answering needs: rooms with one
 * person, messages under a transaction id that makes a repeated one the same one, and what was said since.
 */
public final class MatrixConnector {
    private static final Duration CONNECT = Duration.ofSeconds(5);
    private static final Duration ANSWER = Duration.ofSeconds(10);
    private static final int MAX_ANSWER = 4_000_000;

    /** @param token the access token of the account that Dastur speaks as; empty when it is not set */
    public record Settings(String base, Supplier<Optional<String>> token) {}

    /** The server did not take it, or did not answer. */
    public static final class NotSent extends Exception {
        private final boolean gone;

        NotSent(String message) {
            this(message, false);
        }

        private NotSent(String message, boolean gone) {
            super(message);
            this.gone = gone;
        }

        /** Whether the room is not there, or Dastur is not in it: another one may do. */
        public boolean gone() {
            return gone;
        }
    }

    /**
     * Something a person said in a room.
     *
     * @param text the message, or the key of a reaction
     * @param answersTo the event it replies or reacts to; null for none
     * @param isMessage whether it is a message, and no reaction
     * @param own whether Dastur said it
     */
    public record Said(
            String room,
            String sender,
            String event,
            String text,
            @Nullable String answersTo,
            boolean isMessage,
            boolean own) {}

    /** What was said since, and where to go on. */
    public record News(String next, List<Said> said) {}

    /** Who Dastur is at a server, for a token: another one may be set at any time. */
    private record Self(String base, String token, String user) {}

    private final Supplier<Optional<Settings>> settings;
    private volatile @Nullable Self self;
    private final HttpClient client =
            HttpClient.newBuilder().connectTimeout(CONNECT).build();

    /** @param settings asked at each call; empty where there is no chat server */
    public MatrixConnector(Supplier<Optional<Settings>> settings) {
        this.settings = settings;
    }

    /** The address of the chat server; empty where there is none. */
    public Optional<String> base() {
        return settings.get().map(Settings::base);
    }

    /** Makes a room for Dastur and one person, and invites them. @return its id */
    public String roomWith(String user, String name) throws NotSent {
        JsonNode answer = call(
                "POST",
                "/createRoom",
                Map.of("preset", "trusted_private_chat", "is_direct", true, "name", name, "invite", List.of(user)),
                ANSWER);
        return needed(answer, "room_id");
    }

    /** Makes a room for several people, and invites them. @return its id */
    public String roomFor(List<String> users, String name, String topic) throws NotSent {
        JsonNode answer = call(
                "POST",
                "/createRoom",
                Map.of("preset", "private_chat", "name", name, "topic", topic, "invite", users),
                ANSWER);
        return needed(answer, "room_id");
    }

    /** Invites somebody into a room; who is there already stays there. */
    public void invite(String room, String user) throws NotSent {
        call("POST", "/rooms/" + escaped(room) + "/invite", Map.of("user_id", user), ANSWER, 403);
    }

    /** Says something in a room. @param transaction names it: the same one again is the same message */
    public String say(String room, String transaction, String text) throws NotSent {
        JsonNode answer = call(
                "PUT",
                "/rooms/" + escaped(room) + "/send/m.room.message/" + escaped(transaction),
                Map.of("msgtype", "m.text", "body", text),
                ANSWER);
        return needed(answer, "event_id");
    }

    /**
     * Strikes out a message of Dastur's own and says beneath what became of it, in its place (Matrix client-server API 1.4,
     * event replacements).
     */
    public void strike(String room, String transaction, String event, String beneath) throws NotSent {
        String struck = event(room, event).text();
        String html = struck.lines()
                .map(MatrixConnector::html)
                .map(l -> "<del>" + l + "</del>")
                .collect(Collectors.joining("<br>"));
        Map<String, Object> content = Map.of(
                "msgtype",
                "m.text",
                "body",
                struck.lines().map(l -> "~~" + l + "~~").collect(Collectors.joining("\n")) + "\n" + beneath,
                "format",
                "org.matrix.custom.html",
                "formatted_body",
                html + "<br>" + html(beneath));
        Map<String, Object> replacement = new HashMap<>(content);
        replacement.put("m.new_content", content);
        replacement.put("m.relates_to", Map.of("rel_type", "m.replace", "event_id", event));
        call("PUT", "/rooms/" + escaped(room) + "/send/m.room.message/" + escaped(transaction), replacement, ANSWER);
    }

    private static String html(String text) {
        return text.replace("&", "&amp;").replace("<", "&lt;").replace(">", "&gt;");
    }

    /** One message of a room that Dastur is in. Its text is blank when it was taken away. */
    public Said event(String room, String event) throws NotSent {
        JsonNode answer = call("GET", "/rooms/" + escaped(room) + "/event/" + escaped(event), null, ANSWER);
        return said(room, answer, self()).orElseThrow(() -> new NotSent("That is no message."));
    }

    /** What was said since; waits for something up to a time. @param since null for from now on */
    public News news(@Nullable String since, Duration wait) throws NotSent {
        JsonNode answer = call(
                "GET",
                "/sync?timeout=" + wait.toMillis() + (since == null ? "" : "&since=" + escaped(since)),
                null,
                wait.plus(ANSWER));
        String self = self();
        List<Said> said = new ArrayList<>();
        answer.path("rooms").path("join").properties().forEach(room -> room.getValue()
                .path("timeline")
                .path("events")
                .forEach(event -> said(room.getKey(), event, self).ifPresent(said::add)));
        return new News(needed(answer, "next_batch"), said);
    }

    private static Optional<Said> said(String room, JsonNode event, String self) {
        JsonNode content = event.path("content");
        JsonNode relation = content.path("m.relates_to");
        return switch (event.path("type").asText()) {
            case "m.room.message" ->
                Optional.of(new Said(
                        room,
                        event.path("sender").asText(),
                        event.path("event_id").asText(),
                        content.path("body").asText(),
                        relation.path("m.in_reply_to").path("event_id").textValue(),
                        true,
                        event.path("sender").asText().equals(self)));
            case "m.reaction" ->
                Optional.of(new Said(
                        room,
                        event.path("sender").asText(),
                        event.path("event_id").asText(),
                        relation.path("key").asText(),
                        relation.path("event_id").textValue(),
                        false,
                        event.path("sender").asText().equals(self)));
            default -> Optional.empty();
        };
    }

    /** The account that Dastur speaks as. */
    public String self() throws NotSent {
        Settings now = now();
        String token = token(now);
        Self known = self;
        if (known == null || !known.base().equals(now.base()) || !known.token().equals(token)) {
            known = new Self(now.base(), token, needed(call("GET", "/account/whoami", null, ANSWER), "user_id"));
            self = known;
        }
        return known.user();
    }

    private Settings now() throws NotSent {
        return settings.get().orElseThrow(() -> new NotSent("There is no chat server."));
    }

    private static String token(Settings settings) throws NotSent {
        return settings.token().get().orElseThrow(() -> new NotSent("The chat's secret is not set."));
    }

    private static String needed(JsonNode answer, String field) throws NotSent {
        String value = answer.path(field).asText();
        if (value.isEmpty()) {
            throw new NotSent("The chat server's answer lacks " + field + ".");
        }
        return value;
    }

    private static String escaped(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8).replace("+", "%20");
    }

    /** @param alsoFine a status that is as good as 200; 0 for none */
    private JsonNode call(String method, String path, @Nullable Object body, Duration limit) throws NotSent {
        return call(method, path, body, limit, 0);
    }

    private JsonNode call(String method, String path, @Nullable Object body, Duration limit, int alsoFine)
            throws NotSent {
        Settings now = now();
        String token = token(now);
        HttpRequest request = HttpRequest.newBuilder(URI.create(now.base() + "/_matrix/client/v3" + path))
                .timeout(limit)
                .header("Authorization", "Bearer " + token)
                .header("Content-Type", "application/json")
                .method(
                        method,
                        body == null
                                ? HttpRequest.BodyPublishers.noBody()
                                : HttpRequest.BodyPublishers.ofString(Json.write(body)))
                .build();
        try {
            long deadline = System.nanoTime() + limit.toNanos();
            HttpResponse<InputStream> answer = client.send(request, HttpResponse.BodyHandlers.ofInputStream());
            String text = Bounded.read(answer, MAX_ANSWER, Duration.ofNanos(deadline - System.nanoTime()));
            if (answer.statusCode() != 200 && answer.statusCode() != alsoFine) {
                int status = answer.statusCode();
                throw new NotSent("The chat server answered " + status + ".", status == 403 || status == 404);
            }
            return Json.parse(text);
        } catch (JsonProcessingException e) {
            throw new NotSent("The chat server's answer is no JSON.");
        } catch (IOException e) {
            throw new NotSent("The chat server does not answer, or not in a way that can be read.");
        } catch (InterruptedException e) {
            Thread.currentThread().interrupt();
            throw new NotSent("Interrupted.");
        }
    }
}
