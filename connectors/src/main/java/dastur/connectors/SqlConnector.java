package dastur.connectors;

import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.Answers.Definite;
import dastur.connectors.Answers.Doubtful;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.run.Event;
import dastur.core.step.calling.CallingCommands.CallOutcome;
import dastur.core.workflow.Connection;
import dastur.core.workflow.SqlStatement;
import java.math.BigDecimal;
import java.net.URI;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Types;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.List;
import java.util.Properties;
import org.jspecify.annotations.Nullable;
import org.postgresql.Driver;

/**
 * Says one SQL statement to a PostgreSQL server. A QUERY runs in a transaction that cannot write and is always rolled back; a CHANGE in one
 * of its own. Until the commit is sent, whatever breaks has changed nothing; after that nobody knows (D13). The driver's properties are
 * ours: an address sets none. A table is never cut: one that is too large is a failure that says so.
 */
final class SqlConnector implements Connector {
    static final int MOST_ROWS = 2_000;

    private static final int CONNECT_SECONDS = 5;
    private static final long LOOKS_UP_EVERY = 200;

    @Override
    public CallOutcome call(Event.Call call, Connection connection, @Nullable String secret, Heartbeat heartbeat)
            throws Abandoned {
        long started = System.nanoTime();
        var scrub = Answers.scrub(secret);
        boolean changes = call.method().equals("CHANGE");
        try {
            SqlStatement.Sent sent = Json.read(call.body() == null ? "{}" : call.body(), SqlStatement.Sent.class);
            if (sent.statement() == null) {
                throw Definite.ours(
                        "Nothing was sent: " + (sent.unfit() == null ? "there is no statement." : sent.unfit()));
            }
            JsonNode answer = said(connection, secret, sent, changes, call.limitSeconds(), heartbeat);
            long millis = (System.nanoTime() - started) / 1_000_000;
            heartbeat.answered(scrub.apply(answer.toString()));
            String log = call.method() + " → " + answer.get("count").asLong() + (changes ? " changed" : " rows")
                    + " in " + millis + " ms\n" + Texts.clip(answer.path("rows").toString(), Answers.MAX_LOGGED);
            return Answers.done(call, answer, scrub, log, millis, 0);
        } catch (Definite e) {
            return e.outcome(scrub);
        } catch (Doubtful e) {
            return new CallOutcome.Unknown(scrub.apply(e.getMessage()));
        }
    }

    private static JsonNode said(
            Connection connection,
            @Nullable String secret,
            SqlStatement.Sent sent,
            boolean changes,
            long limit,
            Heartbeat heartbeat)
            throws Definite, Doubtful, Abandoned {
        try (java.sql.Connection at = open(connection, secret, limit)) {
            at.setReadOnly(!changes);
            at.setAutoCommit(false);
            JsonNode answer;
            try (PreparedStatement statement = at.prepareStatement(sent.statement());
                    Watch watch = new Watch(statement, heartbeat)) {
                bind(at, statement, sent.values());
                try {
                    answer = execute(statement);
                } catch (SQLException e) {
                    watch.throwIfGivenUp();
                    throw e;
                }
            }
            if (changes) {
                commit(at, connection);
            } else {
                at.rollback();
            }
            return answer;
        } catch (SQLException e) {
            throw isUnreached(e) ? Definite.unreached(why(connection, e)) : new Definite(why(connection, e));
        }
    }

    /** Asks the server how it would carry each statement out, which it tells to those alone who may; nothing is carried out. */
    Greeted greet(Connection connection, @Nullable String secret, List<Event.Call> calls) throws Definite {
        try (java.sql.Connection at = open(connection, secret, Greeter.SECONDS)) {
            at.setReadOnly(true);
            at.setAutoCommit(false);
            List<Greeted.Given> given = new ArrayList<>();
            for (Event.Call call : calls) {
                given.add(given(at, call));
                at.rollback();
            }
            return Greeted.in(given);
        } catch (SQLException e) {
            throw isUnreached(e) ? Definite.unreached(why(connection, e)) : new Definite(why(connection, e));
        }
    }

    private static Greeted.Given given(java.sql.Connection at, Event.Call call) {
        SqlStatement.Sent sent = Json.read(call.body() == null ? "{}" : call.body(), SqlStatement.Sent.class);
        if (sent.statement() == null) {
            return Greeted.Given.cannotSay("It has no statement.");
        }
        try (PreparedStatement asked = at.prepareStatement("explain " + sent.statement())) {
            for (int i = 1; i <= sent.values().size(); i++) {
                asked.setNull(i, Types.NULL);
            }
            asked.execute();
            return Greeted.Given.YES;
        } catch (SQLException e) {
            String said = Texts.clip(String.valueOf(e.getMessage()), 300);
            // Class 42 of SQL's states: an access rule is violated, or what is named is not there. What it does not
            // explain, such as a
            // call, is syntax to it, and says nothing of the statement.
            return e.getSQLState() != null
                            && e.getSQLState().startsWith("42")
                            && !e.getSQLState().equals("42601")
                    ? Greeted.Given.no(said)
                    : Greeted.Given.cannotSay(said);
        }
    }

    private static java.sql.Connection open(Connection connection, @Nullable String secret, long limit)
            throws SQLException {
        URI uri = URI.create(connection.base());
        Properties is = new Properties();
        is.setProperty("user", uri.getUserInfo());
        if (secret != null) {
            is.setProperty("password", secret);
        }
        boolean plain = "tls=none".equals(uri.getRawQuery());
        is.setProperty("sslmode", plain ? "disable" : "verify-full");
        is.setProperty("sslfactory", "org.postgresql.ssl.DefaultJavaSSLFactory");
        is.setProperty("connectTimeout", String.valueOf(CONNECT_SECONDS));
        is.setProperty("loginTimeout", String.valueOf(CONNECT_SECONDS));
        is.setProperty("socketTimeout", String.valueOf(limit + CONNECT_SECONDS));
        is.setProperty("maxResultBuffer", String.valueOf(10L * Answers.MAX_ANSWER));
        is.setProperty("ApplicationName", "Dastur");
        // A text fits a date, a number or an id where the statement wants one: the server decides, as with a literal.
        is.setProperty("stringtype", "unspecified");
        is.setProperty("options", "-c statement_timeout=" + limit * 1_000 + " -c lock_timeout=" + limit * 500);
        String at =
                "jdbc:postgresql://" + uri.getHost() + ":" + (uri.getPort() < 0 ? 5432 : uri.getPort()) + uri.getPath();
        java.sql.Connection opened = new Driver().connect(at, is);
        if (opened == null) {
            throw new SQLException("the address is not one of PostgreSQL");
        }
        return opened;
    }

    private static void bind(java.sql.Connection at, PreparedStatement statement, List<@Nullable Object> values)
            throws SQLException {
        for (int i = 0; i < values.size(); i++) {
            Object value = values.get(i);
            if (value instanceof List<?> list) {
                statement.setArray(
                        i + 1,
                        at.createArrayOf(
                                "text", list.stream().map(String::valueOf).toArray()));
            } else if (value == null) {
                statement.setNull(i + 1, Types.NULL);
            } else {
                statement.setObject(i + 1, value);
            }
        }
    }

    private static JsonNode execute(PreparedStatement statement) throws SQLException, Definite {
        statement.setFetchSize(500);
        ObjectNode answer = Json.mapper().createObjectNode();
        if (statement.execute()) {
            try (ResultSet rows = statement.getResultSet()) {
                ArrayNode table = table(rows);
                answer.put("count", table.size());
                answer.set("rows", table);
            }
        } else {
            answer.put("count", statement.getLargeUpdateCount());
            answer.putArray("rows");
        }
        return answer;
    }

    private static ArrayNode table(ResultSet rows) throws SQLException, Definite {
        ResultSetMetaData is = rows.getMetaData();
        ArrayNode table = Json.mapper().createArrayNode();
        long size = 0;
        while (rows.next()) {
            if (table.size() == MOST_ROWS) {
                throw new Definite("It gives more than " + MOST_ROWS
                        + " rows. A table is never cut: ask for less, or count in the statement.");
            }
            ObjectNode row = table.addObject();
            for (int i = 1; i <= is.getColumnCount(); i++) {
                put(row, is.getColumnLabel(i), rows.getObject(i), rows, i);
            }
            size += row.toString().length();
            if (size > Answers.MAX_ANSWER) {
                throw new Definite("It gives more than " + Answers.MAX_ANSWER / 1_000_000
                        + " MB. A table is never cut: ask for fewer columns or rows.");
            }
        }
        return table;
    }

    private static void put(ObjectNode row, String name, @Nullable Object value, ResultSet rows, int column)
            throws SQLException {
        switch (value) {
            case null -> row.putNull(name);
            case Boolean b -> row.put(name, b);
            case Integer n -> row.put(name, n);
            case Long n -> row.put(name, n);
            case Short n -> row.put(name, n);
            case BigDecimal n -> row.put(name, n);
            case Double n -> row.put(name, n);
            case Float n -> row.put(name, n);
            case java.sql.Timestamp t ->
                row.put(
                        name,
                        rows.getMetaData().getColumnTypeName(column).equals("timestamptz")
                                ? rows.getObject(column, OffsetDateTime.class)
                                        .toInstant()
                                        .toString()
                                : t.toLocalDateTime().toString());
            default -> row.put(name, rows.getString(column));
        }
    }

    private static void commit(java.sql.Connection at, Connection connection) throws Doubtful {
        try {
            at.commit();
        } catch (SQLException e) {
            throw new Doubtful("It was said to " + connection.name() + " that this is to last, and no answer came.");
        }
    }

    /** Class 08 of SQL's states: an exception of the connection. */
    private static boolean isUnreached(SQLException e) {
        return e.getSQLState() != null && e.getSQLState().startsWith("08");
    }

    private static String why(Connection connection, SQLException e) {
        if (isUnreached(e)) {
            return "No connection to " + connection.name() + ": " + Texts.clip(e.getMessage(), 200);
        }
        return connection.name() + " refused it: " + Texts.clip(e.getMessage(), 300);
    }

    /** Cancels a statement that nobody wants any more. */
    private static final class Watch implements AutoCloseable {
        private final Heartbeat heartbeat;
        private final Thread thread;
        private volatile boolean over;
        private volatile boolean abandoned;
        private volatile boolean cancelled;

        Watch(PreparedStatement statement, Heartbeat heartbeat) {
            this.heartbeat = heartbeat;
            this.thread = Thread.ofVirtual().start(() -> look(statement));
        }

        private void look(PreparedStatement statement) {
            try {
                while (!over && !abandoned && !cancelled) {
                    Thread.sleep(LOOKS_UP_EVERY);
                    abandoned = !heartbeat.stillMine();
                    cancelled = heartbeat.cancelled();
                }
                if (!over) {
                    statement.cancel();
                }
            } catch (InterruptedException | SQLException e) {
                // What was to be cancelled is over, or ends at its own limit.
            }
        }

        /** What a cancelled statement would have done is undone by the server. */
        void throwIfGivenUp() throws Abandoned, Definite {
            if (abandoned) {
                throw new Abandoned();
            }
            if (cancelled) {
                throw new Definite("It was cancelled while the statement ran; nothing was changed.");
            }
        }

        @Override
        public void close() {
            over = true;
            thread.interrupt();
        }
    }
}
