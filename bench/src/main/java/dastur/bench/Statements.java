package dastur.bench;

import dastur.store.Database;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.ResultSet;
import java.sql.SQLException;
import java.sql.Statement;

/** Which statements a PostgreSQL server was busy with: how often, and for how long inside the server. */
final class Statements {
    private static final int MOST = 30;

    private Statements() {}

    static void begin(Database.Server server) throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url(), server.user(), server.password());
                Statement statement = connection.createStatement()) {
            statement.execute("create extension if not exists pg_stat_statements");
            statement.execute("select pg_stat_statements_reset()");
        }
    }

    static void print(Database.Server server) throws SQLException {
        try (Connection connection = DriverManager.getConnection(server.url(), server.user(), server.password());
                Statement statement = connection.createStatement();
                ResultSet rows = statement.executeQuery(
                        "select calls, total_exec_time, query from pg_stat_statements order by total_exec_time desc"
                                + " fetch first " + MOST + " rows only")) {
            System.out.println("calls | ms in the server | µs each | statement");
            while (rows.next()) {
                System.out.printf(
                        "%8d | %8.0f | %6.0f | %s%n",
                        rows.getLong(1),
                        rows.getDouble(2),
                        rows.getDouble(2) * 1000 / rows.getLong(1),
                        rows.getString(3).replaceAll("\\s+", " ").strip());
            }
        }
    }
}
