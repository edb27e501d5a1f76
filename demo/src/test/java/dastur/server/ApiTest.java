package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.server.api.RouteTable;
import java.io.IOException;
import java.net.http.HttpClient;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.ArrayList;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.UUID;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.Arguments;
import org.junit.jupiter.params.provider.MethodSource;

/** The API over HTTP, with demo data: bad input, rights, sign-in, repetition, two people at once. */
class ApiTest extends OnDemo {
    private static DemoApp app;

    @BeforeAll
    static void start() {
        app = api.app();
        api.untilQuiet();
    }

    private static Answer call(String person, String method, String path, String body) {
        return api.call(person, method, path, body);
    }

    private static Answer call(String person, String method, String path, String body, Map<String, String> more) {
        return api.call(person, method, path, body, more);
    }

    static Stream<Arguments> badInput() {
        String gate = "/api/workflows/gate-lane-stuck-open";
        return Stream.of(
                // person, method, path, body, status, where, words
                bad("", "GET", "/api/desk", null, 401, null, "sign-in"),
                bad("mira", "GET", "/api/workflows", null, 403, null, "right"),
                bad("mira", "GET", "/api/tickets/I-1045/record", null, 403, null, "right"),
                bad(
                        "oskar",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"x\"}}",
                        403,
                        null,
                        "right"),
                bad(
                        "oskar",
                        "POST",
                        "/api/tickets/I-1045/notes",
                        "{\"text\":\"x\",\"toRequester\":false}",
                        403,
                        null,
                        "right"),
                bad("runa", "POST", "/api/workflows", "{\"key\":\"x\",\"name\":\"x\"}", 403, null, "right"),
                bad("ada", "GET", "/api/nothing", null, 404, null, "openapi"),
                bad("ada", "GET", "/api/tickets/I-9999", null, 404, null, "no ticket"),
                bad("ada", "GET", "/api/tickets/%20%3Cscript%3E", null, 404, null, "nothing called"),
                bad("ada", "POST", "/api/tickets", "", 400, null, "JSON body"),
                bad("ada", "POST", "/api/tickets", "{", 400, null, "not JSON"),
                bad("ada", "POST", "/api/tickets", "[]", 400, null, "form"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{},\"colour\":1}",
                        400,
                        "colour",
                        "no field 'colour'"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"party\",\"fields\":{}}",
                        422,
                        "kind",
                        "incident, a change or a request"),
                bad("ada", "POST", "/api/tickets", "{\"kind\":\"incident\"}", 422, "fields", "needed"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\" \"}}",
                        422,
                        "title",
                        "needs a title"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"x\",\"colour\":\"red\"}}",
                        422,
                        "colour",
                        "no field 'colour'"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":5}}",
                        422,
                        "title",
                        "must be a text"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"" + "x".repeat(600) + "\"}}",
                        422,
                        "title",
                        "at most 500"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"x\",\"requester\":\"nobody\"}}",
                        422,
                        "requester",
                        "no active person"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"x\",\"impact\":7}}",
                        422,
                        "impact",
                        "1 (highest) to 4"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"x\",\"priority\":\"P1\"}}",
                        422,
                        "priorityReason",
                        "say why"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"\\ud800\"}}",
                        422,
                        "title",
                        "broken character"),
                bad(
                        "ada",
                        "PUT",
                        "/api/tickets/I-1046",
                        "{\"fields\":{\"state\":\"authorised\"}}",
                        422,
                        "state",
                        "cannot become"),
                bad(
                        "ada",
                        "PUT",
                        "/api/tickets/I-1046",
                        "{\"fields\":{\"state\":\"closed\"}}",
                        422,
                        "cause",
                        "Closing asks"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets/I-1046/runs",
                        "{\"workflow\":\"nowhere\"}",
                        404,
                        "workflow",
                        "no published workflow"),
                bad("ada", "POST", "/api/tasks/I-1043.1.1/claim", null, 403, null, "not offered to you"),
                bad("ada", "POST", "/api/tasks/nonsense/claim", null, 404, null, "nothing called"),
                bad("runa", "POST", "/api/tasks/I-1043.1.9/claim", null, 404, null, "no task"),
                bad(
                        "runa",
                        "POST",
                        "/api/tasks/I-1043.1.1/complete",
                        "{\"outcome\":\"Exploded\"}",
                        422,
                        "outcome",
                        "Close the lane, Cleared on the spot"),
                bad(
                        "runa",
                        "POST",
                        "/api/tasks/I-1043.1.1/complete",
                        "{\"outcome\":\"Close the lane\",\"form\":{\"colour\":\"red\"}}",
                        422,
                        "form.colour",
                        "no field"),
                bad("runa", "POST", "/api/tasks/I-1043.1.1/complete", "{}", 422, "outcome", "needed"),
                bad(
                        "ada",
                        "POST",
                        "/api/approvals/I-1045.1.2/vote",
                        "{\"approve\":true,\"round\":1,\"digest\":\"x\"}",
                        403,
                        null,
                        "not asked"),
                bad(
                        "runa",
                        "POST",
                        "/api/approvals/I-1045.1.2/vote",
                        "{\"approve\":true,\"round\":1,\"digest\":\"x\"}",
                        403,
                        null,
                        "excludes you"),
                bad(
                        "teo",
                        "POST",
                        "/api/approvals/I-1045.1.2/vote",
                        "{\"approve\":true,\"round\":1,\"digest\":\"x\"}",
                        409,
                        null,
                        "has changed"),
                bad(
                        "teo",
                        "POST",
                        "/api/approvals/I-1045.1.2/vote",
                        "{\"round\":1,\"digest\":\"x\"}",
                        422,
                        "approve",
                        "needed"),
                bad(
                        "teo",
                        "POST",
                        "/api/approvals/I-1045.1.2/vote",
                        "{\"approve\":\"maybe\",\"round\":1,\"digest\":\"x\"}",
                        400,
                        "approve",
                        "wrong type"),
                bad(
                        "ada",
                        "POST",
                        "/api/tickets/C-311/interventions",
                        "{\"run\":\"C-311.1\",\"kind\":\"stop run\",\"reason\":\"x\"}",
                        403,
                        null,
                        "intervene"),
                bad(
                        "ines",
                        "POST",
                        "/api/tickets/C-311/interventions",
                        "{\"run\":\"C-311.1\",\"kind\":\"stop run\",\"reason\":\" \"}",
                        422,
                        "reason",
                        "Say why"),
                bad("ines", "POST", "/api/workflows", "{\"key\":\"a b\",\"name\":\"x\"}", 422, "key", "word"),
                bad(
                        "ines",
                        "POST",
                        "/api/workflows",
                        "{\"key\":\"gate-lane-stuck-open\",\"name\":\"x\"}",
                        409,
                        null,
                        "already"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/draft",
                        "{\"version\":{\"key\":\"gate-lane-stuck-open\"},\"revision\":2}",
                        400,
                        "version.number",
                        "missing or has the wrong type"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/draft",
                        draft("{\"kind\":\"magic\",\"id\":\"a\",\"name\":\"A\"}"),
                        400,
                        "version.body.steps[0]",
                        "wrong type"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/draft",
                        draft(
                                "{\"kind\":\"end\",\"id\":\"not a word\",\"name\":\"A\",\"result\":\"x\",\"stopsRun\":false}"),
                        400,
                        "version.body.steps[0].id",
                        "letter"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/draft",
                        draft("{\"kind\":\"wait\",\"id\":\"a\",\"name\":\"A\",\"span\":\"soon\",\"ways\":{}}"),
                        400,
                        "version.body.steps[0].span",
                        "30 min"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/draft",
                        draft("").replace("\"revision\":99", "\"revision\":77"),
                        409,
                        null,
                        "another draft"),
                bad("ines", "POST", gate + "/publish", "{\"revision\":1}", 409, null, "no draft"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"t1\",\"on\":true,\"when\":{\"is\":\"created\"},\"services\":[],\"condition\":\"ticket.impcat == 1\"}]}",
                        422,
                        "triggers[0].condition",
                        "Did you mean ticket.impact"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"kiosk-asked\",\"on\":true,\"when\":{\"is\":\"created\"},\"services\":[]}]}",
                        422,
                        "triggers[0].id",
                        "taken"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"t1\",\"on\":true,\"when\":{\"is\":\"clock reaches\",\"clock\":\"restore\",\"percent\":101},\"services\":[]}]}",
                        422,
                        "triggers[0].when.percent",
                        "1 to 100"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"t1\",\"on\":true,\"when\":{\"is\":\"clock reaches\",\"percent\":50},\"services\":[]}]}",
                        400,
                        "triggers[0].when.clock",
                        "missing"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"t1\",\"on\":true,\"when\":{\"is\":\"signal comes\",\"mostAMinute\":301},\"services\":[]}]}",
                        422,
                        "triggers[0].when.mostAMinute",
                        "1 to 300"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"t1\",\"on\":true,\"when\":{\"is\":\"approval ends\",\"exit\":\"lapsed\"},\"services\":[]}]}",
                        422,
                        "triggers[0].when.exit",
                        "approved or declined"),
                bad(
                        "ines",
                        "PUT",
                        gate + "/triggers",
                        "{\"triggers\":[{\"id\":\"t1\",\"on\":true,\"when\":{\"is\":\"signal entered\",\"source\":\"nowhere\"},\"services\":[]}]}",
                        422,
                        "triggers[0].when.source",
                        "no source"),
                bad("runa", "PUT", "/api/actions/lane.close", "{}", 403, null, "right"),
                bad(
                        "",
                        "POST",
                        "/api/setup",
                        "{\"id\":\"x\",\"name\":\"x\",\"mail\":\"\",\"password\":\"long enough pw\"}",
                        409,
                        null,
                        "accounts already"),
                bad(
                        "",
                        "POST",
                        "/api/session",
                        "{\"person\":\"ines\",\"password\":\"wrong\"}",
                        401,
                        null,
                        "do not fit"),
                bad("", "POST", "/api/session/as", "{\"person\":\"sem\"}", 403, null, "Nobody can"),
                bad("ada", "DELETE", "/api/tokens/t-1", null, 404, null, "no such token"));
    }

    private static String draft(String step) {
        return "{\"revision\":99,\"version\":{\"key\":\"gate-lane-stuck-open\",\"number\":2,\"name\":\"G\",\"owner\":\"ines\",\"startForm\":[],\"vars\":[],\"body\":{\"steps\":["
                + step + "]}}}";
    }

    private static Arguments bad(
            String person, String method, String path, String body, int status, String where, String words) {
        return Arguments.of(person, method, path, body, status, where, words);
    }

    @ParameterizedTest(name = "{0} {1} {2} → {4}")
    @MethodSource("badInput")
    void badInputGetsAClearAnswerAndChangesNothing(
            String person, String method, String path, String body, int status, String where, String words) {
        String before = state();
        Answer answer = call(person, method, path, body);
        assertThat(answer.status()).as("%s", answer.raw().body()).isEqualTo(status);
        assertThat(answer.raw().headers().firstValue("Content-Type").orElse("")).startsWith("application/problem+json");
        assertThat(answer.body().path("detail").asText())
                .contains(words)
                .doesNotContain("Exception", "dastur.", "java.");
        assertThat(answer.body().path("where").asText(null)).isEqualTo(where);
        assertThat(answer.body().path("title").asText()).isNotBlank();
        assertThat(state()).isEqualTo(before);
    }

    /** All tickets with their last entry, and all workflows. */
    private static String state() {
        var tickets = app.app().work().tickets();
        return Stream.of("I-1043", "I-1045", "I-1046", "C-311")
                        .map(t -> t
                                + tickets.find(new dastur.core.ticket.TicketId(t))
                                        .orElseThrow()
                                        .seq())
                        .toList()
                + app.app().design().workflows().all().toString()
                + app.app().design().workflows().actions().size();
    }

    @Test
    void aBodyOverTheLimitIsRefused() {
        Answer answer = call("ada", "POST", "/api/tickets", "{\"kind\":\"" + "x".repeat(1_100_000) + "\"}");
        assertThat(answer.status()).isEqualTo(413);
        assertThat(answer.body().path("detail").asText()).contains("at most");
    }

    @Test
    void aChangeNeedsTheSignInsOwnCsrfToken() {
        String body = "{\"text\":\"x\",\"toRequester\":false}";
        assertThat(call("ada", "POST", "/api/tickets/I-1046/notes", body, Map.of("X-CSRF-Token", "forged"))
                        .status())
                .isEqualTo(403);
        assertThat(api.send(
                                HttpClient.newHttpClient(),
                                "GET",
                                "/api/desk",
                                null,
                                Map.of("Cookie", "dastur_session=foreign"))
                        .status())
                .isEqualTo(401);
    }

    @Test
    void anApiTokenIsShownOnceAndActsForItsPerson() {
        Answer made = call("runa", "POST", "/api/tokens", "{\"name\":\"script\"}");
        assertThat(made.status()).isEqualTo(201);
        String token = made.body().get("token").asText();
        assertThat(call("runa", "GET", "/api/tokens", null).raw().body()).doesNotContain(token);
        Map<String, String> bearer = Map.of("Authorization", "Bearer " + token);
        assertThat(api.send(HttpClient.newHttpClient(), "GET", "/api/desk", null, bearer)
                        .status())
                .isEqualTo(200);
        assertThat(call("runa", "DELETE", "/api/tokens/" + made.body().get("id").asText(), null)
                        .status())
                .isEqualTo(204);
        assertThat(api.send(HttpClient.newHttpClient(), "GET", "/api/desk", null, bearer)
                        .status())
                .isEqualTo(401);
    }

    @Test
    void guessingPasswordsIsSlowedDown() {
        List<Integer> statuses = IntStream.range(0, 8)
                .mapToObj(
                        i -> call("", "POST", "/api/session", "{\"person\":\"priya\",\"password\":\"guess" + i + "\"}")
                                .status())
                .toList();
        assertThat(statuses.subList(0, 5)).containsOnly(401);
        assertThat(statuses.getLast()).isEqualTo(429);
    }

    @Test
    void aRepeatedCommandRaisesNoSecondTicket() {
        Map<String, String> key = Map.of("Idempotency-Key", UUID.randomUUID().toString());
        String body = "{\"kind\":\"incident\",\"fields\":{\"title\":\"Only once\"}}";
        List<String> numbers = IntStream.range(0, 8)
                .parallel()
                .mapToObj(i -> call("ada", "POST", "/api/tickets", body, key))
                .peek(a -> assertThat(a.status()).as("%s", a.raw().body()).isEqualTo(201))
                .map(a -> a.body().get("ticket").asText())
                .distinct()
                .toList();
        assertThat(numbers).hasSize(1);
        assertThat(call("ada", "GET", "/api/tickets?text=Only%20once", null)
                        .body()
                        .get("items"))
                .hasSize(1);
    }

    @Test
    void twoPeopleAtOnceOneWinsTheOtherIsToldWho() {
        String ticket = call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"incident\",\"fields\":{\"title\":\"Gate\",\"ci\":\"GNQ-G4\",\"impact\":2}}")
                .body()
                .get("ticket")
                .asText();
        String path = "/api/tasks/" + ticket + ".1.1/complete";
        api.as("runa");
        api.as("teo");
        List<Answer> answers = Stream.of("runa", "teo")
                .parallel()
                .map(p -> call(p, "POST", path, "{\"outcome\":\"Cleared on the spot\"}"))
                .toList();
        assertThat(answers).extracting(Answer::status).containsExactlyInAnyOrder(200, 409);
        Answer late =
                answers.stream().filter(a -> a.status() == 409).findFirst().orElseThrow();
        assertThat(late.body().path("detail").asText())
                .containsPattern("already ended with 'Cleared on the spot' by (Runa Feld|Teo Marchetti) at");
        Answer again =
                call(answers.getFirst() == late ? "runa" : "teo", "POST", path, "{\"outcome\":\"Close the lane\"}");
        assertThat(again.status()).isEqualTo(409);
        String record = call("ada", "GET", "/api/tickets/" + ticket + "/record", null)
                .raw()
                .body();
        assertThat(record.split("cameTooLate", -1))
                .as("entered once per person")
                .hasSize(2);
    }

    @Test
    void requestersSeeOnlyTheirOwn() {
        JsonNode mine = call("mira", "GET", "/api/tickets", null).body().get("items");
        assertThat(mine)
                .isNotEmpty()
                .allSatisfy(t -> assertThat(t.get("requester").asText()).isEqualTo("mira"));
        String foreign = call("ada", "GET", "/api/tickets", null).body().get("items").findValues("number").stream()
                .map(JsonNode::asText)
                .filter(n -> mine.findValuesAsText("number").stream().noneMatch(n::equals))
                .findFirst()
                .orElseThrow();
        assertThat(call("mira", "GET", "/api/tickets/" + foreign, null).status())
                .isEqualTo(404);
        JsonNode own = call(
                        "mira",
                        "GET",
                        "/api/tickets/" + mine.get(0).get("number").asText(),
                        null)
                .body();
        assertThat(own.get("runs")).isEmpty();
        assertThat(own.get("fields").has("group")).isFalse();
    }

    @Test
    void answersCarryTheSecurityHeaders() {
        var headers = call("", "GET", "/", null).raw().headers();
        assertThat(headers.firstValue("Content-Security-Policy").orElse(""))
                .contains("default-src 'none'")
                .contains("script-src 'self'")
                .doesNotContain("unsafe");
        assertThat(headers.firstValue("X-Content-Type-Options")).hasValue("nosniff");
        assertThat(call("", "GET", "/api/health", null).body().path("status").asText())
                .isEqualTo("up");
    }

    @Test
    void aRouteThatNoOneRegisteredIsDenied() {
        assertThat(RouteTable.of(app.app()))
                .allSatisfy(r -> assertThat(r.right()).isNotNull());
        assertThat(RouteTable.of(app.app()).stream()
                        .filter(r -> r.right() == dastur.core.people.Right.ANYBODY)
                        .map(r -> r.method() + " " + r.path()))
                .containsExactlyInAnyOrder(
                        "GET /api/health",
                        "GET /api/entrance",
                        "GET /api/feeds/{token}",
                        "POST /api/session",
                        "POST /api/session/as",
                        "POST /api/setup",
                        // A signed link says whose it is and for what.
                        "GET /api/decisions/{token}",
                        "POST /api/decisions/{token}",
                        "GET /api/seal/key",
                        // A source asks for its own secret.
                        "POST /in/{source}",
                        "POST /in/relay/join",
                        "POST /in/relay/hello",
                        "POST /in/relay/take",
                        "POST /in/relay/tell",
                        // A hook asks for its own token.
                        "POST /in/hooks/{trigger}",
                        "GET /in/hooks/{trigger}/calls/{call}");
    }

    /** The web application's types are made from this file; it must not drift from the route table. */
    @Test
    void theDescriptionInTheTreeIsTheRouteTables() throws IOException {
        JsonNode kept = Json.parse(Files.readString(Path.of("..", "web", "src", "api", "openapi.json")));
        assertThat(kept).as("run ./dastur api").isEqualTo(Json.parse(Main.describe()));
    }

    /** Whoever reads a record relies on it: every entry of the demo's past holds what the description says, and no more. */
    @Test
    void whatEntriesOfEachKindHoldIsAsDescribed() throws IOException {
        JsonNode schemas = Json.parse(Main.describe()).at("/components/schemas");
        Set<String> kinds = new TreeSet<>();
        for (JsonNode row : api.call("halvard", "GET", "/api/tickets?order=newest", null)
                .body()
                .get("items")) {
            String record = "/api/tickets/" + row.get("number").asText() + "/record";
            for (JsonNode entry :
                    api.call("halvard", "GET", record, null).body().get("entries")) {
                String kind = entry.get("kind").asText();
                kinds.add(kind);
                JsonNode described = schemas.get(
                                "Entry" + kind.substring(0, 1).toUpperCase(Locale.ROOT) + kind.substring(1))
                        .at("/allOf/1/properties");
                assertThat(names(entry.get("body")))
                        .as("body of %s", kind)
                        .isSubsetOf(names(described.at("/body/properties")))
                        .containsAll(texts(described.at("/body/required")));
                assertThat(names(entry.path("content")))
                        .as("content of %s", kind)
                        .isSubsetOf(names(described.at("/content/properties")));
            }
        }
        assertThat(kinds).hasSizeGreaterThan(40);
    }

    private static List<String> texts(JsonNode array) {
        List<String> texts = new ArrayList<>();
        array.forEach(t -> texts.add(t.asText()));
        return texts;
    }

    private static List<String> names(JsonNode object) {
        List<String> names = new ArrayList<>();
        object.fieldNames().forEachRemaining(names::add);
        return names;
    }
}
