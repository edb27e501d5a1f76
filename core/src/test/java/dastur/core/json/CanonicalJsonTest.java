package dastur.core.json;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.Map;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

class CanonicalJsonTest {
    /** The example of RFC 8785, section 3.2.2, without its null. */
    @Test
    void writesTheExampleOfTheStandard() throws Exception {
        String given = "{\"numbers\":[333333333.33333329,1E30,4.50,2e-3,0.000000000000000000000000001],"
                + "\"string\":\"\\u20ac$\\u000F\\u000aA'\\u0042\\u0022\\u005c\\\\\\\"\\/\",\"literals\":[true,false]}";
        assertThat(CanonicalJson.write(Json.parse(given)))
                .isEqualTo("{\"literals\":[true,false],\"numbers\":[333333333.3333333,1e+30,4.5,0.002,1e-27],"
                        + "\"string\":\"€$\\u000f\\nA'B\\\"\\\\\\\\\\\"/\"}");
    }

    /** Appendix B of RFC 8785, by their IEEE 754 bits. */
    @ParameterizedTest
    @CsvSource({
        "0000000000000000, 0",
        "8000000000000000, 0",
        "0000000000000001, 5e-324",
        "8000000000000001, -5e-324",
        "7fefffffffffffff, 1.7976931348623157e+308",
        "4340000000000000, 9007199254740992",
        "4430000000000000, 295147905179352830000",
        "44b52d02c7e14af5, 9.999999999999997e+22",
        "44b52d02c7e14af6, 1e+23",
        "444b1ae4d6e2ef4e, 999999999999999700000",
        "444b1ae4d6e2ef50, 1e+21",
        "3eb0c6f7a0b5ed8c, 9.999999999999997e-7",
        "3eb0c6f7a0b5ed8d, 0.000001",
        "41b3de4355555553, 333333333.3333332",
        "becbf647612f3696, -0.0000033333333333333333",
    })
    void writesNumbersAsTheStandardDoes(String bits, String text) {
        assertThat(CanonicalJson.ecma(Double.longBitsToDouble(Long.parseUnsignedLong(bits, 16))))
                .isEqualTo(text);
    }

    @Test
    void sortsMembersByUtf16AndKeepsLargeNumbersAsText() {
        assertThat(CanonicalJson.write(Map.of("\u20ac", 1, "\r", 2, "\ud83d\ude00", 3, "1", 1L << 53)))
                .isEqualTo("{\"\\r\":2,\"1\":\"9007199254740992\",\"€\":1,\"😀\":3}");
    }

    @Test
    void refusesWhatCannotBeSealed() {
        assertThatThrownBy(() -> CanonicalJson.write(Map.of("a", "\ud800"))).hasMessageContaining("unpaired surrogate");
        assertThatThrownBy(() ->
                        CanonicalJson.write(Json.mapper().createObjectNode().putNull("a")))
                .hasMessageContaining("null");
    }
}
