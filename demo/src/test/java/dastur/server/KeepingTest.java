package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.record.Export;
import dastur.server.witness.Giving;
import dastur.store.Audit;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.RecordLog;
import dastur.store.Witnesses;
import java.io.Reader;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.time.temporal.ChronoUnit;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.concurrent.atomic.AtomicBoolean;
import java.util.concurrent.atomic.AtomicInteger;
import java.util.stream.Stream;
import org.junit.jupiter.api.MethodOrderer;
import org.junit.jupiter.api.Order;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.TestMethodOrder;

/** As an operator: a copy while people work, brought back elsewhere; what was altered is refused. */
@TestMethodOrder(MethodOrderer.OrderAnnotation.class)
class KeepingTest extends OnDemo {
    private static final String NOTE = "{\"text\":\"Noted while a copy is taken\",\"toRequester\":false}";

    private static Path copies() {
        return folder.resolve("data").resolve("backups");
    }

    /** Takes a copy while somebody writes all the time. Returns its folder. */
    private static Path copyUnderLoad() throws InterruptedException {
        api.as("ada");
        api.as("halvard");
        AtomicBoolean enough = new AtomicBoolean();
        AtomicInteger written = new AtomicInteger();
        Thread writer = Thread.ofVirtual().start(() -> {
            while (!enough.get()) {
                if (api.call("ada", "POST", "/api/tickets/I-1045/notes", NOTE).status() == 200) {
                    written.incrementAndGet();
                }
            }
        });
        try {
            JsonNode taken =
                    api.call("halvard", "POST", "/api/keeping/copies", "{}").body();
            assertThat(taken.path("tickets").asLong()).as(taken.toString()).isGreaterThan(100);
            return copies().resolve(taken.path("name").asText());
        } finally {
            enough.set(true);
            writer.join();
            assertThat(written.get()).isPositive();
        }
    }

    private static Audit.Report audit(Path data) {
        DataFolder of = new DataFolder(data);
        try (Database database = Database.inFolder(data, Durability.PROCESS, of.rowKey())) {
            RecordLog log = new RecordLog(database, of.signer());
            log.catchUp();
            log.sign(Instant.now());
            return new Audit(database, log).run(done -> {});
        }
    }

    /** In passing: a copy where one is due, and no more than are to be kept. */
    @Test
    void copiesThatAreDueAreTakenAndOldOnesDeleted() {
        Path data = folder.resolve("data");
        Settings settings = new Settings(
                data,
                "127.0.0.1",
                0,
                InstantSource.system(),
                Duration.ofSeconds(20),
                Settings.LOCAL_MAIL,
                null,
                null,
                null,
                List.of(),
                Durability.PROCESS,
                Giving.To.NOBODY,
                null,
                new Settings.Copies(Duration.ofHours(1), 2),
                null);
        Giving nobody =
                new Giving(Giving.To.NOBODY, new Witnesses(api.app().database()), null, Optional::empty, Instant.now());
        Looking looking =
                new Looking(api.app().database(), api.app().app().kept().log(), settings, nobody);
        Instant later = Instant.now().plus(Duration.ofDays(1));
        for (int minutes : new int[] {0, 30, 61, 90, 122, 183}) {
            looking.inPassing(later.plus(Duration.ofMinutes(minutes)));
        }
        assertThat(looking.copyTrouble()).isEmpty();
        List<Instant> taken = looking.backups(10).stream().map(Backup.Taken::at).toList();
        assertThat(taken)
                .containsExactly(
                        later.plus(Duration.ofMinutes(183)).truncatedTo(ChronoUnit.MILLIS),
                        later.plus(Duration.ofMinutes(122)).truncatedTo(ChronoUnit.MILLIS));
        looking.backups(10).forEach(t -> Backup.delete(copies().resolve(t.name())));
    }

    @Test
    void aCopyTakenUnderLoadIsBroughtBackAndHoldsUntilSomebodySaysGoOn() throws Exception {
        Path copy = copyUnderLoad();
        String number = raiseGate("ALD-G2");
        Path elsewhere = folder.resolve("elsewhere");
        Backup.restore(copy, elsewhere, null, "Halvard Quist", Instant.now());
        Audit.Report report = audit(elsewhere);
        assertThat(report.findings()).isEmpty();
        assertThat(report.tickets()).isGreaterThan(100);
        try (ApiClient restored = ApiClient.again(elsewhere)) {
            assertThat(restored.call("ada", "GET", "/api/tickets/" + number, null)
                            .status())
                    .as("raised after the copy was taken")
                    .isEqualTo(404);
            JsonNode keeping = restored.call("ada", "GET", "/api/keeping", null).body();
            assertThat(keeping.path("heldSince").isTextual()).isTrue();
            assertThat(keeping.path("newest").path("epoch").asInt(1)).isBetween(1, 2);
            assertThat(restored.call("ada", "POST", "/api/keeping/go-on", "{}").status())
                    .isEqualTo(403);
            assertThat(restored.call("ada", "POST", "/api/tickets/I-1045/notes", NOTE)
                            .status())
                    .as("people may work")
                    .isEqualTo(200);
            assertThat(restored.call("halvard", "POST", "/api/keeping/go-on", "{}")
                            .body()
                            .path("heldSince")
                            .isTextual())
                    .isFalse();
        }
        assertThatThrownBy(() -> Backup.restore(copy, elsewhere, null, "Halvard Quist", Instant.now()))
                .hasMessageContaining("there is a database");
    }

    @Test
    void aCopyThatWasAlteredIsRefused() throws Exception {
        Path copy = copyUnderLoad();
        Path to = folder.resolve("refused");
        byte[] whole = Files.readAllBytes(copy.resolve(Database.FILE));
        byte[] altered = whole.clone();
        altered[altered.length / 2] ^= 1;
        Files.write(copy.resolve(Database.FILE), altered);
        assertThatThrownBy(() -> Backup.restore(copy, to, null, "Halvard Quist", Instant.now()))
                .isInstanceOf(Backup.Damaged.class)
                .hasMessageContaining(Database.FILE);
        Files.write(copy.resolve(Database.FILE), whole);
        assertThatThrownBy(() -> Backup.restore(copy, to, "another key", "Halvard Quist", Instant.now()))
                .hasMessageContaining("another key");
        Path manifest = copy.resolve(Backup.MANIFEST);
        Files.writeString(manifest, Files.readString(manifest).replace("\\\"epoch\\\":1", "\\\"epoch\\\":7"));
        assertThatThrownBy(() -> Backup.restore(copy, to, null, "Halvard Quist", Instant.now()))
                .hasMessageContaining("signature does not hold");
        assertThat(Files.exists(to.resolve(Database.FILE))).isFalse();
    }

    @Test
    void onlyAdministratorsTakeCopiesAndAudit() {
        assertThat(api.call("ada", "POST", "/api/keeping/copies", "{}").status())
                .isEqualTo(403);
        assertThat(api.call("mira", "GET", "/api/keeping", null).status()).isEqualTo(403);
        JsonNode audit =
                api.call("halvard", "POST", "/api/keeping/audits", "{}").body();
        assertThat(audit.path("problems").asInt(-1)).as(audit.toString()).isZero();
        assertThat(api.call("teo", "GET", "/api/keeping", null)
                        .body()
                        .path("audit")
                        .path("tickets")
                        .asLong())
                .isPositive();
    }

    @Test
    void everythingIsWrittenAsOpenFiles() throws Exception {
        Path data = folder.resolve("export-of");
        DemoData.fill(data);
        DataFolder of = new DataFolder(data);
        Path to = folder.resolve("export");
        try (Database database = Database.inFolder(data, Durability.PROCESS, of.rowKey())) {
            new WholeExport(database, new RecordLog(database, of.signer()), of.signingKey()).to(to, Instant.now());
        }
        try (Stream<Path> records = Files.list(to.resolve("records"))) {
            List<Path> all = records.toList();
            assertThat(all).hasSizeGreaterThan(140);
            for (Path record : all) {
                try (Reader in = Files.newBufferedReader(record)) {
                    assertThat(Export.check(in, null).problems())
                            .as(record.toString())
                            .isEmpty();
                }
            }
        }
        assertThat(Files.readString(to.resolve("cis.csv"))).contains("ALD-G1");
        assertThat(Files.readString(to.resolve("zones.json"))).contains("mooring-data-room");
        assertThat(Files.readString(to.resolve("sources.json"))).contains("board-monitor");
        assertThat(Files.readString(to.resolve("watches.json"))).contains("kiosks-heard");
        assertThat(Files.readString(to.resolve("subscriptions.json"))).contains("harbour-office");
        assertThat(Files.readString(to.resolve("known-answers.json"))).contains("\"question\"");
        assertThat(Files.readString(to.resolve("people.json")))
                .contains("Ada Brandvold")
                .doesNotContain("argon");
        try (Stream<Path> workflows = Files.walk(to.resolve("workflows"))) {
            assertThat(workflows.filter(f -> f.toString().endsWith(".dastur"))).isNotEmpty();
        }
    }

    /** K11: a number that the log knows and the database does not is told as deleted, to those who may know of it. Last, since no audit holds after it. */
    @Test
    @Order(Integer.MAX_VALUE)
    void aTicketDeletedPastTheApplicationIsToldAsDeleted() throws Exception {
        String number = api.call("ada", "POST", "/api/tickets", """
                        {"kind":"request","fields":{"title":"A lamp at the pier flickers","requester":"mira"}}""")
                .body()
                .get("ticket")
                .asText();
        String record = "/api/tickets/" + number + "/record";
        Map<String, String> export = Map.of("Accept", "application/x-ndjson");
        assertThat(api.call("ada", "GET", record, null, export).status()).isEqualTo(200);
        api.untilQuiet();
        try (var connection = api.app().database().dataSource().getConnection();
                var statement = connection.createStatement()) {
            for (String table : List.of("entry", "case_snapshot", "outbox", "work_item", "run")) {
                statement.executeUpdate("delete from " + table + " where ticket = '" + number + "'");
            }
            statement.executeUpdate("delete from ticket where id = '" + number + "'");
            assertThat(statement.executeUpdate("delete from ticket_head where ticket = '" + number + "'"))
                    .isEqualTo(1);
            connection.commit();
        }
        assertThat(api.call("ada", "GET", "/api/tickets/" + number, null).status())
                .isEqualTo(410);
        assertThat(api.call("mira", "GET", "/api/tickets/" + number, null).status())
                .isEqualTo(404);
        assertThat(api.call("ada", "GET", "/api/tickets/I-99999", null).status())
                .isEqualTo(404);
    }
}
