package dastur.standins;

import java.io.BufferedInputStream;
import java.io.DataInputStream;
import java.io.EOFException;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetAddress;
import java.net.ServerSocket;
import java.net.Socket;
import java.sql.Connection;
import java.sql.DriverManager;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.UUID;

/**
 * The ledger of tickets sold, a database that speaks the frontend/backend protocol 3.0 of PostgreSQL as far as one statement at a time
 * needs it. Behind it stands a small database in memory.
 */
public final class SalesLedger implements AutoCloseable {
    public static final String USER = "ledger";
    public static final String DATABASE = "sales";

    private final String password;
    private final Faults faults;
    private final ServerSocket door;
    private final String behind = "jdbc:h2:mem:" + UUID.randomUUID() + ";MODE=PostgreSQL;DATABASE_TO_LOWER=TRUE";
    /** Keeps what stands in memory there. */
    private final Connection kept;

    SalesLedger(String password, Faults faults) {
        this.password = password;
        this.faults = faults;
        try {
            kept = DriverManager.getConnection(behind);
            fill();
            door = new ServerSocket(0, 50, InetAddress.getLoopbackAddress());
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
        Thread.ofVirtual().start(this::listen);
    }

    /** A few sales at each kiosk, some of them sold twice by a slip. */
    private void fill() throws SQLException {
        try (Statement s = kept.createStatement()) {
            s.execute("create table sale (number int primary key, kiosk varchar(40), fare varchar(40), pence int,"
                    + " sold timestamp with time zone, void boolean default false)");
            for (int kiosk = 1; kiosk <= 12; kiosk++) {
                for (int i = 0; i < 6; i++) {
                    s.execute("insert into sale values (%d, 'kiosk-%02d', '%s', %d, dateadd(minute, -%d, now()), false)"
                            .formatted(
                                    kiosk * 100 + i,
                                    kiosk,
                                    i % 3 == 0 ? "adult return" : i % 3 == 1 ? "adult single" : "child single",
                                    i % 3 == 0 ? 1_240 : i % 3 == 1 ? 720 : 360,
                                    7 + i * 11 + kiosk));
                }
            }
        }
    }

    /** Where it is, in the clear: it is on this machine. */
    public String address() {
        return "postgresql://" + USER + "@127.0.0.1:" + door.getLocalPort() + "/" + DATABASE + "?tls=none";
    }

    /** How many sales are void. */
    public long voided() {
        try (Statement s = kept.createStatement();
                var rows = s.executeQuery("select count(*) from sale where void")) {
            rows.next();
            return rows.getLong(1);
        } catch (SQLException e) {
            throw new IllegalStateException(e);
        }
    }

    private void listen() {
        while (!door.isClosed()) {
            try {
                Socket guest = door.accept();
                Thread.ofVirtual().start(() -> serve(guest));
            } catch (IOException e) {
                // The door was shut.
            }
        }
    }

    private void serve(Socket guest) {
        try (guest;
                Connection own = DriverManager.getConnection(behind)) {
            if (faults.of("ledger") == Faults.Fault.DOWN) {
                return;
            }
            DataInputStream in = new DataInputStream(new BufferedInputStream(guest.getInputStream()));
            new LedgerSession(in, guest.getOutputStream(), own, password, () -> faults.of("ledger")).run();
        } catch (EOFException e) {
            // It has left without a word.
        } catch (IOException | SQLException e) {
            // Whoever asked finds that the line is gone.
        }
    }

    @Override
    public void close() {
        try {
            door.close();
            kept.close();
        } catch (IOException | SQLException e) {
            throw new IllegalStateException(e);
        }
    }
}
