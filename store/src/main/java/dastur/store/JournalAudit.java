package dastur.store;

import dastur.core.record.Seal;
import dastur.store.Audit.Finding;
import java.sql.Connection;
import java.sql.SQLException;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import org.hibernate.StatelessSession;

/**
 * Whether the journal is what was written, and whether accounts, groups, services and all that is kept as documents are what the
 * journal says they were set to (K17). CIs change with tickets too, so their lines are not compared with them.
 */
final class JournalAudit {
    private static final String WHERE = "journal";

    private final Database database;
    private final RecordLog log;

    JournalAudit(Database database, RecordLog log) {
        this.database = database;
        this.log = log;
    }

    List<Finding> run() {
        List<Finding> findings = new ArrayList<>();
        database.still(session -> {
            List<Journal.Row> lines = session.createSelectionQuery(
                            "from JournalRow where seq is not null order by seq", Journal.Row.class)
                    .getResultList();
            LogTimes times = log.times(session);
            session.doWork(c -> chain(c, lines, times, findings));
            if (findings.isEmpty()) {
                lines.stream()
                        .filter(l -> l.setHash != null)
                        .collect(
                                HashMap<List<String>, Journal.Row>::new,
                                (all, l) -> all.put(List.of(l.subject, l.subjectId), l),
                                Map::putAll)
                        .values()
                        .forEach(l -> asSet(session, l).ifPresent(findings::add));
            }
            return findings;
        });
        return findings;
    }

    /** Each line follows the one before, and all that the log holds are there. */
    private static void chain(Connection c, List<Journal.Row> lines, LogTimes times, List<Finding> findings)
            throws SQLException {
        String previous = Seal.START;
        long seq = 0;
        Map<Long, Journal.Row> chained = new HashMap<>();
        for (Journal.Row line : lines) {
            long own = Objects.requireNonNull(line.seq);
            if (own != ++seq) {
                findings.add(new Finding(WHERE, seq, "line " + seq + " is not there: it was removed"));
                return;
            }
            if (!Seal.hash(line.sealed(previous)).equals(line.hash)) {
                findings.add(new Finding(WHERE, seq, "line " + seq + " does not have its hash: it was altered"));
                return;
            }
            previous = line.hash;
            chained.put(seq, line);
        }
        for (RecordLog.Leaf leaf : RecordLog.leaves(c, Journal.RECORD)) {
            Journal.Row line = chained.get(leaf.seq());
            Optional<String> wrong = line == null || !leaf.hash().equals(line.hash)
                    ? Optional.of("the log holds another line " + leaf.seq()
                            + ": the journal was written anew, or its end was removed")
                    : times.outside(leaf.number(), line.at);
            if (wrong.isPresent()) {
                findings.add(new Finding(WHERE, leaf.seq(), wrong.get()));
                return;
            }
        }
    }

    /** Whether what a line set is still so: no later line says otherwise. */
    private static Optional<Finding> asSet(StatelessSession session, Journal.Row line) {
        if (!AsSet.isCompared(line.subject)) {
            return Optional.empty();
        }
        return AsSet.hash(session, line.subject, line.subjectId).equals(line.setHash)
                ? Optional.empty()
                : Optional.of(new Finding(
                        WHERE,
                        Objects.requireNonNull(line.seq),
                        line.subject + " " + line.subjectId + " is not what line " + line.seq
                                + " says it was set to: it was changed past the application"));
    }
}
