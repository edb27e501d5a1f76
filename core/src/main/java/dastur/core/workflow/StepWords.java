package dastur.core.workflow;

import com.fasterxml.jackson.annotation.JsonTypeInfo;
import com.fasterxml.jackson.databind.DatabindContext;
import com.fasterxml.jackson.databind.JavaType;
import com.fasterxml.jackson.databind.jsontype.impl.TypeIdResolverBase;
import org.jspecify.annotations.Nullable;

/** The word of a step's kind in JSON. */
final class StepWords extends TypeIdResolverBase {
    @Override
    public String idFromValue(Object value) {
        StepKind<Step> kind = Kinds.of((Step) value, StepKind.class);
        return kind.word();
    }

    @Override
    public String idFromValueAndType(Object value, Class<?> suggestedType) {
        return idFromValue(value);
    }

    /** Null where no such kind is known, which the reader tells. */
    @Override
    public @Nullable JavaType typeFromId(DatabindContext context, String id) {
        return Kinds.named(id).map(k -> context.constructType(k.model())).orElse(null);
    }

    @Override
    public JsonTypeInfo.Id getMechanism() {
        return JsonTypeInfo.Id.CUSTOM;
    }
}
