package dastur.e2e;

import com.microsoft.playwright.BrowserContext;
import com.microsoft.playwright.BrowserType;
import com.microsoft.playwright.Locator;
import com.microsoft.playwright.Page;
import com.microsoft.playwright.Playwright;
import com.microsoft.playwright.TimeoutError;
import com.microsoft.playwright.assertions.PlaywrightAssertions;
import com.microsoft.playwright.options.AriaRole;
import java.nio.file.Path;
import java.time.Duration;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import java.util.regex.Pattern;

/** Headless Chromium as Debian has it. */
final class Browser implements AutoCloseable {
    private static final List<String> FLAGS = List.of(
            "--no-sandbox",
            "--disable-gpu",
            "--disable-quic",
            "--no-first-run",
            "--disable-background-networking",
            "--disable-component-update",
            "--disable-sync");

    static {
        // Two cores carry server, browser and tests at once; a condition is waited for as long as an action is.
        PlaywrightAssertions.setDefaultAssertionTimeout(30_000);
    }

    private final Playwright playwright =
            Playwright.create(new Playwright.CreateOptions().setEnv(Map.of("PLAYWRIGHT_SKIP_BROWSER_DOWNLOAD", "1")));
    private final com.microsoft.playwright.Browser browser = playwright
            .chromium()
            .launch(new BrowserType.LaunchOptions()
                    .setExecutablePath(Path.of("/usr/bin/chromium"))
                    .setArgs(FLAGS));

    /** A fresh browser window of a size; it is closed when its test is over. */
    BrowserContext window(int width, int height) {
        BrowserContext context =
                WhatWasSeen.watched(browser.newContext(new com.microsoft.playwright.Browser.NewContextOptions()
                        .setViewportSize(width, height)
                        .setLocale("en-GB")
                        .setTimezoneId("Europe/Oslo")
                        .setReducedMotion(com.microsoft.playwright.options.ReducedMotion.REDUCE)));
        context.setDefaultTimeout(30_000);
        // On two cores that serve two nodes and their database a first page takes its time.
        context.setDefaultNavigationTimeout(60_000);
        context.onWebError(error -> System.err.println("page error: " + error.error()));
        context.onConsoleMessage(message -> {
            if (message.type().equals("error")) {
                System.err.println("console: " + message.text());
            }
        });
        return context;
    }

    /** A window in which a person has signed in with a password. */
    Page signIn(String address, String person, String password) {
        Page page = window(1280, 800).newPage();
        page.navigate(address);
        page.getByLabel("Name or mail address").fill(person);
        page.getByLabel("Password").fill(password);
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName("Sign in"))
                .click();
        page.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .waitFor();
        return page;
    }

    /** Goes to a place by the navigation. */
    static void go(Page page, String place) {
        page.getByRole(AriaRole.NAVIGATION, new Page.GetByRoleOptions().setName("Places"))
                .getByRole(AriaRole.LINK, new Locator.GetByRoleOptions().setName(place))
                .click();
        if (!place.equals("Desk")) {
            // A page comes when it is needed: keys pressed before it stands go to the one before.
            page.getByRole(
                            AriaRole.HEADING,
                            new Page.GetByRoleOptions()
                                    .setLevel(1)
                                    .setName(Pattern.compile(
                                            "^(" + place + "|What I asked|What can we do for you\\?)$")))
                    .waitFor();
        }
    }

    /** Finds a ticket by its title, wherever one is, and opens it. */
    static void find(Page page, String title) {
        page.keyboard().press("Control+k");
        page.getByPlaceholder("A ticket, workflow, person, CI, place…").fill(title);
        page.getByRole(AriaRole.OPTION)
                .filter(new Locator.FilterOptions().setHasText(title))
                .first()
                .click();
        page.getByRole(AriaRole.HEADING, new Page.GetByRoleOptions().setLevel(1).setName(title))
                .waitFor();
    }

    /**
     * Loads a page that does not change by itself until something stands on it. Each load has two seconds to bring what
     * it fetches: one that is loaded again before that would never show anything on a slow machine.
     */
    static void reloadUntil(Page page, Locator there) {
        Instant end = Instant.now().plus(Duration.ofSeconds(30));
        while (true) {
            try {
                there.first().waitFor(new Locator.WaitForOptions().setTimeout(2_000));
                return;
            } catch (TimeoutError notYet) {
                if (Instant.now().isAfter(end)) {
                    throw new AssertionError("it never stood on " + page.url(), notYet);
                }
                page.reload();
            }
        }
    }

    /** Asks a page until it says yes. Asked from outside: the application forbids its pages to run texts as programs. */
    static void until(Page page, String question) {
        Instant end = Instant.now().plus(Duration.ofSeconds(30));
        while (!Boolean.TRUE.equals(page.evaluate(question))) {
            if (Instant.now().isAfter(end)) {
                throw new AssertionError("it never came to be so on " + page.url() + ": " + question);
            }
            page.waitForTimeout(50);
        }
    }

    static Locator button(Page page, String name) {
        return page.getByRole(
                AriaRole.BUTTON, new Page.GetByRoleOptions().setName(name).setExact(true));
    }

    /** Presses a digit once digits press the buttons of what is before the person: not in the moment in which it came up. */
    static void press(Page page, int digit) {
        page.locator("button[aria-keyshortcuts='" + digit + "']").waitFor();
        page.keyboard().press(String.valueOf(digit));
    }

    /** Goes on from what one has just settled: until then it stays before one. */
    static void goOn(Page page) {
        Locator told = page.getByRole(AriaRole.STATUS, new Page.GetByRoleOptions().setName("What became of it"));
        told.getByRole(AriaRole.BUTTON).click();
    }

    /** Raises an incident for Mira Solheim. The page is then on the ticket. */
    static void raise(Page page, String title) {
        go(page, "Tickets");
        button(page, "Raise a ticket").click();
        page.getByLabel("What is the matter, in one line").fill(title);
        Pick.choose(page.getByLabel("For whom"), "mira");
        button(page, "Raise it").click();
        page.waitForURL(Pattern.compile(".*/tickets/I-\\d+"));
    }

    /** Starts a workflow by hand on the ticket that a page shows. */
    static void start(Page page, String workflow) {
        choose(page, workflow);
        begin(page);
    }

    /** Opens what can be started by hand, and chooses one by its key. */
    static void choose(Page page, String workflow) {
        button(page, "Start a workflow…").click();
        page.locator("[role=radio][value=" + workflow + "]").click();
    }

    /** Starts what was chosen. */
    static void begin(Page page) {
        page.getByRole(AriaRole.BUTTON, new Page.GetByRoleOptions().setName(Pattern.compile("^Start “")))
                .click();
    }

    @Override
    public void close() {
        browser.close();
        playwright.close();
    }
}
