package dastur.core.step.call;

/** A ticket that is there. @param number an expression that gives its number */
public record KnownTicket(String number) implements Elsewhere {}
