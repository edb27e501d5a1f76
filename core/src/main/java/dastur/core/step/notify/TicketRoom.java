package dastur.core.step.notify;

/**
 * The ticket's room in chat (N61, N63).
 *
 * @param name text with {@code {{ }}}: what it is called when it is opened
 * @param keepsAll whether all that is said there comes onto the record, or only what begins with an exclamation mark
 */
public record TicketRoom(String name, boolean keepsAll) {}
