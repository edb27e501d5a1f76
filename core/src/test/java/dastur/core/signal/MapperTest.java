package dastur.core.signal;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.signal.Mapping.Row;
import dastur.core.signal.Mapping.To;
import dastur.core.ticket.CiId;
import dastur.core.ticket.FieldType;
import java.time.Instant;
import java.util.List;
import java.util.Map;
import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** A sender's words become ours: what is blank is absent, what is unknown is said, nothing is guessed or run (I3). */
class MapperTest {
    private static final Source USUAL = Sent.source(
            Row.at(To.SORT, "/data/state").table(Map.of("FROZEN", "fault", "MOVING", "recovered"), null),
            Row.at(To.SEVERITY, "/data/level").table(Map.of("1", "critical", "2", "major"), "warning"),
            Row.at(To.CI, "/data/unit").by("address"),
            Row.text(To.WHAT, "stands still"),
            Row.text(To.TITLE, "{{ ci.name ?? 'A board' }} stands still"),
            Row.at(To.TEXT, "/data/note"),
            Row.at(To.LINK, "/data/more"),
            Row.at(To.AT, "/time"),
            Row.value("pictureAge", FieldType.WHOLE, "/data/age"));

    private static Reading read(String body) {
        return Sent.read(USUAL, body, Map.of());
    }

    private static Signal understood(String body) {
        Signal signal = read(body).signal();
        assertThat(signal).isNotNull();
        return signal;
    }

    @Test
    void everyRowSaysWhatCameAndWhatItMeans() {
        Reading reading = read("{\"time\":\"2026-03-02T09:59:30Z\",\"data\":{\"state\":\"FROZEN\",\"level\":2,"
                + "\"unit\":\"10.30.0.27\",\"note\":\" no new picture \",\"age\":412}}");
        Signal s = reading.signal();
        assertThat(s.sort()).isEqualTo(Sort.FAULT);
        assertThat(s.severity()).isEqualTo(Severity.MAJOR);
        assertThat(s.ci()).isEqualTo(new CiId("ALD-07"));
        assertThat(s.service()).isEqualTo(Sent.SERVICE);
        assertThat(s.matter()).isEqualTo("ald-07/stands still");
        assertThat(s.title()).isEqualTo("Board 7 at Alder Pier stands still");
        assertThat(s.text()).isEqualTo("no new picture");
        assertThat(s.at()).isEqualTo(Instant.parse("2026-03-02T09:59:30Z"));
        assertThat(s.values()).isEqualTo(Map.of("pictureAge", 412L));
        assertThat(reading.cells()).extracting(Reading.Cell::to).startsWith(To.SORT, To.SEVERITY, To.CI);
        assertThat(reading.cells().get(2).came()).isEqualTo("10.30.0.27");
        assertThat(reading.cells().get(2).means()).isEqualTo("Board 7 at Alder Pier");
        assertThat(reading.cells().get(6).came()).isNull();
    }

    @Test
    void whatIsBlankIsAbsentAndAWordThatIsInNoTableIsNotGuessed() {
        Signal s = understood(
                "{\"data\":{\"state\":\"FROZEN\",\"level\":\"  \",\"unit\":\"\",\"note\":\"\",\"age\":\"\"}}");
        assertThat(s.severity()).isEqualTo(Severity.INDETERMINATE);
        assertThat(s.ci()).isNull();
        assertThat(s.text()).isNull();
        assertThat(s.values()).isEmpty();
        assertThat(s.title()).isEqualTo("A board stands still");
        Reading unknown = read("{\"data\":{\"state\":\"ASLEEP\",\"unit\":\"10.30.0.27\"}}");
        assertThat(unknown.signal()).isNull();
        assertThat(unknown.problem()).contains("'ASLEEP'").contains("table of the sort");
    }

    @Test
    void aCiThatNobodyKnowsIsSaidAndItsWordsStillMakeTheMatter() {
        Reading reading = read("{\"data\":{\"state\":\"FROZEN\",\"unit\":\"10.30.9.14\"}}");
        assertThat(reading.signal().ci()).isNull();
        assertThat(reading.signal().matter()).isEqualTo("10.30.9.14/stands still");
        assertThat(reading.cells().get(2).note()).contains("No one CI has the address '10.30.9.14'");
    }

    @Test
    void aCiIsFoundByAnyAttribute() {
        Source by = Sent.source(Row.at(To.CI, "/serial").by("serial"), Row.text(To.WHAT, "x"));
        assertThat(Sent.read(by, "{\"serial\":\"K-77\"}", Map.of()).signal().ci())
                .isEqualTo(new CiId("ALD-07"));
    }

    @Test
    void withoutAnythingThatItIsAboutItIsNews() {
        Source none = Sent.source(Row.at(To.TITLE, "/t"), Row.at(To.SORT, "/s"));
        Signal s = Sent.read(none, "{\"t\":\"Backup done\",\"s\":\"fault\"}", Map.of())
                .signal();
        assertThat(s.sort()).isEqualTo(Sort.NEWS);
        assertThat(s.matter()).isNull();
    }

    @ParameterizedTest
    @CsvSource({
        "2026-03-02T09:55:30Z, 2026-03-02T09:55:30Z",
        "2026-03-02T10:04:00+00:00, 2026-03-02T10:04:00Z",
        "2026-03-02T11:58:00+02:00, 2026-03-02T09:58:00Z",
        // More than five minutes off, the time of receipt counts.
        "2026-03-02T09:54:00Z, 2026-03-02T10:00:00Z",
        "2031-01-01T00:00:00Z, 2026-03-02T10:00:00Z",
        "yesterday, 2026-03-02T10:00:00Z"
    })
    void aSendersClockCountsOnlyWhereItCanBeBelieved(String said, Instant counts) {
        assertThat(understood("{\"time\":\"" + said + "\",\"data\":{\"state\":\"FROZEN\"}}")
                        .at())
                .isEqualTo(counts);
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "javascript:alert(1)",
                "ftp://x.example/y",
                "https://a.example/ b",
                "//x.example",
                "data:text/html,x"
            })
    void onlyLinksOfTheWebAreKept(String link) {
        assertThat(understood("{\"data\":{\"state\":\"FROZEN\",\"more\":\"" + link + "\"}}")
                        .link())
                .isNull();
    }

    @Test
    void whatCameIsNeverReadAsATemplateOrAnExpression() {
        Source says = Sent.source(
                Row.at(To.WHAT, "/w"), Row.text(To.TITLE, "It says {{ signal.what }}"), Row.at(To.TEXT, "/w"));
        Signal s = Sent.read(says, "{\"w\":\"{{ ci.name }} 1+1\"}", Map.of()).signal();
        assertThat(s.title()).isEqualTo("It says {{ ci.name }} 1+1");
        assertThat(s.text()).isEqualTo("{{ ci.name }} 1+1");
    }

    @Test
    void charactersThatAreNotSeenOrTurnTextAroundAreTakenOut() {
        Signal s = understood("{\"data\":{\"state\":\"FROZEN\",\"note\":\"a\\u0000b\\u202Ec\\u0007d\\ud800e\"}}");
        assertThat(s.text()).isEqualTo("abcd?e");
    }

    @Test
    void headersAreFoundWhateverTheirLetters() {
        Source by = Sent.source(new Row(To.WHAT, null, null, new Origin.Header("User-Agent"), null, null, null, null));
        assertThat(Sent.read(by, "{}", Map.of("user-agent", "monitor/3"))
                        .signal()
                        .what())
                .isEqualTo("monitor/3");
    }

    @ParameterizedTest
    @CsvSource({
        "whole number, 12, true",
        "whole number, 12.5, false",
        "number, 12.5, true",
        "number, NaN, false",
        "yes or no, no, true",
        "yes or no, perhaps, false",
        "time, 2026-03-02T10:00:00Z, true",
        "time, noon, false"
    })
    void anOwnValueOfTheWrongTypeIsAbsentAndSaid(String type, String came, boolean kept) {
        FieldType of = List.of(FieldType.values()).stream()
                .filter(t -> t.word().equals(type))
                .findFirst()
                .orElseThrow();
        Source own = Sent.source(Row.text(To.WHAT, "x"), Row.value("mine", of, "/v"));
        Reading reading = Sent.read(own, "{\"v\":\"" + came + "\"}", Map.of());
        assertThat(reading.signal().values().containsKey("mine")).isEqualTo(kept);
        assertThat(reading.cells().get(1).note() == null).isEqualTo(kept);
    }

    @Test
    void aMappingThatSaysAThingTwiceOrTakesATakenNameIsRefused() {
        assertThatThrownBy(() -> new Mapping(List.of(Row.at(To.CI, "/a"), Row.at(To.CI, "/b"))))
                .hasMessageContaining("Two rows say the ci");
        assertThatThrownBy(() -> Row.value("severity", FieldType.TEXT, "/a")).hasMessageContaining("another name");
        assertThatThrownBy(() -> Row.at(To.CI, "data/unit")).hasMessageContaining("begins with '/'");
    }

    /** Whatever comes: a reading is made, and what is understood can be kept. */
    @Property(tries = 300)
    void nothingThatComesBreaksIt(@ForAll String state, @ForAll String unit, @ForAll String note) {
        var data = new java.util.LinkedHashMap<String, Object>();
        data.put("state", state.isBlank() ? "FROZEN" : state);
        data.put("unit", unit);
        data.put("note", note);
        Reading reading = read(dastur.core.json.Json.write(Map.of("data", data)));
        assertThat(reading.cells()).hasSize(9);
        if (reading.signal() != null) {
            assertThat(reading.signal().words().values())
                    .allMatch(v -> !(v instanceof String t) || dastur.core.json.Texts.keepable(t));
            assertThat(reading.signal().matter()).hasSizeLessThanOrEqualTo(200);
        }
    }
}
