package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.people.Role;
import dastur.server.ApiClient.Answer;
import dastur.server.api.RouteTable;
import dastur.server.auth.Secrets;
import dastur.server.http.Route;
import io.javalin.http.HandlerType;
import java.io.IOException;
import java.io.InputStream;
import java.nio.charset.StandardCharsets;
import java.util.ArrayList;
import java.util.Comparator;
import java.util.List;
import java.util.Set;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;

/**
 * Who may call what: every route of the table is called by nobody and by an account of each single role. Who gets past the
 * door stands in {@code rights.txt}, a line a route, to be read by people: another line there is another right given.
 */
class RightsTest extends OnDemo {
    /** Calling these ends the caller's sign-in, or takes long; for those whom the door lets in it is not tried. */
    private static final Set<String> NOT_TRIED =
            Set.of("DELETE /api/session", "POST /api/keeping/copies", "POST /api/keeping/audits");

    private static final String PASSWORD = "only for this test";

    @BeforeAll
    static void oneAccountARole() {
        for (Role role : Role.values()) {
            api.app()
                    .app()
                    .design()
                    .organisation()
                    .putPerson(
                            new Person(
                                    new PersonId(account(role)),
                                    "Only " + role.word(),
                                    account(role) + "@kestrel.example",
                                    Set.of(role),
                                    true),
                            Secrets.hashPassword(PASSWORD));
            api.signIn(account(role), PASSWORD);
        }
    }

    private static String account(Role role) {
        return "only-" + role.word().replace(' ', '-');
    }

    @Test
    void whoGetsPastTheDoorIsWhatTheTableSays() throws IOException {
        List<String> lines = new ArrayList<>();
        for (Route route : RouteTable.of(api.app().app()).stream()
                .sorted(Comparator.comparing(Route::path)
                        .thenComparing(r -> r.method().name()))
                .toList()) {
            List<String> in = new ArrayList<>();
            boolean open = passes("", route);
            for (Role role : Role.values()) {
                if (passes(account(role), route)) {
                    in.add(role.word());
                } else {
                    assertThat(open)
                            .as("%s is open to nobody but not to %s", route.path(), role)
                            .isFalse();
                }
            }
            lines.add(route.method() + " " + route.path() + ": "
                    + (open ? "anybody" : in.size() == Role.values().length ? "every account" : String.join(", ", in)));
        }
        try (InputStream expected = RightsTest.class.getResourceAsStream("/rights.txt")) {
            String table = expected == null ? "" : new String(expected.readAllBytes(), StandardCharsets.UTF_8);
            assertThat(String.join("\n", lines) + "\n").isEqualTo(table);
        }
    }

    private static boolean passes(String person, Route route) {
        String what = route.method() + " " + route.path();
        if (NOT_TRIED.contains(what) && !person.isEmpty()) {
            Person caller = api.app()
                    .app()
                    .design()
                    .organisation()
                    .person(new PersonId(person))
                    .orElseThrow();
            if (route.right().of(caller)) {
                return true;
            }
        }
        String path = route.path().replaceAll("\\{[^}]*}", "none-such");
        String body = route.method() == HandlerType.GET || route.body() == null ? null : "{}";
        Answer answer = api.call(person, route.method().name(), path, body);
        String said = answer.body() == null ? "" : answer.body().path("detail").asText();
        // One who has to prove by a signature who they are is past the door of people.
        boolean door = answer.status() == 401 && person.isEmpty() && !said.contains("signed by a relay")
                || answer.status() == 403 && said.startsWith("This needs the right to");
        // A fault is no answer to whether somebody may.
        assertThat(answer.status()).as(what).isLessThan(500);
        return !door;
    }
}
