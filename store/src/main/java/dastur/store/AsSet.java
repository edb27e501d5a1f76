package dastur.store;

import dastur.core.record.Seal;
import dastur.core.workflow.Trigger;
import java.util.List;
import java.util.Set;
import org.hibernate.StatelessSession;

/** The hash of what something is now, as a line of the journal that set it names it (K17). */
final class AsSet {
    /** Of what is not there, so that a line can say that something was taken away. */
    static final String NOTHING = "";

    static final String KNOWN_ANSWER = "known answer";
    static final String SECRET = "secret";
    static final String TRIGGERS = "triggers";
    static final String WORKFLOW = "workflow";
    private static final Set<String> OWN =
            Set.of(KNOWN_ANSWER, SECRET, TRIGGERS, WORKFLOW, VersionSeal.SUBJECT, Actions.SUBJECT);

    /** How a workflow stands. @param live the number of its live version, 0 for none */
    record Standing(int live, boolean retired) {}

    /** What starts a workflow, in its order. */
    record Starts(List<Trigger> triggers) {}

    private AsSet() {}

    /** Whether the audit compares what lines about such a subject set with what is there. */
    static boolean isCompared(String subject) {
        return OWN.contains(subject) || SetUp.isCompared(subject);
    }

    static String hash(StatelessSession session, String subject, String id) {
        return switch (subject) {
            case VersionSeal.SUBJECT -> {
                int at = id.lastIndexOf(' ');
                Rows.WorkflowVersionRow row = session.get(
                        Rows.WorkflowVersionRow.class,
                        new Rows.WorkflowVersionKey(id.substring(0, at), Integer.parseInt(id.substring(at + 1))));
                yield row == null ? NOTHING : Seal.hash(row.body);
            }
            case Actions.SUBJECT -> Actions.hash(session, id);
            case SECRET -> StoredSecrets.hash(session, id);
            case WORKFLOW -> {
                Rows.WorkflowRow row = session.get(Rows.WorkflowRow.class, id);
                yield row == null ? NOTHING : Journal.hashOf(standing(row));
            }
            case TRIGGERS -> Journal.hashOf(new Starts(Workflows.triggersOf(session, id)));
            case KNOWN_ANSWER ->
                KnownAnswers.words(session, id).map(Journal::hashOf).orElse(NOTHING);
            default -> {
                Object now = SetUp.now(session, subject, id);
                yield now == null ? NOTHING : Journal.hashOf(now);
            }
        };
    }

    static Standing standing(Rows.WorkflowRow row) {
        return new Standing(row.liveVersion == null ? 0 : row.liveVersion, row.retired);
    }
}
