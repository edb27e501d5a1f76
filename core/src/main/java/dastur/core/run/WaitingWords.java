package dastur.core.run;

import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.databind.DatabindContext;
import com.fasterxml.jackson.databind.JavaType;
import com.fasterxml.jackson.databind.jsontype.impl.TypeIdResolverBase;
import dastur.core.workflow.Kinds;
import java.util.LinkedHashMap;
import java.util.Map;
import org.jspecify.annotations.Nullable;

/** The word of a waiting state in JSON: the engine's own, and those that kinds of steps bring. */
public final class WaitingWords extends TypeIdResolverBase {
    /** By word. */
    private static final Map<String, Class<? extends Waiting>> TYPES = new LinkedHashMap<>();

    private static final Map<Class<?>, String> WORDS = new LinkedHashMap<>();

    static {
        TYPES.put("delivery", Waiting.Delivery.class);
        TYPES.put("lines", Waiting.Lines.class);
        TYPES.put("sent", Waiting.Sent.class);
        TYPES.put("called", Waiting.Called.class);
        TYPES.put("help", Waiting.Help.class);
        Kinds.brought(Waiting.class).forEach((word, type) -> {
            if (TYPES.put(word, type) != null) {
                throw new IllegalStateException("two waiting states are called '" + word + "'");
            }
        });
        TYPES.forEach((word, type) -> WORDS.put(type, word));
    }

    /** All waiting states by their words. */
    public static Map<String, Class<? extends Waiting>> all() {
        return Map.copyOf(TYPES);
    }

    @Override
    public String idFromValue(Object value) {
        return WORDS.get(value.getClass());
    }

    @Override
    public String idFromValueAndType(Object value, Class<?> suggestedType) {
        return idFromValue(value);
    }

    @Override
    public @Nullable JavaType typeFromId(DatabindContext context, String id) {
        Class<?> type = TYPES.get(id);
        return type == null ? null : context.constructType(type);
    }

    @Override
    public JsonTypeInfo.Id getMechanism() {
        return JsonTypeInfo.Id.CUSTOM;
    }
}
