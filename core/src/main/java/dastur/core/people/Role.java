package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonValue;
import java.util.Arrays;
import java.util.Map;
import java.util.Optional;
import java.util.stream.Collectors;

/** What an account may do (N80). A person may hold several. */
public enum Role {
    ADMINISTRATOR("administrator"),
    PROCESS_OWNER("process owner"),
    AGENT("agent"),
    REQUESTER("requester"),
    AUDITOR("auditor");

    private final String word;

    /** The role of a word; empty for an unknown one. */
    public static Optional<Role> of(String word) {
        return Arrays.stream(values()).filter(r -> r.word.equals(word)).findFirst();
    }

    /** All words, as names by which a sentence may call a role. */
    public static Map<String, String> names() {
        return Arrays.stream(values()).collect(Collectors.toMap(r -> r.word, r -> r.word));
    }

    Role(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
