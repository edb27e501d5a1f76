package dastur.core.signal;

import com.fasterxml.jackson.databind.JsonNode;
import java.util.Map;

/**
 * One event as it came.
 *
 * @param headers chosen ones of the request, their names in small letters
 * @param body a CloudEvents envelope, or whatever the sender posts
 */
public record Raw(Map<String, String> headers, JsonNode body) {}
