package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonValue;

/** What one ticket has to do with another (N1). Each kind has another side: what causes is caused by. */
public enum LinkKind {
    RELATED("related to"),
    CAUSED_BY("caused by"),
    CAUSES("causes"),
    PART_OF("part of"),
    HAS_PART("has as part"),
    /** A workflow of this ticket runs on the other one (D11). */
    SENT_TO("has work on"),
    SENT_FROM("works for");

    private final String word;

    LinkKind(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }

    /** The same link as the other ticket sees it. */
    public LinkKind back() {
        return switch (this) {
            case RELATED -> RELATED;
            case CAUSED_BY -> CAUSES;
            case CAUSES -> CAUSED_BY;
            case PART_OF -> HAS_PART;
            case HAS_PART -> PART_OF;
            case SENT_TO -> SENT_FROM;
            case SENT_FROM -> SENT_TO;
        };
    }

    /** Whether people make it; the others follow from what workflows do. */
    public boolean byHand() {
        return this != SENT_TO && this != SENT_FROM;
    }
}
