package dastur.core.workflow;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.json.Texts;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.List;
import java.util.Set;
import java.util.TreeSet;
import org.jspecify.annotations.Nullable;

/**
 * A walk through the pages of a system that has no interface for programs (N46, M12): steps that a person could do, told one
 * by one. Fields and buttons are named as people see them.
 *
 * @param steps at least one, in order
 */
public record Walk(List<Step> steps) {
    public static final int MOST_STEPS = 200;
    /** So many pictures are taken at most, those of checks that did not hold among them. */
    public static final int MOST_PICTURES = 40;
    /** So long a walk takes at most. */
    public static final int MOST_SECONDS = 180;

    private static final int MOST_TEXT = 2_000;
    private static final int MOST_NAME = 120;

    /** One step. */
    public sealed interface Step {
        /** As a person reads it. */
        String sentence();
    }

    /** Goes to a page of the same system, by its path. */
    public record Open(String path) implements Step {
        @Override
        public String sentence() {
            return "Open " + path;
        }
    }

    /** Types a text into the field labelled so, in place of what stands there. */
    public record Type(String text, String into) implements Step {
        @Override
        public String sentence() {
            return "Type “" + text + "” into “" + into + "”";
        }
    }

    /** Types the connection's secret into the field labelled so. */
    public record Secret(String into) implements Step {
        @Override
        public String sentence() {
            return "Type the secret into “" + into + "”";
        }
    }

    /** Chooses an option of the list labelled so. */
    public record Choose(String option, String in) implements Step {
        @Override
        public String sentence() {
            return "Choose “" + option + "” in “" + in + "”";
        }
    }

    /** Presses the button or link, or ticks the box, of this name. */
    public record Press(String name) implements Step {
        @Override
        public String sentence() {
            return "Press “" + name + "”";
        }
    }

    /** A check: whether a text is to be seen. @param seen false where it must not be */
    public record Expect(String text, boolean seen) implements Step {
        @Override
        public String sentence() {
            return seen ? "Expect to see “" + text + "”" : "Expect not to see “" + text + "”";
        }
    }

    /** Takes a picture. */
    public record Picture(String name) implements Step {
        @Override
        public String sentence() {
            return "Take a picture: “" + name + "”";
        }
    }

    /** Reads what stands beside a label. @param as the name under which it stands in the answer, below {@code /read} */
    public record Read(String label, String as) implements Step {
        @Override
        public String sentence() {
            return "Read what stands beside “" + label + "” as " + as;
        }
    }

    /** It is none. The message says which step, and how to mend it. */
    public static final class Unfit extends Exception {
        private static final long serialVersionUID = 1;

        public Unfit(String message) {
            super(message);
        }
    }

    public Walk {
        steps = List.copyOf(steps);
    }

    /** @throws Unfit when the text is no walk */
    public static Walk of(@Nullable String body) throws Unfit {
        JsonNode list;
        try {
            list = Json.parse(body == null ? "" : body);
        } catch (JsonProcessingException e) {
            throw new Unfit("A walk is a list of steps, such as [{\"open\": \"/\"}, {\"expect\": \"Welcome\"}].");
        }
        return of(list);
    }

    /** @throws Unfit when it is no walk */
    public static Walk of(JsonNode list) throws Unfit {
        if (!list.isArray() || list.isEmpty()) {
            throw new Unfit("A walk is a list of steps, such as [{\"open\": \"/\"}, {\"expect\": \"Welcome\"}].");
        }
        if (list.size() > MOST_STEPS) {
            throw new Unfit("A walk has at most " + MOST_STEPS + " steps.");
        }
        List<Step> steps = new ArrayList<>();
        Set<String> read = new HashSet<>();
        for (JsonNode node : list) {
            Step step = new Reading(node, steps.size() + 1).step();
            if (step instanceof Read r && !read.add(r.as())) {
                throw new Unfit("Step " + (steps.size() + 1) + " reads '" + r.as() + "', as a step before does.");
            }
            steps.add(step);
        }
        long pictures = steps.stream().filter(Picture.class::isInstance).count();
        if (pictures > MOST_PICTURES) {
            throw new Unfit("A walk takes at most " + MOST_PICTURES + " pictures.");
        }
        return new Walk(steps);
    }

    /** Whether it presses something, and may so change the other side. */
    public boolean presses() {
        return steps.stream().anyMatch(Press.class::isInstance);
    }

    /** Whether it types the connection's secret. */
    public boolean signsIn() {
        return steps.stream().anyMatch(Secret.class::isInstance);
    }

    /** Whether it checks anything. */
    public boolean checks() {
        return steps.stream().anyMatch(Expect.class::isInstance);
    }

    /** One step as it is written. */
    private record Reading(JsonNode node, int number) {
        Step step() throws Unfit {
            Set<String> names = new TreeSet<>();
            node.fieldNames().forEachRemaining(names::add);
            return switch (String.join(" ", names)) {
                case "open" -> new Open(path(text("open", MOST_TEXT)));
                case "into type" -> new Type(text("type", MOST_TEXT), text("into", MOST_NAME));
                case "secret" -> new Secret(text("secret", MOST_NAME));
                case "choose in" -> new Choose(text("choose", MOST_NAME), text("in", MOST_NAME));
                case "press" -> new Press(text("press", MOST_NAME));
                case "expect" -> new Expect(text("expect", MOST_TEXT), true);
                case "expectNot" -> new Expect(text("expectNot", MOST_TEXT), false);
                case "picture" -> new Picture(text("picture", MOST_NAME));
                case "as read" -> new Read(text("read", MOST_NAME), name(text("as", 60)));
                default ->
                    throw unfit("is none of open, type … into, secret, choose … in, press, expect, expectNot, picture,"
                            + " read … as.");
            };
        }

        private Unfit unfit(String why) {
            return new Unfit("Step " + number + " " + why);
        }

        private String text(String name, int most) throws Unfit {
            JsonNode said = node.get(name);
            String text = said.isTextual() || said.isNumber() ? said.asText() : "";
            // What is typed may be nothing: it clears the field.
            if (text.isBlank() && !name.equals("type") || text.length() > most || !Texts.keepable(text)) {
                throw unfit("has nothing that can be used as “" + name + "”: a text of 1 to " + most + " characters.");
            }
            return name.equals("type") ? text : text.strip();
        }

        private String path(String path) throws Unfit {
            if (!path.startsWith("/") || path.startsWith("//") || path.indexOf('\\') >= 0) {
                throw unfit("opens a path, which begins with one /: a walk stays with its connection.");
            }
            return path;
        }

        private String name(String name) throws Unfit {
            if (!name.matches("[a-zA-Z][a-zA-Z0-9]{0,59}")) {
                throw unfit("names what it reads: letters and digits, such as ticketNumber.");
            }
            return name;
        }
    }
}
