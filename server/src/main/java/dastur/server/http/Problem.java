package dastur.server.http;

import dastur.core.run.Refusal;
import org.jspecify.annotations.Nullable;

/**
 * A problem of a request as RFC 9457 has it.
 *
 * @param type names the kind of problem
 * @param detail what is wrong and how to mend it
 * @param where the field it is about; null for the whole
 */
public record Problem(
        String type,
        String title,
        int status,
        String detail,
        @Nullable String where) {
    /** Ends a request with a problem. */
    public static final class Ended extends RuntimeException {
        private final transient Problem problem;

        public Ended(Problem problem) {
            super(problem.title(), null, false, false);
            this.problem = problem;
        }

        public Problem problem() {
            return problem;
        }
    }

    private static Problem of(String kind, String title, int status, String detail, @Nullable String where) {
        return new Problem("urn:dastur:problem:" + kind, title, status, detail, where);
    }

    public static Problem invalid(@Nullable String where, String detail) {
        return of("invalid", "That cannot be accepted", 422, detail, where);
    }

    public static Problem malformed(@Nullable String where, String detail) {
        return of("malformed", "The request cannot be read", 400, detail, where);
    }

    public static Problem notFound(String detail) {
        return of("not-found", "Not found", 404, detail, null);
    }

    /** What was there is not any more, and the application did not take it away. */
    public static Problem gone(String detail) {
        return of("gone", "It was deleted", 410, detail, null);
    }

    public static Problem notSignedIn() {
        return of("not-signed-in", "Sign in first", 401, "This needs a sign-in or an API token.", null);
    }

    public static Problem noRight(String detail) {
        return of("no-right", "You may not do this", 403, detail, null);
    }

    public static Problem conflict(String detail) {
        return of("conflict", "Somebody was first", 409, detail, null);
    }

    public static Problem tooLarge(long limit) {
        return of("too-large", "The request is too large", 413, "A request has at most " + limit + " bytes.", null);
    }

    public static Problem tooOften() {
        return of("too-often", "Too many tries", 429, "Wait a minute, then try again.", null);
    }

    /** Something sends too much; it may go on in a moment. */
    public static Problem tooFast(String detail) {
        return of("too-fast", "Too much at once", 429, detail + " Send it again in a second.", null);
    }

    /** A sender has not shown who it is. */
    public static Problem notProved(String detail) {
        return of("not-proved", "Not proved", 401, detail, null);
    }

    public static Problem busy() {
        return of(
                "busy",
                "Too much at once",
                503,
                "More people are signing in than can be let in at once. Nothing was changed; try again in a few seconds.",
                null);
    }

    /** Expressions are tried by others at this moment. */
    public static Problem trials() {
        return of("busy", "Too much at once", 503, "Others are trying expressions now; try again in a moment.", null);
    }

    /** More is to be written than can be at this moment. */
    public static Problem writing() {
        return of(
                "busy",
                "Too much at once",
                503,
                "More is happening than can be kept at this moment. Nothing was changed; try again in a few seconds.",
                null);
    }

    /** The database is on a server that cannot be reached. What was under way may have been kept: nobody can say yet. */
    public static Problem unreachable() {
        return of(
                "unreachable",
                "The database cannot be reached",
                503,
                "It is not known whether this was kept. Send it again with the same Idempotency-Key in a few seconds: it is"
                        + " done once.",
                null);
    }

    public static Problem bug() {
        return of(
                "bug",
                "Something went wrong here",
                500,
                "Nothing was changed. Try again; if it stays so, tell those who run Dastur the time.",
                null);
    }

    public static Problem of(Refusal refusal) {
        return switch (refusal.code()) {
            case NOT_FOUND -> of("not-found", "Not found", 404, refusal.message(), refusal.where());
            case NOT_YOURS -> of("no-right", "You may not do this", 403, refusal.message(), refusal.where());
            case HELD -> of("held", "On hold", 409, refusal.message(), refusal.where());
            case TOO_LATE -> of("too-late", "Somebody was first", 409, refusal.message(), refusal.where());
            case STALE -> of("stale", "This has changed", 409, refusal.message(), refusal.where());
            case INVALID -> of("invalid", "That cannot be accepted", 422, refusal.message(), refusal.where());
        };
    }

    public Ended end() {
        return new Ended(this);
    }
}
