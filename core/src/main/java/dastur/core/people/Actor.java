package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;
import dastur.core.workflow.ActionKey;
import org.jspecify.annotations.Nullable;

/** Who or what did something; on every entry of the record (N2). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Actor.OfPerson.class, name = "person"),
    @JsonSubTypes.Type(value = Actor.OfAction.class, name = "automation"),
    @JsonSubTypes.Type(value = Actor.System.class, name = "system"),
    @JsonSubTypes.Type(value = Actor.Clock.class, name = "clock"),
    @JsonSubTypes.Type(value = Actor.Outside.class, name = "outside")
})
public sealed interface Actor {
    /** A person, for somebody else when covering. */
    record OfPerson(PersonId person, @Nullable PersonId coverFor) implements Actor {}

    /** An automated step's action. */
    record OfAction(ActionKey action) implements Actor {}

    /** The application itself. */
    record System() implements Actor {}

    /** Time passing. */
    record Clock() implements Actor {}

    /** A party outside, by a short name. */
    record Outside(String party) implements Actor {}

    Actor SYSTEM = new System();
    Actor CLOCK = new Clock();

    static Actor of(PersonId person) {
        return new OfPerson(person, null);
    }
}
