package dastur.connectors.relay;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.json.Json;
import dastur.core.run.Event;
import dastur.core.workflow.SqlStatement;
import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** What the file of a zone does not name is not done, however it is asked for (M13). */
class AllowedTest {
    private static final String FILE = """
            {
              // What the relays of the Mooring Data Room may do.
              "zone": "mooring-data-room",
              "connections": {
                "machines": {"address": "http://10.0.7.2:9000", "secret": "machines", "headers": ["X-Site"],
                  "allow": [{"method": "POST", "path": "/machines"}, {"method": "GET", "path": "/jobs/*"},
                            {"method": "GET", "path": "/list?site=*"}], "perMinute": 5},
                "shell": {"address": "ssh://ops@10.0.7.3?hostkey=SHA256:3btPzZG9mSDj/1jzgwtcq72SnSzgC16xY1VCsdrVRuk",
                  "allow": [{"method": "RUN", "words": ["systemctl", "restart", "*"]}]},
                "files": {"address": "sftp://ops@10.0.7.3/x?hostkey=SHA256:3btPzZG9mSDj/1jzgwtcq72SnSzgC16xY1VCsdrVRuk",
                  "allow": [{"method": "REMOVE", "path": "/traces/*"}]},
                "db": {"address": "postgresql://ops@10.0.7.4/fleet",
                  "allow": [{"method": "QUERY", "statement": "select name from ship\\n where pier = ?"}]},
                "directory": {"address": "ldap://10.0.7.5/dc=kestrel?bind=cn=dastur,dc=kestrel", "allow": [{"method": "JOIN"}]}
              },
              "scripts": {"drain-host": {"arguments": ["*", "[0-9]{1,3}"]}, "look": {"arguments": []}}
            }
            """;

    private final Allowed allowed = read(FILE);

    private static Allowed read(String text) {
        try {
            return Allowed.read(text);
        } catch (Allowed.Unusable e) {
            throw new AssertionError(e);
        }
    }

    private static Event.Call call(String method, String path, Map<String, String> headers, String body) {
        return new Event.Call("c", method, path, headers, body, null, List.of(), List.of(), 10);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            machines  | POST   | /machines            | yes
            machines  | POST   | /machines/           | no
            machines  | POST   | /machines?force=1    | no
            machines  | DELETE | /machines            | no
            machines  | GET    | /jobs/7              | yes
            machines  | GET    | /jobs/a%20b          | yes
            machines  | GET    | /jobs/               | no
            machines  | GET    | /jobs/7/log          | no
            machines  | GET    | /jobs/..             | no
            machines  | GET    | /jobs/%2e%2e         | no
            machines  | GET    | /jobs/a%2Fb          | no
            machines  | GET    | /jobs/a%5cb          | no
            machines  | GET    | /jobs/a%00           | no
            machines  | GET    | /jobs/7?x=1          | no
            machines  | GET    | /jobs/7#x            | no
            machines  | GET    | //evil.example/jobs/7| no
            machines  | GET    | /list?site=ald       | yes
            machines  | GET    | /list?site=ald&all=1 | no
            files     | REMOVE | /traces/a b.trc      | yes
            files     | REMOVE | /traces/..           | no
            files     | REMOVE | /traces/x/../../key  | no
            files     | FETCH  | /traces/a            | no
            directory | JOIN   | /                    | yes
            directory | CREATE | /                    | no
            nowhere   | GET    | /                    | no
            """)
    void pathsAndMethods(String connection, String method, String path, String may) {
        assertThat(allowed.refusal(connection, call(method, path, Map.of(), null))
                        .isEmpty())
                .isEqualTo(may.equals("yes"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            ["systemctl", "restart", "crew-portal"]               | yes
            ["systemctl", "stop", "crew-portal"]                  | no
            ["systemctl", "restart", "--all"]                     | no
            ["systemctl", "restart", "a b"]                       | no
            ["systemctl", "restart", "x\\nreboot"]                | no
            ["systemctl", "restart", "x;reboot"]                  | no
            ["systemctl", "restart"]                              | no
            ["systemctl", "restart", "a", "b"]                    | no
            ["systemctl", "restart", ["a"]]                       | no
            {"systemctl": "restart"}                              | no
            """)
    void words(String body, String may) {
        assertThat(allowed.refusal("shell", call("RUN", "/", Map.of(), body)).isEmpty())
                .isEqualTo(may.equals("yes"));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            /drain-host  | ["host-7", "20"]                 | yes
            /drain-host  | ["host-7", "2000"]               | no
            /drain-host  | ["-rf", "20"]                    | no
            /drain-host  | ["it's \\"x\\"\\n$(reboot)", "2"]| no
            /drain-host  | ["host-7"]                       | no
            /look        | []                               | yes
            /look        |                                  | yes
            /look        | ["x"]                            | no
            /reboot      | []                               | no
            /../look     | []                               | no
            """)
    void scripts(String path, String arguments, String may) {
        assertThat(allowed.refusal("anything", call("START", path, Map.of(), arguments))
                        .isEmpty())
                .isEqualTo(may.equals("yes"));
    }

    @Test
    void onlyTheStatementThatTheFileNames() {
        assertThat(allowed.refusal("db", sql("select name from ship where pier = ?")))
                .isEmpty();
        assertThat(allowed.refusal("db", sql("select name from ship"))).isPresent();
        assertThat(allowed.refusal("db", call("QUERY", "/", Map.of(), "{}"))).isPresent();
    }

    private static Event.Call sql(String statement) {
        return call("QUERY", "/", Map.of(), Json.write(new SqlStatement.Sent(statement, List.of("ald"), null)));
    }

    @Test
    void headersThatNobodyNamedAreNotSent() {
        assertThat(allowed.refusal(
                        "machines", call("POST", "/machines", Map.of("Idempotency-Key", "k", "x-site", "m"), null)))
                .isEmpty();
        for (String header : List.of("Authorization", "Cookie", "X-HTTP-Method-Override", "Host")) {
            assertThat(allowed.refusal("machines", call("POST", "/machines", Map.of(header, "x"), null)))
                    .as(header)
                    .isPresent();
        }
    }

    @Test
    void jobsAreAskedAfterOnlyWhereTheFileAllowsToLook() {
        assertThat(allowed.mayAsk("machines", "/jobs/7")).isTrue();
        assertThat(allowed.mayAsk("machines", "/machines")).isFalse();
        assertThat(allowed.mayAsk("db", "/jobs/7")).isFalse();
    }

    @Test
    void itSaysWhatItAllowsAndHowOften() {
        assertThat(allowed.told())
                .contains(
                        "machines: POST /machines, 5 a minute",
                        "db: QUERY select name from ship where pier = ?, 60 a minute")
                .contains("script drain-host * [0-9]{1,3}, 60 a minute");
        assertThat(allowed.rate("machines", call("POST", "/machines", Map.of(), null)))
                .isEqualTo(5);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "{}",
                "[",
                "{\"zone\": \"z\", \"extra\": 1}",
                "{\"zone\": \"z\", \"connections\": {\"a\": {\"address\": \"gopher://x\", \"allow\": []}}}",
                "{\"zone\": \"z\", \"connections\": {\"a\": {\"address\": \"relay://z/b?as=http\", \"allow\": []}}}",
                "{\"zone\": \"z\", \"connections\": {\"a\": {\"address\": \"http://x\", \"allow\": [{\"method\": \"RUN\", \"path\": \"/\"}]}}}",
                "{\"zone\": \"z\", \"connections\": {\"a\": {\"address\": \"http://x\", \"allow\": [{\"method\": \"GET\"}]}}}",
                "{\"zone\": \"z\", \"connections\": {\"a\": {\"address\": \"http://x\", \"allow\": [], \"perMinute\": 0}}}",
                "{\"zone\": \"z\", \"scripts\": {\"../x\": {\"arguments\": []}}}",
                "{\"zone\": \"z\", \"scripts\": {\"x\": {\"arguments\": [\"(\"]}}}"
            })
    void aFileThatCannotBeUsedSaysWhatToMend(String text) {
        assertThatThrownBy(() -> Allowed.read(text))
                .isInstanceOf(Allowed.Unusable.class)
                .hasMessageMatching("(?s).{20,}");
    }
}
