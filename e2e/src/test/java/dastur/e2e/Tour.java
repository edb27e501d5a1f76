package dastur.e2e;

import static org.assertj.core.api.Assertions.assertThat;

import java.io.IOException;
import java.io.UncheckedIOException;
import java.nio.file.Files;
import java.nio.file.Path;
import java.util.HashMap;
import java.util.Map;
import java.util.Set;
import java.util.TreeSet;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** The README's tour, step by step. Whoever walks it says each sentence before doing it, and leaves none out. */
final class Tour {
    private static final Path README = Path.of("..", "README.md");

    private final Map<Integer, String> steps = new HashMap<>();
    private final Set<Integer> walked = new TreeSet<>();

    Tour() {
        String text;
        try {
            text = Files.readString(README);
        } catch (IOException e) {
            throw new UncheckedIOException(e);
        }
        String tour = text.substring(text.indexOf("## A tour"), text.indexOf("\n| | |"));
        Matcher step = Pattern.compile("(?ms)^(\\d+)\\. (.*?)(?=^\\d+\\. |\\z)").matcher(tour);
        while (step.find()) {
            steps.put(
                    Integer.valueOf(step.group(1)),
                    step.group(2).replaceAll("\\s+", " ").strip());
        }
        assertThat(steps).hasSizeGreaterThan(10);
    }

    /** A step that is walked now. */
    Step step(int number) {
        walked.add(number);
        return new Step(number, steps.get(number));
    }

    /** Every step of the README was walked. */
    void over() {
        assertThat(walked).isEqualTo(new TreeSet<>(steps.keySet()));
    }

    /** A step, and what of it was not said yet. */
    static final class Step {
        private final int number;
        private String rest;

        private Step(int number, String text) {
            this.number = number;
            this.rest = text;
        }

        /** The next words of the step are these. */
        void says(String words) {
            assertThat(rest).as("step %d of the README's tour", number).startsWith(words);
            rest = rest.substring(words.length()).stripLeading();
        }

        void over() {
            assertThat(rest).as("left of step %d of the README's tour", number).isEmpty();
        }
    }
}
