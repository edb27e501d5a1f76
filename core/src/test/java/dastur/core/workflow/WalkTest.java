package dastur.core.workflow;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import java.util.stream.Collectors;
import java.util.stream.IntStream;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** How a walk is written, and what is none (M12). */
class WalkTest {
    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            {"open": "/shop?day=1"}              | Open /shop?day=1
            {"type": "Ada", "into": "Name"}      | Type “Ada” into “Name”
            {"type": "", "into": "Name"}         | Type “” into “Name”
            {"type": 12, "into": "Count"}        | Type “12” into “Count”
            {"secret": "Trial code"}             | Type the secret into “Trial code”
            {"choose": "Adult", "in": "Fare"}    | Choose “Adult” in “Fare”
            {"press": " Buy "}                   | Press “Buy”
            {"expect": "Thank you"}              | Expect to see “Thank you”
            {"expectNot": "Sold out"}            | Expect not to see “Sold out”
            {"picture": "Receipt"}               | Take a picture: “Receipt”
            {"read": "Ticket number", "as": "no"} | Read what stands beside “Ticket number” as no
            """)
    void eachStepSaysWhatItDoes(String step, String sentence) throws Walk.Unfit {
        assertThat(Walk.of("[" + step + "]").steps()).singleElement().satisfies(s -> assertThat(s.sentence())
                .isEqualTo(sentence));
    }

    @ParameterizedTest
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            ``                                      | A walk is a list of steps
            open /                                  | A walk is a list of steps
            {"open": "/"}                           | A walk is a list of steps
            []                                      | A walk is a list of steps
            ["open"]                                | Step 1 is none of
            [{"open": "/"}, {"jump": "x"}]          | Step 2 is none of
            [{"type": "x"}]                         | Step 1 is none of
            [{"press": "Buy", "in": "x"}]           | Step 1 is none of
            [{"open": "http://elsewhere/"}]         | Step 1 opens a path
            [{"open": "//elsewhere/"}]              | Step 1 opens a path
            [{"open": "/\\\\elsewhere"}]            | Step 1 opens a path
            [{"press": " "}]                        | Step 1 has nothing that can be used as “press”
            [{"press": {"a": 1}}]                   | Step 1 has nothing that can be used as “press”
            [{"read": "No", "as": "ticket no"}]     | Step 1 names what it reads
            [{"read": "A", "as": "a"}, {"read": "B", "as": "a"}] | Step 2 reads 'a', as a step before does
            """)
    void whatIsNoneSaysWhichStepAndWhy(String body, String why) {
        assertThatThrownBy(() -> Walk.of(body)).isInstanceOf(Walk.Unfit.class).hasMessageStartingWith(why);
    }

    @Test
    void itIsBounded() throws Walk.Unfit {
        assertThat(Walk.of(many("{\"press\": \"Next\"}", Walk.MOST_STEPS)).steps())
                .hasSize(Walk.MOST_STEPS);
        assertThatThrownBy(() -> Walk.of(many("{\"press\": \"Next\"}", Walk.MOST_STEPS + 1)))
                .hasMessage("A walk has at most 200 steps.");
        assertThatThrownBy(() -> Walk.of(many("{\"picture\": \"P\"}", Walk.MOST_PICTURES + 1)))
                .hasMessage("A walk takes at most 40 pictures.");
        assertThatThrownBy(() -> Walk.of("[{\"press\": \"" + "x".repeat(121) + "\"}]"))
                .isInstanceOf(Walk.Unfit.class);
    }

    private static String many(String step, int count) {
        return IntStream.range(0, count).mapToObj(i -> step).collect(Collectors.joining(",", "[", "]"));
    }
}
