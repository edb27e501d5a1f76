package dastur.e2e;

import com.microsoft.playwright.Browser;
import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.options.AriaRole;
import dastur.server.Settings;
import dastur.server.Wiring;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Map;
import java.util.concurrent.atomic.AtomicReference;

/** The real application with demo data, and a real browser before it. */
final class Stage implements AutoCloseable {
    private static final List<String> FLAGS = List.of(
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync");

    /** The real time, moved ahead by tests. */
    static final class TestClock implements InstantSource {
        private final AtomicReference<Duration> ahead = new AtomicReference<>(Duration.ZERO);

        @Override
        public Instant instant() {
            return Instant.now().plus(ahead.get());
        }

        void pass(Duration time) {
            ahead.updateAndGet(a -> a.plus(time));
        }
    }

    final TestClock clock = new TestClock();
    final Path data;
    Wiring app;

    private final Playwright playwright;
    private final Browser browser;

    Stage() {
        try {
            data = Files.createTempDirectory("dastur-e2e");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        start();
        playwright = Playwright.create(
                new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));
        browser = playwright
                .chromium()
                .launch(new BrowserType.LaunchOptions()
                        .setExecutablePath(Path.of("/usr/bin/chromium"))
                        .setArgs(FLAGS));
    }

    private void start() {
        app = new Wiring(new Settings(
                data,
                "127.0.0.1",
                0,
                clock,
                Duration.ofSeconds(2),
                Settings.LOCAL_MAIL,
                new Settings.DemoSettings(true, 0, 0, Duration.ofSeconds(3))));
    }

    /** Stops the application and starts it on the same data, at other ports. */
    void restart() {
        app.close();
        start();
    }

    String address() {
        return "http://127.0.0.1:" + app.port();
    }

    /** A fresh browser window of a size. */
    BrowserContext window(int width, int height) {
        BrowserContext context = browser.newContext(new Browser.NewContextOptions()
                .setViewportSize(width, height)
                .setLocale("en-GB")
                .setTimezoneId("Europe/Oslo")
                .setReducedMotion(com.microsoft.playwright.options.ReducedMotion.REDUCE));
        context.setDefaultTimeout(15_000);
        context.onWebError(error -> System.err.println("page error: " + error.error()));
        context.onConsoleMessage(message -> {
            if (message.type().equals("error")) {
                System.err.println("console: " + message.text());
            }
        });
        return context;
    }

    /** A window in which a person of the demo has signed in by the sign-in page. */
    Page as(String name) {
        Page page = window(1280, 800).newPage();
        page.navigate(address());
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name))
                .click();
        page.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .waitFor();
        return page;
    }

    @Override
    public void close() {
        browser.close();
        playwright.close();
        app.close();
    }
}
