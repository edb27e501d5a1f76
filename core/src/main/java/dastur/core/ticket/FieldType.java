package dastur.core.ticket;

import com.fasterxml.jackson.annotation.JsonValue;

/** Types of declared fields: of tickets, CIs, forms, inputs and outputs. */
public enum FieldType {
    TEXT("text"),
    LONG_TEXT("long text"),
    WHOLE("whole number"),
    NUMBER("number"),
    YES_NO("yes or no"),
    CHOICE("choice"),
    TIME("time"),
    PERSON("person"),
    GROUP("group"),
    SERVICE("service"),
    CI("CI"),
    LIST("list"),
    ANY("any value");

    private final String word;

    FieldType(String word) {
        this.word = word;
    }

    @JsonValue
    public String word() {
        return word;
    }
}
