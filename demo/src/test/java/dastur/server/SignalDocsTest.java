package dastur.server;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assumptions.assumeThat;

import dastur.core.json.Json;
import java.io.IOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.concurrent.TimeUnit;
import java.util.regex.Matcher;
import java.util.regex.Pattern;
import org.junit.jupiter.api.Test;

/** What docs/signals.md tells senders to type does what it says, with programs that nobody here wrote (I18). */
class SignalDocsTest extends OnDemo {
    private static final Path GUIDE = Path.of("..", "docs", "signals.md");
    private static final Pattern BOX = Pattern.compile("```sh\\n(.*?)```", Pattern.DOTALL);

    private static String secret(String key, String proof) {
        String set = api.call("halvard", "PUT", "/api/sources/" + key, """
                {"name":"%s","open":true,"proof":"%s","otherwise":"kept","mapping":{"rows":[
                 {"to":"ci","from":{"is":"at","pointer":"/ci"}},{"to":"what","from":{"is":"at","pointer":"/what"}}]}}""".formatted(key, proof))
                .raw()
                .body();
        assertThat(set).contains("\"path\":\"/in/" + key + "\"");
        return api.call("halvard", "POST", "/api/sources/" + key + "/secrets", "{\"which\":1}")
                .body()
                .get("secret")
                .asText();
    }

    @Test
    void everyExampleIsTaken() throws IOException, InterruptedException {
        assumeThat(Files.isExecutable(Path.of("/usr/bin/curl"))).isTrue();
        assumeThat(Files.isExecutable(Path.of("/usr/bin/openssl"))).isTrue();
        String token = secret("gates", "token");
        String signs = secret("kiosks", "signature");
        Matcher boxes = BOX.matcher(Files.readString(GUIDE));
        int count = 0;
        while (boxes.find()) {
            String said = run(boxes.group(1), token, signs);
            // One JSON object a request, one after the other.
            for (String answer : said.replace("}{", "}\n{").split("\n")) {
                assertThat(Json.readMap(answer)).as(boxes.group(1) + said).containsKey("signal");
                count++;
            }
        }
        assertThat(count).isEqualTo(6);
    }

    private static String run(String script, String token, String secret) throws IOException, InterruptedException {
        ProcessBuilder shell = new ProcessBuilder("bash", "-c", script).redirectErrorStream(true);
        shell.environment().put("DASTUR", "http://127.0.0.1:" + api.app().port());
        shell.environment().put("TOKEN", token);
        shell.environment().put("SECRET", secret);
        Process running = shell.start();
        String said = new String(running.getInputStream().readAllBytes(), java.nio.charset.StandardCharsets.UTF_8);
        assertThat(running.waitFor(20, TimeUnit.SECONDS)).isTrue();
        return said;
    }
}
