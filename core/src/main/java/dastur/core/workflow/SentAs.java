package dastur.core.workflow;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.expression.TextTemplate.Target;
import dastur.core.json.Json;
import dastur.core.record.Seal;
import java.net.URLEncoder;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.StringJoiner;
import java.util.stream.Stream;
import java.util.stream.StreamSupport;
import org.jspecify.annotations.Nullable;

/**
 * As what the body of an HTTP call goes out (M10). It follows from the action's header {@code Content-Type}. A form and its parts are
 * written as a JSON object of their values, so that quoting cannot go wrong, and are put together when the call is.
 */
public enum SentAs {
    JSON("application/json"),
    /** WHATWG URL, application/x-www-form-urlencoded. */
    FORM("application/x-www-form-urlencoded"),
    /** RFC 7578. A part is a value, or a file: {@code {"file": name, "type": media type, "text": text}}. */
    PARTS("multipart/form-data"),
    XML("application/xml"),
    TEXT("text/plain");

    /** The header that says it. */
    public static final String CONTENT_TYPE = "Content-Type";

    private final String type;

    SentAs(String type) {
        this.type = type;
    }

    public String type() {
        return type;
    }

    /** A body with the type it goes out as. */
    public record Body(String type, String text) {}

    /** @param headers of the action; JSON where they do not say */
    public static SentAs of(@Nullable Map<String, String> headers) {
        String said = said(headers).split(";")[0].strip().toLowerCase(Locale.ROOT);
        if (said.isEmpty() || said.equals("application/json") || said.endsWith("+json")) {
            return JSON;
        }
        if (said.equals(FORM.type)) {
            return FORM;
        }
        if (said.equals(PARTS.type)) {
            return PARTS;
        }
        return said.equals("text/xml") || said.equals(XML.type) || said.endsWith("+xml") ? XML : TEXT;
    }

    private static String said(@Nullable Map<String, String> headers) {
        return headers == null
                ? ""
                : headers.entrySet().stream()
                        .filter(e -> e.getKey().equalsIgnoreCase(CONTENT_TYPE))
                        .map(Map.Entry::getValue)
                        .findFirst()
                        .orElse("");
    }

    /** How values are put into it. */
    public Target target() {
        return switch (this) {
            case JSON, FORM, PARTS -> Target.JSON;
            case XML -> Target.XML;
            case TEXT -> Target.PLAIN;
        };
    }

    /** Whether what is typed is JSON. */
    public boolean isTypedAsJson() {
        return target() == Target.JSON;
    }

    /**
     * What goes out.
     *
     * @param filled with its values put in
     * @return empty where it is no JSON object of values, as a form is typed
     */
    public Optional<Body> body(@Nullable Map<String, String> headers, String filled) {
        String said = said(headers);
        return switch (this) {
            case JSON, XML, TEXT -> Optional.of(new Body(said.isBlank() ? type : said, filled));
            case FORM -> object(filled).flatMap(SentAs::form).map(text -> new Body(type, text));
            case PARTS -> object(filled).flatMap(values -> parts(values, filled));
        };
    }

    private static Optional<JsonNode> object(String filled) {
        try {
            return Optional.of(Json.parse(filled)).filter(JsonNode::isObject);
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }

    private static Optional<String> form(JsonNode values) {
        StringJoiner form = new StringJoiner("&");
        for (Map.Entry<String, JsonNode> e : values.properties()) {
            if (e.getValue().isObject() || each(e.getValue()).anyMatch(JsonNode::isContainerNode)) {
                return Optional.empty();
            }
            each(e.getValue()).forEach(v -> form.add(encoded(e.getKey()) + "=" + encoded(v.asText())));
        }
        return Optional.of(form.toString());
    }

    /** A name may stand several times, and what is null stands nowhere. */
    private static Stream<JsonNode> each(JsonNode value) {
        return value.isArray()
                ? StreamSupport.stream(value.spliterator(), false)
                : Stream.of(value).filter(v -> !v.isNull());
    }

    private static String encoded(String text) {
        return URLEncoder.encode(text, StandardCharsets.UTF_8);
    }

    /** The boundary follows from what stands between, so that the same call is the same. */
    private static Optional<Body> parts(JsonNode values, String filled) {
        String boundary = "dastur-" + Seal.hash(filled).substring(0, 32);
        StringBuilder text = new StringBuilder();
        for (Map.Entry<String, JsonNode> e : values.properties()) {
            for (JsonNode value : each(e.getValue()).toList()) {
                Optional<String> part = part(e.getKey(), value);
                if (part.isEmpty()) {
                    return Optional.empty();
                }
                text.append("--")
                        .append(boundary)
                        .append("\r\n")
                        .append(part.get())
                        .append("\r\n");
            }
        }
        text.append("--").append(boundary).append("--\r\n");
        return Optional.of(new Body(PARTS.type + "; boundary=" + boundary, text.toString()));
    }

    private static Optional<String> part(String name, JsonNode value) {
        String head = "Content-Disposition: form-data; name=\"" + quoted(name) + "\"";
        if (value.isValueNode()) {
            return Optional.of(head + "\r\n\r\n" + value.asText());
        }
        boolean file = value.isObject()
                && value.path("file").isTextual()
                && value.path("text").isTextual();
        String type = value.path("type").asText("text/plain");
        if (!file || !type.matches("[\\w.+-]+/[\\w.+-]+")) {
            return Optional.empty();
        }
        return Optional.of(head + "; filename=\"" + quoted(value.path("file").asText()) + "\"\r\nContent-Type: " + type
                + "; charset=UTF-8\r\n\r\n" + value.path("text").asText());
    }

    /** As browsers do (WHATWG HTML, multipart/form-data encoding): no value ends its quotes or its line. */
    private static String quoted(String text) {
        return text.replace("\r", "%0D").replace("\n", "%0A").replace("\"", "%22");
    }
}
