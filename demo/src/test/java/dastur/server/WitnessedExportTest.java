package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.record.Export;
import dastur.core.record.Witnessed;
import dastur.server.witness.Giving;
import java.io.InputStream;
import java.io.StringReader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.security.KeyStore;
import java.sql.Connection;
import java.sql.Statement;
import java.util.Map;
import java.util.concurrent.locks.LockSupport;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

/** The demo's time office stamps how far the log reaches; exports carry it, and an audit notices what does not fit it (K13, K16). */
class WitnessedExportTest {
    @TempDir
    Path folder;

    private static JsonNode given(ApiClient api, String kind) {
        for (JsonNode w : api.call("ada", "GET", "/api/keeping", null).body().path("witnesses")) {
            if (w.path("kind").asText().equals(kind)) {
                return w;
            }
        }
        throw new AssertionError("no " + kind);
    }

    private Path certificate() throws Exception {
        KeyStore store = KeyStore.getInstance("PKCS12");
        try (InputStream in = Files.newInputStream(folder.resolve("data").resolve("time-office.p12"))) {
            store.load(in, "demo".toCharArray());
        }
        return Files.write(
                folder.resolve("time.der"), store.getCertificate("time").getEncoded());
    }

    private static JsonNode audit(ApiClient api) {
        return api.call("halvard", "POST", "/api/keeping/audits", "{}").body();
    }

    private static void alter(ApiClient api, String sql) throws Exception {
        try (Connection c = api.app().database().dataSource().getConnection();
                Statement s = c.createStatement()) {
            assertThat(s.executeUpdate(sql)).as(sql).isPositive();
            c.commit();
        }
    }

    @Test
    void anExportIsStampedByTheTimeOfficeAndAnAuditComparesWithIt() throws Exception {
        try (ApiClient api = ApiClient.demo(folder.resolve("data"))) {
            long end = System.nanoTime() + 60_000_000_000L;
            while (!given(api, "STAMP").has("givenAt") || !given(api, "FILE").has("givenAt")) {
                assertThat(System.nanoTime()).as("stamped in time").isLessThan(end);
                LockSupport.parkNanos(20_000_000);
            }
            String export = api.call(
                            "ada", "GET", "/api/tickets/C-301/record", null, Map.of("Accept", "application/x-ndjson"))
                    .raw()
                    .body();
            Export.Report report = Export.check(new StringReader(export), null, Giving.receipts(certificate()));
            assertThat(report.problems()).isEmpty();
            assertThat(report.seen()).extracting(Export.Seen::kind).containsExactlyInAnyOrder("file", "stamp");
            assertThat(report.seen()).allSatisfy(s -> assertThat(s.all()).isTrue());
            assertThat(report.seen()).anySatisfy(s -> assertThat(s.receipt())
                    .isInstanceOfSatisfying(Witnessed.Genuine.class, g -> assertThat(g.authority())
                            .contains("Sound Time Office")));

            assertThat(audit(api).path("problems").asInt()).isZero();
            // A published workflow that somebody changed past the application is refused, and it is said why.
            alter(
                    api,
                    "update workflow_version set body = replace(body, 'Wi-Fi', 'Other')"
                            + " where workflow = 'wifi-portal-move'");
            ApiClient.Answer refused = api.call("ines", "GET", "/api/workflows/wifi-portal-move/versions/1", null);
            assertThat(refused.status()).isEqualTo(409);
            assertThat(refused.body().path("detail").asText()).contains("not the one that was published");
            assertThat(api.call("ines", "GET", "/api/workflows", null).status())
                    .as("the others are still listed")
                    .isEqualTo(200);
            alter(api, "update witness set receipt = replace(receipt, 'A', 'B') where kind = 'stamp'");
            assertThat(audit(api).path("findings").toString()).contains("does not hold");
            // Whoever has all keys rewrites the log, and forgets, or cannot make anew, what was stamped.
            alter(
                    api,
                    "update log_tile set bytes = (select bytes from log_tile where level = 0 and number = 0)"
                            + " where level = 1 and number = 0");
            assertThat(audit(api).path("findings").toString()).contains("a witness was told of");
        }
    }
}
