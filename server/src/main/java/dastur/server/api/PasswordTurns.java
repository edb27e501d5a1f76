package dastur.server.api;

import dastur.server.auth.Passwords;
import dastur.server.http.Problem;
import dastur.server.http.Request;

/** Passwords at the door of the API: where too many are being checked, the answer says so at once. */
final class PasswordTurns {
    private final Passwords passwords;

    PasswordTurns(Passwords passwords) {
        this.passwords = passwords;
    }

    boolean fits(Request q, String password, String hash) {
        try {
            return passwords.fits(q.address(), password, hash);
        } catch (Passwords.Busy e) {
            throw Problem.busy().end();
        }
    }

    String hash(Request q, String password) {
        try {
            return passwords.hash(q.address(), password);
        } catch (Passwords.Busy e) {
            throw Problem.busy().end();
        }
    }
}
