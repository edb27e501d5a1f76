package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonValue;

/** What a person may do with a stalled visit or a run; needs the right and a reason (law 10). */
public enum Intervention {
    RETRY("retry"),
    TAKE_EXIT("take exit"),
    HAPPENED("it happened"),
    DID_NOT_HAPPEN("it did not happen"),
    ASK_AGAIN("ask again"),
    GO_ON("go on"),
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
