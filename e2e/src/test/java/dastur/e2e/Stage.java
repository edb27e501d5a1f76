package dastur.e2e;

import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import dastur.server.DemoData;
import dastur.server.Wiring;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.concurrent.atomic.AtomicReference;

/** The real application with demo data, and a real browser before it. */
final class Stage implements AutoCloseable {
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
    final Wiring app;

    private final Browser browser;

    Stage() {
        try {
            data = Files.createTempDirectory("dastur-e2e");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        app = DemoData.start(data, clock, Duration.ofSeconds(2), Duration.ofSeconds(3));
        browser = new Browser();
    }

    String address() {
        return "http://127.0.0.1:" + app.port();
    }

    Page newPage() {
        return browser.window(1280, 800).newPage();
    }

    /** A window in which a person of the demo has signed in by the sign-in page. */
    Page as(String name) {
        return signedIn(newPage(), name);
    }

    /** The same on a phone. */
    Page phone(String name) {
        return signedIn(browser.window(390, 844).newPage(), name);
    }

    private Page signedIn(Page page, String name) {
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
        app.close();
    }
}
