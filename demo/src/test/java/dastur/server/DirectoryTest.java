package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.server.ApiClient.Answer;
import java.util.Map;
import org.junit.jupiter.api.Test;

/** The names that every page says: sent where they have changed, and to each no more than they may know (decision 57). */
class DirectoryTest extends OnDemo {
    private static Answer directory(String person, String had) {
        return api.call(person, "GET", "/api/directory", null, had.isEmpty() ? Map.of() : Map.of("If-None-Match", had));
    }

    private static String tag(Answer answer) {
        return answer.raw().headers().firstValue("ETag").orElseThrow();
    }

    private static void rename(String name) {
        Answer answer = api.call(
                "ines",
                "PUT",
                "/api/groups/duty-managers",
                "{\"name\":\"" + name + "\",\"members\":[\"teo\",\"priya\"]}");
        assertThat(answer.status()).as(answer.raw().body()).isEqualTo(204);
    }

    @Test
    void whoHasThemIsToldSoInNoBytesUntilOneIsCalledOtherwise() {
        rename("Managers on duty");
        Answer first = directory("ada", "");
        assertThat(first.status()).isEqualTo(200);
        assertThat(first.body().get("groups").findValuesAsText("name")).contains("Managers on duty");
        Answer again = directory("ada", tag(first));
        assertThat(again.status()).isEqualTo(304);
        assertThat(again.raw().body()).isEmpty();
        assertThat(tag(again)).isEqualTo(tag(first));

        rename("Managers of the night");
        Answer changed = directory("ada", tag(first));
        assertThat(changed.status()).isEqualTo(200);
        assertThat(changed.body().get("groups").findValuesAsText("name"))
                .contains("Managers of the night")
                .doesNotContain("Managers on duty");
        assertThat(directory("ada", tag(first) + ", W/" + tag(changed)).status())
                .as("on its way it may have been told to be weak, among others")
                .isEqualTo(304);

        rename("Managers on duty");
        assertThat(directory("teo", tag(first)).status())
                .as("what is said again is known again, whoever asks")
                .isEqualTo(304);
    }

    @Test
    void aTagOfThoseWhoSeeMoreOpensNothing() {
        Answer all = directory("ada", "");
        Answer mine = directory("mira", tag(all));
        assertThat(mine.status()).isEqualTo(200);
        assertThat(mine.body().get("people").findValuesAsText("id")).containsExactly("mira");
        assertThat(mine.body().get("groups")).isEmpty();
        assertThat(directory("mira", tag(mine)).status()).isEqualTo(304);
        assertThat(directory("mira", "*").status())
                .as("that there are names is no news")
                .isEqualTo(200);
        assertThat(directory("ada", tag(mine)).status()).isEqualTo(200);
    }
}
