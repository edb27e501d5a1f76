package dastur.standins;

import java.io.ByteArrayOutputStream;
import java.io.DataInputStream;
import java.io.DataOutputStream;
import java.io.IOException;
import java.io.OutputStream;
import java.nio.ByteBuffer;
import java.nio.charset.StandardCharsets;
import java.sql.Connection;
import java.sql.PreparedStatement;
import java.sql.ResultSet;
import java.sql.ResultSetMetaData;
import java.sql.SQLException;
import java.sql.Types;
import java.time.OffsetDateTime;
import java.time.format.DateTimeFormatter;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.function.Supplier;

/** One client of the {@link SalesLedger}: its messages and the answers to them, by the names that the protocol has for them. */
final class LedgerSession {
    private static final int PROTOCOL_3 = 196_608;
    private static final int MOST = 100_000;
    private static final DateTimeFormatter TIME = DateTimeFormatter.ofPattern("yyyy-MM-dd HH:mm:ss.SSSSSSxxx");

    /** What goes wrong, with its state as SQL has it. */
    private static final class Wrong extends Exception {
        private final String state;

        private Wrong(String state, String message) {
            super(message);
            this.state = state;
        }
    }

    private final DataInputStream in;
    private final DataOutputStream out;
    private final Connection own;
    private final String password;
    private final Supplier<Faults.Fault> fault;
    /** Statements by the names that the client gave them; one without a name is told anew each time. */
    private final Map<String, String> named = new HashMap<>();

    private String statement = "";
    private List<Object> values = List.of();
    private boolean inTransaction;
    private boolean readsOnly;
    private boolean broken;

    LedgerSession(DataInputStream in, OutputStream out, Connection own, String password, Supplier<Faults.Fault> fault) {
        this.in = in;
        this.out = new DataOutputStream(out);
        this.own = own;
        this.password = password;
        this.fault = fault;
    }

    void run() throws IOException, SQLException {
        if (!greeted()) {
            return;
        }
        own.setAutoCommit(false);
        boolean skipping = false;
        while (true) {
            int kind = in.readByte();
            ByteBuffer body = body();
            if (kind == 'X') {
                return;
            }
            if (kind == 'S') {
                skipping = false;
                ready();
            } else if (!skipping) {
                try {
                    answer(kind, body);
                } catch (Wrong e) {
                    skipping = kind != 'Q';
                    refused(e);
                } catch (SQLException e) {
                    skipping = kind != 'Q';
                    refused(new Wrong(
                            e.getSQLState(), e.getMessage().lines().findFirst().orElse("wrong")));
                }
                if (kind == 'Q') {
                    ready();
                }
            }
        }
    }

    private ByteBuffer body() throws IOException {
        int size = in.readInt() - 4;
        if (size < 0 || size > MOST) {
            throw new IOException("no such message");
        }
        return ByteBuffer.wrap(in.readNBytes(size));
    }

    /** Asked for TLS it says no; then it wants the password. */
    private boolean greeted() throws IOException {
        while (true) {
            ByteBuffer start = body();
            if (start.getInt() == PROTOCOL_3) {
                break;
            }
            out.writeByte('N');
            out.flush();
        }
        send('R', new byte[] {0, 0, 0, 3});
        out.flush();
        if (in.readByte() != 'p') {
            return false;
        }
        String given = text(body());
        if (!given.equals(password)) {
            refused(new Wrong("28P01", "password authentication failed"));
            out.flush();
            return false;
        }
        send('R', new byte[4]);
        for (String[] told : new String[][] {
            {"server_version", "16.0"},
            {"client_encoding", "UTF8"},
            {"DateStyle", "ISO, MDY"},
            {"TimeZone", "UTC"},
            {"integer_datetimes", "on"},
            {"standard_conforming_strings", "on"}
        }) {
            send('S', (told[0] + "\0" + told[1] + "\0").getBytes(StandardCharsets.UTF_8));
        }
        ready();
        return true;
    }

    private void answer(int kind, ByteBuffer body) throws IOException, SQLException, Wrong {
        switch (kind) {
            case 'P' -> {
                String name = text(body);
                statement = text(body).strip();
                named.put(name, statement);
                send('1', new byte[0]);
            }
            case 'B' -> {
                values = bound(body);
                send('2', new byte[0]);
            }
            case 'D' -> {
                boolean ofStatement = body.get() == 'S';
                statement = ofStatement ? named.getOrDefault(text(body), "") : statement;
                describe(ofStatement);
            }
            case 'E' -> execute();
            case 'Q' -> atOnce(text(body).strip());
            case 'C' -> send('3', new byte[0]);
            default -> throw new Wrong("0A000", "it does not know such a message");
        }
    }

    /** Texts as they are; whole numbers may come in eight or four bytes. */
    private List<Object> bound(ByteBuffer body) {
        text(body);
        statement = named.getOrDefault(text(body), "");
        short[] formats = new short[body.getShort()];
        for (int i = 0; i < formats.length; i++) {
            formats[i] = body.getShort();
        }
        List<Object> values = new ArrayList<>();
        int count = body.getShort();
        for (int i = 0; i < count; i++) {
            int size = body.getInt();
            boolean binary = formats.length > 0 && formats[formats.length == 1 ? 0 : i] == 1;
            if (size < 0) {
                values.add(null);
            } else if (binary) {
                values.add(size == 8 ? body.getLong() : (Object) body.getInt());
            } else {
                byte[] value = new byte[size];
                body.get(value);
                values.add(new String(value, StandardCharsets.UTF_8));
            }
        }
        return values;
    }

    /** A statement without values, all in one message; what gives rows comes in the other messages alone. */
    private void atOnce(String said) throws IOException, SQLException, Wrong {
        statement = said;
        values = List.of();
        if (!isAboutTransactions()) {
            throw new Wrong("0A000", "say that in a message of its own");
        }
        execute();
    }

    private String word() {
        return statement.split("\\s", 2)[0].toLowerCase(Locale.ROOT);
    }

    private PreparedStatement prepared() throws SQLException {
        PreparedStatement prepared = own.prepareStatement(statement.replaceAll("\\$(\\d+)", "?$1"));
        for (int i = 0; i < values.size(); i++) {
            prepared.setObject(i + 1, values.get(i));
        }
        return prepared;
    }

    private boolean isAboutTransactions() {
        return List.of("begin", "commit", "rollback", "set").contains(word()) || statement.isEmpty();
    }

    private void describe(boolean ofStatement) throws IOException, SQLException {
        if (ofStatement) {
            send('t', new byte[2]);
        }
        if (isAboutTransactions()) {
            send('n', new byte[0]);
            return;
        }
        try (PreparedStatement prepared = prepared()) {
            ResultSetMetaData is = prepared.getMetaData();
            if (is == null) {
                send('n', new byte[0]);
                return;
            }
            ByteArrayOutputStream row = new ByteArrayOutputStream();
            DataOutputStream to = new DataOutputStream(row);
            to.writeShort(is.getColumnCount());
            for (int i = 1; i <= is.getColumnCount(); i++) {
                to.write((is.getColumnLabel(i) + "\0").getBytes(StandardCharsets.UTF_8));
                to.writeInt(0);
                to.writeShort(0);
                to.writeInt(type(is.getColumnType(i)));
                to.writeShort(-1);
                to.writeInt(-1);
                to.writeShort(0);
            }
            send('T', row.toByteArray());
        }
    }

    /** The number by which the protocol calls a type. */
    private static int type(int sql) {
        return switch (sql) {
            case Types.INTEGER -> 23;
            case Types.BIGINT -> 20;
            case Types.BOOLEAN -> 16;
            case Types.NUMERIC, Types.DECIMAL -> 1_700;
            case Types.TIMESTAMP_WITH_TIMEZONE -> 1_184;
            default -> 25;
        };
    }

    private void execute() throws IOException, SQLException, Wrong {
        switch (word()) {
            case "begin" -> {
                inTransaction = true;
                readsOnly = statement.toLowerCase(Locale.ROOT).contains("read only");
                done("BEGIN");
            }
            case "commit" -> {
                own.commit();
                if (fault.get() == Faults.Fault.LOSES_ANSWERS) {
                    throw new IOException("the line is cut");
                }
                over();
                done("COMMIT");
            }
            case "rollback" -> {
                own.rollback();
                over();
                done("ROLLBACK");
            }
            case "set" -> done("SET");
            default -> {
                if (fault.get() == Faults.Fault.REFUSES) {
                    throw new Wrong("42501", "permission denied for table sale");
                }
                if (broken) {
                    throw new Wrong("25P02", "current transaction is aborted");
                }
                try (PreparedStatement prepared = prepared()) {
                    if (prepared.getMetaData() != null) {
                        rows(prepared.executeQuery());
                    } else if (readsOnly) {
                        throw new Wrong("25006", "cannot execute this in a read-only transaction");
                    } else {
                        done(word().toUpperCase(Locale.ROOT) + " " + prepared.executeUpdate());
                    }
                }
            }
        }
    }

    private void over() {
        inTransaction = false;
        readsOnly = false;
        broken = false;
    }

    private void rows(ResultSet rows) throws IOException, SQLException {
        int columns = rows.getMetaData().getColumnCount();
        int count = 0;
        while (rows.next()) {
            ByteArrayOutputStream row = new ByteArrayOutputStream();
            DataOutputStream to = new DataOutputStream(row);
            to.writeShort(columns);
            for (int i = 1; i <= columns; i++) {
                Object value = rows.getObject(i);
                if (value == null) {
                    to.writeInt(-1);
                } else {
                    byte[] said = said(value).getBytes(StandardCharsets.UTF_8);
                    to.writeInt(said.length);
                    to.write(said);
                }
            }
            send('D', row.toByteArray());
            count++;
        }
        done("SELECT " + count);
    }

    private static String said(Object value) {
        return switch (value) {
            case Boolean b -> b ? "t" : "f";
            case OffsetDateTime at -> TIME.format(at);
            default -> String.valueOf(value);
        };
    }

    // --- what is sent

    private void done(String tag) throws IOException {
        send('C', (tag + "\0").getBytes(StandardCharsets.UTF_8));
    }

    private void refused(Wrong e) throws IOException {
        broken = inTransaction;
        send('E', ("SERROR\0VERROR\0C" + e.state + "\0M" + e.getMessage() + "\0\0").getBytes(StandardCharsets.UTF_8));
    }

    private void ready() throws IOException {
        send('Z', new byte[] {(byte) (broken ? 'E' : inTransaction ? 'T' : 'I')});
        out.flush();
    }

    private void send(int kind, byte[] body) throws IOException {
        out.writeByte(kind);
        out.writeInt(body.length + 4);
        out.write(body);
    }

    /** A text up to its zero. */
    private static String text(ByteBuffer from) {
        ByteArrayOutputStream text = new ByteArrayOutputStream();
        for (byte b = from.get(); b != 0; b = from.get()) {
            text.write(b);
        }
        return text.toString(StandardCharsets.UTF_8);
    }
}
