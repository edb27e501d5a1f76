package dastur.core.step.calling;

import java.util.Map;
import org.jspecify.annotations.Nullable;

/** What a call came to. */
public record Came(
        String exit,
        int polls,
        long tookMillis,
        @Nullable String reference,
        @Nullable String link,
        Map<String, Object> outputs) {}
