package dastur.core.run;

/** A kind of step whose visits may go on when anything of the ticket has changed. */
public interface Settles {
    /** Its turn among those that settle, the lowest first: who looks at what another has changed comes after it. */
    int turn();

    /** Lets all its visits go on that can. */
    void settle(Here here);
}
