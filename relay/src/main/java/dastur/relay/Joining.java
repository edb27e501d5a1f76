package dastur.relay;

import dastur.connectors.relay.Lines;
import dastur.core.record.Signing;
import java.io.IOException;
import java.nio.file.Path;
import java.security.GeneralSecurityException;
import java.security.KeyPair;
import java.time.InstantSource;

/** How a relay comes to belong to a server: by a code that somebody reads off the page of its zone (M13). */
public final class Joining {
    private Joining() {}

    /**
     * Asks to join. It works once somebody has compared its key with what is returned, and let it in.
     *
     * @param code with the fingerprint of the server's key behind its dot: another server is not believed
     * @return the fingerprint of this relay's key, as the page shows it
     * @throws IOException when it did not; the message says why
     */
    public static String join(Path at, String address, String code, String name)
            throws IOException, InterruptedException {
        int dot = code.lastIndexOf('.');
        if (dot < 1 || !code.substring(dot + 1).matches("[0-9a-f]{64}")) {
            throw new IOException("This is not a whole code: copy all of it from the page of the zone.");
        }
        Folder folder = new Folder(at);
        if (folder.belongs()) {
            throw new IOException(
                    "This folder belongs to a server already. For another one, use another folder: each relay has a key of its own.");
        }
        try {
            KeyPair key = folder.key();
            Line line = new Line(address, InstantSource.system());
            Lines.Joined joined =
                    line.ask("join", Lines.Join.of(code.substring(0, dot), name, key), Lines.Joined.class);
            if (!joined.proved(code.substring(dot + 1), Signing.publicKey(key))) {
                throw new IOException(
                        "What answers at " + address + " is not the server that made this code. Nothing was joined.");
            }
            folder.belongsTo(new Folder.Server(line.address(), joined.relay(), joined.zone(), joined.server()));
            return Lines.read(Signing.publicKey(key));
        } catch (Line.Refused e) {
            throw new IOException(e.getMessage(), e);
        } catch (GeneralSecurityException | IllegalArgumentException e) {
            throw new IOException(e.getMessage(), e);
        }
    }

    /** The server is reached elsewhere now; it is the same by its key, and so is the relay. */
    public static void move(Path at, String address) throws IOException {
        try {
            Folder folder = new Folder(at);
            Folder.Server known = folder.server();
            String there = new Line(address, InstantSource.system()).address();
            if (!there.equals(known.address())) {
                folder.belongsTo(new Folder.Server(there, known.relay(), known.zone(), known.key()));
            }
        } catch (Folder.Unusable | IllegalArgumentException e) {
            throw new IOException(e.getMessage(), e);
        }
    }
}
