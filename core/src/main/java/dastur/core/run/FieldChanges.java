package dastur.core.run;

import dastur.core.run.Event.Change;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** Changes of ticket fields, sorted into those sealed and those kept as content, or why they cannot be made. */
public record FieldChanges(
        Map<String, Change> sealed,
        Map<String, Change> texts,
        @Nullable Refusal refusal) {
    static FieldChanges refused(Refusal refusal) {
        return new FieldChanges(Map.of(), Map.of(), refusal);
    }

    boolean nothing() {
        return sealed.isEmpty() && texts.isEmpty();
    }
}
