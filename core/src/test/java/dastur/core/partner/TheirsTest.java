package dastur.core.partner;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.signal.Mapping.To;
import dastur.core.signal.Source;
import dastur.core.ticket.FieldCatalogue;
import dastur.core.ticket.FieldType;
import dastur.core.time.Span;
import dastur.core.workflow.ActionKey;
import java.util.List;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.ValueSource;

/** What is read of one of their tickets, and what is set up about them. */
class TheirsTest {
    private static final Places PLACES = new Places(
            "/no",
            "/fault/head",
            "/fault/body",
            "/url",
            "/your",
            "/unit",
            "/changed",
            "/words",
            "/nr",
            "/who",
            "/said",
            "/mark");

    private static Partner partner(Places places, List<Shared> shared, ActionKey change) {
        return new Partner(
                new PartnerKey("supplier"),
                "Supplier",
                true,
                Span.parse("15 s"),
                new ActionKey("list"),
                null,
                change,
                null,
                null,
                places,
                "address",
                shared,
                List.of(new Partner.Told("wants", FieldType.TEXT, "/wants")));
    }

    private static Theirs read(String json) throws Exception {
        JsonNode node = Json.parse(json);
        return Theirs.read(partner(PLACES, List.of(), null), node);
    }

    @Test
    void whatStandsAtItsPlacesIsReadAndTheRestIsLeft() throws Exception {
        Theirs t = read("""
                {"no":"F-1","fault":{"head":" Worn \\u202e ","body":"See\\u0000 it"},"url":"javascript:alert(1)","your":"I-7",
                 "unit":"10.1.1.1","wants":"machine","words":[
                  {"nr":1,"who":"Tove","said":"Since when?","mark":""},
                  {"nr":2,"said":"","who":"x"},{"who":"no id","said":"y"},
                  {"nr":3,"who":"Ada","said":"Since May","mark":"I-7/12"}]}""");
        assertThat(t.id()).isEqualTo("F-1");
        assertThat(t.title()).isEqualTo("Worn");
        assertThat(t.text()).isEqualTo("See it");
        assertThat(t.link()).isNull();
        assertThat(t.reference()).isEqualTo("I-7");
        assertThat(t.told()).containsExactlyEntriesOf(java.util.Map.of("wants", "machine"));
        assertThat(t.comments())
                .containsExactly(
                        new Theirs.Comment("1", "Tove", "Since when?", null),
                        new Theirs.Comment("3", "Ada", "Since May", "I-7/12"));
        assertThat(t.raw()).isEqualTo(read(" " + t.raw()).raw());
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "{}",
                "{\"no\":\"\",\"fault\":{\"head\":\"x\"}}",
                "{\"no\":\"F\"}",
                "[]",
                "7",
                "{\"no\":{\"a\":1}}"
            })
    void whatHasNoNumberOrNoTitleIsNoTicket(String json) {
        assertThatThrownBy(() -> read(json)).isInstanceOf(Theirs.Unreadable.class);
    }

    @Test
    void aNumberThatIsTooLongIsRefused() {
        assertThatThrownBy(() -> read("{\"no\":\"" + "9".repeat(101) + "\",\"fault\":{\"head\":\"x\"}}"))
                .isInstanceOf(Theirs.Unreadable.class)
                .hasMessageContaining("longer than 100");
    }

    @Test
    void itsSourceIsMappedByItself() {
        Partner partner =
                partner(PLACES, List.of(new Shared("impact", "/grade", null, List.of(), Shared.Leads.THEM)), null);
        Source opens = partner.source(FieldCatalogue.PLAIN, Source.Otherwise.INCIDENT, "desk");
        assertThat(opens.key().value()).isEqualTo("supplier");
        assertThat(opens.mapping().rows().stream().map(r -> r.to())).contains(To.MATTER, To.CI, To.KEY);
        assertThat(opens.mapping().own().stream().map(f -> f.name() + " " + f.type()))
                .containsExactly("theirNumber TEXT", "impact WHOLE", "wants TEXT");
    }

    @Test
    void whatCannotBeIsNotSetUp() {
        Shared sent = new Shared("impact", "/grade", "grade", List.of(), Shared.Leads.THEM);
        assertThatThrownBy(() -> partner(PLACES, List.of(sent), null)).hasMessageContaining("no action changes");
        assertThatThrownBy(() -> partner(PLACES, List.of(sent, sent), new ActionKey("c")))
                .hasMessageContaining("stands twice");
        assertThatThrownBy(() -> new Shared(
                        "impact",
                        "/grade",
                        null,
                        List.of(new Shared.Word("A", "1"), new Shared.Word("A", "1")),
                        Shared.Leads.US))
                .hasMessageContaining("stands twice");
        assertThatThrownBy(() ->
                        new Places("/no", "/head", null, null, null, null, null, "/words", null, null, null, null))
                .hasMessageContaining("say where each has its id");
        assertThatThrownBy(() -> new Places("no", "/head", null, null, null, null, null, null, null, null, null, null))
                .hasMessageContaining("no place");
        assertThatThrownBy(() -> new Partner.Told("title", FieldType.TEXT, "/x"))
                .hasMessageContaining("every signal");
    }
}
