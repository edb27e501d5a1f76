package dastur.store;

import dastur.core.ticket.TicketId;
import java.util.List;

/**
 * Everything that one change of a ticket writes, decided before the database is touched (K1): which rows must still be as
 * they were seen, and what is written if they are.
 *
 * @param grewFrom the head of the record that it was decided on
 * @param head the head after it; the same where nothing is entered
 * @param seq the number of the last entry after it
 * @param writes in the order of {@link Write#ORDER}
 * @param bytes about how many it writes
 */
record Change(TicketId ticket, String grewFrom, String head, long seq, List<Write> writes, long bytes) {
    Change(TicketId ticket, String grewFrom, String head, long seq, List<Write> writes) {
        this(
                ticket,
                grewFrom,
                head,
                seq,
                writes.stream().sorted(Write.ORDER).toList(),
                writes.stream().mapToLong(Write::size).sum());
    }

    /** Whether it enters something into the record. */
    boolean enters() {
        return !head.equals(grewFrom);
    }

    /** Whether it takes the next number for a new ticket. */
    boolean raises() {
        return writes.stream().anyMatch(w -> w.sql() == Sql.COUNTER);
    }
}
