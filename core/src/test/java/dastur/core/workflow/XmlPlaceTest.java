package dastur.core.workflow;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatCode;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import dastur.core.ticket.FieldType;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.api.Timeout;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** Values read out of XML by XPath (M4), and XML that means harm. */
class XmlPlaceTest {
    private static final String LANES = """
            <?xml version="1.0"?>
            <p:pier xmlns:p="urn:pier" name="Alder">
              <p:lane id="G1"><state>open</state><opened>3</opened></p:lane>
              <p:lane id="G2"><state>closed</state><opened>4.50</opened></p:lane>
              <note> all well </note>
              <dark>false</dark>
            </p:pier>
            """;

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            xpath:/pier/@name             | TEXT   | "Alder"
            xpath://note                  | TEXT   | "all well"
            xpath://lane[@id='G2']/state  | TEXT   | "closed"
            xpath://lane[@id='G2']/opened | NUMBER | 4.5
            xpath://lane[@id='G1']/opened | WHOLE  | 3
            xpath:count(//lane)           | WHOLE  | 2
            xpath:sum(//opened)           | NUMBER | 7.5
            xpath://dark                  | YES_NO | false
            xpath://note                  | NUMBER | "all well"
            xpath://lane/@id              | LIST   | ["G1","G2"]
            xpath://lane                  | LIST   | [{"id":"G1","state":"open","opened":"3"},{"id":"G2","state":"closed","opened":"4.50"}]
            xpath://nothing               | LIST   | []
            """)
    void whatStandsThereIsReadAsItsType(String place, FieldType as, String json) throws Exception {
        assertThat(XmlPlace.read(LANES.strip(), place, as).toString()).isEqualTo(json);
    }

    @Test
    void nothingIsMissingAndSeveralAreNotOne() throws Exception {
        assertThat(XmlPlace.read(LANES.strip(), "xpath://nothing", FieldType.TEXT)
                        .isMissingNode())
                .isTrue();
        assertThatThrownBy(() -> XmlPlace.read(LANES.strip(), "xpath://lane/state", FieldType.TEXT))
                .isInstanceOf(XmlPlace.Unread.class)
                .hasMessageContaining("stand 2 values")
                .hasMessageContaining("(//lane/state)[1]");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "",
                "no xml",
                "<a>",
                "{\"a\":1}",
                "<!DOCTYPE a [<!ENTITY x SYSTEM \"file:///etc/passwd\">]><a>&x;</a>",
                "<!DOCTYPE a [<!ENTITY a \"aaaa\"><!ENTITY b \"&a;&a;\">]><a>&b;</a>",
                "<a>&undeclared;</a>"
            })
    void whatIsNoXmlOrMeansHarmIsNotRead(String xml) {
        assertThatThrownBy(() -> XmlPlace.read(xml, "xpath:/a", FieldType.TEXT)).isInstanceOf(XmlPlace.Unread.class);
    }

    @Test
    @Timeout(60)
    void itsSizeAndDepthAreBounded() {
        String deep = "<a>".repeat(20_000) + "</a>".repeat(20_000);
        assertThatThrownBy(() -> XmlPlace.read(deep, "xpath:/a", FieldType.TEXT))
                .isInstanceOf(XmlPlace.Unread.class);
        String deepest = "<a>".repeat(100) + "</a>".repeat(100);
        assertThatCode(() -> XmlPlace.read(deepest, "xpath:count(//a)", FieldType.WHOLE))
                .doesNotThrowAnyException();
        assertThatThrownBy(() -> XmlPlace.read("<a>" + deepest + "</a>", "xpath:count(//a)", FieldType.WHOLE))
                .isInstanceOf(XmlPlace.Unread.class);
        String wide = "<a>" + "<b/>".repeat(100_001) + "</a>";
        assertThatThrownBy(() -> XmlPlace.read(wide, "xpath:count(//b)", FieldType.WHOLE))
                .isInstanceOf(XmlPlace.Unread.class);
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', textBlock = """
            xpath:            | An XPath has 1 to 500 characters.
            xpath:/a[         | cannot be read
            xpath:nothing(1)  | cannot be read
            xpath:/p:a        | cannot be read
            """)
    void anXPathThatCannotBeUsedIsToldWhenItIsSaved(String place, String why) {
        assertThat(XmlPlace.problem(place).orElse("none")).contains(why);
        assertThat(XmlPlace.problem("xpath://a[@t='x:y']/ancestor::b/@c")).isEmpty();
    }
}
