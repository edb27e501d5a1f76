package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonIgnore;
import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.annotation.JsonValue;
import com.fasterxml.jackson.databind.annotation.JsonTypeIdResolver;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/**
 * One thing in a workflow. Each kind knows its exits; a way leads from an exit to a step of the same level, exactly one
 * per exit (D8). The expected exit draws the main line.
 */
@JsonTypeInfo(use = JsonTypeInfo.Id.CUSTOM, property = "kind")
@JsonTypeIdResolver(StepWords.class)
@JsonInclude(JsonInclude.Include.NON_NULL)
public sealed interface Step permits Step.InRoom, Step.End, Bracket {
    /** A step of a kind that has a room of its own; ends and brackets are the structure of a level. */
    non-sealed interface InRoom extends Step {}

    StepId id();

    String name();

    /** The ways by exit; an exit without a way is missing here. */
    Map<String, StepId> ways();

    /** The exit named as the expected one; null means the first of {@link #exits()}. */
    @Nullable String expected();

    /** Exits that must lead somewhere, in order. */
    List<String> exits(Known known);

    /** Exits that may be wired; unwired, something else happens there (a stall, or nothing). */
    default List<String> optionalExits() {
        return List.of();
    }

    /** What an end does beside ending its line (D8). */
    enum Ending {
        /** Ends the line; it is done. */
        LINE("line"),
        /** Ends the line as failed: an item of a for each, or a lane. */
        FAILED("failed"),
        /** Leaves the bracket around it by an exit of that name, withdrawing what else is open in it. */
        LEAVE("leave"),
        /** Puts back what the stage around it, or the run, has done, then leaves it. */
        PUT_BACK("put back"),
        /** Ends the whole run, withdrawing what else is open. */
        RUN("run");

        private final String word;

        Ending(String word) {
            this.word = word;
        }

        @JsonValue
        public String word() {
            return word;
        }
    }

    /**
     * The line ends here.
     *
     * @param result how it ended, in the designer's words; the exit's name where it leaves a bracket
     * @param message text with {@code {{ }}} mailed to the requester; null for none
     */
    record End(
            StepId id, String name, String result, @Nullable String message, Ending ending) implements Step {
        /** An end of a line, or of the whole run. */
        public End(StepId id, String name, String result, @Nullable String message, boolean stopsRun) {
            this(id, name, result, message, stopsRun ? Ending.RUN : Ending.LINE);
        }

        public End {
            ending = ending == null ? Ending.LINE : ending;
        }

        @Override
        @JsonIgnore
        public Map<String, StepId> ways() {
            return Map.of();
        }

        @Override
        @JsonIgnore
        public @Nullable String expected() {
            return null;
        }

        @Override
        public List<String> exits(Known known) {
            return List.of();
        }
    }

    /** The levels inside, for brackets; others have none. */
    @JsonIgnore
    default List<Level> levels() {
        return List.of();
    }

    /** This step and all inside it, in reading order. */
    default Stream<Step> withInner() {
        return Stream.concat(Stream.of(this), levels().stream().flatMap(Level::all));
    }

    static <T> Map<String, T> ordered(Map<String, T> ways) {
        return java.util.Collections.unmodifiableMap(new LinkedHashMap<>(ways));
    }
}
