package dastur.store;

import dastur.core.run.Case;
import dastur.core.run.RunId;
import dastur.core.run.Standing;
import dastur.core.run.VisitId;
import dastur.core.ticket.TicketId;
import dastur.core.workflow.TriggerId;
import dastur.core.workflow.WorkflowKey;
import java.time.Instant;
import java.util.ArrayList;
import java.util.HashMap;
import java.util.HashSet;
import java.util.List;
import java.util.Map;
import java.util.Optional;
import java.util.Set;
import java.util.stream.Stream;
import org.hibernate.StatelessSession;
import org.hibernate.query.SelectionQuery;
import org.jspecify.annotations.Nullable;

/** Reads tickets: one, a list, what a person has to do. */
public final class Tickets {
    static final int PAGE = 50;

    /** Of runs: those on tickets in earnest. */
    static final String NO_TEST = "ticket not in (select t.id from TicketRow t where t.isTest = true)";

    /**
     * A ticket in a list.
     *
     * @param target what is due next of it, to respond or to restore; null when neither is
     * @param targetDue until when; null while it stands still
     * @param under the incident under which it stands folded; null while it stands by itself
     * @param folds how many open ones stand folded under it
     */
    public record Row(
            String number,
            String kind,
            String title,
            String state,
            boolean ended,
            String priority,
            @Nullable String requester,
            @Nullable String service,
            @Nullable String ci,
            @Nullable String group,
            @Nullable String assignee,
            Instant createdAt,
            Instant updatedAt,
            @Nullable String target,
            @Nullable Instant targetDue,
            boolean targetMissed,
            @Nullable String under,
            long folds) {}

    /**
     * Something a person may act on.
     *
     * @param held whether its run is on hold, so that no answer is taken just now
     * @param overseen whether it is offered to others, and the person only oversees it (U7)
     */
    public record WorkItem(
            String visit,
            String ticket,
            String ticketTitle,
            String priority,
            String kind,
            String name,
            String workflow,
            @Nullable Instant due,
            Instant openedAt,
            @Nullable String claimedBy,
            boolean held,
            boolean overseen) {
        private WorkItem marked(boolean nowHeld, boolean nowOverseen) {
            return new WorkItem(
                    visit,
                    ticket,
                    ticketTitle,
                    priority,
                    kind,
                    name,
                    workflow,
                    due,
                    openedAt,
                    claimedBy,
                    nowHeld,
                    nowOverseen);
        }
    }

    /** A run in a list. */
    public record RunRow(
            String id,
            String ticket,
            String workflow,
            int version,
            String name,
            String owner,
            @Nullable String trigger,
            String status,
            Instant startedAt,
            @Nullable Instant endedAt,
            @Nullable String result) {}

    private static final int TAKEN_AT_ONCE = 500;

    private final Database database;

    public Tickets(Database database) {
        this.database = database;
    }

    /** The numbers of all tickets after one of them, in order, a page at a time. */
    public List<TicketId> numbers(String after) {
        return database.read(session -> session
                .createSelectionQuery("select id from TicketRow where id > ?1 order by id", String.class)
                .setParameter(1, after)
                .setMaxResults(PAGE)
                .getResultList()
                .stream()
                .map(TicketId::new)
                .toList());
    }

    public Optional<Case> find(TicketId id) {
        return database.read(session -> Optional.ofNullable(session.get(Rows.HeadRow.class, id.value()))
                .map(row -> database.cases().load(session, row)));
    }

    /** The run that a visit of another ticket has called; empty when there is none. */
    public Optional<RunId> calledBy(VisitId visit) {
        return database.read(session -> session
                .createSelectionQuery("select id from RunRow where parent = ?1", String.class)
                .setParameter(1, visit.value())
                .getResultList()
                .stream()
                .map(RunId::new)
                .max(java.util.Comparator.naturalOrder()));
    }

    public Optional<Row> row(TicketId id) {
        return database.read(session ->
                rows(
                                session,
                                Stream.ofNullable(session.get(Rows.TicketRow.class, id.value()))
                                        .toList())
                        .stream()
                        .findFirst());
    }

    /** A page of the tickets that a filter lets through, in its order. */
    public Page<Row> list(TicketFilter filter) {
        foundByWords(filter);
        return database.read(session -> Page.of(rows(session, TicketSearch.page(session, filter, PAGE)), PAGE));
    }

    /** The first tickets of a list, over its pages; for taking a list along. */
    public List<Row> many(TicketFilter filter, int most) {
        foundByWords(filter);
        List<Row> all = new ArrayList<>();
        TicketFilter next = filter;
        boolean more = true;
        while (more && all.size() < most) {
            TicketFilter page = next;
            int size = Math.min(TAKEN_AT_ONCE, most - all.size());
            Page<Row> found =
                    database.read(session -> Page.of(rows(session, TicketSearch.page(session, page, size)), size));
            all.addAll(found.items());
            more = found.more();
            next = more ? filter.after(new TicketId(all.getLast().number())) : next;
        }
        return all;
    }

    /** What a list can be narrowed to: for each field the values that occur in it, with how often. */
    public List<Facet> facets(TicketFilter filter) {
        foundByWords(filter);
        return database.read(session -> TicketSearch.facets(session, filter));
    }

    /** Words follow behind the log; whoever searches shall find what was written a moment ago. */
    private void foundByWords(TicketFilter filter) {
        if (filter.text() != null && !filter.text().isBlank()) {
            database.sequencer().catchUp();
        }
    }

    /** How many tickets there are of each value of a field, most first. Left out for words that stand nearly everywhere. */
    public record Facet(String field, String value, long count) {}

    /** Rows of tickets, each with the time of its last entry. */
    private static List<Row> rows(StatelessSession session, List<Rows.TicketRow> tickets) {
        if (tickets.isEmpty()) {
            return List.of();
        }
        Map<String, Instant> updated = new HashMap<>();
        session.createSelectionQuery("from HeadRow where ticket in (?1)", Rows.HeadRow.class)
                .setParameterList(1, tickets.stream().map(t -> t.id).toList())
                .getResultList()
                .forEach(h -> updated.put(h.ticket, h.updatedAt));
        Map<String, Long> folds = new HashMap<>();
        session.createSelectionQuery(
                        "select folded, count(*) from TicketRow where folded in (?1) and ended = false group by folded",
                        Object[].class)
                .setParameterList(1, tickets.stream().map(t -> t.id).toList())
                .getResultList()
                .forEach(r -> folds.put((String) r[0], (Long) r[1]));
        return tickets.stream()
                .map(t -> row(t, updated.getOrDefault(t.id, t.createdAt), folds.getOrDefault(t.id, 0L)))
                .toList();
    }

    private static Row row(Rows.TicketRow r, Instant updatedAt, long folds) {
        return new Row(
                r.id,
                r.kind,
                r.title,
                r.state,
                r.ended,
                r.priority,
                r.requester,
                r.service,
                r.ci,
                r.team,
                r.assignee,
                r.createdAt,
                updatedAt,
                r.target,
                r.targetDue,
                r.targetMissed,
                r.folded,
                folds);
    }

    /** Open ones that stand folded under another, what was raised first comes first (I22). */
    public Page<Row> under(TicketId cause) {
        return database.read(session -> Page.of(
                rows(
                        session,
                        session.createSelectionQuery(
                                        "from TicketRow where folded = ?1 and ended = false order by createdAt, id",
                                        Rows.TicketRow.class)
                                .setParameter(1, cause.value())
                                .setMaxResults(PAGE + 1)
                                .getResultList()),
                PAGE));
    }

    /** Open tasks and approvals a person may act on, by themselves or through their groups; what is due first comes first. */
    public List<WorkItem> workFor(String person) {
        return database.read(session -> {
            Asked asked = asked(session, person);
            return marked(
                    session,
                    asked,
                    session.createSelectionQuery(
                                    "select distinct w, t.title, t.priority from WorkItemRow w join TicketRow t on t.id = w.ticket"
                                            + " where w.isOpen = true"
                                            + " and w.visit in (select f.key.visit from WorkForRow f where f.key.who in (?1))"
                                            + " order by w.due nulls last, w.openedAt",
                                    Object[].class)
                            .setParameterList(1, asked.all())
                            .setMaxResults(500)
                            .getResultList());
        });
    }

    /** Open items that are a person's by name, or that they claimed: what their cover takes over. */
    public List<WorkItem> workNamed(String person) {
        Asked asked = Asked.byName(person);
        return database.read(session -> marked(
                session,
                asked,
                session.createSelectionQuery(
                                "select distinct w, t.title, t.priority from WorkItemRow w join TicketRow t on t.id = w.ticket"
                                        + " where w.isOpen = true and (w.claimedBy = ?1 or w.visit in"
                                        + " (select f.key.visit from WorkForRow f where f.key.who in (?2)))"
                                        + " order by w.due nulls last, w.openedAt",
                                Object[].class)
                        .setParameter(1, person)
                        .setParameterList(2, asked.all())
                        .setMaxResults(200)
                        .getResultList()));
    }

    /**
     * Under which words a person stands among those who are asked.
     *
     * @param offered where something is offered to them
     * @param overseen where they oversee what is offered to others
     */
    private record Asked(String person, List<String> offered, List<String> overseen) {
        private static Asked of(String person, List<String> keys) {
            return new Asked(
                    person, keys, keys.stream().map(k -> Standing.OVERSEES + k).toList());
        }

        private static Asked byName(String person) {
            return of(person, List.of("p:" + person));
        }

        private List<String> all() {
            return Stream.concat(offered.stream(), overseen.stream()).toList();
        }
    }

    private static Asked asked(StatelessSession session, String person) {
        List<String> keys = new ArrayList<>(session.createSelectionQuery(
                        "select concat('g:', m.key.team) from TeamMemberRow m where m.key.person = ?1", String.class)
                .setParameter(1, person)
                .getResultList());
        keys.add("p:" + person);
        return Asked.of(person, keys);
    }

    /** Under which words a person stands among those who are asked, by themselves and through their groups. */
    public Set<String> standsAs(String person) {
        return Set.copyOf(database.read(session -> asked(session, person)).all());
    }

    /**
     * Whether a person is asked something on a ticket now, by themselves or through a group, has it in hand, or has done
     * something asked there before.
     */
    public boolean concerns(String person, TicketId ticket) {
        // Ids of items begin with the ticket's number and a dot or a slash, which is the last sign before the digits.
        String from = ticket.value() + ".";
        String before = ticket.value() + "0";
        return database.read(session -> session.createSelectionQuery(
                                        "select count(*) from WorkForRow f where f.key.visit >= ?1 and f.key.visit < ?2"
                                                + " and f.key.who in (?3)",
                                        Long.class)
                                .setParameter(1, from)
                                .setParameter(2, before)
                                .setParameterList(3, asked(session, person).all())
                                .getSingleResult()
                        + session.createSelectionQuery(
                                        "select count(*) from WorkItemRow w where w.visit >= ?1 and w.visit < ?2"
                                                + " and (w.closedBy = ?3 or w.claimedBy = ?4)",
                                        Long.class)
                                .setParameter(1, from)
                                .setParameter(2, before)
                                .setParameter(3, "p:" + person)
                                .setParameter(4, person)
                                .getSingleResult()
                > 0);
    }

    private static WorkItem item(Rows.WorkItemRow w, String title, String priority) {
        return new WorkItem(
                w.visit,
                w.ticket,
                title,
                priority,
                w.kind,
                w.name,
                w.workflow,
                w.due,
                w.openedAt,
                w.claimedBy,
                false,
                false);
    }

    /** Items from their rows, saying which are on hold with their runs, and which one only oversees. */
    private static List<WorkItem> marked(StatelessSession session, Asked asked, List<Object[]> rows) {
        if (rows.isEmpty()) {
            return List.of();
        }
        List<WorkItem> items = rows.stream()
                .map(r -> item((Rows.WorkItemRow) r[0], (String) r[1], (String) r[2]))
                .toList();
        List<String> held = session.createSelectionQuery(
                        "select r.id from RunRow r where r.status = 'held' and r.ticket in (?1)", String.class)
                .setParameterList(
                        1, items.stream().map(WorkItem::ticket).distinct().toList())
                .getResultList();
        Set<String> overseen = new HashSet<>(session.createSelectionQuery(
                        "select f.key.visit from WorkForRow f where f.key.visit in (?1) and f.key.who in (?2)",
                        String.class)
                .setParameterList(1, items.stream().map(WorkItem::visit).toList())
                .setParameterList(2, asked.overseen())
                .getResultList());
        // Whoever is offered it too, or has it in hand, does more than oversee it.
        overseen.removeAll(session.createSelectionQuery(
                        "select f.key.visit from WorkForRow f where f.key.visit in (?1) and f.key.who in (?2)",
                        String.class)
                .setParameterList(1, overseen.isEmpty() ? List.of("") : List.copyOf(overseen))
                .setParameterList(2, asked.offered())
                .getResultList());
        return items.stream()
                .map(w -> w.marked(
                        held.stream().anyMatch(run -> w.visit().startsWith(run + ".")),
                        overseen.contains(w.visit()) && !asked.person().equals(w.claimedBy())))
                .toList();
    }

    /** What a person did last, newest first. */
    public List<WorkItem> doneBy(String person) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select w, t.title, t.priority from DoneRow d join WorkItemRow w on w.visit = d.key.visit"
                                + " and w.closedBy = d.key.who and w.closedAt = d.key.at"
                                + " join TicketRow t on t.id = w.ticket where d.key.who = ?1 order by d.key.at desc",
                        Object[].class)
                .setParameter(1, "p:" + person)
                .setMaxResults(50)
                .getResultList()
                .stream()
                .map(r -> item((Rows.WorkItemRow) r[0], (String) r[1], (String) r[2]))
                .toList());
    }

    /** What others have to do on tickets that a person asked for or has. */
    public List<WorkItem> waitingFor(String person) {
        return database.read(session -> {
            Asked asked = asked(session, person);
            return marked(
                    session,
                    asked,
                    session.createSelectionQuery(
                                    "select w, t.title, t.priority from WorkItemRow w join TicketRow t on t.id = w.ticket"
                                            + " where w.isOpen = true and w.kind <> 'held start'"
                                            + " and t.ended = false and (t.requester = ?1 or t.assignee = ?1)"
                                            + " and w.visit not in (select f.key.visit from WorkForRow f where f.key.who in (?2))"
                                            + " order by w.due nulls last, w.openedAt",
                                    Object[].class)
                            .setParameter(1, person)
                            .setParameterList(2, asked.all())
                            .setMaxResults(100)
                            .getResultList());
        });
    }

    /**
     * A ticket on which a start is held back (I27).
     *
     * @param since when it would have started
     */
    public record HeldStart(String ticket, String title, Instant since) {}

    /**
     * What a trigger holds back.
     *
     * @param since when the oldest would have started
     */
    public record HeldStarts(TriggerId trigger, long count, Instant since) {}

    /** Which triggers hold starts back. */
    public List<HeldStarts> heldStarts() {
        return database.read(session -> session
                .createSelectionQuery(
                        "select f.key.who, count(*), min(w.openedAt) from WorkForRow f join WorkItemRow w"
                                + " on w.visit = f.key.visit where f.key.who >= ?1 and f.key.who < ?2"
                                + " group by f.key.who order by f.key.who",
                        Object[].class)
                .setParameter(1, Standing.HOLDS)
                // The range of what begins so: the sign after a colon.
                .setParameter(2, "h;")
                .getResultList()
                .stream()
                .map(r -> new HeldStarts(
                        new TriggerId(((String) r[0]).substring(Standing.HOLDS.length())), (Long) r[1], (Instant) r[2]))
                .toList());
    }

    /** Starts of a trigger that are held back, the oldest first. @param most at most so many */
    public List<HeldStart> heldStarts(TriggerId trigger, int most) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select w.ticket, t.title, w.openedAt from WorkItemRow w join TicketRow t on t.id = w.ticket"
                                + " where w.isOpen = true and w.visit in"
                                + " (select f.key.visit from WorkForRow f where f.key.who = ?1)"
                                + " order by w.openedAt, w.visit",
                        Object[].class)
                .setParameter(1, Standing.HOLDS + trigger)
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(r -> new HeldStart((String) r[0], (String) r[1], (Instant) r[2]))
                .toList());
    }

    /** Open tickets that a person has, the gravest and oldest first. */
    public List<Row> heldBy(String person) {
        return database.read(session -> rows(
                session,
                session.createSelectionQuery(
                                "from TicketRow t where t.assignee = ?1 and t.ended = false order by t.priority, t.createdAt, t.id",
                                Rows.TicketRow.class)
                        .setParameter(1, person)
                        .setMaxResults(100)
                        .getResultList()));
    }

    /** Stalled runs of workflows a person owns. */
    public List<RunRow> stalledOf(String owner) {
        return runs("from RunRow where status = 'stalled' and owner = ?1 order by startedAt", owner, 100);
    }

    public List<RunRow> runsOf(TicketId ticket) {
        return runs("from RunRow where ticket = ?1 order by startedAt, id", ticket.value(), 200);
    }

    /** Runs that a trigger started, newest first: its firings (N33). */
    public List<RunRow> firingsOf(String trigger) {
        return runs("from RunRow where triggerId = ?1 order by startedAt desc", trigger, 50);
    }

    private List<RunRow> runs(String hql, String value, int most) {
        return database.read(session -> session
                .createSelectionQuery(hql, Rows.RunRow.class)
                .setParameter(1, value)
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(Tickets::run)
                .toList());
    }

    private static RunRow run(Rows.RunRow r) {
        return new RunRow(
                r.id,
                r.ticket,
                r.workflow,
                r.version,
                r.name,
                r.owner,
                r.triggerId,
                r.status,
                r.startedAt,
                r.endedAt,
                r.result);
    }

    /**
     * Runs, newest first, a page at a time.
     *
     * @param statuses any of these; empty for all
     * @param workflow only of this one; null for all
     * @param after the last run of the page before; null for the first page
     */
    public Page<RunRow> runs(List<String> statuses, @Nullable String workflow, @Nullable String after) {
        return database.read(session -> {
            Rows.RunRow last = after == null ? null : session.get(Rows.RunRow.class, after);
            String hql = "from RunRow where " + NO_TEST
                    + (statuses.isEmpty() ? "" : " and status in (:statuses)")
                    + (workflow == null ? "" : " and workflow = :workflow")
                    + (last == null ? "" : " and (startedAt < :at or startedAt = :at and id > :id)")
                    + " order by startedAt desc, id";
            SelectionQuery<Rows.RunRow> query = session.createSelectionQuery(hql, Rows.RunRow.class);
            if (!statuses.isEmpty()) {
                query.setParameterList("statuses", statuses);
            }
            if (workflow != null) {
                query.setParameter("workflow", workflow);
            }
            if (last != null) {
                query.setParameter("at", last.startedAt).setParameter("id", last.id);
            }
            return Page.of(
                    query.setMaxResults(PAGE + 1).getResultList().stream()
                            .map(Tickets::run)
                            .toList(),
                    PAGE);
        });
    }

    /** Open runs of a workflow on other versions than one, oldest first. */
    public List<RunRow> openOnOther(WorkflowKey workflow, int version, int most) {
        return database.read(session -> session
                .createSelectionQuery(
                        "from RunRow where workflow = ?1 and version <> ?2 and endedAt is null order by startedAt, id",
                        Rows.RunRow.class)
                .setParameter(1, workflow.value())
                .setParameter(2, version)
                .setMaxResults(most)
                .getResultList()
                .stream()
                .map(Tickets::run)
                .toList());
    }

    /** Open tickets that have something with people waiting, in the order of their numbers after one; a page at a time. */
    public List<TicketId> withOpenWork(String after) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select distinct ticket from WorkItemRow where isOpen = true and ticket > ?1 order by ticket",
                        String.class)
                .setParameter(1, after)
                .setMaxResults(PAGE)
                .getResultList()
                .stream()
                .map(TicketId::new)
                .toList());
    }

    /** Tickets on a CI that have an open approval: it may show something of the CI (D18). */
    public List<TicketId> withApprovalsOn(String ci, TicketId except) {
        return database.read(session -> session
                .createSelectionQuery(
                        "select distinct w.ticket from WorkItemRow w join TicketRow t on t.id = w.ticket"
                                + " where w.isOpen = true and w.kind = 'approval' and t.ci = ?1 and t.id <> ?2",
                        String.class)
                .setParameter(1, ci)
                .setParameter(2, except.value())
                .setMaxResults(500)
                .getResultList()
                .stream()
                .map(TicketId::new)
                .toList());
    }

    /** Counts shown beside the places: open tickets and stalled runs. */
    public record Counts(long openTickets, long stalledRuns) {}

    public Counts counts() {
        return database.read(session -> new Counts(
                count(
                        session,
                        "select count(*) from TicketRow where ended = false and isTest = false and kind <> 'routine'"
                                + " and folded is null"),
                count(session, "select count(*) from RunRow where status = 'stalled' and " + NO_TEST)));
    }

    private static long count(StatelessSession session, String hql) {
        return session.createSelectionQuery(hql, Long.class).getSingleResult();
    }
}
