package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.record.Seal;
import dastur.core.start.Timetable;
import dastur.core.workflow.TriggerId;
import dastur.server.ApiClient.Answer;
import dastur.store.Hooks;
import dastur.store.Schedules;
import java.io.IOException;
import java.net.http.HttpClient;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.LocalDateTime;
import java.time.ZoneOffset;
import java.time.temporal.ChronoUnit;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Set;
import java.util.UUID;
import java.util.concurrent.CompletableFuture;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Schedules and hooks, attacked: who may call, what is taken, what starts once, late, beside, or not at all (I6, I9, I10). */
class StartsTest extends OnDemo {
    private static final String CALLED = """
            workflow called "Called" for routine
              owner ines
              asks page: text "Page" required
              asks seconds: number "Seconds"
              asks many: whole number "How many"
              asks yes: yes or no "Yes"
              asks since: time "Since"
              asks node: CI "Node"
              asks who: person "Who"
              asks list: list "List"
              gives sum: number "Sum" = input.many + 1

            end: done "counted"
            """;
    private static final String SLOWLY = """
            workflow slowly "Slowly" for routine
              owner ines

            ask: ask group service-desk "Look" within 1 h: "Done"

            end: done "looked"
            """;

    private static String token;

    @BeforeAll
    static void published() {
        publish(
                CALLED,
                "{\"id\":\"called-hook\",\"on\":true,\"services\":[],\"mode\":\"starts\",\"when\":{\"is\":\"called\"}}");
        publish(
                SLOWLY,
                "{\"id\":\"slowly-hook\",\"on\":true,\"services\":[],\"mode\":\"starts\",\"when\":{\"is\":\"called\",\"tellsTicket\":true}}");
        token = newToken("called-hook");
    }

    private static String newToken(String hook) {
        return api.call("ines", "POST", "/api/hooks/" + hook + "/tokens", "{\"which\":1}")
                .body()
                .get("token")
                .asText();
    }

    /** As a process owner publishes a workflow that something else than a person starts. */
    private static void publish(String text, String... triggers) {
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        String key = read.version().key().value();
        String path = "/api/workflows/" + key;
        assertThat(api.call("ines", "POST", "/api/workflows", "{\"key\":\"%s\",\"name\":\"%s\"}".formatted(key, key))
                        .status())
                .isEqualTo(201);
        Answer saved = api.call(
                "ines",
                "PUT",
                path + "/draft",
                "{\"revision\":" + revision(path) + ",\"version\":" + Json.write(read.version()) + "}");
        assertThat(saved.status()).as(saved.raw().body()).isEqualTo(200);
        assertThat(triggers(key, triggers).status()).isLessThan(300);
        Answer live = api.call("ines", "POST", path + "/publish", "{\"revision\":" + revision(path) + "}");
        assertThat(live.status()).as(live.raw().body()).isLessThan(300);
    }

    private static long revision(String path) {
        return api.call("ines", "GET", path, null).body().get("draftRevision").asLong();
    }

    private static Answer triggers(String key, String... triggers) {
        return api.call(
                "ines",
                "PUT",
                "/api/workflows/" + key + "/triggers",
                "{\"triggers\":[" + String.join(",", triggers) + "]}");
    }

    private static Answer call(String hook, String body, String with, String... more) {
        Map<String, String> headers = new HashMap<>();
        if (with != null) {
            headers.put("Authorization", "Bearer " + with);
        }
        headers.put("Content-Type", "application/json");
        for (int i = 0; i < more.length; i += 2) {
            headers.put(more[i], more[i + 1]);
        }
        return api.send(HttpClient.newHttpClient(), "POST", "/in/hooks/" + hook, body, headers);
    }

    private static JsonNode hook(String id) {
        return api.call("ada", "GET", "/api/hooks/" + id, null).body();
    }

    private static Instant now() {
        return api.app().app().clock().instant();
    }

    // --- hooks

    @Test
    void aCallStartsARoutineWithWhatItGave() {
        Answer answer = call(
                "called-hook",
                "{\"page\":\"/book\",\"seconds\":6.5,\"many\":2,\"yes\":true,\"since\":\"2026-11-29T04:15:00Z\",\"node\":\"book-web-2\",\"who\":\"dario\",\"list\":[1,2]}",
                token);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(202);
        String id = answer.body().get("call").asText();
        assertThat(answer.body().has("ticket")).as("it is not told").isFalse();
        assertThat(answer.body().get("state").asText()).isEqualTo("counted");
        assertThat(answer.body().at("/results/sum").asDouble()).isEqualTo(3);
        JsonNode last = hook("called-hook").get("calls").findParents("id").stream()
                .filter(c -> c.get("id").asText().equals(id))
                .findFirst()
                .orElseThrow();
        JsonNode ticket = ticket("ines", last.get("ticket").asText());
        assertThat(ticket.get("kind").asText()).isEqualTo("routine");
        assertThat(ticket.at("/fields/state").asText()).isEqualTo("finished");
        assertThat(last.get("caller").asText()).contains("at 127.0.0.1");
        Answer again = api.send(
                HttpClient.newHttpClient(),
                "GET",
                answer.raw().headers().firstValue("Location").orElseThrow(),
                null,
                Map.of("Authorization", "Bearer " + token));
        assertThat(again.body().get("state").asText()).isEqualTo("counted");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     {}                                        | inputs.page
                     {"page":7}                                | inputs.page
                     {"page":"/","seconds":"soon"}             | inputs.seconds
                     {"page":"/","many":1.5}                   | inputs.many
                     {"page":"/","yes":"true"}                 | inputs.yes
                     {"page":"/","since":"yesterday"}          | inputs.since
                     {"page":"/","node":"no-such-node"}        | inputs.node
                     {"page":"/","node":"../../etc/passwd"}    | inputs.node
                     {"page":"/","who":"nobody"}               | inputs.who
                     {"page":"/","list":"a"}                   | inputs.list
                     {"page":"/","more":1}                     | inputs.more
                    """)
    void aWrongValueIsNamedAndNothingStarts(String body, String where) {
        Answer answer = call("called-hook", body, token);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        JsonNode last = hook("called-hook").get("calls").get(0);
        assertThat(last.has("ticket")).isFalse();
        assertThat(last.get("problem").asText()).isNotBlank();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     [1,2]       | 400
                     "text"      | 400
                     {"a":       | 400
                     {"a":1,"a":2} | 400
                    """)
    void whatIsNoObjectIsRefused(String body, int status) {
        assertThat(call("called-hook", body, token).status()).isEqualTo(status);
    }

    @Test
    void nobodyCallsWithoutItsToken() {
        assertThat(call("called-hook", "{\"page\":\"/\"}", null).status()).isEqualTo(401);
        assertThat(call("called-hook", "{\"page\":\"/\"}", "x").status()).isEqualTo(401);
        assertThat(call("slowly-hook", "{}", token).status())
                .as("the token of another hook")
                .isEqualTo(401);
        assertThat(call("nothing", "{}", token).status()).isEqualTo(404);
        assertThat(call("gate-raised", "{}", token).status())
                .as("a trigger that is no hook")
                .isEqualTo(404);
        ApiClient.Signed halvard = api.as("halvard");
        assertThat(call(
                                "called-hook",
                                "{\"page\":\"/\"}",
                                null,
                                "Cookie",
                                halvard.cookie(),
                                "X-CSRF-Token",
                                halvard.csrf())
                        .status())
                .as("a sign-in counts for nothing here")
                .isEqualTo(401);
        assertThat(api.send(
                                HttpClient.newHttpClient(),
                                "GET",
                                "/api/desk",
                                null,
                                Map.of("Authorization", "Bearer " + token))
                        .status())
                .isEqualTo(401);
        until(() -> hook("called-hook").get("refused").toString().contains("wrong token"));
        assertThat(hook("called-hook").toString()).doesNotContain(token);
    }

    @Test
    void aTokenIsShownOnceAndTwoAreLiveAtATime() {
        String first = newToken("slowly-hook");
        String second = api.call("ines", "POST", "/api/hooks/slowly-hook/tokens", "{\"which\":2}")
                .body()
                .get("token")
                .asText();
        assertThat(call("slowly-hook", "{}", first).status()).isEqualTo(202);
        assertThat(call("slowly-hook", "", second).status())
                .as("no body is no value")
                .isEqualTo(202);
        assertThat(api.call("ines", "DELETE", "/api/hooks/slowly-hook/tokens/1", null)
                        .status())
                .isLessThan(300);
        assertThat(call("slowly-hook", "{}", first).status()).isEqualTo(401);
        assertThat(call("slowly-hook", "{}", second).status()).isEqualTo(202);
        assertThat(api.call("runa", "POST", "/api/hooks/slowly-hook/tokens", "{\"which\":1}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("halvard", "GET", "/api/secrets", null).raw().body())
                .as("they stand on their own page")
                .doesNotContain("hook.");
    }

    @Test
    void theSameCallStartsOnce() throws Exception {
        String key = UUID.randomUUID().toString();
        String slow = newToken("slowly-hook");
        List<CompletableFuture<Answer>> all = new ArrayList<>();
        for (int i = 0; i < 8; i++) {
            all.add(CompletableFuture.supplyAsync(() -> call("slowly-hook", "{}", slow, "Idempotency-Key", key)));
        }
        Set<String> calls = new HashSet<>();
        Set<String> tickets = new HashSet<>();
        for (CompletableFuture<Answer> one : all) {
            Answer answer = one.get();
            assertThat(answer.status()).as(answer.raw().body()).isEqualTo(202);
            calls.add(answer.body().get("call").asText());
            tickets.add(answer.body().get("ticket").asText());
        }
        assertThat(calls).hasSize(1);
        assertThat(tickets).hasSize(1);
        assertThat(call("slowly-hook", "{ }", slow, "Idempotency-Key", key).status())
                .as("another body under the same key")
                .isEqualTo(422);
    }

    @Test
    void whoWaitsIsToldWhenItHasEnded() {
        String slow = newToken("slowly-hook");
        Answer waited = call("called-hook", "{\"page\":\"/\",\"many\":1}", token, "Prefer", "respond-async, wait=10");
        assertThat(waited.status()).isEqualTo(200);
        CompletableFuture<Answer> waits = CompletableFuture.supplyAsync(
                () -> call("slowly-hook", "{}", slow, "Prefer", "wait=30", "User-Agent", "waiter"));
        until(() -> hook("slowly-hook").at("/calls/0/caller").asText().startsWith("waiter")
                && hook("slowly-hook").at("/calls/0").has("ticket"));
        String ticket = hook("slowly-hook").at("/calls/0/ticket").asText();
        String visit = ask("ada", ticket).get("visit").asText();
        assertThat(api.call("ada", "POST", "/api/tasks/" + visit + "/complete", "{\"outcome\":\"Done\"}")
                        .status())
                .isEqualTo(200);
        Answer ended = waits.join();
        assertThat(ended.status()).isEqualTo(200);
        assertThat(ended.body().get("state").asText()).isEqualTo("looked");
        Answer not = call("slowly-hook", "{}", slow, "Prefer", "wait=1");
        assertThat(not.status()).as("it goes on").isEqualTo(202);
        assertThat(not.body().get("state").asText()).isEqualTo("under way");
    }

    @Test
    void aHookThatIsSwitchedOffTakesNothingAndATooLargeCallNeither() {
        assertThat(call("called-hook", "{\"page\":\"" + "x".repeat(70_000) + "\"}", token)
                        .status())
                .isEqualTo(413);
        publish(
                "workflow shut \"Shut\" for routine\n  owner ines\n\nend: done \"never\"\n",
                "{\"id\":\"shut-hook\",\"on\":false,\"services\":[],\"mode\":\"starts\",\"when\":{\"is\":\"called\"}}");
        String shut = newToken("shut-hook");
        assertThat(call("shut-hook", "{}", shut).status()).isEqualTo(409);
        assertThat(call("shut-hook", "{}", "x").status())
                .as("only its callers are told")
                .isEqualTo(401);
    }

    @Test
    void aFloodIsToldWhenToComeAgain() {
        publish(
                "workflow flooded \"Flooded\" for routine\n  owner ines\n\nend: done \"over\"\n",
                "{\"id\":\"flooded-hook\",\"on\":true,\"services\":[],\"mode\":\"starts\",\"when\":{\"is\":\"called\"}}");
        String flooded = newToken("flooded-hook");
        Answer last = call("flooded-hook", "{}", flooded);
        for (int i = 0; i < 200 && last.status() == 202; i++) {
            last = call("flooded-hook", "{\"no\":1", flooded).status() == 429
                    ? call("flooded-hook", "{}", flooded)
                    : last;
        }
        assertThat(last.status()).isEqualTo(429);
        assertThat(last.raw().headers().firstValue("Retry-After")).isPresent();
    }

    /** What docs/starts.md tells programs to type does what it says. */
    @Test
    void everyExampleOfTheGuideIsTaken() throws IOException, InterruptedException {
        assumeThat(Files.isExecutable(Path.of("/usr/bin/curl"))).isTrue();
        String slow = newToken("booking-site-slow-hook");
        Matcher boxes = Pattern.compile("```sh\\n(.*?)```", Pattern.DOTALL)
                .matcher(Files.readString(Path.of("..", "docs", "starts.md")));
        int count = 0;
        while (boxes.find()) {
            ProcessBuilder shell = new ProcessBuilder("bash", "-c", boxes.group(1)).redirectErrorStream(true);
            shell.environment().put("DASTUR", "http://127.0.0.1:" + api.app().port());
            shell.environment().put("TOKEN", slow);
            Process running = shell.start();
            String said = new String(running.getInputStream().readAllBytes(), StandardCharsets.UTF_8);
            assertThat(running.waitFor(20, TimeUnit.SECONDS)).isTrue();
            JsonNode ticket = ticket("ada", Json.readMap(said).get("ticket").toString());
            assertThat(ticket.get("title").asText()).as(said).startsWith("Booking site: /book takes");
            count++;
        }
        assertThat(count).isEqualTo(2);
    }

    // --- schedules

    private static String rhythm(String rule, Instant from) {
        LocalDateTime at = LocalDateTime.ofInstant(from, ZoneOffset.UTC);
        return "{\"from\":\"%s\",\"zone\":\"UTC\"%s}".formatted(at, rule == null ? "" : ",\"rule\":\"" + rule + "\"");
    }

    private static String schedule(String id, String rhythm, String more) {
        return "{\"id\":\"%s\",\"on\":true,\"services\":[],\"mode\":\"starts\",\"when\":{\"is\":\"time comes\",\"rhythm\":%s%s}}"
                .formatted(id, rhythm, more);
    }

    private static JsonNode turns(String id) {
        return api.call("ada", "GET", "/api/schedules/" + id + "/turns", null).body();
    }

    private static JsonNode line(String id) {
        for (JsonNode line : api.call("ada", "GET", "/api/schedules", null).body()) {
            if (line.at("/live/trigger/id").asText().equals(id)) {
                return line;
            }
        }
        throw new AssertionError("there is no schedule " + id);
    }

    private static void advance(Duration by) {
        api.app().app().demo().advance().accept(by);
    }

    /** One that was seen by the timekeeper: from then on nothing of it is passed over. */
    private static void counted(String id) {
        until(() -> api.app().app().starts().schedules().stand().keySet().stream()
                .anyMatch(t -> t.value().equals(id)));
    }

    @Test
    void itStartsAtItsTimeOnceAndWithWhatItGives() {
        Instant at = now().truncatedTo(ChronoUnit.MINUTES).plus(2, ChronoUnit.MINUTES);
        publish(
                "workflow timed \"Timed\" for routine\n  owner ines\n  asks day: text \"Day\" required\n  gives day: text \"Day\" = input.day\n\nend: done \"well\"\n",
                schedule(
                        "timed-1",
                        rhythm(null, at),
                        ",\"inputs\":{\"day\":\"string(now)\"},\"title\":\"At its time\""));
        counted("timed-1");
        assertThat(line("timed-1").at("/next/0").asText())
                .isEqualTo(at.toString().replace("Z", ".000Z"));
        advance(Duration.between(now(), at).plusSeconds(1));
        until(() -> turns("timed-1").size() == 1);
        JsonNode turn = turns("timed-1").get(0);
        assertThat(turn.get("verdict").asText()).isEqualTo("started");
        assertThat(turn.get("state").asText()).isEqualTo("finished");
        JsonNode ticket = ticket("ines", turn.get("ticket").asText());
        assertThat(ticket.at("/fields/title").asText()).isEqualTo("At its time");
        assertThat(api.call("ines", "GET", "/api/tickets/" + turn.get("ticket").asText() + "/record", null)
                        .raw()
                        .body())
                .contains(at.toString().substring(0, 16))
                .contains("caused");
        until(() -> line("timed-1").get("next").isEmpty());
        assertThat(api.call("ada", "GET", "/api/tickets?open=false", null).raw().body())
                .as("nobody waits for it, so it stands in no list")
                .doesNotContain("At its time");
        assertThat(api.call("ada", "GET", "/api/tickets?kind=routine", null)
                        .raw()
                        .body())
                .contains("At its time");
        advance(Duration.ofMinutes(30));
        counted("timed-1");
        assertThat(turns("timed-1")).hasSize(1);
    }

    @Test
    void whatIsStillUnderWayIsNotStartedAgainAndWhatWaitsStartsAfterwards() {
        Instant first = now().truncatedTo(ChronoUnit.MINUTES).plus(1, ChronoUnit.MINUTES);
        publish(
                SLOWLY.replace("slowly", "hourly").replace("Slowly", "Hourly"),
                schedule("hourly-skips", rhythm("FREQ=HOURLY", first), ",\"overlap\":\"skipped\""),
                schedule("hourly-waits", rhythm("FREQ=HOURLY", first), ",\"overlap\":\"waits\""));
        counted("hourly-skips");
        counted("hourly-waits");
        advance(Duration.between(now(), first).plusSeconds(1));
        until(() -> turns("hourly-skips").size() == 1 && turns("hourly-waits").size() == 1);
        advance(Duration.ofHours(1));
        until(() -> turns("hourly-skips").size() == 2);
        assertThat(turns("hourly-skips").get(0).get("verdict").asText()).isEqualTo("skipped");
        until(() -> line("hourly-waits").get("waits").asBoolean());
        assertThat(turns("hourly-waits")).hasSize(1);
        String ticket = turns("hourly-waits").get(0).get("ticket").asText();
        String visit = ask("ada", ticket).get("visit").asText();
        api.call("ada", "POST", "/api/tasks/" + visit + "/complete", "{\"outcome\":\"Done\"}");
        until(() -> turns("hourly-waits").size() == 2);
        assertThat(turns("hourly-waits").get(0).get("verdict").asText()).isEqualTo("started");
    }

    @Test
    void whatWasMissedIsMadeGoodOnceWithinAnHourAndElseSaidToBeMissed() {
        Instant first = now().truncatedTo(ChronoUnit.MINUTES).plus(1, ChronoUnit.MINUTES);
        publish(
                "workflow missed \"Missed\" for routine\n  owner ines\n\nend: done \"well\"\n",
                schedule("missed-good", rhythm("FREQ=HOURLY;INTERVAL=3", first), ""),
                schedule("missed-out", rhythm("FREQ=HOURLY;INTERVAL=3", first), ",\"missed\":\"left out\""));
        counted("missed-good");
        counted("missed-out");
        advance(Duration.between(now(), first).plus(Duration.ofMinutes(30)));
        until(() -> turns("missed-good").size() == 1 && turns("missed-out").size() == 1);
        assertThat(turns("missed-good").get(0).get("note").asText()).contains("nothing ran at its time");
        assertThat(turns("missed-out").get(0).get("verdict").asText()).isEqualTo("missed");
        advance(Duration.ofHours(4).plusMinutes(30));
        until(() -> turns("missed-good").size() == 2);
        assertThat(turns("missed-good").get(0).get("verdict").asText())
                .as("two hours late is too late")
                .isEqualTo("missed");
    }

    /** As a node finds it that was killed between the start and its note, or that only thinks that it keeps the time. */
    @Test
    void theSameTimeStartsNothingTwice() {
        Instant at = now().truncatedTo(ChronoUnit.MINUTES).plus(2, ChronoUnit.MINUTES);
        publish(
                "workflow again \"Again\" for routine\n  owner ines\n\nend: done \"well\"\n",
                schedule("again-1", rhythm("FREQ=DAILY", at), ""));
        counted("again-1");
        Schedules schedules = api.app().app().starts().schedules();
        TriggerId id = new TriggerId("again-1");
        String asSet = schedules.stand().get(id).rhythm();
        advance(Duration.between(now(), at).plusSeconds(1));
        until(() -> turns("again-1").size() == 1);
        String ticket = turns("again-1").get(0).get("ticket").asText();
        schedules.begin(new Schedules.Stand(id, asSet, new Timetable.Mark(at, false)));
        until(() -> schedules.stand().get(id).mark().next().isAfter(at));
        assertThat(turns("again-1")).hasSize(1);
        assertThat(turns("again-1").get(0).get("ticket").asText()).isEqualTo(ticket);
        assertThat(api.call("ada", "GET", "/api/tickets?kind=routine", null)
                        .body()
                        .get("items")
                        .findValuesAsText("title"))
                .containsOnlyOnce("Again");
    }

    /** As a call stands that was kept when the process died: whoever got no answer sends it again, and it starts once. */
    @Test
    void aCallThatWasCutOffIsTakenUpByItsRepetition() {
        String slow = newToken("slowly-hook");
        String key = UUID.randomUUID().toString();
        Hooks.Call cut = new Hooks.Call(
                UUID.randomUUID().toString(),
                new TriggerId("slowly-hook"),
                now(),
                Seal.hash("{}"),
                "killed at 127.0.0.1",
                null,
                null,
                null);
        api.app().app().starts().hooks().keep(cut, Seal.hash(key));
        Answer answer = call("slowly-hook", "{}", slow, "Idempotency-Key", key);
        assertThat(answer.body().get("call").asText()).isEqualTo(cut.id());
        String ticket = answer.body().get("ticket").asText();
        assertThat(call("slowly-hook", "{}", slow, "Idempotency-Key", key)
                        .body()
                        .get("ticket")
                        .asText())
                .isEqualTo(ticket);
    }

    @Test
    void whatCannotStartSaysWhy() {
        Instant at = now().truncatedTo(ChronoUnit.MINUTES).plus(2, ChronoUnit.MINUTES);
        publish(
                "workflow empty \"Empty\" for routine\n  owner ines\n  asks node: CI \"Node\" required\n\nend: done \"well\"\n",
                schedule("empty-1", rhythm(null, at), ",\"inputs\":{\"node\":\"'no-such-node'\"}"));
        counted("empty-1");
        advance(Duration.between(now(), at).plusSeconds(1));
        until(() -> turns("empty-1").size() == 1);
        assertThat(turns("empty-1").get(0).get("verdict").asText()).isEqualTo("refused");
        assertThat(turns("empty-1").get(0).get("note").asText()).contains("no-such-node");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                     {"is":"time comes","rhythm":{"from":"2026-11-29T04:15","zone":"UTC","rule":"every day"}}        | 400
                     {"is":"time comes","rhythm":{"from":"2026-11-29T04:15","zone":"Nowhere/Land","rule":"FREQ=DAILY"}} | 400
                     {"is":"time comes","rhythm":{"from":"2020-01-01T04:15","zone":"UTC"}}                            | 422
                     {"is":"time comes","rhythm":{"from":"2026-11-29T04:15","zone":"UTC","rule":"FREQ=YEARLY;BYMONTH=2;BYMONTHDAY=30"}} | 422
                     {"is":"time comes","rhythm":{"from":"2026-11-29T04:15","zone":"UTC","rule":"FREQ=DAILY","openDaysOf":"never-heard-of"}} | 422
                     {"is":"time comes"}                                                                              | 400
                    """)
    void aTimeThatCannotComeIsRefusedOnSaving(String when, int status) {
        Answer answer = triggers(
                "called", "{\"id\":\"wrong\",\"on\":true,\"services\":[],\"mode\":\"starts\",\"when\":" + when + "}");
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(status);
        assertThat(answer.body().get("detail").asText()).isNotBlank();
    }

    @Test
    void theNextTimesAreToldBeforeTheyAreSet() {
        Answer times = api.call(
                "ines",
                "POST",
                "/api/schedules/times",
                "{\"rhythm\":{\"from\":\"2026-11-29T04:15\",\"zone\":\"Europe/Oslo\",\"rule\":\"FREQ=WEEKLY;BYDAY=MO\"}}");
        assertThat(times.body().get("times")).hasSize(5);
        assertThat(times.body().get("aYear").asInt()).isBetween(52, 53);
    }

    @Test
    void whoWorksOnTicketsStartsItNowAndNobodyElseDoes() {
        assertThat(api.call("mira", "POST", "/api/triggers/called-hook/starts", "{\"inputs\":{\"page\":\"/\"}}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("runa", "POST", "/api/triggers/called-hook/starts", "{\"inputs\":{}}")
                        .status())
                .isEqualTo(422);
        assertThat(api.call("runa", "POST", "/api/triggers/gate-raised/starts", "{\"inputs\":{}}")
                        .status())
                .isEqualTo(422);
        Answer started = api.call("runa", "POST", "/api/triggers/called-hook/starts", "{\"inputs\":{\"page\":\"/\"}}");
        assertThat(started.status()).isEqualTo(201);
        assertThat(ticket("ines", started.body().get("ticket").asText())
                        .get("kind")
                        .asText())
                .isEqualTo("routine");
    }

    @Test
    void nobodyRaisesARoutine() {
        Answer answer =
                api.call("ada", "POST", "/api/tickets", "{\"kind\":\"routine\",\"fields\":{\"title\":\"By hand\"}}");
        assertThat(answer.status()).isEqualTo(422);
    }
}
