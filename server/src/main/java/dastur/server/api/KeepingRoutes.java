package dastur.server.api;

import dastur.core.people.Right;
import dastur.core.record.Checkpoint;
import dastur.core.record.Witnessed;
import dastur.server.Backup;
import dastur.server.Looking;
import dastur.server.http.Problem;
import dastur.server.http.Request;
import dastur.server.http.Route;
import dastur.server.witness.Giving;
import dastur.store.Audit;
import dastur.store.Journal;
import dastur.store.RecordLog;
import java.io.UncheckedIOException;
import java.time.Instant;
import java.time.InstantSource;
import java.util.List;
import java.util.stream.Stream;
import org.jspecify.annotations.Nullable;

/** How what is kept stands: the log, what was signed, copies, audits; and going on after a restore (K10, K11). */
final class KeepingRoutes {
    private static final int COPIES = 50;
    private static final int FINDINGS = 100;

    /**
     * How what is kept stands.
     *
     * @param heldSince since when nothing goes out, because the database was restored; null while things go out
     * @param refused why nothing is signed any more; null while all is well
     * @param passing how far all tickets are gone through by themselves, within a week, and what was found since the start
     * @param copiesEveryHours how often a copy is taken by itself; null where none is
     * @param copyTrouble why the last one that was due could not be taken
     * @param nodes how many nodes share the database's server; null where it is a file of this process
     * @param newest the newest signed statement of how far the log reaches; null when there is none yet
     */
    record KeepingView(
            @Nullable Instant heldSince,
            @Nullable String refused,
            @Nullable Integer nodes,
            @Nullable Checkpoint newest,
            String key,
            List<WitnessView> witnesses,
            List<CopyView> copies,
            @Nullable Long copiesEveryHours,
            int copiesKept,
            @Nullable String copyTrouble,
            PassingView passing,
            @Nullable AuditView audit) {}

    /** @param begunAt when this round was begun; null between two */
    record PassingView(@Nullable Instant begunAt, long tickets, int problems, List<Audit.Finding> findings) {}

    /**
     * Who is given signed statements.
     *
     * @param everyMinutes how often
     * @param givenAt when the last one was; null when none was yet
     * @param changes how many changes of records that one covers
     * @param trouble why none can be given; null while all is well
     * @param late whether one was due an hour ago
     */
    record WitnessView(
            Witnessed.Kind kind,
            String name,
            long everyMinutes,
            @Nullable Instant givenAt,
            @Nullable Long changes,
            @Nullable String trouble,
            boolean late) {}

    record CopyView(String name, Instant at, long bytes, long tickets, long changes) {}

    record AuditView(
            Instant at,
            long changes,
            long checkpoints,
            long tickets,
            long entries,
            int problems,
            List<Audit.Finding> findings) {}

    private final InstantSource clock;
    private final Journal journal;
    private final RecordLog log;
    private final Looking looking;

    private KeepingRoutes(InstantSource clock, Journal journal, RecordLog log, Looking looking) {
        this.clock = clock;
        this.journal = journal;
        this.log = log;
        this.looking = looking;
    }

    static Stream<Route> of(InstantSource clock, Journal journal, RecordLog log, Looking looking) {
        KeepingRoutes r = new KeepingRoutes(clock, journal, log, looking);
        return Stream.of(
                Route.get("/api/keeping", Right.SEE, "How what is kept stands", KeepingView.class, q -> r.view()),
                Route.post(
                        "/api/keeping/copies",
                        Right.ADMINISTER,
                        "Take a copy of everything, and audit it",
                        null,
                        CopyView.class,
                        r::copy),
                Route.post(
                        "/api/keeping/audits",
                        Right.ADMINISTER,
                        "Go through everything that is kept",
                        null,
                        AuditView.class,
                        r::audit),
                Route.post(
                        "/api/keeping/go-on",
                        Right.ADMINISTER,
                        "After a restore: let things go out again",
                        null,
                        KeepingView.class,
                        r::goOn));
    }

    private KeepingView view() {
        return new KeepingView(
                looking.heldSince().orElse(null),
                log.refused().orElse(null),
                looking.nodes().isPresent() ? looking.nodes().getAsInt() : null,
                log.checkpoints(1).stream().findFirst().orElse(null),
                log.signer().publicKey(),
                looking.witnesses(clock.instant()).stream()
                        .map(KeepingRoutes::witness)
                        .toList(),
                looking.backups(COPIES).stream().map(KeepingRoutes::copy).toList(),
                looking.copiesEvery().isZero() ? null : looking.copiesEvery().toHours(),
                looking.copiesKept(),
                looking.copyTrouble().orElse(null),
                passing(),
                looking.lastAudit().map(KeepingRoutes::audit).orElse(null));
    }

    private static WitnessView witness(Giving.Standing s) {
        return new WitnessView(
                s.kind(),
                s.name(),
                s.every().toMinutes(),
                s.given() == null ? null : s.given().at(),
                s.given() == null ? null : s.given().checkpoint().size(),
                s.trouble(),
                s.late());
    }

    private PassingView passing() {
        Audit.Passing p = looking.passing();
        List<Audit.Finding> found = looking.passed();
        return new PassingView(p.begunAt(), p.tickets(), found.size(), found);
    }

    private static CopyView copy(Backup.Taken t) {
        return new CopyView(t.name(), t.at(), t.bytes(), t.tickets(), t.size());
    }

    private static AuditView audit(Looking.Audited a) {
        return new AuditView(
                a.at(),
                a.report().leaves(),
                a.report().checkpoints(),
                a.report().tickets(),
                a.report().entries(),
                a.report().findings().size(),
                a.report().findings().stream().limit(FINDINGS).toList());
    }

    private Object copy(Request q) {
        if (looking.nodes().isPresent()) {
            throw Problem.conflict("The database is on a server. Copy it with the server's own means, such as pg_dump,"
                            + " together with the data folder of a node; docs/operators.md says how.")
                    .end();
        }
        try {
            Backup.Taken taken = looking.take(clock.instant()).orElseThrow(KeepingRoutes::underWay);
            journal.write(Answers.by(q, clock), "copy", taken.name(), "took", null);
            return copy(taken);
        } catch (Backup.Damaged | UncheckedIOException e) {
            throw Problem.conflict(e.getMessage()).end();
        }
    }

    private Object audit(Request q) {
        return looking.audit(clock.instant()).map(KeepingRoutes::audit).orElseThrow(KeepingRoutes::underWay);
    }

    private static Problem.Ended underWay() {
        return Problem.conflict("A copy or an audit is under way. Wait until it is done.")
                .end();
    }

    private Object goOn(Request q) {
        if (looking.heldSince().isPresent()) {
            looking.goOn();
            journal.write(Answers.by(q, clock), "restore", "go on", "said", "Things go out again.");
        }
        return view();
    }
}
