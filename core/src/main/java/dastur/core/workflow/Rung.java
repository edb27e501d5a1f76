package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.people.Party;
import dastur.core.time.Span;
import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * One rung of a ladder: after a time, something happens.
 *
 * @param after since the step was opened
 */
public record Rung(Span after, Deed deed) {
    /** What a rung does. It never yields {@code approved} (D6). */
    @JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "does")
    @JsonSubTypes({
        @JsonSubTypes.Type(value = Remind.class, name = "remind"),
        @JsonSubTypes.Type(value = Tell.class, name = "tell"),
        @JsonSubTypes.Type(value = Add.class, name = "add"),
        @JsonSubTypes.Type(value = HandOver.class, name = "hand over"),
        @JsonSubTypes.Type(value = RaisePriority.class, name = "raise priority"),
        @JsonSubTypes.Type(value = Decide.class, name = "decide")
    })
    public sealed interface Deed {
        /** Whether it takes nothing from anybody; what does waits after an outage (D6). */
        default boolean takesNothingAway() {
            return false;
        }
    }

    /** Reminds those who are asked, by mail. */
    public record Remind() implements Deed {
        @Override
        public boolean takesNothingAway() {
            return true;
        }
    }

    /** Tells somebody else. */
    public record Tell(List<Party> to, @Nullable String text) implements Deed {
        public Tell {
            to = List.copyOf(to);
        }

        @Override
        public boolean takesNothingAway() {
            return true;
        }
    }

    /** Asks others as well; who was asked before still is. Whoever is asked already, or may not be, is left out. */
    public record Add(List<Party> to) implements Deed {
        public Add {
            to = List.copyOf(to);
        }

        @Override
        public boolean takesNothingAway() {
            return true;
        }
    }

    /** Gives the task to somebody else, or asks somebody else for the approval. */
    public record HandOver(Party to) implements Deed {}

    /** Raises the ticket's priority by one. */
    public record RaisePriority() implements Deed {}

    /** Takes an exit of the step. */
    public record Decide(String exit) implements Deed {
        public Decide {
            if ("approved".equals(exit)) {
                throw new IllegalArgumentException(
                        "A rung cannot approve. Lead 'lapsed' somewhere if silence means consent.");
            }
        }
    }
}
