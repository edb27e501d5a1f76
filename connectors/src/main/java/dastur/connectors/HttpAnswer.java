package dastur.connectors;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import com.fasterxml.jackson.databind.MappingIterator;
import com.fasterxml.jackson.databind.node.ArrayNode;
import com.fasterxml.jackson.databind.node.MissingNode;
import com.fasterxml.jackson.databind.node.ObjectNode;
import com.fasterxml.jackson.dataformat.csv.CsvMapper;
import com.fasterxml.jackson.dataformat.csv.CsvSchema;
import dastur.core.json.Json;
import java.io.IOException;
import java.net.http.HttpHeaders;
import java.nio.charset.Charset;
import java.nio.charset.StandardCharsets;
import java.util.Locale;
import java.util.Map;
import java.util.Optional;
import java.util.regex.Matcher;
import java.util.regex.Pattern;

/** The body of an answer over HTTP in JSON's shapes, whatever it came as (M10). */
final class HttpAnswer {
    private static final Pattern CHARSET = Pattern.compile("(?i)charset=\"?([\\w.:+-]{1,40})\"?");
    private static final Pattern LINK = Pattern.compile("<([^>]{1,2000})>([^<]*)");
    private static final Pattern IS_NEXT =
            Pattern.compile("(?i);\\s*rel\\s*=\\s*(?:\"[^\"]*\\bnext\\b[^\"]*\"|next\\b)");

    private HttpAnswer() {}

    /** What the answer's header says that it is; empty for nothing. */
    static String type(HttpHeaders headers) {
        return headers.firstValue("Content-Type").orElse("").toLowerCase(Locale.ROOT);
    }

    /** The text in its own character set; UTF-8 where it names none, or one that nobody knows. */
    static String text(HttpHeaders headers, byte[] body) {
        Matcher named = CHARSET.matcher(headers.firstValue("Content-Type").orElse(""));
        try {
            return new String(body, named.find() ? Charset.forName(named.group(1)) : StandardCharsets.UTF_8);
        } catch (IllegalArgumentException e) {
            return new String(body, StandardCharsets.UTF_8);
        }
    }

    /**
     * JSON as it is. Anything else is {@code /text} and its {@code /lines}; a table of comma-separated values (RFC 4180) is beside
     * that {@code /rows}, by the names of its first line, and their {@code /count}.
     */
    static JsonNode read(String type, String text) {
        if (text.isBlank()) {
            return MissingNode.getInstance();
        }
        boolean csv = type.startsWith("text/csv");
        if (!csv && !type.contains("xml")) {
            try {
                return Json.parse(text);
            } catch (JsonProcessingException e) {
                // A text, then.
            }
        }
        ObjectNode answer = Json.mapper().createObjectNode();
        answer.put("text", text);
        answer.set("lines", Json.tree(text.lines().toList()));
        if (csv) {
            rows(text).ifPresent(rows -> {
                answer.set("rows", rows);
                answer.put("count", rows.size());
            });
        }
        return answer;
    }

    /** Empty where it is no such table. */
    private static Optional<ArrayNode> rows(String text) {
        ArrayNode rows = Json.mapper().createArrayNode();
        try (MappingIterator<Map<String, String>> all = new CsvMapper()
                .readerForMapOf(String.class)
                .with(CsvSchema.emptySchema().withHeader())
                .readValues(text)) {
            while (all.hasNextValue()) {
                rows.add(Json.tree(all.nextValue()));
            }
            return Optional.of(rows);
        } catch (IOException e) {
            return Optional.empty();
        }
    }

    /** Where the header says that the next page is (RFC 8288). */
    static Optional<String> next(HttpHeaders headers) {
        for (String link : headers.allValues("Link")) {
            for (Matcher one = LINK.matcher(link); one.find(); ) {
                if (IS_NEXT.matcher(one.group(2)).find()) {
                    return Optional.of(one.group(1));
                }
            }
        }
        return Optional.empty();
    }
}
