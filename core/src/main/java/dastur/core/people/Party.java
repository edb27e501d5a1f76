package dastur.core.people;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;

/** Whom a designer names: a group, a person, or somebody the ticket names. Resolved to people when it is needed. */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = Party.OfGroup.class, name = "group"),
    @JsonSubTypes.Type(value = Party.OfPerson.class, name = "person"),
    @JsonSubTypes.Type(value = Party.Requester.class, name = "requester"),
    @JsonSubTypes.Type(value = Party.TicketGroup.class, name = "ticketGroup"),
    @JsonSubTypes.Type(value = Party.CiOwner.class, name = "ciOwner"),
    @JsonSubTypes.Type(value = Party.OnCall.class, name = "onCall"),
    @JsonSubTypes.Type(value = Party.OfRole.class, name = "role"),
    @JsonSubTypes.Type(value = Party.Manager.class, name = "manager"),
    @JsonSubTypes.Type(value = Party.TakesPart.class, name = "takesPart"),
    @JsonSubTypes.Type(value = Party.Computed.class, name = "computed")
})
public sealed interface Party {
    /** Every member of a group. */
    record OfGroup(GroupId group) implements Party {}

    /** One person. */
    record OfPerson(PersonId person) implements Party {}

    /** The ticket's requester. */
    record Requester() implements Party {}

    /** The group that has the ticket at that moment. */
    record TicketGroup() implements Party {}

    /** The group that owns the ticket's CI. */
    record CiOwner() implements Party {}

    /** Whoever is on call when it is needed. @param level counted from 1: who is called first, then next */
    record OnCall(RotaKey rota, int level) implements Party {
        public OnCall {
            if (level < 1 || level > 5) {
                throw new IllegalArgumentException("A level of a rota is between 1 and 5, but was " + level + ".");
            }
        }
    }

    /** Everybody with a role. */
    record OfRole(Role role) implements Party {}

    /** The manager of the ticket's requester. */
    record Manager() implements Party {}

    /** Whoever came when called in, and takes part as this (N61). */
    record TakesPart(String as) implements Party {
        public TakesPart {
            if (as == null || as.isBlank() || as.length() > 80) {
                throw new IllegalArgumentException("What somebody takes part as has 1 to 80 characters.");
            }
        }
    }

    /** Whoever an expression names: the id of a person or of a group (N11). */
    record Computed(String expression) implements Party {}
}
