package dastur.store;

import dastur.core.record.Seal;
import dastur.core.workflow.WorkflowKey;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;

/**
 * Published versions are what was published: the journal names the hash of each, and one that is another is not used (K17).
 * Versions of before the journal named them are taken as they are.
 */
final class VersionSeal {
    /** By what the journal knows a version. */
    static final String SUBJECT = "workflow version";

    private VersionSeal() {}

    static String id(WorkflowKey key, int number) {
        return key.value() + " " + number;
    }

    /** A version as it is kept; empty when there is none. @throws Altered when it is not the one that was published */
    static Optional<String> body(StatelessSession session, WorkflowKey key, int number) {
        Rows.WorkflowVersionRow row =
                session.get(Rows.WorkflowVersionRow.class, new Rows.WorkflowVersionKey(key.value(), number));
        if (row == null) {
            return Optional.empty();
        }
        List<String> published = session.createSelectionQuery(
                        "select setHash from JournalRow where subject = ?1 and subjectId = ?2 and setHash is not null"
                                + " order by seq desc",
                        String.class)
                .setParameter(1, SUBJECT)
                .setParameter(2, id(key, number))
                .setMaxResults(1)
                .getResultList();
        if (!published.isEmpty() && !published.getFirst().equals(Seal.hash(row.body))) {
            throw new Altered("Version " + number + " of the workflow '" + key
                    + "' is not the one that was published: it was changed past the application. It is not used; what goes on"
                    + " by it stands still until the one that was published is put back.");
        }
        return Optional.of(row.body);
    }

    static Optional<String> hash(StatelessSession session, WorkflowKey key, int number) {
        return body(session, key, number).map(Seal::hash);
    }
}
