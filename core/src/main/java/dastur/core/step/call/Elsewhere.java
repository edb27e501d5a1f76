package dastur.core.step.call;

import com.fasterxml.jackson.annotation.JsonSubTypes;
import com.fasterxml.jackson.annotation.JsonTypeInfo;

/** Another ticket than this one, for a called workflow to run on (D11). */
@JsonTypeInfo(use = JsonTypeInfo.Id.NAME, property = "is")
@JsonSubTypes({
    @JsonSubTypes.Type(value = NewTicket.class, name = "new"),
    @JsonSubTypes.Type(value = KnownTicket.class, name = "known")
})
public sealed interface Elsewhere permits NewTicket, KnownTicket {}
