package dastur.core.json;

import static org.assertj.core.api.Assertions.assertThat;
import static org.assertj.core.api.Assertions.assertThatThrownBy;

import net.jqwik.api.ForAll;
import net.jqwik.api.Property;
import net.jqwik.api.constraints.IntRange;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** What is let in at the door, and how texts are cut. */
class TextsTest {
    @Property(tries = 300)
    void aCutTextIsShortEnoughAndStaysWellFormed(@ForAll String text, @ForAll @IntRange(min = 2, max = 40) int most) {
        String cut = Texts.clip(text, most);
        assertThat(cut.length()).isLessThanOrEqualTo(most);
        if (Texts.wellFormed(text)) {
            assertThat(Texts.wellFormed(cut)).isTrue();
        }
        if (text.length() <= most) {
            assertThat(cut).isEqualTo(text);
        } else {
            assertThat(text).startsWith(cut.substring(0, cut.length() - 1));
        }
    }

    /** U+1F3AB takes two code units: one half of it is no text (RFC 8785). */
    @ParameterizedTest
    @CsvSource({"ab🎫cd, 4, ab…", "ab🎫cd, 5, ab🎫…", "ab🎫cd, 6, ab🎫cd", "🎫🎫, 3, 🎫…"})
    void aCharacterIsNeverCutInTwo(String text, int most, String cut) {
        assertThat(Texts.clip(text, most)).isEqualTo(cut);
    }

    @ParameterizedTest
    @CsvSource({
        "plain, true",
        "\uD83C\uDFAB, true",
        "\uD83C, false",
        "\uDFAB\uD83C, false",
        "a\uDFAB, false",
        "'', true"
    })
    void halvesOfCharactersAreNotWellFormed(String text, boolean formed) {
        assertThat(Texts.wellFormed(text)).isEqualTo(formed);
    }

    @ParameterizedTest
    @ValueSource(strings = {"I-1042", "a", "gate.close", "x_y-z.1", "9lives"})
    void shortWordsAreIds(String id) {
        Texts.checkId("thing", id);
    }

    @ParameterizedTest
    @ValueSource(strings = {"", "-a", ".a", "a b", "a/b", "ä", "a\n", "<a>"})
    void anythingElseIsNone(String id) {
        assertThatThrownBy(() -> Texts.checkId("thing", id))
                .isInstanceOf(IllegalArgumentException.class)
                .hasMessageContaining("thing");
    }

    @ParameterizedTest
    @CsvSource({
        "lock, true",
        "lockNumber2, true",
        "lock_number, true",
        "2lock, false",
        "lock-number, false",
        "'', false"
    })
    void wordsInExpressionsBeginWithALetter(String word, boolean fits) {
        boolean taken;
        try {
            Texts.checkWord("name", word);
            taken = true;
        } catch (IllegalArgumentException e) {
            taken = false;
        }
        assertThat(taken).isEqualTo(fits);
    }
}
