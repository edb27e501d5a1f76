package dastur.store;

import dastur.core.record.Seal;
import dastur.core.run.Event;
import dastur.core.ticket.TicketId;
import jakarta.persistence.Embeddable;
import jakarta.persistence.EmbeddedId;
import jakarta.persistence.Entity;
import jakarta.persistence.Table;
import java.io.Serializable;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.Arrays;
import java.util.List;
import java.util.Locale;
import java.util.stream.Collectors;
import org.hibernate.StatelessSession;

/** Finds tickets by the words that stand on their records (N6): what people wrote, not what machines logged. */
final class Words {
    /** More words of one entry are not kept; nobody looks for the thousandth word of a log. */
    private static final int MOST = 200;

    private static final int LONGEST = 40;

    @Embeddable
    record Key(String word, String ticket, long seq) implements Serializable {}

    @Entity(name = "TicketWordRow")
    @Table(name = "ticket_word")
    static class Row {
        @EmbeddedId
        Key key;
    }

    private Words() {}

    /** Words of a text in small letters, without the shortest, each once. */
    static List<String> of(String text) {
        return Arrays.stream(text.toLowerCase(Locale.ROOT).split("[^\\p{L}\\p{N}]+"))
                .filter(w -> w.length() > 1)
                .map(w -> w.length() > LONGEST ? w.substring(0, LONGEST) : w)
                .distinct()
                .limit(MOST)
                .toList();
    }

    private static final String PROGRESS = "words";
    private static final int AT_ONCE = 500;

    /** A change in the log, with where the one of the same ticket before it ended. */
    private record Leaf(long number, String ticket, long seq, long before) {}

    /** Keeps the words of what the log holds and was not read yet. Behind the commit, from a mark that is kept (K5). */
    static void follow(Database database) {
        while (some(database) == AT_ONCE) {
            // Each in a transaction of its own.
        }
    }

    private static int some(Database database) {
        return database.writeIf(
                session -> {
                    if (!session.<Boolean>doReturningWork(Words::isBehind)) {
                        return 0;
                    }
                    List<Leaf> leaves = session.doReturningWork(c -> Jdbc.query(
                            c,
                            "select l.number, l.ticket, l.seq, coalesce((select max(b.seq) from log_leaf b"
                                    + " where b.ticket = l.ticket and b.seq < l.seq), 0) from log_leaf l"
                                    + " where l.number >= (select upto from progress where name = '" + PROGRESS + "')"
                                    + " order by l.number fetch first " + AT_ONCE + " rows only",
                            r -> new Leaf(r.getLong(1), r.getString(2), r.getLong(3), r.getLong(4))));
                    if (!leaves.isEmpty()) {
                        List<Object[]> words = new ArrayList<>();
                        leaves.forEach(leaf -> read(session, leaf, words));
                        session.doWork(c -> {
                            Jdbc.batch(c, "insert into ticket_word (word, ticket, seq) values (?, ?, ?)", words);
                            Jdbc.update(
                                    c,
                                    "update progress set upto = ? where name = '" + PROGRESS + "'",
                                    leaves.getLast().number() + 1);
                        });
                    }
                    return leaves.size();
                },
                count -> count > 0);
    }

    /** Locks the row of how far words have come, where they are behind: another node waits, and finds them written. */
    private static boolean isBehind(Connection c) throws SQLException {
        return Jdbc.update(
                        c,
                        "update progress set upto = upto where name = '" + PROGRESS
                                + "' and upto < (select size from log_state where id = 1)")
                == 1;
    }

    private static void read(StatelessSession session, Leaf leaf, List<Object[]> words) {
        if (leaf.ticket().startsWith("epoch ") || leaf.ticket().equals(Journal.RECORD)) {
            return;
        }
        // An entry that was redacted meanwhile is read without what it said.
        Records.read(session, new TicketId(leaf.ticket()), leaf.before(), leaf.seq())
                .forEach(e -> of(text(Seal.open(e).event()))
                        .forEach(word -> words.add(new Object[] {word, leaf.ticket(), e.seq()})));
    }

    private static String text(Event event) {
        return event.words().map(String::valueOf).collect(Collectors.joining(" "));
    }
}
