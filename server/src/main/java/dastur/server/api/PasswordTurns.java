package dastur.server.api;

import dastur.server.App;
import dastur.server.auth.Passwords;
import dastur.server.http.Problem;
import dastur.server.http.Request;

/** Passwords at the door of the API: where too many are being checked, the answer says so at once. */
final class PasswordTurns {
    private PasswordTurns() {}

    static boolean fits(App app, Request q, String password, String hash) {
        try {
            return app.passwords().fits(q.address(), password, hash);
        } catch (Passwords.Busy e) {
            throw Problem.busy().end();
        }
    }

    static String hash(App app, Request q, String password) {
        try {
            return app.passwords().hash(q.address(), password);
        } catch (Passwords.Busy e) {
            throw Problem.busy().end();
        }
    }
}
