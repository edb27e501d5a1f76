package dastur.core.comparison;

import java.math.BigDecimal;
import java.util.LinkedHashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import org.jspecify.annotations.Nullable;

/** When two values are the same: numbers by their size however they are written, lists and tables by what is in them. */
public final class Alike {
    private Alike() {}

    /** Whether two values are the same; what is absent is the same as what is absent. */
    public static boolean same(@Nullable Object a, @Nullable Object b) {
        return Objects.equals(form(a), form(b));
    }

    /** A form that is equal exactly where values are the same. */
    static @Nullable Object form(@Nullable Object value) {
        return switch (value) {
            case null -> null;
            case Number n -> number(n);
            case List<?> list -> list.stream().map(Alike::boxed).toList();
            case Map<?, ?> map -> {
                Map<Object, Object> forms = new LinkedHashMap<>();
                map.forEach((k, v) -> forms.put(k, boxed(v)));
                yield forms;
            }
            // A text, a yes or no: the same where they are equal.
            case Object other -> other;
        };
    }

    /** Lists of forms keep absent ones. */
    private static Object boxed(@Nullable Object value) {
        Object form = form(value);
        return form == null ? Absent.ABSENT : form;
    }

    private enum Absent {
        ABSENT
    }

    static BigDecimal number(Number n) {
        return new BigDecimal(n.toString()).stripTrailingZeros();
    }
}
