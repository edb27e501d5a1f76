package dastur.store;

import dastur.core.run.RunId;
import dastur.core.start.Around;
import dastur.core.ticket.CiId;
import dastur.core.ticket.ServiceId;
import dastur.core.ticket.TicketId;
import dastur.core.ticket.TicketKind;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.List;
import java.util.Optional;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/** What a decision stands among: what else goes on at a CI, and how a workflow ended before. */
public final class Neighbours {
    private static final int OTHERS = 5;
    private static final int RUNS = 200;

    /** Another open ticket on the same CI. */
    public record Other(String number, String kind, String title, String state, String priority) {}

    /**
     * What goes on at a CI beside one ticket.
     *
     * @param openOnCi how many tickets are open
     * @param recentOnCi how many were raised lately, open or not
     * @param others the first of the open ones: changes first, then what burns most
     */
    public record Neighbourhood(long openOnCi, long recentOnCi, List<Other> others) {
        /** Of a ticket without a CI. */
        public static final Neighbourhood NONE = new Neighbourhood(0, 0, List.of());
    }

    /** How often runs ended in one way. @param result as the workflow names it, or that the run was stopped */
    public record Ending(String result, long times) {}

    private final Database database;

    public Neighbours(Database database) {
        this.database = database;
    }

    public Neighbourhood around(CiId ci, TicketId except, Instant since) {
        return database.read(session -> {
            long open = session.createSelectionQuery(
                            "select count(*) from TicketRow where isTest = false and ci = ?1 and id <> ?2 and ended = false",
                            Long.class)
                    .setParameter(1, ci.value())
                    .setParameter(2, except.value())
                    .getSingleResult();
            long recent = session.createSelectionQuery(
                            "select count(*) from TicketRow where isTest = false and ci = ?1 and id <> ?2 and createdAt > ?3",
                            Long.class)
                    .setParameter(1, ci.value())
                    .setParameter(2, except.value())
                    .setParameter(3, since)
                    .getSingleResult();
            List<Other> others = open == 0
                    ? List.of()
                    : session
                            .createSelectionQuery(
                                    "from TicketRow where isTest = false and ci = ?1 and id <> ?2 and ended = false"
                                            + " order by case when kind = 'change' then 0 else 1 end, priority, createdAt desc, id",
                                    Rows.TicketRow.class)
                            .setParameter(1, ci.value())
                            .setParameter(2, except.value())
                            .setMaxResults(OTHERS)
                            .getResultList()
                            .stream()
                            .map(t -> new Other(t.id, t.kind, t.title, t.state, t.priority))
                            .toList();
            return new Neighbourhood(open, recent, others);
        });
    }

    /**
     * Changes that are scheduled or implementing and list a CI, or list a service and no CI: who names a gate does not mean the
     * whole service. In the order of their numbers.
     */
    public List<Around.PlannedWork> planned(@Nullable CiId ci, @Nullable ServiceId service) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select id from TicketRow where (ci = ?1 or ci is null and service = ?2) and ended = false"
                                + " and isTest = false and kind = 'change' and state in ('scheduled', 'implementing') order by id",
                        String.class)
                .setParameter(1, ci == null ? "" : ci.value())
                .setParameter(2, service == null ? "" : service.value())
                .getResultList()
                .stream()
                .map(id -> planned(session, id))
                .flatMap(Optional::stream)
                .toList());
    }

    /** How a change stands that may explain faults; empty where it can do so no more. */
    public Optional<Around.PlannedWork> planned(TicketId change) {
        return database.read(session -> planned(session, change.value()));
    }

    private Optional<Around.PlannedWork> planned(StatelessSession session, String change) {
        return Optional.ofNullable(session.get(Rows.HeadRow.class, change))
                .map(row -> database.cases().load(session, row))
                .filter(c -> !TicketKind.ended(c.state()))
                .map(c -> new Around.PlannedWork(
                        c.id(),
                        c.state(),
                        c.text("plannedStart").map(Instant::parse).orElse(null),
                        c.text("plannedEnd").map(Instant::parse).orElse(null)));
    }

    /** How the last runs of a workflow ended, the most frequent first; of the last 200 begun, but for one. */
    public List<Ending> endings(WorkflowKey workflow, @Nullable RunId except) {
        return database.read(session -> session
                .createNativeQuery(
                        "select coalesce(r.result, 'stopped') as ending, count(*) as times from"
                                + " (select id, status, result from run where workflow = ?1 order by started_at desc"
                                + " fetch first ?2 rows only) r"
                                + " where r.status in ('finished', 'stopped') and r.id <> ?3"
                                + " group by coalesce(r.result, 'stopped') order by times desc, ending",
                        Object[].class)
                .setParameter(1, workflow.value())
                .setParameter(2, RUNS)
                .setParameter(3, except == null ? "" : except.value())
                .getResultList()
                .stream()
                .map(row -> new Ending((String) row[0], ((Number) row[1]).longValue()))
                .toList());
    }
}
