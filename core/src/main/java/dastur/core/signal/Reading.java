package dastur.core.signal;

import java.util.List;
import org.jspecify.annotations.Nullable;

/**
 * What a mapping made of one payload.
 *
 * @param cells one a row of the mapping, in its order
 * @param signal what is understood; null where it is not
 * @param problem why it is not understood; null where it is
 */
public record Reading(
        List<Cell> cells, @Nullable Signal signal, @Nullable String problem) {
    /**
     * What one row gave.
     *
     * @param came as it came; null when it was absent
     * @param means what it means here; null for nothing
     * @param note what is to be said of it, such as that no CI has this address
     */
    public record Cell(
            Mapping.To to,
            @Nullable String name,
            @Nullable String came,
            @Nullable String means,
            @Nullable String note) {}
}
