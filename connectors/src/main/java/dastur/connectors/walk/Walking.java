package dastur.connectors.walk;

import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import dastur.connectors.walk.Browser.Found;
import dastur.connectors.walk.Browser.Refused;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import dastur.core.workflow.Walk;
import java.io.IOException;
import java.nio.file.Path;
import java.time.Duration;
import java.util.List;
import java.util.Optional;
import java.util.Set;
import java.util.concurrent.locks.LockSupport;
import org.jspecify.annotations.Nullable;

/**
 * One walk as it is made. A check that does not hold is told with a picture, and the walk goes on; a step that cannot be done
 * ends it, and the checks behind it are told as not reached.
 */
public final class Walking {
    /** How long something that is to be there is waited for: pages fill themselves after they are opened. */
    public static final Duration PATIENCE = Duration.ofSeconds(10);

    private static final Duration LOOKS_EVERY = Duration.ofMillis(100);

    /** What may be otherwise when it is looked at again. */
    private static final Set<String> PASSES = Set.of(
            "stale element reference",
            "element click intercepted",
            "element not interactable",
            "no such element",
            "javascript error",
            "invalid element state");

    /** Whoever goes along. */
    public interface Companion {
        /** Hears of each step once it is done. */
        void said(String line);

        /** Takes a picture, as PNG. */
        void took(String name, byte[] png);

        /** Asked again and again. @throws Stopped when the walk is to end here */
        void goesOn() throws Stopped;
    }

    /** Whoever goes along said that it ends. */
    public static final class Stopped extends Exception {
        private static final long serialVersionUID = 1;

        public Stopped(String why) {
            super(why);
        }
    }

    /** The first page could not be opened: nobody was there. */
    public static final class NotReached extends Exception {
        private static final long serialVersionUID = 1;

        NotReached(String message) {
            super(message);
        }
    }

    /**
     * A host that may be reached.
     *
     * @param address where its name leads
     */
    public record Host(String name, int port, String address) {}

    /** A step that cannot be done. */
    private static final class Stuck extends Exception {
        private static final long serialVersionUID = 1;

        Stuck(String why) {
            super(why);
        }
    }

    private final String origin;
    private final @Nullable String secret;
    private final Companion companion;
    private final Duration patience;
    private final ObjectNode answer = Json.mapper().createObjectNode();
    private final ArrayNode checks = answer.putArray("checks");
    private final ObjectNode read = Json.mapper().createObjectNode();
    private int held;
    private int missed;
    private int pictures;
    private boolean pressed;

    /**
     * @param origin the system's address, which paths continue
     * @param patience how long something that is to be there is waited for
     */
    public Walking(String origin, @Nullable String secret, Companion companion, Duration patience) {
        this.origin = origin.replaceAll("/+$", "");
        this.secret = secret;
        this.companion = companion;
        this.patience = patience;
    }

    /** Where the browser's driver is; empty where no walk can be made. */
    public static Optional<Path> program() {
        return Driver.program();
    }

    /** Whether something was pressed so far, so that the other side may have changed. */
    public boolean hasPressed() {
        return pressed;
    }

    /**
     * Makes the walk.
     *
     * @param begin the path it begins at
     * @return what came of it: {@code status} (held, missed, stuck), {@code checks}, {@code held}, {@code missed},
     *     {@code notReached}, {@code read}, {@code pictures}, and {@code why} it is stuck
     * @throws IOException when there is no browser, or it broke
     */
    public ObjectNode make(String begin, Walk walk, List<Host> hosts) throws IOException, NotReached, Stopped {
        List<Browser.Reached> reached = hosts.stream()
                .map(h -> new Browser.Reached(h.name(), h.port(), h.address()))
                .toList();
        int done = 0;
        String stuck = null;
        try (Browser browser = new Browser(reached)) {
            first(browser, begin);
            try {
                for (Walk.Step step : walk.steps()) {
                    companion.goesOn();
                    take(browser, step);
                    done++;
                }
            } catch (Stuck e) {
                stuck = "Step " + (done + 1) + ", " + walk.steps().get(done).sentence() + ": " + e.getMessage();
                companion.said(stuck);
                picture(browser, "Stuck at step " + (done + 1));
            }
        }
        return told(walk.steps().subList(done, walk.steps().size()), stuck);
    }

    private ObjectNode told(List<Walk.Step> left, @Nullable String stuck) {
        int notReached = 0;
        for (Walk.Step step : left) {
            if (step instanceof Walk.Expect expect) {
                notReached++;
                check(expect, "not reached", null);
            }
        }
        answer.put("status", stuck != null ? "stuck" : missed > 0 ? "missed" : "held");
        answer.put("held", held)
                .put("missed", missed)
                .put("notReached", notReached)
                .put("pictures", pictures);
        answer.set("read", read);
        if (stuck != null) {
            answer.put("why", stuck);
        }
        return answer;
    }

    private void first(Browser browser, String begin) throws IOException, NotReached {
        try {
            browser.open(origin + begin);
            companion.said("Opened " + begin);
        } catch (Refused e) {
            throw new NotReached(begin + " could not be opened: " + clean(e) + ".");
        }
    }

    private static String clean(Refused e) {
        return Texts.clip(
                e.getMessage().replaceFirst("^unknown error: ", "").replaceFirst(" *\\(Session info.*", ""), 200);
    }

    private void take(Browser browser, Walk.Step step) throws IOException, Stopped, Stuck {
        switch (step) {
            case Walk.Open s ->
                until(() -> {
                    browser.open(origin + s.path());
                    return true;
                });
            case Walk.Type s -> browser(browser, "field", s.into(), element -> browser.type(element, s.text()));
            case Walk.Secret s -> {
                if (secret == null) {
                    throw new Stuck("the connection has no secret.");
                }
                browser(browser, "field", s.into(), element -> browser.type(element, secret));
            }
            case Walk.Choose s ->
                browser(browser, "field", s.in(), element -> {
                    if (!browser.choose(element, s.option())) {
                        throw new Refused("no such element", "it has no “" + s.option() + "” to choose");
                    }
                });
            case Walk.Press s ->
                browser(browser, "press", s.name(), element -> {
                    // It may have happened from here on, also if no answer comes.
                    pressed = true;
                    browser.press(element);
                });
            case Walk.Expect s -> {
                expect(browser, s);
                return;
            }
            case Walk.Picture s -> picture(browser, s.name());
            case Walk.Read s -> {
                Found found = sought(browser, "read", s.label());
                read.put(s.as(), found.text());
            }
        }
        companion.said(step.sentence());
    }

    /** What is done to an element. */
    private interface Deed {
        void to(String element) throws IOException, Refused;
    }

    private void browser(Browser browser, String sought, String name, Deed deed) throws IOException, Stopped, Stuck {
        until(() -> {
            deed.to(one(browser, sought, name).element());
            return true;
        });
    }

    private Found sought(Browser browser, String sought, String name) throws IOException, Stopped, Stuck {
        Found[] found = new Found[1];
        until(() -> {
            found[0] = one(browser, sought, name);
            return true;
        });
        return found[0];
    }

    private static Found one(Browser browser, String sought, String name) throws IOException, Refused {
        Found found = browser.find(sought, name);
        if (found.count() == 1) {
            return found;
        }
        String there = found.others().isEmpty() ? "" : " There are: " + String.join(", ", found.others()) + ".";
        throw new Refused(
                "no such element",
                found.count() == 0
                        ? "there is none of that name." + there
                        : "there are " + found.count() + " of that name, and nobody says which.");
    }

    /** Something that may not be so yet. */
    private interface Attempt {
        boolean done() throws IOException, Refused;
    }

    /** Tries until it is done. @throws Stuck when it is not in time, with why it was not at last */
    private void until(Attempt attempt) throws IOException, Stopped, Stuck {
        long end = System.nanoTime() + patience.toNanos();
        while (true) {
            Refused why;
            try {
                if (attempt.done()) {
                    return;
                }
                why = new Refused("no such element", "it does not come.");
            } catch (Refused e) {
                why = e;
            }
            if (!PASSES.contains(why.code()) || System.nanoTime() > end) {
                throw new Stuck(clean(why));
            }
            companion.goesOn();
            LockSupport.parkNanos(LOOKS_EVERY.toNanos());
        }
    }

    private void expect(Browser browser, Walk.Expect expect) throws IOException, Stopped {
        String[] page = {""};
        boolean holds;
        try {
            until(() -> {
                Found found = browser.find("text", expect.text());
                page[0] = found.text();
                return found.ready() && found.count() > 0 == expect.seen();
            });
            holds = true;
            held++;
        } catch (Stuck e) {
            holds = false;
            missed++;
        }
        check(expect, holds ? "held" : "missed", holds ? null : "The page says: " + page[0]);
        companion.said(expect.sentence() + (holds ? ": so it is" : ": it is NOT so"));
        if (!holds) {
            picture(browser, "Not so: " + expect.sentence());
        }
    }

    private void check(Walk.Expect expect, String result, @Nullable String instead) {
        ObjectNode row = checks.addObject().put("check", expect.sentence()).put("result", result);
        if (instead != null) {
            row.put("instead", instead);
        }
    }

    /** One that cannot be taken is told; the walk is not worth less by it. */
    private void picture(Browser browser, String name) throws IOException {
        if (pictures >= Walk.MOST_PICTURES) {
            companion.said("No further picture is taken: there are " + pictures + " already.");
            return;
        }
        try {
            byte[] png = browser.picture(secret);
            pictures++;
            companion.took(name, png);
        } catch (Refused e) {
            companion.said("The picture “" + name + "” could not be taken: " + clean(e));
        }
    }
}
