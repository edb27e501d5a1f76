package dastur.store;

import static org.assertj.core.api.Assertions.assertThat;

import java.sql.Connection;
import java.sql.SQLException;
import java.sql.Statement;
import java.util.List;
import org.junit.jupiter.api.AfterAll;
import org.junit.jupiter.api.BeforeAll;
import org.junit.jupiter.api.Test;
import org.junit.jupiter.params.ParameterizedTest;
import org.junit.jupiter.params.provider.CsvSource;

/** Searching by words, where some stand in nearly every ticket and some in one (N6). */
class WordsTest {
    private static final int TICKETS = 2_500;

    private static Database database;

    @BeforeAll
    static void open() throws SQLException {
        database = Stores.empty();
        String all = " from " + (Stores.onServer() ? "generate_series" : "system_range") + "(1, " + TICKETS + ") n (x)";
        try (Connection connection = database.dataSource().getConnection();
                Statement s = connection.createStatement()) {
            s.execute("insert into ticket (id, kind, title, state, ended, priority, requester, created_at)"
                    + " select 'F-' || n.x, 'incident', 'x', 'logged', false, 'P3', 'ada', current_timestamp - n.x * interval '1' second"
                    + all);
            for (String word : List.of("'everywhere'", "'common'", "'only' || n.x")) {
                s.execute("insert into ticket_word (word, ticket, seq) select " + word + ", 'F-' || n.x, 1" + all);
            }
            connection.commit();
        }
    }

    @AfterAll
    static void close() {
        database.close();
    }

    private static TicketFilter of(String text) {
        return TicketFilter.all().text(text).open(true).build();
    }

    @ParameterizedTest
    @CsvSource({
        "only2401, F-2401",
        "everywhere only2401, F-2401",
        "only2401 COMM, F-2401",
        "common everywhere only77x, ",
        "only2401 only2402, "
    })
    void aRareWordLeadsToItsTicketsWhateverStandsBesideIt(String text, String ticket) {
        List<String> found = new Tickets(database)
                .list(of(text)).items().stream().map(Tickets.Row::number).toList();
        assertThat(found).isEqualTo(ticket == null ? List.of() : List.of(ticket));
    }

    @Test
    void wordsThatStandEverywhereGiveTheNewestAPageAtATime() {
        Tickets tickets = new Tickets(database);
        Page<Tickets.Row> first = tickets.list(of("everywhere common"));
        assertThat(first.items().getFirst().number()).isEqualTo("F-1");
        assertThat(first.more()).isTrue();
        assertThat(tickets.facets(of("everywhere common"))).isEmpty();
        assertThat(tickets.facets(of("everywhere only5")))
                .anyMatch(f -> f.field().equals("kind") && f.value().equals("incident") && f.count() > 0);
    }

    @Test
    void aTextIsTakenApartIntoWordsEachOnce() {
        assertThat(Words.of("Gate 2: the gate's arm, Ärmel & ALD-G2!"))
                .containsExactly("gate", "the", "arm", "ärmel", "ald", "g2");
    }
}
