package dastur.core.run;

/** Something in the design or data keeps a step from opening; it stalls with this reason. */
public final class CannotOpen extends RuntimeException {
    private final String code;

    /** @param code a word for the reason @param why a sentence that says what to do */
    public CannotOpen(String code, String why) {
        super(why, null, false, false);
        this.code = code;
    }

    public String code() {
        return code;
    }
}
