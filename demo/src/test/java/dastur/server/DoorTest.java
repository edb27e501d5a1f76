package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import dastur.server.ApiClient.Signed;
import java.net.URI;
import java.net.http.HttpClient;
import java.net.http.HttpRequest;
import java.net.http.HttpResponse;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.ExecutorService;
import java.util.concurrent.Executors;
import java.util.concurrent.TimeUnit;
import java.util.stream.IntStream;
import java.util.stream.Stream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Attacks at the door: guessing, rushing, asking for what is not one's own, and bodies that nobody can read. */
class DoorTest extends OnDemo {
    private static final String PASSWORD = "a long enough password";

    private static Answer signIn(String name, String password, Map<String, String> headers) {
        return signIn(HttpClient.newHttpClient(), name, password, headers);
    }

    private static Answer signIn(HttpClient client, String name, String password, Map<String, String> headers) {
        return api.send(
                client, "POST", "/api/session", Json.write(Map.of("person", name, "password", password)), headers);
    }

    private static Answer with(String token, String method, String path) {
        return api.send(HttpClient.newHttpClient(), method, path, null, Map.of("Authorization", "Bearer " + token));
    }

    private static void givePassword(String person) {
        Answer given = api.call(
                "halvard", "PUT", "/api/people/" + person + "/password", "{\"password\":\"" + PASSWORD + "\"}");
        assertThat(given.status()).as(given.raw().body()).isEqualTo(204);
    }

    // --- S1, S2

    /** S1: a rush of sign-ins is turned away in words, breaks no connection, and stops nobody who is in. */
    @Test
    void twoHundredSignInsAtOnceAreTurnedAwayAndStopNobody() throws Exception {
        List<Integer> answers = new ArrayList<>();
        List<Integer> inside = new ArrayList<>();
        HttpClient outside = HttpClient.newHttpClient();
        try (ExecutorService hands = Executors.newVirtualThreadPerTaskExecutor()) {
            List<CompletableFuture<Answer>> rush = IntStream.range(0, 200)
                    .mapToObj(i -> CompletableFuture.supplyAsync(
                            () -> signIn(outside, "somebody-" + i, "guess number " + i, Map.of()), hands))
                    .toList();
            while (rush.stream().anyMatch(f -> !f.isDone())) {
                inside.add(api.call("ada", "GET", "/api/health", null).status());
            }
            for (CompletableFuture<Answer> one : rush) {
                Answer answer = one.get(30, TimeUnit.SECONDS);
                answers.add(answer.status());
                if (answer.status() == 503) {
                    assertThat(answer.raw().headers().firstValue("Retry-After")).isPresent();
                    assertThat(answer.body().get("detail").asText()).contains("try again in a few seconds");
                }
            }
        }
        assertThat(answers).hasSize(200).containsOnly(401, 429, 503).contains(503);
        assertThat(inside).isNotEmpty().containsOnly(200);
    }

    /** S2: another spelling of the same name is no further try. */
    @Test
    void theThrottleKnowsAnAccountByEverySpelling() {
        givePassword("runa");
        List<Integer> statuses = Stream.of(
                        "runa@kestrel.example",
                        "RUNA@kestrel.example",
                        "Runa@Kestrel.example",
                        "runa",
                        "rUNA@kestrel.example",
                        "runA@kestrel.example",
                        "RunA@kestrel.example")
                .map(name -> signIn(name, "wrong", Map.of()).status())
                .toList();
        assertThat(statuses.subList(5, 7)).containsOnly(429);
    }

    /** S2: what anybody can write into a header changes nothing, unless a proxy was named. */
    @Test
    void aForgedForwardingHeaderGivesNoFurtherTries() {
        List<Integer> statuses = IntStream.range(0, 7)
                .mapToObj(i -> signIn("pavel", "wrong", Map.of("X-Forwarded-For", "10.0.0." + i))
                        .status())
                .toList();
        assertThat(statuses.subList(5, 7)).containsOnly(429);
    }

    /** S11: time passes by the hand of those who work, not of those who only read. */
    @Test
    void whoOnlyReadsDoesNotMoveTheClock() {
        assertThat(api.call("mira", "POST", "/api/demo/clock", "{\"minutes\":60}")
                        .status())
                .isEqualTo(403);
    }

    // --- S3

    /** S3: a requester says what is the matter, and nothing that is for those who work on it. */
    @ParameterizedTest
    @CsvSource({
        "incident, major, true",
        "incident, impact, 1",
        "incident, urgency, 1",
        "incident, priority, '\"P1\"'",
        "incident, group, '\"duty-managers\"'",
        "incident, assignee, '\"teo\"'",
        "incident, cause, '\"mine\"'",
        "incident, done, '\"all\"'",
        "incident, answer, '\"yes\"'",
        "incident, lockNumber, '\"L-1\"'",
        "incident, requester, '\"teo\"'",
        "change, kind, '\"x\"'"
    })
    void whatARequesterMayNotSetWhenRaising(String kind, String field, String value) {
        String extra = field.equals("kind") ? "" : ",\"" + field + "\":" + value;
        Answer answer = api.call(
                "mira",
                "POST",
                "/api/tickets",
                "{\"kind\":\"" + kind + "\",\"fields\":{\"title\":\"Gate stands open\"" + extra + "}}");
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(field);
    }

    @ParameterizedTest
    @CsvSource({"incident", "request"})
    void whatARequesterMayRaise(String kind) {
        Answer answer = api.call("mira", "POST", "/api/tickets", """
                {"kind":"%s","fields":{"title":"A lamp flickers","description":"At the desk","service":"departure-boards"}}""".formatted(kind));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(201);
        JsonNode seen = ticket("mira", answer.body().get("ticket").asText());
        assertThat(seen.get("fields").get("requester").asText()).isEqualTo("mira");
    }

    // --- S4

    /** S4: whoever had got hold of a token is out when the password is given anew, and when the account is shut. */
    @Test
    void aTokenForReadingChangesNothingAndOneThatEndedIsNone() throws Exception {
        api.signAnew("runa");
        String read = token("{\"name\":\"reports\",\"scope\":\"read\",\"days\":7}");
        assertThat(byToken(read, "GET", "/api/tickets", null)).isEqualTo(200);
        String note = "{\"text\":\"x\",\"toRequester\":false}";
        assertThat(byToken(read, "POST", "/api/tickets/I-1045/notes", note)).isEqualTo(403);
        String all = token("{\"name\":\"script\"}");
        assertThat(byToken(all, "POST", "/api/tickets/I-1045/notes", note)).isEqualTo(200);
        assertThat(api.call("runa", "POST", "/api/tokens", "{\"name\":\"x\",\"days\":1000}")
                        .status())
                .isEqualTo(422);

        // Whoever can write into the database makes more of a token, lengthens it, or gives it to another: it is none
        // then.
        alter("update api_token set scope = 'all' where name = 'reports'");
        assertThat(byToken(read, "GET", "/api/tickets", null)).isEqualTo(401);
        alter("update api_token set expires_at = dateadd('DAY', 3000, expires_at) where name = 'script'");
        assertThat(byToken(all, "GET", "/api/tickets", null)).isEqualTo(401);
        String own = token("{\"name\":\"own\"}");
        alter("update api_token set person = 'halvard' where name = 'own'");
        assertThat(byToken(own, "GET", "/api/tickets", null)).isEqualTo(401);
    }

    /** K14: a sign-in that somebody wrote into the database, or gave to another, is none; nor is another's password one's own. */
    @Test
    void aForgedSignInOrPasswordIsNotBelieved() throws Exception {
        ApiClient.Signed teo = api.signedAnew("teo");
        assertThat(api.send(teo, "GET", "/api/desk", null).status()).isEqualTo(200);
        alter("update session set person = 'halvard' where person = 'teo'");
        assertThat(api.send(teo, "GET", "/api/desk", null).status()).isEqualTo(401);
        api.signAnew("teo");
        var organisation = new dastur.store.Organisation(api.app().database());
        var oskar =
                organisation.person(new dastur.core.people.PersonId("oskar")).orElseThrow();
        organisation.putPerson(oskar, "$argon2id$made-up");
        assertThat(organisation.passwordHash(oskar.id())).hasValue("$argon2id$made-up");
        alter("update person set password = (select password from person where id = 'oskar') where id = 'halvard'");
        assertThat(organisation.passwordHash(new dastur.core.people.PersonId("halvard")))
                .isEmpty();
        alter("update person set password = '$argon2id$written-past' where id = 'oskar'");
        assertThat(organisation.passwordHash(oskar.id())).isEmpty();
    }

    private static String token(String body) {
        return api.call("runa", "POST", "/api/tokens", body).body().get("token").asText();
    }

    private static int byToken(String token, String method, String path, String body) {
        return api.call("", method, path, body, Map.of("Authorization", "Bearer " + token))
                .status();
    }

    private static void alter(String sql) throws Exception {
        try (var connection = api.app().database().dataSource().getConnection();
                var statement = connection.createStatement()) {
            assertThat(statement.executeUpdate(sql)).as(sql).isPositive();
            connection.commit();
        }
    }

    @Test
    void tokensEndWithPasswordAndAccount() {
        for (boolean shut : new boolean[] {false, true}) {
            String token = api.call("priya", "POST", "/api/tokens", "{\"name\":\"script\"}")
                    .body()
                    .get("token")
                    .asText();
            assertThat(with(token, "GET", "/api/desk").status()).isEqualTo(200);
            if (shut) {
                account("priya", false);
                account("priya", true);
            } else {
                givePassword("priya");
            }
            assertThat(with(token, "GET", "/api/desk").status()).isEqualTo(401);
            api.signAnew("priya");
        }
    }

    private static void account(String person, boolean active) {
        Answer answer = api.call("halvard", "PUT", "/api/people/" + person, """
                {"name":"Priya Lund","mail":"%s@kestrel.example","roles":["agent"],"active":%s,"groups":["duty-managers"]}""".formatted(person, active));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(204);
    }

    /** S4: the stream of news ends with the sign-in behind it, at once. */
    @Test
    void theStreamOfNewsEndsWithTheSignIn() throws Exception {
        Signed ada = api.signedAnew("ada");
        HttpResponse<Stream<String>> stream = ada.client()
                .send(
                        HttpRequest.newBuilder(URI.create(
                                        "http://127.0.0.1:" + api.app().port() + "/api/live"))
                                .header("Cookie", ada.cookie())
                                .header("Accept", "text/event-stream")
                                .build(),
                        HttpResponse.BodyHandlers.ofLines());
        CompletableFuture<Long> ended =
                CompletableFuture.supplyAsync(() -> stream.body().count(), Thread::startVirtualThread);
        assertThat(api.send(ada, "DELETE", "/api/session", null).status()).isEqualTo(204);
        ended.get(10, TimeUnit.SECONDS);
    }

    // --- S6

    private static final List<String> BODIES = List.of(
            "9".repeat(2_000),
            "1e999999999",
            "-",
            "nope",
            "null",
            "[]",
            "\"text\"",
            "true",
            "{",
            "{}",
            "{\"x\":" + "9".repeat(1_500) + "}",
            "{\"fields\":{\"impact\":" + "9".repeat(400) + "},\"kind\":\"incident\"}",
            "{\"fields\":{\"impact\":1e400,\"title\":\"\\ud800\"},\"kind\":\"incident\"}",
            "[".repeat(5_000),
            "{\"key\":null,\"name\":null,\"base\":null,\"allowedHosts\":null}",
            "{\"name\":\"x\",\"base\":\"http://h\",\"allowedHosts\":[]}");

    /** They read no body, and go over the whole record each time. */
    private static final Set<String> LONG = Set.of("/api/keeping/copies", "/api/keeping/audits");

    /** S6: what nobody can read gets a clear answer on every route that takes a body, and is never a fault of ours. */
    @Test
    void noBodyThatCannotBeReadIsAFaultOfOurs() {
        JsonNode paths = api.call("", "GET", "/api/openapi.json", null).body().get("paths");
        List<String> faults = new ArrayList<>();
        int[] tried = {0};
        paths.properties().forEach(path -> path.getValue().properties().forEach(method -> {
            String verb = method.getKey().toUpperCase(java.util.Locale.ROOT);
            if (!verb.equals("POST") && !verb.equals("PUT") || LONG.contains(path.getKey())) {
                return;
            }
            String address = path.getKey()
                    .replace("{number}", "I-1045")
                    .replace("{seq}", "1")
                    .replaceAll("\\{[a-z]+}", "lanes");
            for (String body : BODIES) {
                Answer answer = api.call("halvard", verb, address, body);
                tried[0]++;
                if (answer.status() >= 500) {
                    faults.add(verb + " " + address + " ← " + body.substring(0, Math.min(60, body.length())));
                }
            }
        }));
        assertThat(tried[0]).isGreaterThan(1_000);
        assertThat(faults).isEmpty();
    }

    // --- S7

    /** S7: to a requester a ticket that is not theirs does not exist, whatever they try on it. */
    @Test
    void whatIsNotOnesOwnDoesNotExist() {
        String number = raiseGate("ALD-G1");
        // The first was raised for Mira, the other for somebody else.
        String other = api.call("ada", "POST", "/api/tickets", """
                {"kind":"incident","fields":{"title":"Gate stands open","ci":"ALD-G2","requester":"runa"}}""")
                .body()
                .get("ticket")
                .asText();
        String task = ask("runa", other).get("visit").asText();
        for (String[] route : new String[][] {
            {"POST", "/api/tasks/" + task + "/claim", null},
            {"POST", "/api/tasks/" + task + "/complete", "{\"outcome\":\"Close the lane\"}"},
            {"POST", "/api/tasks/" + task + "/pass-on", "{\"person\":\"teo\",\"reason\":\"x\"}"},
            {"POST", "/api/tasks/" + task + "/help", "{\"person\":\"teo\",\"text\":\"x\"}"},
            {"PUT", "/api/tasks/" + task + "/draft", "{\"form\":{}}"},
            {"POST", "/api/approvals/" + task + "/vote", "{\"approve\":true,\"round\":1,\"digest\":\"d\"}"},
            {"POST", "/api/approvals/" + task + "/question", "{\"text\":\"what?\"}"},
            {"POST", "/api/approvals/" + task + "/answer", "{\"text\":\"that\"}"},
            {"POST", "/api/reviews/" + task, "{\"verdict\":\"accept\"}"},
            {"POST", "/api/call-ins/" + task + "/answer", "{\"accept\":true}"},
            {"POST", "/api/tickets/" + other + "/notes", "{\"text\":\"hello\",\"toRequester\":true}"},
            {"GET", "/api/tickets/" + other, null},
            {"GET", "/api/endings?item=" + task, null}
        }) {
            Answer answer = api.call("mira", route[0], route[1], route[2]);
            assertThat(answer.status()).as(route[1]).isEqualTo(404);
            assertThat(answer.raw().body()).as(route[1]).doesNotContain("Look at the gate", "Pier technicians");
        }
        assertThat(api.call("mira", "GET", "/api/tickets/" + number, null).status())
                .isEqualTo(200);
    }
}
