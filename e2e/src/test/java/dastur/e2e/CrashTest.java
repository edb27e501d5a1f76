package dastur.e2e;

import static com.microsoft.playwright.assertions.PlaywrightAssertions.assertThat;
import static org.assertj.core.api.Assertions.assertThat;

import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.sun.net.httpserver.HttpServer;
import dastur.core.people.Person;
import dastur.core.people.PersonId;
import dastur.core.workflow.Action;
import dastur.demo.Demo;
import dastur.server.DataFolder;
import dastur.server.DemoData;
import dastur.server.auth.Secrets;
import dastur.store.Database;
import dastur.store.Durability;
import dastur.store.Organisation;
import dastur.store.Workflows;
import java.io.BufferedReader;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.net.InetSocketAddress;
import java.nio.charset.StandardCharsets;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Instant;
import java.util.concurrent.BlockingQueue;
import java.util.concurrent.CountDownLatch;
import java.util.concurrent.Executors;
import java.util.concurrent.LinkedBlockingQueue;
import java.util.concurrent.TimeUnit;
import org.junit.jupiter.api.AfterEach;
import org.junit.jupiter.api.BeforeEach;
import org.junit.jupiter.api.Test;

/** The server process is killed with SIGKILL in the middle of a call, and started again on the same data. */
class CrashTest {
    private static final String PASSWORD = "a long enough password";

    private final BlockingQueue<String> keysSeen = new LinkedBlockingQueue<>();
    private final CountDownLatch mayAnswer = new CountDownLatch(1);
    private HttpServer outside;
    private Path data;
    private Browser browser;
    private Running running;

    /** A started server process. */
    private record Running(Process process, String address) {
        void kill() throws InterruptedException {
            process.destroyForcibly();
            assertThat(process.waitFor(10, TimeUnit.SECONDS)).isTrue();
        }
    }

    @BeforeEach
    void prepare() throws IOException {
        outside = HttpServer.create(new InetSocketAddress("127.0.0.1", 0), 0);
        outside.setExecutor(Executors.newVirtualThreadPerTaskExecutor());
        outside.createContext("/lanes", exchange -> {
            keysSeen.add(exchange.getRequestHeaders().getFirst("Idempotency-Key"));
            try {
                mayAnswer.await();
                byte[] answer = "{\"lock\":\"L-9\",\"status\":\"closed\"}".getBytes(StandardCharsets.UTF_8);
                exchange.sendResponseHeaders(200, answer.length);
                exchange.getResponseBody().write(answer);
            } catch (InterruptedException e) {
                Thread.currentThread().interrupt();
            } catch (IOException callerIsGone) {
                // The first caller was killed while it waited.
            } finally {
                exchange.close();
            }
        });
        outside.start();
        data = Files.createTempDirectory("dastur-crash");
        browser = new Browser();
    }

    @AfterEach
    void stop() throws InterruptedException {
        browser.close();
        if (running != null) {
            running.kill();
        }
        mayAnswer.countDown();
        outside.stop(0);
    }

    @Test
    void aKeyedCallGoesOnUnderItsKeyAndNothingAcknowledgedIsMissing() throws Exception {
        seed(Action.Repeat.KEYED);
        String key = approveAndKillDuringTheCall(false);
        running = startServer();
        assertThat(keysSeen.poll(60, TimeUnit.SECONDS)).isEqualTo(key);
        mayAnswer.countDown();
        Page page = browser.signIn(running.address(), "teo", PASSWORD);
        page.navigate(running.address() + "/tickets/I-1045");
        assertThat(page.getByText("The run ended: lane closed")).isVisible();
        assertThat(page.getByText("Teo Marchetti approved")).isVisible();
        assertThat(page.locator("aside")).containsText("L-9");
        assertThat(page.getByText("sealed,")).isVisible();
        assertThat(keysSeen).isEmpty();
    }

    @Test
    void aNeverRepeatedCallBecomesUnsureAndAsksAPerson() throws Exception {
        seed(Action.Repeat.NEVER);
        approveAndKillDuringTheCall(true);
        running = startServer();
        Page page = browser.signIn(running.address(), "ines", PASSWORD);
        chosen(page);
        assertThat(page.getByText("Unsure: Close the lane")).isVisible();
        assertThat(keysSeen).isEmpty();
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("It happened: go on"))
                .click();
        page.getByLabel("Why: It happened").fill("The controller shows the lane closed.");
        page.getByRole(
                        AriaRole.BUTTON,
                        new Page.GetByRoleOptions().setName("Do it").setExact(true))
                .click();
        page.navigate(running.address() + "/tickets/I-1045");
        assertThat(page.getByText("The run ended: lane closed")).isVisible();
        assertThat(page.getByText("Ines Okafor-Lind intervened: it happened")).isVisible();
        assertThat(keysSeen).isEmpty();
    }

    private static void chosen(Page page) {
        page.locator("li button")
                .filter(new Locator.FilterOptions().setHasText("I-1045"))
                .click();
    }

    private static void approve(Page page) {
        chosen(page);
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Approve and close the lane at ALD-G3"))
                .click();
    }

    /**
     * Approves by the interface; when the call has gone out, the process is killed. Returns the call's key.
     *
     * @param mended whether the action is another than when approval was asked for, so that it is asked for again
     */
    private String approveAndKillDuringTheCall(boolean mended) throws Exception {
        running = startServer();
        Page teo = browser.signIn(running.address(), "teo", PASSWORD);
        approve(teo);
        if (mended) {
            Page ines = browser.signIn(running.address(), "ines", PASSWORD);
            chosen(ines);
            assertThat(ines.getByText("has changed: the action 'Close a lane'").first())
                    .isVisible();
            ines.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Ask for approval again"))
                    .click();
            ines.getByLabel("Why: Ask for approval again").fill("It is done otherwise now.");
            ines.getByRole(
                            AriaRole.BUTTON,
                            new Page.GetByRoleOptions().setName("Do it").setExact(true))
                    .click();
            teo.navigate(running.address() + "/desk");
            approve(teo);
        }
        String key = keysSeen.poll(60, TimeUnit.SECONDS);
        assertThat(key).isNotNull();
        running.kill();
        return key;
    }

    /** Takes a copy of the demo and tells it of the outside system of this test, before any server runs on it. */
    private void seed(Action.Repeat repeat) {
        DemoData.fill(data);
        new DataFolder(data).secretOrNew(Demo.SECRET);
        try (Database database = Database.inFolder(data, Durability.POWER, new DataFolder(data).rowKey())) {
            Organisation organisation = new Organisation(database);
            Workflows workflows = new Workflows(database);
            Demo.prepare(
                    database,
                    new Demo.Outside(
                            "http://127.0.0.1:" + outside.getAddress().getPort(),
                            "ssh://dastur@127.0.0.1:9?hostkey=SHA256:" + "A".repeat(43),
                            "dns://127.0.0.1:9",
                            "ldap://127.0.0.1:9/dc=kestrel,dc=example",
                            "postgresql://ledger@127.0.0.1:9/sales?tls=none"),
                    Instant.now());
            for (String id : new String[] {"teo", "ines"}) {
                Person person = organisation.person(new PersonId(id)).orElseThrow();
                organisation.putPerson(person, Secrets.hashPassword(PASSWORD));
            }
            Action close = workflows.actions().stream()
                    .filter(a -> a.key().value().equals("lane.close"))
                    .findFirst()
                    .orElseThrow();
            workflows.putAction(new Action(
                    close.key(),
                    close.name(),
                    close.description(),
                    close.connection(),
                    close.call(),
                    close.inputs(),
                    close.outputs(),
                    close.results(),
                    repeat,
                    close.changesWorld(),
                    close.timeLimit(),
                    close.tries(),
                    close.pause()));
        }
    }

    private Running startServer() throws IOException {
        Process process = new ProcessBuilder(
                        Path.of(System.getProperty("java.home"), "bin", "java").toString(),
                        "-cp",
                        System.getProperty("surefire.test.class.path", System.getProperty("java.class.path")),
                        "dastur.server.Main",
                        "start",
                        "--data",
                        data.toString(),
                        "--port",
                        "0",
                        "--call-lease",
                        "4")
                .redirectError(ProcessBuilder.Redirect.DISCARD)
                .start();
        BufferedReader out = process.inputReader(StandardCharsets.UTF_8);
        for (String line = out.readLine(); line != null; line = out.readLine()) {
            if (line.startsWith("Dastur is ready at ")) {
                return new Running(process, line.substring("Dastur is ready at ".length()));
            }
        }
        throw new UncheckedIOException(new IOException("the server did not start"));
    }
}
