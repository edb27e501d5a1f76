package dastur.store;

import com.fasterxml.jackson.core.JsonProcessingException;
import com.fasterxml.jackson.databind.JsonNode;
import dastur.core.json.Json;
import dastur.core.record.Checkpoint;
import dastur.core.record.Entry;
import dastur.core.record.MerkleTree;
import dastur.core.record.Seal;
import dastur.core.record.Witnessed;
import dastur.core.run.Case;
import dastur.core.ticket.TicketId;
import java.sql.Connection;
import java.sql.SQLException;
import java.time.Instant;
import java.time.OffsetDateTime;
import java.util.ArrayList;
import java.util.HashSet;
import java.util.HexFormat;
import java.util.List;
import java.util.Map;
import java.util.Objects;
import java.util.Optional;
import java.util.Set;
import java.util.TreeMap;
import java.util.function.Consumer;
import java.util.function.Supplier;
import org.hibernate.StatelessSession;
import org.jspecify.annotations.Nullable;

/**
 * Goes through everything that is kept and says what is not as it was written (K11, K12): the log against its tree and its
 * signed checkpoints, every record against the log, what stands beside records against the records.
 */
public final class Audit {
    private static final int PAGE = 2_000;

    /**
     * Something that is not as it was written.
     *
     * @param where a ticket's number, or "log"
     * @param seq from which entry on, or which leaf; 0 where it concerns all
     */
    public record Finding(String where, long seq, String what) {}

    /** What was gone through. */
    public record Report(long leaves, long checkpoints, long tickets, long entries, List<Finding> findings) {}

    private final Database database;
    private final RecordLog log;
    private final Records records;
    private final Witnessed.Receipts receipts;

    public Audit(Database database, RecordLog log) {
        this(database, log, Witnessed.Receipts.NONE);
    }

    /** @param receipts looks at what witnesses gave back */
    public Audit(Database database, RecordLog log, Witnessed.Receipts receipts) {
        this.receipts = receipts;
        this.database = database;
        this.log = log;
        this.records = new Records(database, log);
    }

    /** Goes through all of it. @param progress hears now and then how many tickets were looked at */
    public Report run(Consumer<Long> progress) {
        List<Finding> findings = new ArrayList<>();
        long[] log = whole(findings);
        long tickets = 0;
        long entries = 0;
        String after = "";
        List<String> page = tickets(after);
        while (!page.isEmpty()) {
            for (String ticket : page) {
                entries += ticket(new TicketId(ticket), findings);
                tickets++;
            }
            progress.accept(tickets);
            after = page.getLast();
            page = tickets(after);
        }
        return new Report(log[0], log[1], tickets, entries, findings);
    }

    private List<String> tickets(String after) {
        return tickets(after, PAGE);
    }

    private List<String> tickets(String after, int most) {
        return database.read(session -> session.createSelectionQuery(
                        "select ticket from HeadRow where ticket > ?1 order by ticket", String.class)
                .setParameter(1, after)
                .setMaxResults(most)
                .getResultList());
    }

    /**
     * How far going through all tickets a few at a time has come.
     *
     * @param tickets how many were looked at in this round
     * @param begunAt when this round was begun; null before the first
     */
    public record Passing(
            long tickets,
            @Nullable Instant begunAt,
            @Nullable String place) {}

    public Passing passing() {
        return database.read(session -> session.doReturningWork(Audit::passing));
    }

    private static Passing passing(Connection c) throws SQLException {
        return Jdbc.query(
                        c,
                        "select upto, begun_at, place from progress where name = 'audit'",
                        r -> new Passing(
                                r.getLong(1),
                                r.getObject(2, OffsetDateTime.class) == null
                                        ? null
                                        : r.getObject(2, OffsetDateTime.class).toInstant(),
                                r.getString(3)))
                .getFirst();
    }

    /**
     * Looks at the next few tickets, so many that all of them are looked at in so many goes (K12). After the last it begins
     * anew, with the log and what stands beside tickets.
     *
     * @return what was found this time
     */
    public List<Finding> inPassing(Instant now, long goes) {
        List<Finding> findings = new ArrayList<>();
        Passing before = passing();
        if (before.begunAt() == null) {
            whole(findings);
        }
        long all = database.read(session -> session.createSelectionQuery("select count(*) from HeadRow", Long.class)
                .getSingleResult());
        int most = Math.clamp((all + goes - 1) / goes, 1, PAGE);
        List<String> some = tickets(before.place() == null ? "" : before.place(), most);
        some.forEach(t -> ticket(new TicketId(t), findings));
        boolean over = some.size() < most;
        Instant begun = before.begunAt() == null ? now : before.begunAt();
        database.run(session -> session.doWork(c -> Jdbc.update(
                c,
                "update progress set upto = ?, begun_at = ?, place = ? where name = 'audit'",
                over ? 0L : before.tickets() + some.size(),
                over ? null : begun,
                over ? null : some.getLast())));
        return findings;
    }

    /** What is found twice: people work and signals come meanwhile, and what was written between two questions is no finding. */
    static List<Finding> standing(Supplier<List<Finding>> questions) {
        List<Finding> first = questions.get();
        if (first.isEmpty()) {
            return first;
        }
        Set<Finding> again = new HashSet<>(questions.get());
        return first.stream().filter(again::contains).toList();
    }

    /** Whether each matter has one ticket, and that one knows of it (I19). */
    public List<Finding> ofMatters() {
        return new MatterAudit(database).run();
    }

    /** The log, and what stands beside tickets. @return leaves and checkpoints */
    private long[] whole(List<Finding> findings) {
        long leaves = database.still(session -> session.doReturningWork(c -> tree(c, findings)));
        Optional<Checkpoint.Reach> signed = log.signedLast();
        long checkpoints = database.still(session -> session.doReturningWork(c -> checkpoints(c, signed, findings)));
        database.still(session -> session.doReturningWork(c -> beside(c, findings)));
        findings.addAll(witnessed());
        findings.addAll(new JournalAudit(database, log).run());
        findings.addAll(new CiAudit(database).run());
        findings.addAll(ofMatters());
        return new long[] {leaves, checkpoints};
    }

    // --- the log

    /** The tree grown anew from the leaves is the one that is stored. */
    private static long tree(Connection c, List<Finding> findings) throws SQLException {
        long size = Sequencer.state(c).size();
        LogTiles grown = LogTiles.empty();
        long next = 0;
        List<RecordLog.Leaf> page = leaves(c, 0);
        while (!page.isEmpty()) {
            for (RecordLog.Leaf leaf : page) {
                if (leaf.number() != next) {
                    findings.add(new Finding("log", next, "leaf " + next + " is not there: it was taken out"));
                    return next;
                }
                grown.append(leaf.number(), MerkleTree.leaf(Checkpoint.leaf(leaf.ticket(), leaf.seq(), leaf.hash())));
                next++;
            }
            page = leaves(c, next);
        }
        if (next != size) {
            findings.add(new Finding("log", next, "the log has " + next + " leaves, but says that it has " + size));
        }
        grown.differsFrom(c)
                .ifPresent(leaf -> findings.add(
                        new Finding("log", leaf, "the tree does not fit the leaves from about leaf " + leaf + " on")));
        return next;
    }

    private static List<RecordLog.Leaf> leaves(Connection c, long from) throws SQLException {
        return Jdbc.query(
                c,
                "select number, ticket, seq, hash from log_leaf where number >= ? order by number fetch first " + PAGE
                        + " rows only",
                r -> new RecordLog.Leaf(r.getLong(1), r.getString(2), r.getLong(3), r.getString(4)),
                from);
    }

    /** Each follows the one before, was signed by the key, and is of the log as it is. */
    private long checkpoints(Connection c, Optional<Checkpoint.Reach> signed, List<Finding> findings)
            throws SQLException {
        List<Checkpoint> all = RecordLog.newest(c, Integer.MAX_VALUE).reversed();
        LogTiles tiles = new LogTiles(c);
        long size = Sequencer.state(c).size();
        String previous = null;
        for (Checkpoint one : all) {
            String wrong = wrong(one, previous, tiles, size);
            if (wrong != null) {
                findings.add(new Finding("log", one.size() == null ? 0 : one.size(), wrong));
            }
            previous = one.hash();
        }
        log.cut(c, signed).ifPresent(why -> findings.add(new Finding("log", 0, why)));
        return all.size();
    }

    private @Nullable String wrong(Checkpoint one, @Nullable String previous, LogTiles tiles, long size) {
        if (!Seal.hash(one.text()).equals(one.hash())) {
            return "checkpoint " + one.number() + " was altered";
        }
        if (!previous(one).equals(Optional.of(previous == null ? Seal.START : previous))) {
            return "checkpoint " + one.number() + " does not follow the one before: one was altered or taken away";
        }
        if (one.size() == null) {
            return null;
        }
        Optional<String> forged = log.forged(one);
        if (forged.isPresent()) {
            return "checkpoint " + one.number() + ": " + forged.get();
        }
        boolean holds = one.size() <= size
                && HexFormat.of().formatHex(MerkleTree.root(tiles, one.size())).equals(one.root());
        return holds ? null : "the log is not the one that checkpoint " + one.number() + " was signed for";
    }

    private static Optional<String> previous(Checkpoint one) {
        try {
            JsonNode text = Json.parse(one.text());
            return Optional.ofNullable(text.path("previous").textValue());
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }

    /** What witnesses were given is of this log, and what they gave back is genuine. */
    private List<Finding> witnessed() {
        List<Witnessed> all = database.read(session -> session.doReturningWork(Witnesses::all));
        List<Finding> findings =
                new ArrayList<>(against(all.stream().map(Witnessed::checkpoint).toList()));
        for (Witnessed w : all) {
            if (w.receipt() != null
                    && receipts.check(Seal.hash(w.checkpoint().text()), w.receipt())
                            instanceof Witnessed.Spoiled spoiled) {
                findings.add(new Finding(
                        "log",
                        Objects.requireNonNullElse(w.checkpoint().size(), 0L),
                        "what " + w.name() + " gave back at " + w.at() + " does not hold: " + spoiled.why()));
            }
        }
        return findings;
    }

    /**
     * Compares the log with statements that somebody kept elsewhere. Those of an epoch before a restore count as far as what was
     * restored reached.
     */
    public List<Finding> against(List<Checkpoint> kept) {
        return database.still(session -> session.doReturningWork(c -> {
            Checkpoint.Reach state = Sequencer.state(c);
            LogTiles tiles = new LogTiles(c);
            List<Finding> findings = new ArrayList<>();
            for (Checkpoint one : kept) {
                if (one.size() == null || one.epoch() == null) {
                    continue;
                }
                Optional<String> forged = log.forged(one);
                boolean past = one.epoch() < state.epoch() && one.size() > restored(c, one.epoch());
                if (forged.isPresent()) {
                    findings.add(new Finding("log", one.size(), "what a witness kept was not signed by this key"));
                } else if (!past
                        && (one.size() > state.size()
                                || !HexFormat.of()
                                        .formatHex(MerkleTree.root(tiles, one.size()))
                                        .equals(one.root()))) {
                    findings.add(new Finding(
                            "log",
                            one.size(),
                            "the log is not the one that a witness was told of at " + one.at()
                                    + ": it was written anew"));
                }
            }
            return findings;
        }));
    }

    /** How far the log reached when the epoch after this one was begun. */
    private static long restored(Connection c, int epoch) throws SQLException {
        return Jdbc.query(c, "select text from epoch where number > ? order by number", r -> r.getString(1), epoch)
                .stream()
                .findFirst()
                .map(text -> {
                    try {
                        return Json.parse(text).path("restored").path("size").longValue();
                    } catch (JsonProcessingException e) {
                        return Long.MAX_VALUE;
                    }
                })
                .orElse(Long.MAX_VALUE);
    }

    /** What does not fit together between tickets, the log, lists and clocks. Returns how many tickets were deleted. */
    private static int beside(Connection c, List<Finding> findings) throws SQLException {
        List<String> gone = Jdbc.query(
                c,
                "select distinct l.ticket from log_leaf l where l.ticket not like 'epoch %' and l.ticket <> 'journal'"
                        + " and not exists (select 1 from ticket_head h where h.ticket = l.ticket) order by l.ticket",
                r -> r.getString(1));
        gone.forEach(t -> findings.add(new Finding(t, 0, "the log knows it, but it is not there: it was deleted")));
        Jdbc.query(
                        c,
                        "select h.ticket from ticket_head h left join alarm a on a.ticket = h.ticket"
                                + " where h.next_due is distinct from a.due order by h.ticket",
                        r -> r.getString(1))
                .forEach(t -> findings.add(
                        new Finding(t, 0, "its clock is not set as it should be; ./dastur rebuild sets it anew")));
        Jdbc.query(
                        c,
                        "select t.id from ticket t where not exists (select 1 from ticket_head h where h.ticket = t.id)"
                                + " order by t.id",
                        r -> r.getString(1))
                .stream()
                .filter(t -> !gone.contains(t))
                .forEach(t -> findings.add(new Finding(t, 0, "lists show it, but it has no record")));
        return gone.size();
    }

    // --- tickets

    private long ticket(TicketId ticket, List<Finding> findings) {
        Records.Checked checked = records.checked(ticket);
        if (checked.problem().isPresent()) {
            Seal.Break broken = checked.problem().get();
            findings.add(new Finding(ticket.value(), broken.seq(), broken.message()));
            return checked.entries().size();
        }
        database.still(session -> {
            checked.entries().stream()
                    .filter(e -> e.kind().equals("runStarted"))
                    .forEach(e -> version(session, e).ifPresent(findings::add));
            Case folded = StoredCases.folded(session, ticket);
            if (!database.cases().snapshotHolds(session, ticket)) {
                findings.add(new Finding(
                        ticket.value(), 0, "its stored state was altered; it is not used, its record is read instead"));
            }
            Map<String, String> stored = StoredStanding.of(session, ticket);
            Map<String, String> expected = StoredStanding.expected(folded);
            differences(stored, expected)
                    .forEach(what -> findings.add(new Finding(ticket.value(), folded.seq(), what)));
            return null;
        });
        return checked.entries().size();
    }

    /** Whether the version a run began with is the one that is there now. */
    private static Optional<Finding> version(StatelessSession session, Entry started) {
        try {
            JsonNode body = Json.parse(started.sealed()).path("body");
            String hash = body.path("versionHash").textValue();
            Rows.WorkflowVersionRow row = session.get(
                    Rows.WorkflowVersionRow.class,
                    new Rows.WorkflowVersionKey(
                            body.path("workflow").asText(), body.path("version").intValue()));
            return hash == null || row != null && Seal.hash(row.body).equals(hash)
                    ? Optional.empty()
                    : Optional.of(new Finding(
                            started.ticket().value(),
                            started.seq(),
                            "the run began with another version "
                                    + body.path("version").intValue() + " of '"
                                    + body.path("workflow").asText() + "' than the one that is there"));
        } catch (JsonProcessingException e) {
            return Optional.empty();
        }
    }

    private static List<String> differences(Map<String, String> stored, Map<String, String> expected) {
        List<String> found = new ArrayList<>();
        Map<String, String> all = new TreeMap<>(stored);
        all.putAll(expected);
        all.keySet().forEach(key -> {
            String is = stored.get(key);
            String should = expected.get(key);
            if (is == null) {
                found.add("beside the record, " + key + " is missing; ./dastur rebuild makes it anew");
            } else if (should == null) {
                found.add("beside the record, " + key + " stands though the record does not give it");
            } else if (!is.equals(should)) {
                found.add("beside the record, " + key + " stands as " + is + ", the record gives " + should);
            }
        });
        return found;
    }
}
