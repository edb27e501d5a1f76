package dastur.standins;

import java.util.concurrent.ConcurrentHashMap;

/** What is wrong with a stand-in right now; set on the control page or by a test. */
public final class Faults {
    /** Kinds of trouble. */
    public enum Fault {
        NONE("works"),
        DOWN("is down (answers 503)"),
        REFUSES("refuses (answers 409)"),
        LOSES_ANSWERS("does it, but its answer gets lost");

        final String words;

        Fault(String words) {
            this.words = words;
        }
    }

    private final ConcurrentHashMap<String, Fault> faults = new ConcurrentHashMap<>();

    public void set(String system, Fault fault) {
        faults.put(system, fault);
    }

    public Fault of(String system) {
        return faults.getOrDefault(system, Fault.NONE);
    }
}
