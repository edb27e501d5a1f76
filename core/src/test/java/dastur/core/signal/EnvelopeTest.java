package dastur.core.signal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.List;
import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What a request carries: CloudEvents in three bindings, JSON, forms; and what it says of all else (I2). */
class EnvelopeTest {
    private static final String EVENT =
            "{\"specversion\":\"1.0\",\"id\":\"7\",\"source\":\"/m\",\"type\":\"t\",\"data\":{\"a\":1}}";

    private static List<Envelope.Event> open(String type, String body) throws Envelope.Unreadable {
        return Envelope.open(Map.of("content-type", type), body);
    }

    @Test
    void aStructuredEventIsKnownAgainByItsSourceAndId() throws Envelope.Unreadable {
        assertThat(open("application/cloudevents+json; charset=utf-8", EVENT))
                .singleElement()
                .satisfies(e -> {
                    assertThat(e.delivery()).isEqualTo("/m 7");
                    assertThat(e.body().at("/data/a").asInt()).isEqualTo(1);
                });
    }

    @Test
    void aBinaryEventComesToLookLikeAStructuredOne() throws Envelope.Unreadable {
        Map<String, String> headers = Map.of(
                "content-type", "application/json",
                "ce-specversion", "1.0",
                "ce-id", "7",
                "ce-source", "/m%20x",
                "ce-type", "t",
                "ce-line", "a+b");
        assertThat(Envelope.open(headers, "{\"a\":1}")).singleElement().satisfies(e -> {
            assertThat(e.delivery()).isEqualTo("/m x 7");
            assertThat(e.body().at("/data/a").asInt()).isEqualTo(1);
            assertThat(e.body().at("/line").asText()).isEqualTo("a+b");
        });
    }

    @Test
    void ofABatchEachIsOneAndOneThatIsNoneDoesNotHurtTheOthers() throws Envelope.Unreadable {
        List<Envelope.Event> all =
                open("application/cloudevents-batch+json", "[" + EVENT + ",{\"id\":1}," + EVENT + "]");
        assertThat(all).extracting(Envelope.Event::delivery).containsExactly("/m 7", null, "/m 7");
    }

    @Test
    void aFormIsItsFields() throws Envelope.Unreadable {
        assertThat(open("application/x-www-form-urlencoded", "unit=ALD-07&note=no+new%20picture"))
                .singleElement()
                .satisfies(e -> {
                    assertThat(e.delivery()).isNull();
                    assertThat(e.body().at("/note").asText()).isEqualTo("no new picture");
                });
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            value = {
                "application/json|{|broken in line",
                "application/json|7|JSON object",
                "application/cloudevents+json|{\"id\":\"1\"}|specversion, id, source and type",
                "application/cloudevents-batch+json|{}|array of events",
                "application/x-www-form-urlencoded|nothing|no fields",
                "application/x-www-form-urlencoded|a=%zz|hexadecimal",
                "text/plain|a|not understood here"
            })
    void whatIsNoneOfThemSaysWhy(String type, String body, String why) {
        assertThatThrownBy(() -> open(type, body))
                .isInstanceOf(Envelope.Unreadable.class)
                .hasMessageContaining(why);
    }

    @Test
    void moreThanFiveHundredAtOnceAreTooMany() {
        String many = "[" + (EVENT + ",").repeat(500) + EVENT + "]";
        assertThatThrownBy(() -> open("application/cloudevents-batch+json", many))
                .hasMessageContaining("at most 500");
    }
}
