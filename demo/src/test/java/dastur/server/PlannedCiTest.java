package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.store.Audit;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import org.junit.jupiter.api.Test;

/** CIs that people wish for inside requests and changes (M17), over HTTP. */
class PlannedCiTest extends OnDemo {
    private static String raised(String kind) {
        return api.call(
                        "ada",
                        "POST",
                        "/api/tickets",
                        "{\"kind\":\"" + kind
                                + "\",\"fields\":{\"title\":\"A board for the new berth\",\"requester\":\"mira\"}}")
                .body()
                .get("ticket")
                .asText();
    }

    private static ApiClient.Answer plan(String person, String ticket, String body) {
        return api.call(person, "POST", "/api/tickets/" + ticket + "/planned-ci", body);
    }

    @Test
    void theRequesterWishesForOneWhichIsPlannedOnceAndAudited() {
        String ticket = raised("request");
        ApiClient.Answer planned = plan("mira", ticket, """
                {"id":"ALD-31","kind":"board","values":{"name":"Board 31","model":"Lumen 42"}}""");
        assertThat(planned.status()).as(planned.raw().body()).isLessThan(300);
        JsonNode ci = api.call("ada", "GET", "/api/cis/ALD-31", null).body();
        assertThat(ci.get("ci").get("life").asText()).isEqualTo("planned");
        assertThat(ci.get("ci").get("attributes").get("model").asText()).isEqualTo("Lumen 42");
        assertThat(ci.get("changes").findValuesAsText("ticket")).contains(ticket);
        assertThat(ticket("ada", ticket).get("fields").get("ci").asText()).isEqualTo("ALD-31");
        assertThat(ticket("mira", ticket).get("talk").findValuesAsText("text"))
                .as("the requester reads it too")
                .contains("ALD-31");

        ApiClient.Answer again = plan("ada", raised("change"), "{\"id\":\"ALD-31\",\"kind\":\"board\"}");
        assertThat(again.status()).isEqualTo(422);
        assertThat(again.raw().body()).contains("There is a CI 'ALD-31' already: board, planned.");
        assertThat(audited()).isEmpty();
    }

    private static List<Audit.Finding> audited() {
        return new Audit(api.app().database(), api.app().app().kept().log())
                .run(done -> {})
                .findings();
    }

    private static void alter(String statement) throws SQLException {
        try (Connection c = api.app().database().dataSource().getConnection();
                Statement s = c.createStatement()) {
            s.executeUpdate(statement);
            c.commit();
        }
    }

    private static String unmet(String ci) {
        return api.call("ada", "GET", "/api/cis/" + ci, null)
                .body()
                .get("unmet")
                .toString();
    }

    /** What somebody said yes to is not what somebody else writes there later, by hand or past the application. */
    @Test
    void whatWasWishedStaysAsItWasAgreedTo() throws SQLException {
        DesignedWorkflow.publish(api, """
                workflow board-comes "The board comes" for change
                  owner ines
                  purpose "A board that was planned is there."

                comes: update "Note what came"
                  set ci.life = 'in use'
                  set ci.model to "Lumen 27"

                as: if wished.model == ci.model
                  otherwise -> other

                same: done "as wished" as "As wished"

                other: done "otherwise" as "Otherwise"
                """);
        String ticket = raised("change");
        plan("ada", ticket, """
                {"id":"ALD-33","kind":"board","values":{"name":"Board 33","model":"Lumen 42","site":"Pier 4"}}""");
        ApiClient.Answer started =
                api.call("ada", "POST", "/api/tickets/" + ticket + "/runs", "{\"workflow\":\"board-comes\"}");
        assertThat(started.status()).as(started.raw().body()).isLessThan(300);
        assertThat(ticket("ada", ticket).get("runs").findValuesAsText("result")).contains("otherwise");
        String wished = "[{\"name\":\"model\",\"wished\":\"Lumen 42\",\"real\":\"Lumen 27\"}]";
        assertThat(unmet("ALD-33")).isEqualTo(wished);
        assertThat(audited()).isEmpty();

        alter("update ci set wish = replace(wish, 'Pier 4', 'Pier 5') where id = 'ALD-33'");
        assertThat(audited().toString()).contains("CI ALD-33").contains("'wished values' is not what entry");
        alter("update ci set wish = replace(wish, 'Pier 5', 'Pier 4') where id = 'ALD-33'");

        ApiClient.Answer set = api.call("ines", "PUT", "/api/cis/ALD-33", """
                {"name":"Board 33","kind":"board","site":"Pier 7","life":"in use","attributes":{"model":"Lumen 27"}}""");
        assertThat(set.status()).as(set.raw().body()).isLessThan(300);
        assertThat(unmet("ALD-33")).contains("\"wished\":\"Lumen 42\"", "\"wished\":\"Pier 4\",\"real\":\"Pier 7\"");
        assertThat(audited()).isEmpty();
        alter("update ci set wish = replace(wish, 'Pier 4', 'Pier 7') where id = 'ALD-33'");
        assertThat(audited().toString()).contains("CI ALD-33").contains("is not what line");
        alter("update ci set wish = replace(wish, 'Pier 7', 'Pier 4') where id = 'ALD-33'");
        assertThat(audited()).isEmpty();
    }

    @Test
    void whoeverOnlyAsksPlansNothingOnTicketsOfOthers() {
        String ticket = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"request","fields":{"title":"A kiosk","requester":"emil"}}""")
                .body()
                .get("ticket")
                .asText();
        assertThat(plan("mira", ticket, "{\"id\":\"ALD-32\",\"kind\":\"board\"}")
                        .status())
                .isIn(403, 404);
        assertThat(api.call("ada", "GET", "/api/cis/ALD-32", null).status()).isEqualTo(404);
    }
}
