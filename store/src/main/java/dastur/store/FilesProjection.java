package dastur.store;

import dastur.core.run.Event;
import dastur.core.run.Recorded;
import dastur.core.ticket.TicketId;
import org.hibernate.StatelessSession;

/** Keeps which ticket refers to which stored bytes, so that bytes nobody refers to any more can go. */
final class FilesProjection {
    private final StatelessSession session;
    private final TicketId ticket;

    FilesProjection(StatelessSession session, TicketId ticket) {
        this.session = session;
        this.ticket = ticket;
    }

    void attached(Recorded r, Event.FileAttached e) {
        Files.UseRow row = new Files.UseRow();
        row.key = new Files.UseKey(ticket.value(), r.seq());
        row.hash = e.hash();
        session.insert(row);
    }

    /** An entry's content was taken away: of a file, its bytes go too, unless another entry still shows them (D22). */
    void redacted(long seq) {
        Files.UseRow row = session.get(Files.UseRow.class, new Files.UseKey(ticket.value(), seq));
        if (row != null) {
            session.delete(row);
            Files.dropUnused(session, row.hash);
        }
    }
}
