package dastur.core.workflow;

/**
 * Something that a kind of step brings onto records: an event, or what its visits wait for.
 *
 * @param word what it is called there; frozen, since old records say it, and unique among its like
 */
public record Brings(String word, Class<?> type) {
    /** Called by its name with a small first letter. */
    public static Brings of(Class<?> type) {
        String name = type.getSimpleName();
        return new Brings(Character.toLowerCase(name.charAt(0)) + name.substring(1), type);
    }
}
