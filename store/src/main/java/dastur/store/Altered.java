package dastur.store;

/** Something was changed past the application, and is not used (K17). The message says what, for people. */
public final class Altered extends IllegalStateException {
    private static final long serialVersionUID = 1;

    Altered(String message) {
        super(message);
    }
}
