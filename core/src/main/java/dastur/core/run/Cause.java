package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.workflow.TriggerId;
import java.time.Instant;
import org.jspecify.annotations.Nullable;

/** What set a trigger off that listens to no ticket. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Cause.TimeCame.class, name = "time came"),
    @JsonSubTypes.Type(value = Cause.Call.class, name = "call"),
    @JsonSubTypes.Type(value = Cause.Hand.class, name = "hand")
})
public sealed interface Cause {
    TriggerId trigger();

    /** Completes "started, because …". */
    String why();

    /** The moment that {@code now} is in what it gives; null for that of the start. */
    default @Nullable Instant moment() {
        return null;
    }

    /**
     * Its time had come.
     *
     * @param planned when it was to start
     * @param late why it starts later; null where it is in time
     */
    record TimeCame(
            TriggerId trigger, Instant planned, @Nullable String late) implements Cause {
        @Override
        public String why() {
            return "its time had come" + (late == null ? "" : ", late: " + late);
        }

        @Override
        public Instant moment() {
            return planned;
        }
    }

    /**
     * A program called its address.
     *
     * @param call the call's id
     */
    record Call(TriggerId trigger, String call) implements Cause {
        @Override
        public String why() {
            return "a program called it";
        }
    }

    /** Somebody started by hand what a trigger starts by itself. */
    record Hand(TriggerId trigger) implements Cause {
        @Override
        public String why() {
            return "somebody started it by hand";
        }
    }
}
