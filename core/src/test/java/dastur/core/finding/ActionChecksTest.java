package dastur.core.finding;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.Field;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.Action;
import dastur.core.workflow.ActionKey;
import dastur.core.workflow.Connection;
import dastur.core.workflow.Limit;
import java.util.List;
import java.util.Locale;
import java.util.Map;
import org.jspecify.annotations.Nullable;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** One action that is right, and each way to get it wrong. */
class ActionChecksTest {
    private static final Connection HTTP =
            new Connection("gates", "Gate controller", "http://localhost:7081", List.of(), "gate-token");
    private static final Connection SSH =
            new Connection("piers", "Piers", "ssh://u@h?hostkey=SHA256:" + "a".repeat(43), List.of(), null);

    private static final Field GATE = Field.of("gate", "Gate", FieldType.TEXT).asRequired();
    private static final Field COUNT = Field.of("count", "Count", FieldType.WHOLE);
    private static final String BODY = "{\"gate\":\"{{ input.gate }}\",\"count\":{{ input.count ?? 0 }}}";

    private Action.HttpCall call = new Action.HttpCall(
            "POST", "/lanes/{{ input.gate }}", Map.of("Idempotency-Key", "{{ call.key }}"), BODY, null);
    private List<Field> inputs = List.of(GATE, COUNT);
    private List<Action.Output> outputs = List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/lock"));
    private List<Action.OwnResult> results = List.of(new Action.OwnResult("already closed", "/status", "closed"));
    private Action.Repeat repeat = Action.Repeat.KEYED;
    private Connection over = HTTP;
    private Map<String, Limit> limits = Map.of();

    private List<Finding> found() {
        return ActionChecks.of(
                new Action(
                                new ActionKey("lane.close"),
                                "Close a lane",
                                "",
                                over.key(),
                                call,
                                inputs,
                                outputs,
                                results,
                                repeat,
                                true,
                                Span.parse("20 s"),
                                2,
                                Span.parse("5 s"))
                        .limited(limits),
                over);
    }

    private void only(String field, String code, boolean blocks) {
        assertThat(found()).singleElement().satisfies(f -> {
            assertThat(f.field()).isEqualTo(field);
            assertThat(f.code()).isEqualTo(code);
            assertThat(f.blocks()).isEqualTo(blocks);
        });
    }

    private void body(@Nullable String body) {
        call = new Action.HttpCall(call.method(), call.path(), call.headers(), body, call.poll());
    }

    private void headers(Map<String, String> headers) {
        call = new Action.HttpCall(call.method(), call.path(), headers, call.body(), call.poll());
    }

    // --- what goes out otherwise than as JSON, and what comes back so (M10)

    private void sentAs(String type, String body) {
        headers(Map.of("Idempotency-Key", "{{ call.key }}", "Content-Type", type));
        body(body);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            application/x-www-form-urlencoded | {"g":"{{ input.gate }}","c":"{{ input.count }}"} |
            application/x-www-form-urlencoded | g={{ input.gate }}&c={{ input.count }}           | not JSON
            application/x-www-form-urlencoded | {"g":{"a":"{{ input.gate }}"},"c":"{{ input.count }}"} | not its values
            multipart/form-data               | {"g":{"file":"a","text":"{{ input.gate }}{{ input.count }}"}} |
            multipart/form-data               | {"g":{"file":"{{ input.gate }}{{ input.count }}"}} | not its values
            application/xml                   | <a b="{{ input.gate }}">{{ input.count }}</a>    |
            application/xml                   | <a b={{ input.gate }}>{{ input.count }}</a>      | not XML
            application/xml                   | <!DOCTYPE a><a>{{ input.gate }}{{ input.count }}</a> | not XML
            text/plain                        | {{ input.gate }} and {{ input.count }}           |
            """)
    void aBodyIsWhatItsHeaderSays(String type, String body, @Nullable String code) {
        sentAs(type, body);
        if (code == null) {
            assertThat(found()).isEmpty();
        } else {
            only("call.body", code, true);
        }
    }

    @Test
    void anXPathIsAPlaceOverHttpAlone() {
        outputs = List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "xpath://lock"));
        assertThat(found()).isEmpty();
        outputs = List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "xpath:/a["));
        only("outputs", "pointer", true);
        outputs = List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "xpath://lock"));
        over = SSH;
        assertThat(found()).extracting(Finding::code).contains("pointer");
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', nullValues = "-", textBlock = """
            GET  | /items | -     | 2  | 0
            GET  | /items | /next | 50 | 0
            POST | /items | /next | 50 | 1
            GET  | items  | /next | 50 | 1
            GET  | /items | next  | 50 | 1
            GET  | /items | /next | 1  | 1
            GET  | /items | /next | 51 | 1
            """)
    void onlyWhatIsAskedComesInPages(String method, String items, @Nullable String next, int most, int faults) {
        call = new Action.HttpCall(
                method,
                "/lanes/{{ input.gate }}/{{ input.count }}",
                Map.of("Idempotency-Key", "{{ call.key }}"),
                null,
                null,
                new Action.Pages(items, next, most));
        assertThat(found()).hasSize(faults);
        assertThat(found()).allSatisfy(f -> assertThat(f.field()).isEqualTo("call.pages"));
    }

    private void path(String path) {
        call = new Action.HttpCall(call.method(), path, call.headers(), call.body(), call.poll());
    }

    @Test
    void nothingIsWrongWithTheRightOne() {
        assertThat(found()).isEmpty();
    }

    @Test
    void anUnknownInputIsFoundWhereItStands() {
        path("/lanes/{{ input.gaet }}");
        only("call.path", "inserted value", true);
        path("/lanes");
        headers(Map.of("Idempotency-Key", "{{ call.key }}", "X-Gate", "{{ input. }}"));
        only("call.headers.X-Gate", "inserted value", true);
    }

    @Test
    void aPathThatCouldNameAnotherHostIsRefused() {
        path(".elsewhere.example/{{ input.gate }}");
        only("call.path", "path", true);
    }

    @Test
    void anInputThatIsSentNowhereIsSaid() {
        inputs = List.of(GATE, COUNT, Field.of("gates", "Gates", FieldType.TEXT));
        only("inputs", "not sent", false);
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '~',
            value = {
                "{\"gate\":{{ input.gate }},\"count\":{{ input.count ?? 0 }}}",
                "{\"gate\":\"{{ input.gate }}\",\"count\":{{ input.count }}}",
                "{\"gate\":\"{{ input.gate }}\",\"count\":{{ input.count ?? 0 }}} and more",
                "gate={{ input.gate }}&count={{ input.count }}",
            })
    void aBodyThatIsNoJsonOnceItIsFilledIsFound(String text) {
        body(text);
        only("call.body", "not JSON", true);
    }

    @ParameterizedTest
    @CsvSource({
        "Host, elsewhere.example, header, true",
        "Content-Length, 3, header, true",
        "two words, x, header, true",
        "idempotency-key, x, header, true",
        "Authorization, Bearer {{ input.gate }}, secret in a text, true",
        "X-Api-Key, 0123456789, secret in a text, true",
    })
    void aHeaderThatMayNotBeSetIsFound(String name, String value, String code, boolean blocks) {
        headers(new java.util.TreeMap<>(Map.of("Idempotency-Key", "{{ call.key }}", name, value)));
        only("call.headers." + name, code, blocks);
    }

    @Test
    void aSecretInTheBodyIsSaid() {
        body("{\"gate\":\"{{ input.gate }}\",\"count\":{{ input.count ?? 0 }},\"login\":{\"password\":\"hunter22\"}}");
        only("call.body", "secret in a text", false);
    }

    @Test
    void whatIsRepeatedUnderAKeySendsIt() {
        headers(Map.of());
        only("repeat", "key not sent", true);
        repeat = Action.Repeat.FREE;
        assertThat(found()).isEmpty();
    }

    @Test
    void placesInTheAnswerArePointersEachOfItsOwn() {
        outputs = List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "lock"));
        only("outputs", "pointer", true);
        outputs = List.of(new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/a~2b"));
        only("outputs", "pointer", true);
        outputs = List.of(
                new Action.Output(Field.of("lock", "Lock", FieldType.TEXT), "/lock"),
                new Action.Output(Field.of("key", "Key", FieldType.TEXT), "/lock"));
        only("outputs", "place twice", true);
        outputs = List.of();
        results = List.of(new Action.OwnResult("ok", "/status", "closed"));
        only("results", "name twice", true);
        results = List.of(new Action.OwnResult("gone", Action.OwnResult.STATUS, "403"));
        only("results", "status", true);
    }

    @Test
    void aLongJobCanBeToldFromOneThatFailed() {
        call = new Action.HttpCall(
                "POST",
                "/lanes",
                call.headers(),
                BODY,
                new Action.Poll("/job", "/state", "over", "over", Span.parse("2 s")));
        only("call.poll", "same state", true);
        call = new Action.HttpCall(
                "POST",
                "/lanes",
                call.headers(),
                BODY,
                new Action.Poll("/job", "/state", "up", "failed", Span.parse("20 s")));
        only("timeLimit", "too short", true);
    }

    /** M4: outside of quotes a list stands in JSON as one, within them as words; neither can end what is around it. */
    @Test
    void aListStandsInJsonAsAList() {
        inputs = List.of(GATE, Field.of("gates", "Gates", FieldType.LIST).asRequired());
        body("{\"gates\":{{ input.gates }},\"said\":\"{{ input.gates }}\"}");
        assertThat(found()).isEmpty();
    }

    @Test
    void aCommandIsAListOfWords() {
        over = SSH;
        repeat = Action.Repeat.FREE;
        inputs = List.of(GATE);
        call = new Action.HttpCall("RUN", "/", null, "{\"run\":\"{{ input.gate }}\"}", null);
        only("call.body", "command", true);
        body("[\"lane\",\"{{ input.gate }}\"]");
        assertThat(found()).isEmpty();
        inputs = List.of(Field.of("gates", "Gates", FieldType.LIST).asRequired());
        body("[\"lane\",{{ input.gates }}]");
        only("call.body", "command", true);
        inputs = List.of(GATE);
        call = new Action.HttpCall("POST", "/", null, "[\"lane\",\"{{ input.gate }}\"]", null);
        only("call.method", "method", true);
    }

    @Test
    void aStatementIsOneWithItsValuesBesideIt() {
        over = new Connection("fleet", "Register", "postgresql://dastur@h/fleet?tls=none", List.of(), "register");
        repeat = Action.Repeat.FREE;
        inputs = List.of(GATE);
        call = new Action.HttpCall("QUERY", "/", null, "select a from gate where name = {{ input.gate }}", null);
        assertThat(found()).isEmpty();
        body("select a from gate where name = '{{ input.gate }}'");
        only("call.body", "statement", true);
        body("select a from gate where name = {{ input.gate }}; delete from gate");
        only("call.body", "statement", true);
        call = new Action.HttpCall("CHANGE", "/", null, "delete from gate where name = {{ input.gate }}", null);
        assertThat(found()).as("it says that it changes the world").isEmpty();
    }

    /** A walk that is right, and each way to get one wrong. */
    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            /shop | [{"type": "{{ input.gate }}", "into": "Gate"}, {"expect": "Open"}] | never | ``              | ``
            shop  | [{"type": "{{ input.gate }}", "into": "Gate"}, {"expect": "Open"}] | never | call.path       | path
            /shop | ``                                                                 | never | call.body       | walk
            /shop | [{"type": "{{ input.gate }}", "into": "Gate"}]                     | never | call.body       | walk
            /shop | [{"type": {{ input.gate }}, "into": "Gate"}, {"expect": "Open"}]   | never | call.body       | not JSON
            /shop | [{"leap": "{{ input.gate }}"}]                                     | never | call.body       | walk
            /shop | [{"open": "{{ input.gate }}"}]                                     | never | call.body       | walk
            /shop | [{"type": "{{ input.gate }}", "into": "Gate"}, {"expect": "Open"}] | free  | repeat          | walk
            """)
    void aWalkIsCheckedStepByStep(String path, @Nullable String steps, String repeated, String field, String code) {
        over = new Connection("shop", "Shop", "walk+https://shop.kestrel.example", List.of(), "code");
        call = new Action.HttpCall("WALK", path, null, steps, null);
        inputs = List.of(GATE);
        repeat = Action.Repeat.valueOf(repeated.toUpperCase(Locale.ROOT));
        if (field.isEmpty()) {
            assertThat(found()).isEmpty();
        } else {
            assertThat(found()).anySatisfy(f -> {
                assertThat(f.field()).isEqualTo(field);
                assertThat(f.code()).isEqualTo(code);
            });
        }
    }

    @Test
    void aLimitIsOfAnInputThatCanHaveIt() {
        limits = Map.of(
                "count", new Limit(1.0, 9.0, null, null, null), "gate", new Limit(null, null, "ALD-.*", null, null));
        assertThat(found()).isEmpty();
        limits = Map.of("count", new Limit(null, null, "1+", null, null));
        only("limits.count", "limit", true);
        limits = Map.of("nobody", new Limit(1.0, null, null, null, null));
        only("limits.nobody", "limit", true);
    }
}
