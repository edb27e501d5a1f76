package dastur.e2e;

import com.microsoft.playwright.APIResponse;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.options.AriaRole;
import com.microsoft.playwright.options.RequestOptions;
import dastur.core.notation.Names;
import dastur.core.notation.Notation;
import dastur.core.people.PersonId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.Trigger;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowVersion;
import dastur.server.DemoApp;
import dastur.server.DemoData;
import dastur.store.Journal;
import dastur.store.Workflows;
import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import java.util.Objects;
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
    final DemoApp app;

    private final Browser browser;

    Stage() {
        try {
            data = Files.createTempDirectory("dastur-e2e");
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        app = DemoData.withRelay(data, clock, Duration.ofSeconds(2), Duration.ofSeconds(3));
        browser = new Browser();
    }

    String address() {
        return "http://127.0.0.1:" + app.port();
    }

    Page newPage() {
        return browser.window(1280, 800).newPage();
    }

    /** A window in which a person of the demo has signed in by the sign-in page. */
    Page throughTheDoor(String name) {
        Page page = newPage();
        page.navigate(address());
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name))
                .click();
        return inside(page);
    }

    /** A window in which a person of the demo is signed in; by what the sign-in page sends, which saves a page and a press. */
    Page as(String name) {
        return signedIn(newPage(), name);
    }

    /** The same on a phone. */
    Page phone(String name) {
        return signedIn(browser.window(390, 844).newPage(), name);
    }

    /** @param name as it stands on the sign-in page; the demo calls people by their first name */
    private Page signedIn(Page page, String name) {
        String person = name.split(" ")[0].toLowerCase(Locale.ROOT);
        APIResponse answer = page.request()
                .post(
                        address() + "/api/session/as",
                        RequestOptions.create().setHeader("Origin", address()).setData(Map.of("person", person)));
        if (!answer.ok()) {
            throw new AssertionError(name + " was not let in: " + answer.text());
        }
        page.navigate(address());
        return inside(page);
    }

    private static Page inside(Page page) {
        page.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .waitFor();
        return page;
    }

    /** Publishes an incident workflow from its text; it is started by hand. */
    void publish(String text) {
        Notation.Read read = Notation.read(text, 1, Names.NONE);
        WorkflowVersion version =
                Objects.requireNonNull(read.version(), () -> read.problems().toString());
        PersonId ines = new PersonId("ines");
        Workflows workflows = app.app().design().workflows();
        workflows.create(version, ines, clock.instant());
        workflows.publish(version.key(), 1, ines, clock.instant()).orElseThrow();
        workflows.setTriggers(
                new Journal.By(ines, clock.instant()),
                version.key(),
                List.of(new Trigger(
                        new TriggerId(version.key() + "-hand"),
                        true,
                        new Trigger.ByHand(TicketKind.INCIDENT),
                        List.of(),
                        null)));
    }

    @Override
    public void close() {
        browser.close();
        app.close();
    }
}
