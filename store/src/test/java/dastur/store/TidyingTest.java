package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.nio.file.Path;
import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.io.TempDir;

class TidyingTest {
    private static final int ROWS = 1_500;

    @TempDir
    Path folder;

    /** Each commit leaves a part of the file of which little stays in use; without tidying it would stay like that. */
    @Test
    void whatIsInUseIsGatheredAndStaysWhole() throws SQLException {
        try (Database database = Database.inFolder(folder)) {
            // By hand only, so that it is known what it does.
            database.tidying().close();
            fill(database);
            assertThat(database.file().inUse()).isLessThan(30);
            int rounds = 0;
            while (database.file().inUse() < 50) {
                assertThat(++rounds)
                        .as("in use: %d %%", database.file().inUse())
                        .isLessThan(1_000);
                // What was gathered is written with the next commit.
                execute(database, "update tidied set body = 'last' where id = 0");
                database.tidying().tidy();
            }
            assertThat(rounds).isPositive();
        }
        try (Database database = Database.inFolder(folder)) {
            assertThat(database.<Long>read(
                            session -> session.createNativeQuery("select count(distinct body) from tidied", Long.class)
                                    .getSingleResult()))
                    .isEqualTo(ROWS + 1);
        }
    }

    /** What is hardly in use is written anew before it is opened; what a kill in the middle of that left is thrown away. */
    @Test
    void aFileThatIsHardlyInUseIsWrittenAnew() throws Exception {
        long before;
        try (Database database = Database.inFolder(folder)) {
            database.tidying().close();
            fill(database);
        }
        java.nio.file.Path file = folder.resolve(Database.FILE);
        before = java.nio.file.Files.size(file);
        java.nio.file.Files.writeString(folder.resolve(Database.FILE + ".anew"), "half of it");
        assertThat(H2File.shrink(folder, before + 1))
                .as("too small to be worth it")
                .isFalse();
        assertThat(H2File.shrink(folder, 1_000)).isTrue();
        assertThat(java.nio.file.Files.size(file)).isLessThan(before / 2);
        assertThat(java.nio.file.Files.exists(folder.resolve(Database.FILE + ".anew")))
                .isFalse();
        assertThat(H2File.shrink(folder, 1_000)).as("all in use").isFalse();
        try (Database database = Database.inFolder(folder)) {
            assertThat(database.<Long>read(
                            session -> session.createNativeQuery("select count(distinct body) from tidied", Long.class)
                                    .getSingleResult()))
                    .isEqualTo(ROWS + 1);
        }
    }

    private static void fill(Database database) throws SQLException {
        // Otherwise parts younger than 45 seconds are left alone.
        execute(database, "set retention_time 0");
        execute(database, "create table tidied (id int primary key, body varchar(2000))");
        execute(database, "insert into tidied values (0, 'first')");
        for (int i = 1; i <= ROWS; i++) {
            execute(database, "insert into tidied values (" + i + ", repeat('x', 500) || " + i + ")");
        }
    }

    private static void execute(Database database, String sql) throws SQLException {
        try (Connection connection = database.dataSource().getConnection();
                Statement statement = connection.createStatement()) {
            statement.execute(sql);
            connection.commit();
        }
    }
}
