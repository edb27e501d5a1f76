package dastur.core.ticket;

import static org.assertj.core.api.Assertions.assertThat;

import dastur.core.ticket.Wish.Changed;
import java.util.Arrays;
import java.util.List;
import java.util.stream.Collectors;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** What was wished of a CI and came otherwise (M17). */
class WishTest {
    /** Entry by entry: the entry's name, then field, before and after of each value that it changed. */
    @ParameterizedTest(name = "{2}")
    @CsvSource(delimiter = '|', quoteCharacter = '`', textBlock = """
            a life - planned, a size - large                                          | ``                   | planned, all is a wish
            a life - planned, a size - large, b life planned ordered, c size large middle | size: large, middle | other than wished
            a life - planned, a size - large, b size large small, c life planned ordered | ``                   | wished otherwise before it was agreed to
            a life - planned, a size - large, b size large middle, b life planned ordered | size: large, middle | real in the entry that settles it
            a life - planned, b life planned ordered, c address - 10.0.0.1            | ``                   | nobody wished for an address
            a life - planned, a size - large, b life planned ordered, c size large middle, d size middle large | `` | came as wished in the end
            a life - planned, a size - large, b life planned ordered, c size large -  | size: large, nothing | there no more
            a life - planned, a size - large, b life planned retired, c life retired planned, c size large small | `` | planned anew
            a life - ordered, b life ordered in-use, c size large small               | ``                   | never planned
            a size - large, b size large small                                        | ``                   | whose life nobody changed
            """)
    void whatCameOtherwise(String changes, String unmet, String why) {
        assertThat(Wish.unmet(read(changes)).stream()
                        .map(w -> w.name() + ": " + w.wished() + ", " + (w.real() == null ? "nothing" : w.real()))
                        .collect(Collectors.joining("; ")))
                .as(why)
                .isEqualTo(unmet);
    }

    private static List<Changed> read(String changes) {
        return Arrays.stream(changes.strip().split(", "))
                .map(c -> c.split(" "))
                .map(c -> new Changed(c[0], c[1], value(c[2]), value(c[3])))
                .toList();
    }

    private static String value(String word) {
        return word.equals("-") ? null : word;
    }
}
