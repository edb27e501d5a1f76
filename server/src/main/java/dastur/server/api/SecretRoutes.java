package dastur.server.api;

import dastur.core.json.Texts;
import dastur.core.people.PersonId;
import dastur.core.people.Right;
import dastur.core.workflow.Connection;
import dastur.server.channels.ChannelsNow;
import dastur.server.feed.Telling;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.signals.Proving;
import dastur.server.starts.HookDoor;
import dastur.store.StoredSecrets;
import dastur.store.Workflows;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.regex.Pattern;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** What connections sign in with: set and taken away by administrators, never shown (M6). */
final class SecretRoutes {
    private static final Pattern NAME = Pattern.compile("[A-Za-z][A-Za-z0-9._-]{0,63}");
    private static final int MOST = 10_000;

    /** That there is a secret. @param by who set it; null where it stood in a file @param usedBy the names of connections, or what else */
    record SecretView(String name, Instant at, @Nullable PersonId by, List<String> usedBy) {}

    record SecretBody(String value) {
        /** A body stands in no log. */
        @Override
        public String toString() {
            return "SecretBody";
        }
    }

    private final StoredSecrets secrets;
    private final Workflows workflows;
    private final ChannelsNow channels;
    private final InstantSource clock;

    private SecretRoutes(StoredSecrets secrets, Workflows workflows, ChannelsNow channels, InstantSource clock) {
        this.channels = channels;
        this.secrets = secrets;
        this.workflows = workflows;
        this.clock = clock;
    }

    static Stream<Route> of(StoredSecrets secrets, Workflows workflows, ChannelsNow channels, InstantSource clock) {
        SecretRoutes r = new SecretRoutes(secrets, workflows, channels, clock);
        return Stream.of(
                Route.list("/api/secrets", Right.ADMINISTER, "Which secrets there are", SecretView.class, q -> r.all()),
                Route.put("/api/secrets/{name}", Right.ADMINISTER, "Set a secret", SecretBody.class, null, r::set),
                Route.delete(
                        "/api/secrets/{name}", Right.ADMINISTER, "Take away a secret that nothing uses", r::remove));
    }

    private List<SecretView> all() {
        return secrets.all().stream()
                // Those of sources and hooks stand on their pages.
                .filter(s -> !isSetElsewhere(s.name()))
                .map(s -> new SecretView(s.name(), s.at(), s.by(), usersOf(s.name())))
                .toList();
    }

    static List<String> names(StoredSecrets secrets) {
        return secrets.all().stream()
                .map(StoredSecrets.Known::name)
                .filter(name -> !isSetElsewhere(name))
                .toList();
    }

    private static boolean isSetElsewhere(String name) {
        return Proving.isOfSource(name)
                || HookDoor.isOfHook(name)
                || Telling.isOfSubscription(name)
                || ChannelsNow.isOfChannel(name);
    }

    private List<String> usersOf(String secret) {
        return Stream.concat(
                        workflows.connections().stream()
                                .filter(c -> secret.equals(c.secret()))
                                .map(Connection::name)
                                .sorted(),
                        channels.usedAs(secret).stream())
                .toList();
    }

    private Object set(Request q) {
        String name = q.context().pathParam("name");
        if (!NAME.matcher(name).matches()) {
            throw Problem.invalid(
                            "name",
                            "A secret's name begins with a letter and has at most 64 letters, digits, dots, dashes and underscores.")
                    .end();
        }
        if (isSetElsewhere(name)) {
            throw Problem.invalid(
                            "name",
                            "Names that begin with 'source.', 'hook.', 'subscription.' or 'channel.' are made on the page of what they belong to.")
                    .end();
        }
        String value = Request.needed(q.body(SecretBody.class).value(), "value");
        if (Texts.blank(value) || value.length() > MOST) {
            throw Problem.invalid("value", "A secret has 1 to 10,000 characters.")
                    .end();
        }
        secrets.set(Answers.by(q, clock), name, value);
        return null;
    }

    private Object remove(Request q) {
        String name = q.context().pathParam("name");
        if (isSetElsewhere(name)) {
            throw Problem.conflict(
                            "This is the secret of a source, a hook, a subscription or a channel: it is set there.")
                    .end();
        }
        List<String> users = usersOf(name);
        if (!users.isEmpty()) {
            throw Problem.conflict("It is used by " + String.join(", ", users) + ". Give that another one first.")
                    .end();
        }
        if (!secrets.remove(Answers.by(q, clock), name)) {
            throw Problem.notFound("There is no secret '" + Texts.clip(name, 60) + "'.")
                    .end();
        }
        return null;
    }
}
