package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.server.ApiClient.Answer;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Lists of tickets: narrowed down by what is known, in order, taken along (R6). */
class ListsTest extends OnDemo {
    private static String raised(String person, Map<String, Object> fields) {
        Answer answer =
                api.call(person, "POST", "/api/tickets", Json.write(Map.of("kind", "incident", "fields", fields)));
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(201);
        return answer.body().get("ticket").asText();
    }

    private static List<String> column(String person, String query, String field) {
        Answer answer = api.call(person, "GET", "/api/tickets?" + query, null);
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(200);
        return answer.body()
                .get("items")
                .valueStream()
                .map(t -> t.path(field).asText(""))
                .toList();
    }

    /** A filter that is passed over in silence shows the whole as if it were the part. */
    @ParameterizedTest
    @CsvSource({
        "/api/tickets?asignee=ada, asignee, assignee",
        "/api/tickets?open=maybe, open, true",
        "/api/tickets?priority=P9, priority, P4",
        "/api/tickets?kind=problem, kind, incident",
        "/api/tickets?order=loudest, order, burning",
        "/api/tickets?raisedFrom=yesterday, raisedFrom, 2026",
        "/api/facets?colour=red, colour, service",
        "/api/files/tickets?colour=red, colour, service",
        "/api/desk?of=ada, of, none",
        "/api/runs?state=open, state, status"
    })
    void whatIsNotKnownIsRefusedAndSaysWhatIs(String address, String where, String known) {
        Answer answer = api.call("teo", "GET", address, null);
        assertThat(answer.status()).isEqualTo(400);
        assertThat(answer.body().get("where").asText()).isEqualTo(where);
        assertThat(answer.body().get("detail").asText()).contains(known);
    }

    @Test
    void whatBurnsFirstStandsFirst() {
        List<String> due = column("teo", "open=true", "targetDue").stream()
                .filter(d -> !d.isEmpty())
                .toList();
        assertThat(due).hasSizeGreaterThan(2);
        assertThat(due.stream().map(Instant::parse)).isSorted();
    }

    @Test
    void narrowedDownByWhoHasIt() {
        String ticket = raised("ada", Map.of("title", "Lamp of lane 4", "assignee", "runa"));
        assertThat(column("teo", "assignee=runa", "number")).contains(ticket);
        assertThat(column("teo", "assignee=runa", "assignee")).containsOnly("runa");
        assertThat(column("teo", "assignee=teo", "number")).doesNotContain(ticket);
        assertThat(column("teo", "requester=ada&text=lane", "number")).contains(ticket);
        assertThat(column("teo", "raisedFrom=2999-01-01T00:00:00Z", "number")).isEmpty();
    }

    @Test
    void takenAlongAsItIsListedAndRunByNoSpreadsheet() {
        String ticket = raised("ada", Map.of("title", "=HYPERLINK(\"x\")", "assignee", "halvard"));
        Answer csv = api.call("teo", "GET", "/api/files/tickets?assignee=halvard&order=number-last", null);
        assertThat(csv.raw().headers().firstValue("Content-Type")).hasValue("text/csv; charset=utf-8");
        List<String> lines = csv.raw().body().lines().toList();
        assertThat(lines.getFirst()).startsWith("number,kind,title,state,priority,requester");
        assertThat(lines.get(1)).startsWith(ticket + ",incident,\"'=HYPERLINK(");
        assertThat(lines)
                .hasSize(1 + column("teo", "assignee=halvard", "number").size());
    }

    /** A requester who asks for somebody else's gets their own. */
    @Test
    void aRequesterTakesAlongOnlyTheirOwn() {
        raised("teo", Map.of("title", "Not Halvard's"));
        String own = raised("mira", Map.of("title", "Mira's own"));
        Answer csv = api.call("mira", "GET", "/api/files/tickets?requester=teo", null);
        assertThat(csv.status()).isEqualTo(200);
        assertThat(csv.raw().body()).contains(own).doesNotContain("Not Halvard's");
        assertThat(column("mira", "requester=teo", "requester")).containsOnly("mira");
    }

    /** What one pastes is found, whatever it is, and what is called exactly so comes first (R5). */
    @ParameterizedTest
    @CsvSource({"ALD-G2, CI, ALD-G2", "lane.close, action, lane.close", "Duty managers, group, duty-managers"})
    void whatIsCalledExactlySoComesFirst(String text, String kind, String id) {
        Answer found = api.call("teo", "GET", "/api/find?text=" + text.replace(" ", "%20"), null);
        assertThat(found.body().get(0).get("kind").asText()).isEqualTo(kind);
        assertThat(found.body().get(0).get("id").asText()).isEqualTo(id);
    }

    @Test
    void aTicketIsFoundByItsNumberWithoutItsLetter() {
        String ticket = raised("ada", Map.of("title", "By its digits"));
        Answer found = api.call("teo", "GET", "/api/find?text=" + ticket.substring(2), null);
        assertThat(found.body().findValuesAsText("id")).contains(ticket);
    }
}
