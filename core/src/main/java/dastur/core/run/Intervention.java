package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonValue;

/** What a person may do with a stalled visit or a run; needs the right and a reason (law 10). */
public enum Intervention {
    RETRY("retry"),
    /** Tries a call again with its inputs taken anew, under a key of its own (M19). */
    RETRY_ANEW("retry anew"),
    TAKE_EXIT("take exit"),
    HAPPENED("it happened"),
    DID_NOT_HAPPEN("it did not happen"),
    ASK_AGAIN("ask again"),
    GO_ON("go on"),
    /** Leaves a step that waits by an exit, as if it had ended so. */
    SKIP("skip"),
    /** Goes back to a step of the top level; what came after it is no longer seen, nothing is undone. */
    RERUN("re-run from"),
    /** Nothing opens, clocks stand still and answers are refused until it is resumed (D17). */
    HOLD("hold"),
    RESUME("resume"),
    /** Goes on with another version of the workflow (D29). */
    MOVE("move to version"),
    STOP_RUN("stop run"),
    STOP_AND_PUT_BACK("stop and put back");

    private final String word;

    Intervention(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
