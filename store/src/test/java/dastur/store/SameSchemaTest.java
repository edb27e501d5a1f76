package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;
import static org.assertj.core.api.Assumptions.assumeThat;

import dastur.core.record.Mac;
import java.sql.SQLException;
import java.util.Comparator;
import java.util.List;
import java.util.Locale;
import java.util.TreeSet;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** Both databases have the same tables, and a server that would not keep what it says is not taken. */
class SameSchemaTest {
    @BeforeEach
    void once() {
        assumeThat(Stores.onServer()).isTrue();
    }

    private static TreeSet<String> columns(Database database) {
        return database.read(session -> session.doReturningWork(c -> new TreeSet<>(Jdbc.query(
                c,
                "select lower(table_name), lower(column_name), is_nullable, lower(data_type), character_maximum_length"
                        + " from information_schema.columns where lower(table_schema) = 'public'"
                        + " and lower(table_name) <> 'flyway_schema_history'",
                r -> r.getString(1) + "." + r.getString(2) + " " + r.getString(3) + " "
                        + type(r.getString(4), r.getLong(5))))));
    }

    /** Long texts and bytes have no length on the server. */
    private static String type(String type, long length) {
        return switch (type) {
            case "text", "character varying" -> length == 0 || length >= 10_000 ? "text" : "text of " + length;
            case "bytea", "binary varying" -> "bytes";
            default -> type;
        };
    }

    private static TreeSet<String> indexes(Database database, String schema) {
        return database.read(session -> session.doReturningWork(c -> {
            TreeSet<String> all = new TreeSet<>();
            for (String table : List.of("ticket", "ticket_head", "alarm", "entry", "work_item", "work_for", "outbox")) {
                String name = schema.equals("PUBLIC") ? table.toUpperCase(Locale.ROOT) : table;
                try (var rows = c.getMetaData().getIndexInfo(null, schema, name, false, true)) {
                    while (rows.next()) {
                        if (rows.getString("COLUMN_NAME") != null) {
                            all.add((table + " " + rows.getShort("ORDINAL_POSITION") + " "
                                            + rows.getString("COLUMN_NAME"))
                                    .toLowerCase(Locale.ROOT));
                        }
                    }
                }
            }
            return all;
        }));
    }

    @Test
    void bothHaveTheSameTablesAndIndexes() {
        try (Database own = Database.inMemory("schema");
                Database server = Stores.empty()) {
            assertThat(columns(server)).isEqualTo(columns(own)).hasSizeGreaterThan(200);
            assertThat(indexes(server, "public")).isEqualTo(indexes(own, "PUBLIC"));
        }
    }

    @Test
    void aServerThatWouldLoseOrSortOtherwiseIsNotTaken() {
        try (PgServer hasty = new PgServer(List.of("fsync=off"))) {
            assertThatThrownBy(() -> Database.onServer(hasty.database(), Mac.NONE))
                    .hasMessageContaining("fsync off");
        }
        try (PgServer hasty = new PgServer(List.of("synchronous_commit=off"))) {
            assertThatThrownBy(() -> Database.onServer(hasty.database(), Mac.NONE))
                    .hasMessageContaining("synchronous_commit off");
        }
        assertThatThrownBy(() -> Database.onServer(PgServer.shared().database("C.UTF-8"), Mac.NONE))
                .hasMessageContaining("sorts by C.UTF-8");
        Database.Server wrong = new Database.Server(PgServer.shared().database().url(), "dastur", "not-it");
        assertThatThrownBy(() -> Database.onServer(wrong, Mac.NONE))
                .satisfies(e -> assertThat(String.valueOf(e)).doesNotContain("not-it"));
    }

    @Test
    void idsSortAsTheyDoHere() throws SQLException {
        List<String> ids = List.of("I-10", "i-9", "I-9", "a b", "a-b", "A", "Ä", "z", "epoch 2", "I-1.1", "I-1");
        try (Database server = Stores.empty()) {
            List<String> sorted = server.read(session -> session.doReturningWork(c -> {
                Jdbc.batch(
                        c,
                        "insert into progress (name, upto) values (?, -1)",
                        ids.stream().map(i -> new Object[] {i}).toList());
                return Jdbc.query(c, "select name from progress where upto = -1 order by name", r -> r.getString(1));
            }));
            assertThat(sorted)
                    .containsExactlyElementsOf(
                            ids.stream().sorted(Comparator.naturalOrder()).toList());
        }
    }
}
