package dastur.core.workflow;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.expression.Expressions;
import dastur.core.expression.Scope;
import dastur.core.expression.TextTemplate;
import dastur.core.expression.Vocabulary;
import dastur.core.json.SafeXml;
import dastur.core.step.calling.Composed;
import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import java.io.StringReader;
import java.net.URLDecoder;
import java.nio.charset.StandardCharsets;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.xml.sax.InputSource;

/** What the body of an HTTP call goes out as, and that no value breaks out of its place (M2, M10). */
class SentAsTest {
    private static Action action(String type, String body) {
        return new Action(
                new ActionKey("say"),
                "Say",
                "",
                "c",
                new Action.HttpCall("POST", "/say", type.isEmpty() ? null : Map.of("content-type", type), body, null),
                List.of(Field.of("x", "X", FieldType.TEXT)),
                List.of(),
                List.of(),
                Action.Repeat.FREE,
                false,
                Span.parse("5 s"),
                1,
                Span.parse("1 s"));
    }

    private static dastur.core.run.Event.Call composed(String type, String body, String x) {
        return Composed.of(action(type, body), Map.of("x", x), "k", 5, Instant.EPOCH);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
                                              | JSON
            application/json; charset=utf-8   | JSON
            application/merge-patch+json      | JSON
            APPLICATION/X-WWW-FORM-URLENCODED | FORM
            multipart/form-data               | PARTS
            text/xml                          | XML
            application/soap+xml              | XML
            text/csv                          | TEXT
            """)
    void theHeaderSaysIt(String type, SentAs as) {
        assertThat(SentAs.of(type == null ? null : Map.of("Content-Type", type)))
                .isEqualTo(as);
    }

    @Property
    void aFieldOfAFormHoldsWhateverWasTyped(@ForAll String x) {
        var call = composed("application/x-www-form-urlencoded", "{\"a\":\"{{ input.x }}\",\"b\":[1,true]}", x);
        String[] parts = call.body().split("&", -1);
        assertThat(parts).hasSize(3);
        assertThat(URLDecoder.decode(parts[0].substring(2), StandardCharsets.UTF_8))
                .isEqualTo(URLDecoder.decode(
                        java.net.URLEncoder.encode(x, StandardCharsets.UTF_8), StandardCharsets.UTF_8));
        assertThat(parts[1] + parts[2]).isEqualTo("b=1b=true");
        assertThat(call.headers())
                .containsExactlyEntriesOf(Map.of("Content-Type", "application/x-www-form-urlencoded"));
    }

    @Property
    void aPartNeverEndsBeforeItsValueDoes(@ForAll String x) {
        var call = composed(
                "multipart/form-data",
                "{\"a\":\"{{ input.x }}\",\"f\":{\"file\":\"{{ input.x }}\",\"type\":\"text/csv\",\"text\":\"{{ input.x }}\"}}",
                x);
        String type = call.headers().get("Content-Type");
        String boundary = "--" + type.substring(type.indexOf("boundary=") + "boundary=".length());
        assertThat(x).doesNotContain(boundary);
        assertThat(call.body()).startsWith(boundary + "\r\n").endsWith("\r\n" + boundary + "--\r\n");
        String[] parts = call.body().split(java.util.regex.Pattern.quote(boundary), -1);
        assertThat(parts).hasSize(4);
        assertThat(parts[1]).isEqualTo("\r\nContent-Disposition: form-data; name=\"a\"\r\n\r\n" + x + "\r\n");
        String head = parts[2].substring(2, parts[2].indexOf("\r\nContent-Type: text/csv; charset=UTF-8\r\n\r\n"));
        assertThat(head).doesNotContain("\r", "\n");
        assertThat(head.chars().filter(c -> c == '"').count())
                .as("nothing ends the quotes")
                .isEqualTo(4);
    }

    @Property
    void aValueIsNeverMoreThanTextInXml(@ForAll String x) throws Exception {
        var call = composed("application/xml", "<a b=\"{{ input.x }}\">{{ input.x }}</a>", x);
        var root = SafeXml.builder()
                .parse(new InputSource(new StringReader(call.body())))
                .getDocumentElement();
        assertThat(root.getChildNodes().getLength()).isLessThanOrEqualTo(1);
        assertThat(root.getAttribute("b")).isEqualTo(root.getTextContent());
        if (x.chars().allMatch(c -> c >= ' ' && c < 0xD800)) {
            assertThat(root.getTextContent()).isEqualTo(x);
        }
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            FORM  | [1]                                       | false
            FORM  | {"a":{"b":1}}                             | false
            FORM  | {"a":[[1]]}                               | false
            FORM  | {"a":null}                                | true
            PARTS | {"a":{"file":"x"}}                        | false
            PARTS | {"a":{"file":"x","text":"y","type":"no"}} | false
            PARTS | {"a":[{"file":"x","text":"y"}, 1]}        | true
            PARTS | no JSON                                   | false
            """)
    void whatIsNoFormIsNone(SentAs as, String typed, boolean fits) {
        assertThat(as.body(null, typed).isPresent()).isEqualTo(fits);
    }

    @ParameterizedTest
    @CsvSource({"text/plain, PLAIN", "'', JSON"})
    void textGoesAsItIsAndJsonIsQuoted(String type, TextTemplate.Target target) {
        String typed = "x \"{{ input.x }}\"";
        assertThat(composed(type, typed, "a\"\n").body())
                .isEqualTo(TextTemplate.parse(typed)
                        .render(
                                new Expressions(Vocabulary.ofAction(action(type, typed))),
                                Scope.of(Map.of("input", Map.of("x", "a\"\n")), Instant.EPOCH),
                                target)
                        .text());
    }
}
