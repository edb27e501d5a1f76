package dastur.store;

/** Too much waits to be written: nothing was accepted, and it may be tried again. */
public final class Busy extends RuntimeException {
    private static final long serialVersionUID = 1;

    public Busy() {
        super("Too much is waiting to be written at this moment.");
    }
}
