package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.PersonId;
import dastur.store.Journal;
import dastur.store.StoredSecrets;
import java.nio.file.Files;
import java.sql.SQLException;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** Secrets are set on screen, kept encrypted, and come back nowhere. */
class SecretsTest extends OnDemo {
    private static final String VALUE = "s3cret-that-nobody-reads";

    private static int set(String person, String name, String value) {
        return api.call(person, "PUT", "/api/secrets/" + name, "{\"value\":\"" + value + "\"}")
                .status();
    }

    private static List<String> rows(String sql) throws SQLException {
        try (var connection = api.app().database().dataSource().getConnection();
                var statement = connection.createStatement();
                var rows = statement.executeQuery(sql)) {
            List<String> all = new java.util.ArrayList<>();
            while (rows.next()) {
                all.add(rows.getString(1));
            }
            return all;
        }
    }

    @Test
    void oneIsSetAndIsNowhereToBeReadAgain() throws SQLException {
        assertThat(set("halvard", "supplier", VALUE)).isEqualTo(204);
        assertThat(api.app().app().design().secrets().find("supplier")).contains(VALUE);
        for (String path : List.of("/api/secrets", "/api/automation", "/api/journal", "/api/snapshot")) {
            assertThat(api.call("halvard", "GET", path, null).raw().body())
                    .as(path)
                    .doesNotContain(VALUE);
        }
        assertThat(api.call("halvard", "GET", "/api/secrets", null).body().findValuesAsText("name"))
                .contains("supplier");
        assertThat(rows("select sealed from secret")).noneMatch(s -> s.contains(VALUE));
        assertThat(rows("select coalesce(detail, '') from journal")).noneMatch(s -> s.contains(VALUE));
    }

    @Test
    void whoWritesRowsCannotPutOneInThePlaceOfAnother() throws SQLException {
        set("halvard", "harmless", "h");
        set("halvard", "mighty", "m");
        try (var connection = api.app().database().dataSource().getConnection();
                var statement = connection.createStatement()) {
            statement.executeUpdate("update secret set sealed = (select sealed from secret where name = 'mighty')"
                    + " where name = 'harmless'");
            connection.commit();
        }
        assertThat(api.app().app().design().secrets().find("harmless")).isEmpty();
        assertThat(api.app().app().design().secrets().find("mighty")).contains("m");
        assertThat(new StoredSecrets(api.app().database(), new byte[32]).find("mighty"))
                .as("with another key")
                .isEmpty();
    }

    @Test
    void oneThatIsUsedStaysAndBadOnesAreRefused() {
        assertThat(api.call("halvard", "DELETE", "/api/secrets/standins", null).status())
                .isEqualTo(409);
        assertThat(api.call("halvard", "DELETE", "/api/secrets/no-such", null).status())
                .isEqualTo(404);
        assertThat(set("halvard", "1-bad", "x")).isEqualTo(422);
        assertThat(set("halvard", "empty", " ")).isEqualTo(422);
        assertThat(set("halvard", "long", "x".repeat(10_001))).isEqualTo(422);
        assertThat(set("ines", "supplier-2", "x")).isEqualTo(403);
        set("halvard", "short-lived", "x");
        assertThat(api.call("halvard", "DELETE", "/api/secrets/short-lived", null)
                        .status())
                .isEqualTo(204);
    }

    @Test
    void whatStoodInAFileIsTakenOverAndLeavesIt() throws Exception {
        var data = folder.resolve("of-before");
        DataFolder before = new DataFolder(data);
        before.keepSecret("chat", "token of before");
        before.keepSecret("database", "stays");
        StoredSecrets secrets = api.app().app().design().secrets();
        secrets.set(new Journal.By(new PersonId("halvard"), Instant.now()), "chat", "older than the file");
        before.handOverSecrets(values -> secrets.takeOver(values, Instant.now()));
        assertThat(secrets.find("chat")).contains("token of before");
        assertThat(Files.readString(data.resolve("secrets.properties")))
                .contains("database=stays")
                .doesNotContain("token of before");
        before.handOverSecrets(
                values -> assertThat(Map.of()).as("nothing is left").isEqualTo(values));
    }
}
