package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.time.Instant;
import java.util.ArrayList;
import java.util.List;
import java.util.Map;
import java.util.concurrent.CompletableFuture;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Accounts, groups, services, CIs, calendars, rotas, connections and actions over HTTP, and the journal of it. */
class SetUpTest extends OnDemo {
    private static Answer put(String person, String path, String body) {
        return api.call(person, "PUT", path, body);
    }

    private static JsonNode get(String person, String path) {
        Answer answer = api.call(person, "GET", path, null);
        assertThat(answer.status()).isEqualTo(200);
        return answer.body();
    }

    private static JsonNode journal() {
        return get("halvard", "/api/journal").get("lines");
    }

    private static JsonNode person(String id) {
        for (JsonNode p : get("halvard", "/api/people").get("people")) {
            if (p.get("id").asText().equals(id)) {
                return p;
            }
        }
        throw new AssertionError("nobody called " + id);
    }

    @Test
    void anAccountIsMadeSignsInIsChangedAndShutAndAllOfItStandsInTheJournal() {
        String path = "/api/people/nils";
        assertThat(put("halvard", path, """
                        {"name":"Nils Aaberg","mail":"nils@kestrel.example","roles":["agent"],"active":true,
                        "groups":["network-radio"],"manager":"pavel"}""").status()).isEqualTo(204);
        assertThat(put("halvard", path + "/password", "{\"password\":\"salt-and-harbour\"}")
                        .status())
                .isEqualTo(204);
        String signIn = "{\"person\":\"nils@kestrel.example\",\"password\":\"salt-and-harbour\"}";
        assertThat(api.call("", "POST", "/api/session", signIn).status()).isEqualTo(200);
        assertThat(person("nils").get("groups").get(0).asText()).isEqualTo("network-radio");
        assertThat(person("nils").get("manager").asText()).isEqualTo("pavel");
        assertThat(person("nils").has("lastSeen")).isTrue();

        assertThat(put("halvard", path, """
                        {"name":"Nils Aaberg","mail":"nils@kestrel.example","roles":["agent"],"active":false,
                        "groups":[]}""").status()).isEqualTo(204);
        assertThat(api.call("", "POST", "/api/session", signIn).status()).isEqualTo(401);
        List<String> did = journal().findValuesAsText("did");
        assertThat(did).contains("made", "changed", "given a new password");
        assertThat(journal().findValuesAsText("detail"))
                .anySatisfy(d -> assertThat(d).contains("groups").contains("network-radio"))
                .anySatisfy(d -> assertThat(d).startsWith("members").contains("nils"));
        assertThat(Json.write(journal())).doesNotContain("salt-and-harbour").doesNotContain("argon2");
    }

    /** E16: the longest name and the longest key together are a command like any other. */
    @Test
    void aLongNameWithALongKeyIsKeptOnce() {
        String id = "n".repeat(80);
        assertThat(put("halvard", "/api/people/" + id, """
                        {"name":"Longest","mail":"longest@kestrel.example","roles":["agent"],"active":true,"groups":[]}""").status()).isEqualTo(204);
        assertThat(put("halvard", "/api/people/" + id + "/password", "{\"password\":\"salt-and-harbour\"}")
                        .status())
                .isEqualTo(204);
        api.signIn(id, "salt-and-harbour");
        Map<String, String> key = Map.of("Idempotency-Key", "k".repeat(64));
        String body =
                "{\"kind\":\"incident\",\"fields\":{\"title\":\"A gate\",\"ci\":\"kiosk-09\",\"requester\":\"mira\"}}";
        Answer first = api.call(id, "POST", "/api/tickets", body, key);
        assertThat(first.status()).as(first.raw().body()).isLessThan(300);
        assertThat(api.call(id, "POST", "/api/tickets", body, key).body().get("ticket"))
                .isEqualTo(first.body().get("ticket"));
        assertThat(api.call("ada", "POST", "/api/tickets", body, key).body().get("ticket"))
                .as("another person's key is another key")
                .isNotEqualTo(first.body().get("ticket"));
    }

    /** A pause at noon, the weekend and a holiday lie between: what is tried is not kept. */
    @Test
    void aCalendarIsTriedBeforeItCounts() {
        String trial = """
                {"calendar":{"key":"trial","name":"","zone":"Europe/Oslo","holidays":["2026-11-30"],"hours":{
                "MONDAY":[{"from":"08:00","to":"12:00"}],"TUESDAY":[{"from":"08:00","to":"12:00"},{"from":"13:00","to":"17:00"}],
                "FRIDAY":[{"from":"08:00","to":"17:00"}]}},"span":"%s","from":"2026-11-27T15:00:00Z"}""";
        Answer told = api.call("ines", "POST", "/api/calendar-trials", trial.formatted("6 working h"));
        assertThat(told.body().toString())
                .isEqualTo(
                        "{\"from\":\"2026-11-27T15:00:00.000Z\",\"openThen\":true,\"until\":\"2026-12-01T13:00:00.000Z\"}");
        assertThat(api.call(
                                "ines",
                                "POST",
                                "/api/calendar-trials",
                                trial.formatted("6 working h").replace("13:00", "11:00"))
                        .body()
                        .get("where")
                        .asText())
                .isEqualTo("hours");
        assertThat(api.call("ines", "POST", "/api/calendar-trials", trial.formatted("soon"))
                        .status())
                .isBetween(400, 422);
        assertThat(api.call(
                                "ines",
                                "POST",
                                "/api/calendar-trials",
                                trial.formatted("6 working h").replace("2026-11-27T", "+999999999-11-27T"))
                        .body()
                        .get("where")
                        .asText())
                .isEqualTo("from");
        Answer never = api.call("ines", "POST", "/api/calendar-trials", """
                {"calendar":{"key":"trial","name":"","zone":"Europe/Oslo","holidays":[],"hours":{"MONDAY":[{"from":"08:00","to":"12:00"}]}},
                "span":"60 working days"}""");
        assertThat(never.body().path("until").isNull()
                        || never.body().path("until").isMissingNode())
                .isTrue();
        assertThat(get("ines", "/api/calendars").toString()).doesNotContain("\"trial\"");
    }

    /** E17: whoever designs says which hours count where a service names none. */
    @Test
    void theUsualHoursAreSetAndStandInTheJournal() {
        assertThat(get("ines", "/api/services").get("defaultCalendar").asText()).isEqualTo("office");
        assertThat(put("ines", "/api/usual-calendar", "{\"calendar\":\"none-such\"}")
                        .status())
                .isEqualTo(422);
        assertThat(put("ada", "/api/usual-calendar", "{\"calendar\":\"office\"}")
                        .status())
                .isEqualTo(403);
        String other = """
                {"key":"nights","name":"Nights","zone":"Europe/Oslo","holidays":[],
                "hours":{"MONDAY":[{"from":"22:00","to":"00:00"}]}}""";
        assertThat(put("ines", "/api/calendars/nights", other).status()).isEqualTo(204);
        assertThat(put("ines", "/api/usual-calendar", "{\"calendar\":\"nights\"}")
                        .status())
                .isEqualTo(204);
        assertThat(get("ines", "/api/services").get("defaultCalendar").asText()).isEqualTo("nights");
        assertThat(journal().get(0).get("subject").asText()).isEqualTo("usual calendar");
        assertThat(put("ines", "/api/usual-calendar", "{\"calendar\":\"office\"}")
                        .status())
                .isEqualTo(204);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            /api/people/new-one | {"name":"","roles":["agent"],"active":true,"groups":[]} | name
            /api/people/new-one | {"name":"N","mail":"no at","roles":["agent"],"active":true,"groups":[]} | mail
            /api/people/new-one | {"name":"N","mail":"teo@kestrel.example","roles":["agent"],"active":true,"groups":[]} | mail
            /api/people/new-one | {"name":"N","roles":[],"active":true,"groups":[]} | roles
            /api/people/new-one | {"name":"N","roles":["agent"],"active":true,"groups":["nowhere"]} | groups
            /api/people/teo     | {"name":"N","roles":["agent"],"active":true,"groups":[],"manager":"teo"} | manager
            /api/people/teo/password | {"password":"short"} | password
            /api/groups/new     | {"name":"G","members":["nobody-known"]} | members
            /api/services/new   | {"name":"S","passengers":true,"owner":"nowhere"} | owner
            /api/services/new   | {"name":"S","passengers":true,"calendar":"nowhere"} | calendar
            /api/cis/NEW-1      | {"name":"C","kind":"gate","life":"broken","attributes":{}} | life
            /api/cis/NEW-1      | {"name":"C","kind":"gate","life":"in use","attributes":{"colour":"red"}} | attributes.colour
            /api/cis/NEW-1      | {"name":"C","kind":"gate","life":"in use","attributes":{},"relations":[{"relation":"feeds","to":"NEW-1"}]} | relations
            /api/calendars/new  | {"key":"new","name":"C","zone":"Europe/Oslo","holidays":[],"hours":{"MONDAY":[{"from":"08:00","to":"12:00"},{"from":"11:00","to":"13:00"}]}} | hours
            /api/connections/new | {"key":"new","name":"C","base":"file:///etc/passwd","allowedHosts":[]} | base
            /api/connections/new | {"key":"new","name":"C","base":"http://u:p@localhost","allowedHosts":[]} | base
            /api/connections/new | {"key":"new","name":"C","base":"http://localhost","allowedHosts":[],"secret":"none-such"} | secret
            /api/connections/new | {"key":"new","name":"C","base":"ssh://root@gw","allowedHosts":[]} | base
            /api/connections/new | {"key":"new","name":"C","base":"dns://user@ns","allowedHosts":[]} | base
            /api/actions/new.one | {"action":{"key":"new.one","name":"A","description":"","connection":"piers","call":{"method":"GET","path":"/"},"inputs":[],"outputs":[],"results":[],"repeat":"free","changesWorld":false,"timeLimit":"20 s","tries":1,"pause":"5 s"}} | call.method
            /api/actions/new.one | {"action":{"key":"new.one","name":"A","description":"","connection":"lanes","call":{"method":"RUN","path":"/"},"inputs":[],"outputs":[],"results":[],"repeat":"free","changesWorld":false,"timeLimit":"20 s","tries":1,"pause":"5 s"}} | call.method
            /api/actions/new.one | {"action":{"key":"new.one","name":"A","description":"","connection":"none","call":{"method":"GET","path":"/"},"inputs":[],"outputs":[],"results":[],"repeat":"free","changesWorld":false,"timeLimit":"20 s","tries":1,"pause":"5 s"}} | connection
            /api/rotas/new      | {"key":"new","name":"R","zone":"Europe/Oslo","levels":[{"layers":[{"people":["nobody-known"],"start":"2026-10-05T08:00:00","days":7,"hours":{}}]}],"swaps":[]} | levels
            """)
    void whatDoesNotFitIsRefusedWithItsPlaceAndChangesNothing(String path, String body, String where) {
        int before = journal().size();
        Answer answer = put("halvard", path, body);
        assertThat(answer.status()).as(body).isEqualTo(422);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        assertThat(journal().size()).isEqualTo(before);
    }

    @Test
    void onlyThoseWithTheRightSetThingsUp() {
        String account = "{\"name\":\"N\",\"roles\":[\"administrator\"],\"active\":true,\"groups\":[]}";
        for (String person : List.of("ines", "runa", "oskar", "mira")) {
            assertThat(put(person, "/api/people/runa", account).status()).isEqualTo(403);
        }
        assertThat(put("runa", "/api/groups/new", "{\"name\":\"G\",\"members\":[]}")
                        .status())
                .isEqualTo(403);
        assertThat(api.call("ines", "GET", "/api/journal", null).status()).isEqualTo(403);
    }

    @Test
    void theLastWhoMayAdministerStaysOne() {
        Answer answer = put(
                "halvard",
                "/api/people/halvard",
                "{\"name\":\"Halvard Quist\",\"roles\":[\"agent\"],\"active\":true,\"groups\":[]}");
        assertThat(answer.status()).isEqualTo(409);
        assertThat(person("halvard").get("roles").toString()).contains("administrator");
    }

    @Test
    void cisAreTakenAlongAsCsvAndComeBackUnchanged() {
        Answer exported = api.call("ines", "GET", "/api/files/cis", null);
        String csv = exported.raw().body();
        assertThat(csv)
                .startsWith("id,name,kind,service,site,address,owner,life,lane")
                .contains("ALD-G4");
        JsonNode same = takeCis(csv, true);
        assertThat(same.get("same").asInt()).isEqualTo(same.get("rows").size()).isGreaterThan(100);

        String more =
                "id,name,kind,site,life\nNSL-X1,\"Spare, boxed\",gate,NSL,planned\nALD-G4,Gate four,gate,ALD,in use\n";
        JsonNode dry = takeCis(more, true);
        assertThat(dry.get("made").asInt()).isEqualTo(1);
        assertThat(dry.get("rows").get(1).get("detail").asText()).contains("→ Gate four");
        assertThat(api.call("ines", "GET", "/api/cis/NSL-X1", null).status()).isEqualTo(404);
        takeCis(more, false);
        assertThat(get("ines", "/api/cis/NSL-X1").get("ci").get("name").asText())
                .isEqualTo("Spare, boxed");
        JsonNode gate = get("ines", "/api/cis/ALD-G4").get("ci");
        assertThat(gate.get("name").asText()).isEqualTo("Gate four");
        assertThat(gate.get("service").asText()).isEqualTo("ticket-gates");
    }

    /** CWE-1236: what a spreadsheet would run goes out as text, and comes back as it was. */
    @Test
    void aNameThatASpreadsheetWouldRunIsOnlyText() {
        takeCis("id,name,kind,site,life\nNSL-F1,\"=HYPERLINK(\"\"http://x\"\")\",gate,NSL,planned\n", false);
        String csv = api.call("ines", "GET", "/api/files/cis", null).raw().body();
        assertThat(csv).contains("\"'=HYPERLINK").doesNotContain(",=HYPERLINK", "\"=HYPERLINK");
        JsonNode same = takeCis(csv, true);
        assertThat(same.get("same").asInt()).isEqualTo(same.get("rows").size());
        assertThat(get("ines", "/api/cis/NSL-F1").get("ci").get("name").asText())
                .isEqualTo("=HYPERLINK(\"http://x\")");
    }

    private static Answer takePeople(String csv, boolean dryRun) {
        return api.call("halvard", "POST", "/api/files/people", Json.write(Map.of("csv", csv, "dryRun", dryRun)));
    }

    @Test
    void peopleAreTakenAlongAsCsvAndComeBackUnchanged() {
        String csv = api.call("halvard", "GET", "/api/files/people", null).raw().body();
        assertThat(csv).startsWith("id,name,mail,roles,groups,manager,open").contains("Runa Feld");
        JsonNode same = takePeople(csv, true).body();
        assertThat(same.get("same").asInt()).isEqualTo(same.get("rows").size()).isGreaterThan(15);

        // The manager stands below whom she manages, and both are new.
        String more = """
                id,name,mail,roles,groups,manager
                torvald,Torvald Aune,torvald@kestrel.example,agent; auditor,pier-technicians,wenche
                wenche,Wenche Moen,wenche@kestrel.example,agent,,
                """;
        JsonNode dry = takePeople(more, true).body();
        assertThat(dry.get("rows").findValuesAsText("becomes")).containsExactly("new", "new");
        assertThat(get("halvard", "/api/people").toString()).doesNotContain("Torvald Aune");
        assertThat(takePeople(more, false).status()).isEqualTo(200);
        JsonNode nils = person("torvald");
        assertThat(nils.get("manager").asText()).isEqualTo("wenche");
        assertThat(nils.get("roles").toString()).contains("agent", "auditor");
        assertThat(nils.get("groups").toString()).contains("pier-technicians");
        // A column that is not there leaves what is there.
        JsonNode changed =
                takePeople("id,name\ntorvald,Torvald Moen-Aune\n", false).body();
        assertThat(changed.get("rows").get(0).get("detail").asText())
                .isEqualTo("name: Torvald Aune → Torvald Moen-Aune");
        assertThat(person("torvald").get("groups").toString()).contains("pier-technicians");
        assertThat(takePeople("id,open,manager,groups\ntorvald,no,,\nwenche,no,,\n", false)
                        .status())
                .isEqualTo(200);
        assertThat(person("torvald").get("active").asBoolean()).isFalse();
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            id,name;a b,Space                                                  | wrong
            id,name;zed,                                                       | name has 1 to 200
            id,name,mail;zed,Zed,teo@kestrel.example                           | Somebody else
            id,name,mail;zed,Zed,z@x.example;zoe,Zoe,Z@X.example               | Somebody else
            id,name,roles;zed,Zed,boss                                         | no role 'boss'
            id,name,groups;zed,Zed,nowhere                                     | no group 'nowhere'
            id,name,manager;zed,Zed,nobody-known                               | nobody called
            id,name,manager;zed,Zed,zed                                        | own manager
            id,name,manager;zed,Zed,zoe;zoe,Zoe,zed                            | manager's manager
            id,name,open;zed,Zed,perhaps                                       | yes or no
            id,name;zed,Zed;zed,Again                                          | twice
            """)
    void aRowThatDoesNotFitIsSaidAndNothingIsTaken(String rows, String says) {
        String csv = rows.strip().replace(';', '\n') + "\n";
        JsonNode dry = takePeople(csv, true).body();
        assertThat(dry.get("wrong").asInt()).as(dry.toString()).isPositive();
        assertThat(dry.toString()).contains(says);
        assertThat(takePeople(csv.strip(), true).body())
                .as("with and without an end of its last line")
                .isEqualTo(dry);
        assertThat(takePeople(csv, false).status()).isEqualTo(422);
        assertThat(get("halvard", "/api/people").toString()).doesNotContain("\"zed\"", "\"zoe\"");
    }

    @Test
    void noFileTakesTheLastAdministratorsRightAndOnlyTheyTakeOne() {
        assertThat(takePeople("id,roles\nhalvard,agent\n", false).status()).isEqualTo(409);
        assertThat(person("halvard").get("roles").toString()).contains("administrator");
        for (String who : List.of("ines", "ada")) {
            assertThat(api.call(who, "POST", "/api/files/people", "{\"csv\":\"id\",\"dryRun\":true}")
                            .status())
                    .isEqualTo(403);
            assertThat(api.call(who, "GET", "/api/files/people", null).status()).isEqualTo(403);
        }
    }

    private static JsonNode takeCis(String csv, boolean dryRun) {
        Answer answer = api.call("ines", "POST", "/api/files/cis", Json.write(Map.of("csv", csv, "dryRun", dryRun)));
        assertThat(answer.status()).isEqualTo(200);
        return answer.body();
    }

    @Test
    void aFileWithOneWrongRowIsNotTakenOverAtAll() {
        String csv = "id,name,kind,life\nNSL-Y1,Good,gate,planned\nNSL-Y2,Bad,gate,lost\nNSL-Y1,Twice,gate,planned\n";
        JsonNode dry = takeCis(csv, true);
        assertThat(dry.get("rows").findValuesAsText("becomes")).containsExactly("new", "wrong", "wrong");
        assertThat(dry.get("rows").get(1).get("line").asInt()).isEqualTo(3);
        Answer answer = api.call("ines", "POST", "/api/files/cis", Json.write(Map.of("csv", csv, "dryRun", false)));
        assertThat(answer.status()).isEqualTo(422);
        assertThat(api.call("ines", "GET", "/api/cis/NSL-Y1", null).status()).isEqualTo(404);
        for (String garbage : List.of("", "id\n", "colour,name\nred,x\n", "id,name\n\"open")) {
            Answer refused =
                    api.call("ines", "POST", "/api/files/cis", Json.write(Map.of("csv", garbage, "dryRun", true)));
            assertThat(refused.status()).as(garbage).isEqualTo(422);
        }
    }

    @Test
    void aCisNeighboursAreSetFromItsOwnSide() {
        assertThat(put("ines", "/api/cis/NSL-Z1", """
                        {"name":"Spare board","kind":"board","life":"planned","attributes":{"model":"B9"},
                        "relations":[{"relation":"runs on","to":"book-web-1"}]}""").status()).isEqualTo(204);
        JsonNode page = get("ines", "/api/cis/NSL-Z1");
        assertThat(page.get("relations").get(0).get("ci").asText()).isEqualTo("book-web-1");
        put("ines", "/api/cis/NSL-Z1", """
                {"name":"Spare board","kind":"board","life":"planned","attributes":{},"relations":[]}""");
        assertThat(get("ines", "/api/cis/NSL-Z1").get("relations")).isEmpty();
    }

    @Test
    void aRotaShowsWhoIsOnCallItsGapsAndWhoStandsIn() {
        JsonNode platform = rota("platform");
        assertThat(platform.get("levels").get(0).get("gaps")).isNotEmpty();
        assertThat(rota("duty").get("levels").get(0).get("gaps")).isEmpty();
        String swap = Json.write(Map.of(
                "level",
                1,
                "person",
                "sem",
                "from",
                Instant.now().minusSeconds(3600).toString(),
                "until",
                Instant.now().plusSeconds(3600).toString()));
        assertThat(api.call("ada", "POST", "/api/rotas/duty/swaps", swap).status())
                .isEqualTo(403);
        assertThat(api.call("priya", "POST", "/api/rotas/duty/swaps", swap).status())
                .isEqualTo(204);
        assertThat(rota("duty").get("levels").get(0).get("now").asText()).isEqualTo("sem");
        assertThat(journal().get(0).get("subject").asText()).isEqualTo("rota");
    }

    private static JsonNode rota(String key) {
        for (JsonNode r : get("ines", "/api/rotas")) {
            if (r.get("rota").get("key").asText().equals(key)) {
                return r;
            }
        }
        throw new AssertionError("no rota " + key);
    }

    @Test
    void aLadderTellsWhoItWouldReachTonight() {
        put("ines", "/api/ladders/night", """
                {"key":"night","name":"Night","rungs":[
                {"after":"10 min","deed":{"does":"tell","to":[{"is":"onCall","rota":"duty","level":1}]}},
                {"after":"30 min","deed":{"does":"hand over","to":{"is":"onCall","rota":"duty","level":2}}},
                {"after":"40 min","deed":{"does":"tell","to":[{"is":"onCall","rota":"platform","level":1}]}}]}""");
        JsonNode reach = get("ines", "/api/ladders/night/reach?from=2027-11-28T02:00:00Z");
        assertThat(reach.get(0).get("at").asText()).startsWith("2027-11-28T02:10:00");
        assertThat(reach.get(0).get("people").get(0).asText()).isIn("teo", "priya");
        assertThat(reach.get(1).get("people").get(0).asText()).isEqualTo("pavel");
        assertThat(reach.get(2).get("gap").asBoolean()).isTrue();
        assertThat(api.call("ines", "GET", "/api/ladders/none-such/reach", null).status())
                .isEqualTo(404);
    }

    @Test
    void aCalendarProgramFetchesTurnsByItsAddressAlone() {
        JsonNode feeds = get("priya", "/api/feeds");
        Answer mine = api.call("", "GET", feeds.get("mine").asText(), null);
        assertThat(mine.status()).isEqualTo(200);
        assertThat(mine.raw().body())
                .startsWith("BEGIN:VCALENDAR")
                .contains("SUMMARY:On call\\, Duty manager: Priya Lund")
                .doesNotContain("Teo Marchetti");
        // In its middle: the last letter of a key in this alphabet may say fewer bits than it has.
        String address = feeds.get("mine").asText();
        int at = address.length() - 12;
        String altered = address.substring(0, at) + (address.charAt(at) == 'x' ? 'y' : 'x') + address.substring(at + 1);
        assertThat(api.call("", "GET", altered, null).status()).isEqualTo(404);
    }

    @Test
    void anAdministratorSeesAsSomebodyElseAndChangesNothingMeanwhile() {
        ApiClient.Signed halvard = api.signedAnew("halvard");
        JsonNode seen = api.send(halvard, "POST", "/api/session/see-as", "{\"person\":\"mira\"}")
                .body();
        assertThat(seen.get("name").asText()).isEqualTo("Mira Solheim");
        assertThat(seen.get("seenBy").asText()).isEqualTo("Halvard Quist");
        assertThat(api.send(halvard, "GET", "/api/people", null).status()).isEqualTo(403);
        Answer change = api.send(
                halvard, "POST", "/api/tickets", "{\"kind\":\"incident\",\"fields\":{\"title\":\"Not mine\"}}");
        assertThat(change.status()).isEqualTo(403);
        assertThat(change.body().get("detail").asText()).contains("looking as somebody else");
        assertThat(api.send(halvard, "DELETE", "/api/session/see-as", null).status())
                .isEqualTo(204);
        assertThat(api.send(halvard, "GET", "/api/people", null).status()).isEqualTo(200);
        assertThat(journal().findValuesAsText("did")).contains("seen as", "no longer seen as");
        assertThat(api.call("ines", "POST", "/api/session/see-as", "{\"person\":\"mira\"}")
                        .status())
                .isEqualTo(403);
    }

    /** An organisation declares what its tickets and CIs have of their own; what rests on it stays (M17). */
    @Test
    void fieldsOfTicketsAndCisAreDeclaredAndStay() {
        JsonNode was = api.call("ines", "GET", "/api/fields", null).body();
        ObjectNode next = was.deepCopy();
        ((ArrayNode) next.get("ci"))
                .addObject()
                .put("name", "berth")
                .put("label", "Berth")
                .put("type", "whole number")
                .put("required", true);
        ((ObjectNode) next.get("kinds")).putArray("berth").add("sensor");
        next.set("was", was);
        assertThat(api.call("ada", "PUT", "/api/fields", next.toString()).status())
                .isEqualTo(403);
        assertThat(api.call("ines", "PUT", "/api/fields", next.toString()).status())
                .isEqualTo(204);
        // Whoever read them before is told, and changes nothing.
        assertThat(api.call("ines", "PUT", "/api/fields", next.toString()).status())
                .isEqualTo(409);

        String of = """
                {"name":"A thing","kind":"%s","life":"in use","attributes":{"berth":%s}}""";
        assertThat(api.call("ines", "PUT", "/api/cis/thing-1", of.formatted("sensor", "7"))
                        .status())
                .isEqualTo(204);
        ApiClient.Answer wrong = api.call("ines", "PUT", "/api/cis/thing-1", of.formatted("sensor", "\"seven\""));
        assertThat(wrong.body().get("detail").asText()).isEqualTo("'Berth' must be a whole number.");
        ApiClient.Answer other = api.call("ines", "PUT", "/api/cis/thing-2", of.formatted("gate", "7"));
        assertThat(other.body().get("detail").asText()).isEqualTo("A gate has no 'Berth'.");

        ApiClient.Answer gone = api.call("ines", "PUT", "/api/fields", was.toString());
        assertThat(gone.status()).isEqualTo(422);
        assertThat(gone.body().get("detail").asText()).startsWith("'Berth' stays");
        assertThat(api.call("ada", "GET", "/api/directory", null)
                        .body()
                        .get("ciKinds")
                        .get("berth")
                        .get(0)
                        .asText())
                .isEqualTo("sensor");
    }

    /** Two who declare fields in the same second: one is kept whole, and the other is told. */
    @Test
    void nobodysFieldsAreLostToSomebodyElses() throws Exception {
        for (int round = 0; round < 8; round++) {
            JsonNode was = api.call("ines", "GET", "/api/fields", null).body();
            List<CompletableFuture<Integer>> both = new ArrayList<>();
            for (String name : List.of("one", "other")) {
                ObjectNode next = was.deepCopy();
                ((ArrayNode) next.get("ticket"))
                        .addObject()
                        .put("name", name + round)
                        .put("label", name)
                        .put("type", "text")
                        .put("required", false);
                next.set("was", was);
                both.add(CompletableFuture.supplyAsync(() ->
                        api.call("ines", "PUT", "/api/fields", next.toString()).status()));
            }
            assertThat(List.of(both.get(0).get(), both.get(1).get())).containsExactlyInAnyOrder(204, 409);
        }
    }
}
