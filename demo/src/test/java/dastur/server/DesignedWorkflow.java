package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.json.Json;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.server.ApiClient.Answer;
import java.util.Map;

/** Workflows that tests design, as a process owner does. */
final class DesignedWorkflow {
    private DesignedWorkflow() {}

    /** Publishes a workflow that people start by hand. */
    static void publish(ApiClient api, String text) {
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        assertThat(read.problems()).isEmpty();
        String key = read.version().key().value();
        Answer made = api.call(
                "ines",
                "POST",
                "/api/workflows",
                Json.write(Map.of("key", key, "name", read.version().name())));
        assertThat(made.status()).as(made.raw().body()).isEqualTo(201);
        long revision = api.call("ines", "GET", "/api/workflows/" + key, null)
                .body()
                .get("draftRevision")
                .asLong();
        Answer saved = api.call(
                "ines",
                "PUT",
                "/api/workflows/" + key + "/draft",
                "{\"revision\":" + revision + ",\"version\":" + Json.write(read.version()) + "}");
        assertThat(saved.status()).as(saved.raw().body()).isEqualTo(200);
        Answer triggers = api.call("ines", "PUT", "/api/workflows/" + key + "/triggers", """
                {"triggers":[{"id":"%s-hand","on":true,"when":{"is":"by hand"},"services":[],"mode":"starts"}]}""".formatted(key));
        assertThat(triggers.status()).as(triggers.raw().body()).isLessThan(300);
        revision = api.call("ines", "GET", "/api/workflows/" + key, null)
                .body()
                .get("draftRevision")
                .asLong();
        Answer live = api.call("ines", "POST", "/api/workflows/" + key + "/publish", "{\"revision\":" + revision + "}");
        assertThat(live.status()).as(live.raw().body()).isLessThan(300);
    }
}
