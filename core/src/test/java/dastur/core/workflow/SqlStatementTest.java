package dastur.core.workflow;

import static org.assertj.core.api.Assertions.assertThat;

import java.util.Optional;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;
import org.junit.jupiter.params.provider.ValueSource;

/** What is one statement, and where a value may stand in it; # stands for a value here. */
class SqlStatementTest {
    private static String marked(String text) {
        return text.replace('#', SqlStatement.MARK);
    }

    private static String sent(String text) throws SqlStatement.Unfit {
        return SqlStatement.of(marked(text), "QUERY").text();
    }

    @Test
    void aValueStandsBesideTheTextAndAQuestionMarkStaysOne() throws SqlStatement.Unfit {
        assertThat(sent("select a from b where c = # and d ? 'x?' -- why?\n;"))
                .isEqualTo("select a from b where c = ? and d ?? 'x?' -- why?\n");
        assertThat(sent("select $$;?$$, $q$ $$ ; $q$, e'\\';', \";\" /* ; /* ; */ ; */"))
                .isEqualTo("select $$;?$$, $q$ $$ ; $q$, e'\\';', \";\" /* ; /* ; */ ; */");
        assertThat(sent("select a$b$c from x")).as("a name with dollars").isEqualTo("select a$b$c from x");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {
                "select 1; drop table gate",
                "select 1;;",
                "select '\\'; drop table gate --'",
                "select $$a$$; select 2",
                "select /* x */ 1; /* y */ delete from gate",
            })
    void moreThanOneIsRefused(String text) {
        assertThat(SqlStatement.problem(text, "QUERY")).contains("It is more than one statement.");
    }

    @ParameterizedTest
    @ValueSource(
            strings = {"select '#'", "select \"#\"", "select $$#$$", "select 1 -- #", "select 1 /* # */", "select e'#'"
            })
    void aValueStandsInNoQuotesAndNoComment(String text) {
        assertThat(SqlStatement.problem(marked(text), "QUERY").orElse("")).startsWith("A value stands in ");
    }

    @ParameterizedTest
    @CsvSource(
            delimiter = '|',
            quoteCharacter = '`',
            value = {
                "select 'a        | A quote is not closed.",
                "select \"a      | A quote is not closed.",
                "select $x$ a $y$ | The quotes $x$ are not closed.",
                "select /* /* */  | A comment is not closed.",
                "select $1        | A value is put in by {{ input.… }}, not by $1.",
            })
    void whatIsNotClosedIsRefused(String text, String why) {
        assertThat(SqlStatement.problem(text, "QUERY")).contains(why);
    }

    @ParameterizedTest
    @CsvSource({
        "QUERY, select 1, true",
        "QUERY, WITH x AS (select 1) select * from x, true",
        "QUERY, (select 1), false",
        "QUERY, delete from gate, false",
        "QUERY, set transaction read write, false",
        "QUERY, copy gate to stdout, false",
        "CHANGE, delete from gate, true",
        "CHANGE, drop table gate, false",
        "CHANGE, commit, false",
    })
    void aQueryAsksAndAChangeChangesRowsAndNothingElse(String method, String text, boolean fits) {
        assertThat(SqlStatement.problem(text, method).isEmpty()).isEqualTo(fits);
    }

    @Test
    void nothingIsNoStatement() {
        assertThat(SqlStatement.problem(" -- nothing", "QUERY")).isNotEqualTo(Optional.empty());
    }
}
