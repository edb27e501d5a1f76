package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonValue;

/** What an account may do (N80). A person may hold several. */
public enum Role {
    ADMINISTRATOR("administrator"),
    PROCESS_OWNER("process owner"),
    AGENT("agent"),
    REQUESTER("requester"),
    AUDITOR("auditor");

    private final String word;

    Role(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
