package dastur.core.json;

import com.fasterxml.jackson.annotation.JsonInclude;
import com.fasterxml.jackson.core.JsonGenerator;
import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.core.StreamReadConstraints;
import com.fasterxml.jackson.core.StreamReadFeature;
import com.fasterxml.jackson.core.type.TypeReference;
import com.fasterxml.jackson.databind.DeserializationFeature;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.JsonSerializer;
import com.fasterxml.jackson.databind.MapperFeature;
import com.fasterxml.jackson.databind.ObjectMapper;
import com.fasterxml.jackson.databind.SerializationFeature;
import com.fasterxml.jackson.databind.SerializerProvider;
import com.fasterxml.jackson.databind.json.JsonMapper;
import com.fasterxml.jackson.databind.module.SimpleModule;
import com.fasterxml.jackson.datatype.jdk8.Jdk8Module;
import com.fasterxml.jackson.datatype.jsr310.JavaTimeModule;
import java.io.IOException;
import java.time.Instant;
import java.time.ZoneOffset;
import java.time.format.DateTimeFormatter;
import java.util.Map;

/**
 * The one JSON mapping of the project: absent stays absent (nulls are never written), unknown fields are refused, whole
 * numbers are read as long, and nesting and lengths are bounded.
 */
public final class Json {
    private static final TypeReference<Map<String, Object>> MAP = new TypeReference<>() {};

    private static final ObjectMapper MAPPER = build();

    private Json() {}

    private static ObjectMapper build() {
        JsonMapper mapper = JsonMapper.builder()
                .addModule(new JavaTimeModule())
                .addModule(new Jdk8Module())
                .addModule(new SimpleModule().addSerializer(Instant.class, new InstantText()))
                .defaultPropertyInclusion(
                        JsonInclude.Value.construct(JsonInclude.Include.NON_NULL, JsonInclude.Include.NON_NULL))
                .enable(DeserializationFeature.FAIL_ON_UNKNOWN_PROPERTIES)
                .enable(DeserializationFeature.FAIL_ON_NULL_FOR_PRIMITIVES)
                .enable(DeserializationFeature.FAIL_ON_TRAILING_TOKENS)
                .enable(DeserializationFeature.USE_LONG_FOR_INTS)
                .enable(StreamReadFeature.STRICT_DUPLICATE_DETECTION)
                .disable(DeserializationFeature.ACCEPT_FLOAT_AS_INT)
                .disable(MapperFeature.ALLOW_COERCION_OF_SCALARS)
                .disable(SerializationFeature.WRITE_DATES_AS_TIMESTAMPS)
                .disable(SerializationFeature.WRITE_DURATIONS_AS_TIMESTAMPS)
                .build();
        mapper.getFactory()
                .setStreamReadConstraints(StreamReadConstraints.builder()
                        .maxNestingDepth(60)
                        .maxStringLength(2_000_000)
                        .maxNumberLength(40)
                        .build());
        return mapper;
    }

    /** Instants always with exactly three decimals, so that equal moments are equal texts (D21). */
    private static final class InstantText extends JsonSerializer<Instant> {
        private static final DateTimeFormatter FORM =
                DateTimeFormatter.ofPattern("uuuu-MM-dd'T'HH:mm:ss.SSS'Z'").withZone(ZoneOffset.UTC);

        @Override
        public void serialize(Instant value, JsonGenerator out, SerializerProvider provider) throws IOException {
            out.writeString(FORM.format(value));
        }
    }

    public static ObjectMapper mapper() {
        return MAPPER;
    }

    public static String write(Object value) {
        try {
            return MAPPER.writeValueAsString(value);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException(
                    "cannot be written as JSON: " + value.getClass().getName(), e);
        }
    }

    /** Reads text that this application wrote itself; a failure is a bug or damage, not bad input. */
    public static <T> T read(String text, Class<T> type) {
        try {
            return MAPPER.readValue(text, type);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("stored JSON does not fit " + type.getSimpleName() + " at "
                    + (e.getLocation() == null ? "?" : e.getLocation().offsetDescription()));
        }
    }

    /** Reads text that this application wrote itself into a generic type. */
    public static <T> T read(String text, TypeReference<T> type) {
        try {
            return MAPPER.readValue(text, type);
        } catch (JsonProcessingException e) {
            throw new IllegalStateException("stored JSON does not fit " + type.getType());
        }
    }

    public static Map<String, Object> readMap(String text) {
        return read(text, MAP);
    }

    /** Parses foreign text. @throws JsonProcessingException when it is not JSON within the limits */
    public static JsonNode parse(String text) throws JsonProcessingException {
        return MAPPER.readTree(text);
    }

    public static JsonNode tree(Object value) {
        return MAPPER.valueToTree(value);
    }

    public static Object plain(JsonNode node) {
        return MAPPER.convertValue(node, Object.class);
    }
}
